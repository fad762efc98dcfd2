"""The demo's runs, and what is noted about them; all of it is made up."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Final

from platformdirs import user_cache_path

from jete import __version__
from jete.app.theme import ASSETS
from jete.core.log.lap import best_of

if TYPE_CHECKING:
    from jete.library.library import Library
    from jete.library.location import Location

FOLDER: Final = ASSETS / "demo"
COACH: Final = "Edda Rowe"
_DAY: Final = {
    "circuit": "Kestrel Sands",
    "event": "club day",
    "date": "2026-05-02",
    "condition": "dry",
    "wind": "sea breeze",
}
_CAR: Final = {
    **_DAY, "vehicle": "club car", "kind": "car", "mass_kg": "980", "gears": "6", "group": "endurance", "tyres": "medium",
    "coach": COACH, "brake_bias": "56.5", "cold_bar": "1.6 1.6 1.5 1.5",
}  # fmt: skip
_MOTORCYCLE: Final = {
    **_DAY,
    "vehicle": "middleweight",
    "kind": "motorcycle",
    "mass_kg": "188",
    "gears": "6",
    "group": "motorcycles",
    "tyres": "soft",
}

RUNS: Final[dict[str, dict[str, str]]] = {
    "ines-karlsby-run-1": {**_CAR, "driver": "Ines Karlsby", "time": "10:15", "air_c": "14", "track_c": "19", "fuel_l": "40", "tyre_laps": "3"},
    "tomasz-oryel-run-1": {**_CAR, "driver": "Tomasz Oryel", "time": "11:05", "air_c": "16", "track_c": "23", "fuel_l": "38", "tyre_laps": "13"},
    "ines-karlsby-run-2": {**_CAR, "driver": "Ines Karlsby", "time": "14:30", "air_c": "18", "track_c": "28", "fuel_l": "40", "tyre_laps": "23", "setup": "rear bar one step softer"},
    "tomasz-oryel-run-2": {**_CAR, "driver": "Tomasz Oryel", "time": "15:20", "air_c": "18", "track_c": "27", "fuel_l": "36", "tyre_laps": "33"},
    "noor-veldane-motorcycle": {**_MOTORCYCLE, "driver": "Noor Veldane", "time": "12:00", "air_c": "17", "track_c": "26", "tyre_laps": "10"},
}  # fmt: skip
_SECOND: Final = {**_CAR, "date": "2026-05-03", "wind": "fresh from the sea", "tyres": "medium, new"}
RUNS.update({
    "ines-karlsby-run-3": {**_SECOND, "driver": "Ines Karlsby", "time": "09:40", "air_c": "13", "track_c": "18", "fuel_l": "40", "tyre_laps": "0"},
    "tomasz-oryel-run-3": {**_SECOND, "driver": "Tomasz Oryel", "time": "10:25", "air_c": "14", "track_c": "21", "fuel_l": "38", "tyre_laps": "10"},
    "hedda-ulvik-run-1": {**_SECOND, "driver": "Hedda Ulvik", "time": "11:10", "air_c": "15", "track_c": "24", "fuel_l": "36", "tyre_laps": "20"},
    "ines-karlsby-run-4": {**_SECOND, "driver": "Ines Karlsby", "time": "13:30", "air_c": "17", "track_c": "28", "fuel_l": "40", "tyre_laps": "30"},
    "tomasz-oryel-run-4": {**_SECOND, "driver": "Tomasz Oryel", "time": "14:15", "air_c": "17", "track_c": "28", "fuel_l": "38", "tyre_laps": "40"},
    "hedda-ulvik-run-2": {**_SECOND, "driver": "Hedda Ulvik", "time": "15:05", "air_c": "17", "track_c": "27", "fuel_l": "36", "tyre_laps": "50"},
    "ines-karlsby-run-5": {**_SECOND, "driver": "Ines Karlsby", "time": "16:00", "air_c": "16", "track_c": "25", "fuel_l": "30", "tyre_laps": "60"},
    "tomasz-oryel-phone": {**_SECOND, "driver": "Tomasz Oryel", "time": "16:40", "air_c": "16", "track_c": "24", "fuel_l": "28", "tyre_laps": "70", "note": "the logger's battery was flat: a phone on the dashboard"},
    "hedda-ulvik-run-3": {**_SECOND, "date": "2026-05-10", "driver": "Hedda Ulvik", "time": "10:05", "air_c": "15", "track_c": "22", "fuel_l": "36", "tyre_laps": "60"},
    "tomasz-oryel-marrow-fen": {**_SECOND, "circuit": "Marrow Fen", "date": "2026-05-16", "wind": "", "driver": "Tomasz Oryel", "time": "10:30", "air_c": "15", "track_c": "20", "fuel_l": "38", "tyre_laps": "5"},
})  # fmt: skip
# What the team knows of the circuit, as it would be handed on.
CIRCUIT: Final = FOLDER / "kestrel-sands.geojson"
TAGS: Final = ("braked before the kerb", "braked after the kerb")
# The reference's run and hers, after which there was a plan.
PLANNED: Final = ("ines-karlsby-run-4", "hedda-ulvik-run-2")
PAIR: Final = ("ines-karlsby-run-1", "tomasz-oryel-run-1")
# Corner, field, her words, and what was measured when she wrote them where that has changed since.
OWN_WORDS: Final = (
    ("1", "turn_in", "when the post passes the mirror", ""),
    ("5", "stand", "stay in the middle: the second apex decides", ""),
    (
        "6",
        "brake",
        "at the cone, hard and straight, off by the kerb",
        "20 m before the cone; firmly, built within 0.3 s",
    ),
    ("12", "exit", "use the kerb only when the road is dry", ""),
)
# Both laps of the pair were filmed: from so long before the line to so long after it, by a camera whose clock runs fast.
FILM_LEAD_S, FILM_HZ, FILM_RATE = 2.0, 25, 1.0005


def note_circuit(library: Library) -> None:
    """What the team knows of Kestrel Sands, and the tags on its last corner: braked before or after the kerb."""
    from jete.formats import geojson
    from jete.library.exchange import take_in

    place = next((p for p in library.circuits.places() if p.name == _DAY["circuit"]), None)
    if place is None:
        return
    take_in(library, place, geojson.read(CIRCUIT))
    known = next(p for p in library.circuits.places() if p.id == place.id)
    last = known.corners[-1].id if known.corners else None
    for run in library.runs():
        if run.sheet.circuit == place.name and run.sheet.driver != "Noor Veldane" and last is not None:
            for span in run.laps[1:-1]:
                library.passes.note(run.id, span.number, last, TAGS[span.number % 2], "")


def note_circuit_and_guide(library: Library) -> None:
    """What the team knows of its circuit, what its coach wrote, and what was to be tried in the last run."""
    note_circuit(library)
    note_guide(library)
    note_plan(library)


def note_guide(library: Library) -> None:
    """What the coach has written into the lap guide, and the guide as it was on the evening of the first day."""
    from jete.desk.guide import guide_in
    from jete.library.guide_records import OwnWords
    from jete.report.guide import guide_document, guide_in_words

    run = next((r for r in library.runs() if Path(r.path).stem == PAIR[0]), None)
    place = library.circuits.place(run.id) if run is not None else None
    best = best_of(run.laps) if run is not None else None
    if run is None or place is None or best is None or library.guides.typed(place):
        return
    guide = guide_in(library, run.id, library.lap(run, best.number))
    library.guides.keep_version(place, run.id, COACH, guide_document(guide_in_words(guide)))
    for number, field, text, over in OWN_WORDS:
        corner = next((c.id for c in place.corners or () if c.shown == number), None)
        if corner is not None:
            library.guides.write(place, corner, field, OwnWords(text, over))


def note_plan(library: Library) -> None:
    """What the coach and the third driver chose for her next run, after her second one."""
    from jete.desk.plan_shelf import with_aim
    from jete.desk.plans import plan_of
    from jete.report.plan_draft import draft_of, opened

    by_name = {Path(r.path).stem: r for r in library.runs()}
    reference, run = (by_name.get(name) for name in PLANNED)
    best = best_of(reference.counted) if reference is not None else None
    if reference is None or run is None or best is None or any(p.run == run.id for p in library.plans.all()):
        return
    lap = library.lap(reference, best.number)
    laps = [library.lap(run, s.number) for s in run.counted]
    plan = plan_of(lap, laps, library.circuits.circuit_on(reference.id, lap))
    draft = draft_of(plan, (run.id, run.sheet), (reference.id, best.number))
    for told in draft.document["aims"]:
        # The coach has looked at what might hurt there.
        draft = with_aim(draft, told["aim"], taken=True)
    library.plans.keep(opened(draft))


def note_films(library: Library) -> None:
    """The films of the pair's laps, tied at the line and a minute later; those that were found elsewhere are left."""
    from jete.core.walk.film import Tie
    from jete.films.reader import facts_of
    from jete.library.film_book import FilmRecord

    for run in library.runs():
        film, name = library.films.of_run(run.id), Path(run.path).stem
        best = best_of(run.counted)
        if name not in PAIR or best is None or (film is not None and film.file.exists()):
            continue
        facts, path = facts_of(film_of(name)), str(film_of(name))
        ties = (Tie(FILM_LEAD_S, best.start_s), Tie(FILM_LEAD_S + 60.0 * FILM_RATE, best.start_s + 60.0))
        library.films.write(run.id, FilmRecord(run.id, path, facts.size, facts.duration_s, facts.frame_s, ties))


def film_of(name: str) -> Path:
    """The film of a run's fastest lap."""
    return FOLDER / f"{name}.mp4"


def file_of(name: str) -> Path:
    """The log of a run."""
    return FOLDER / f"{name}.parquet"


def demo_location() -> Location:
    """The demo's own library, apart from the user's; it may be thrown away at any time."""
    from jete.library.location import Location

    return Location(user_cache_path("jete", appauthor=False) / f"demo-{__version__}")
