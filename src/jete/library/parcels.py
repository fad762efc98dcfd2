"""Laps handed on: out of a library with their circuit, guide and notes, and into another one after a look."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.errors import InputError
from jete.core.log.lap import LapSpan
from jete.core.log.plane import positions
from jete.formats.aligned import log_of_lap
from jete.formats.parcel import LAP, About, Parcel, ParcelNote, ParcelWords, write_parcel
from jete.formats.reader import read_log
from jete.library.bring_in import BroughtIn, bring_in
from jete.library.exchange import ELSEWHERE_M, hand_out, refuse_elsewhere, same_corners, take_in
from jete.library.guide_records import OwnWords
from jete.library.recognise import recognise
from jete.notes.sheet import FIELDS, LapNote

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.core.axis.road.corners import CornerId
    from jete.library.circuits import Place
    from jete.library.library import Library
    from jete.library.records import RunRecord

# Of a sheet: who somebody is.
NAMES = ("driver", "coach", "vehicle")
# And what was noted.
NOTES = ("note", "setup")
# Samples of a lap end up to two seconds from its borders, where they come once a second.
SHORTER_S, LONGER_S, LONGER_SHARE = 3.0, 3.0, 0.02
# Enough points to see where a lap lies.
POINTS = 400


@dataclass(frozen=True)
class Brings:
    """What a parcel brings, against what is here: the circuit's name here (empty for a new one), and whether people set things on it.

    ``lap_known`` says that the lap is on the shelf already.
    """

    here: str
    set_here: bool
    lap_known: bool


@dataclass(frozen=True)
class TookIn:
    """What became of a parcel: the run, whether its lap was known, what was taken and what was left because of own things."""

    run: int
    known: bool
    circuit: bool
    words: int
    left: int


def hand_on(
    library: Library, run: int, lap: int, target: Path, guide: dict[str, Any], *, names: bool = True, notes: bool = True
) -> None:
    """Write a lap with its circuit, guide and notes as one file.

    Args:
        library: it is in.
        run: and lap.
        lap: to be handed on.
        target: a zip.
        guide: the document of its guide.
        names: with who drove, coached and in what.
        notes: with what was noted on run, lap and corners; own words of the guide go along in any case.

    Raises:
        InputError: no such lap, or a place that can't be written to.
    """
    record = library.run(run)
    found = library.lap(record, lap)
    place = library.circuits.place(run)
    circuit = None if place is None or library.circuits.road(place) is None else hand_out(library, place)
    about = _about(library, record, lap, place, names=names, notes=notes)
    log = log_of_lap(found)
    log = log if names else replace(log, source="lap")
    if not names:
        guide = {**guide, "lap": "a lap"}
    write_parcel(target, about, log, circuit, guide)


def _about(library: Library, record: RunRecord, lap: int, place: Place | None, *, names: bool, notes: bool) -> About:
    sheet = {f.name: _as_text(getattr(record.sheet, f.name)) for f in FIELDS}
    dropped = (*(() if names else NAMES), *(() if notes else NOTES))
    kept = {k: v for k, v in sheet.items() if v and k not in dropped}
    span = next(s for s in record.laps if s.number == lap)
    if place is None:
        return About(kept, lap, span.time_s, span.length_m)
    typed = library.guides.typed(place)
    words = tuple(ParcelWords(corner, field, w.text, w.over) for (corner, field), w in typed.items())
    told = record.notes.of(lap).note if notes else ""
    return About(
        kept, lap, span.time_s, span.length_m, told, words, _corner_notes(library, place, names=names) if notes else ()
    )


def _corner_notes(library: Library, place: Place, *, names: bool) -> tuple[ParcelNote, ...]:
    """Notes on the corners; those for one driver only with names."""
    return tuple(
        ParcelNote(corner.id, driver, note)
        for corner in place.corners or ()
        if corner.id is not None
        for driver, note in library.circuits.corner_notes(place, corner.id).items()
        if names or not driver
    )


def _as_text(value: object) -> str:
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


def brings(library: Library, parcel: Parcel) -> Brings:
    """What a parcel would bring here; nothing is changed."""
    place = _same_place(library, parcel)
    book = library.circuits.book(place) if place is not None else None
    mine = place is not None and book is not None and bool(book.landmarks or book.hazards or book.rules)
    return Brings(place.name if place is not None else "", mine, _is_known(library, parcel))


def _same_place(library: Library, parcel: Parcel) -> Place | None:
    """The circuit here that the parcel's is: of the same name, or where its corners lie."""
    places = library.circuits.places()
    named = [p for p in places if p.name == parcel.about.sheet.get("circuit", "")]
    circuit = parcel.circuit
    if circuit is None:
        return named[0] if named else None
    return next((p for p in (*named, *places) if _lies_there(library, p, parcel)), None)


def _lies_there(library: Library, place: Place, parcel: Parcel) -> bool:
    assert parcel.circuit is not None
    try:
        return bool(same_corners(library, place, parcel.circuit))
    except (InputError, ValueError):
        return False


def _is_known(library: Library, parcel: Parcel) -> bool:
    import hashlib

    number = library.known(hashlib.sha256(parcel.lap).hexdigest())
    return number is not None


def take_parcel(library: Library, parcel: Parcel, *, circuit: bool = True) -> TookIn:
    """Take a parcel in: the lap as a run, the circuit, own words and notes, and the guide as a version.

    What people here wrote stays; where both wrote, theirs is left.

    Args:
        library: to take it into.
        parcel: that was looked at.
        circuit: whether its corners, landmarks, hazards and rules take the place of those here.

    Raises:
        InputError: a lap that can't be read, or of another circuit than it says.
    """
    _refuse_unsound(library, parcel, circuit=circuit)
    came = _bring_lap(library, parcel)
    place = library.circuits.place(came.run)
    ids: Mapping[CornerId, CornerId] = {}
    if parcel.circuit is not None and place is not None:
        ids = take_in(library, place, parcel.circuit) if circuit else same_corners(library, place, parcel.circuit)
        place = library.circuits.place(came.run)
    if place is None:
        return TookIn(came.run, came.known, circuit=False, words=0, left=0)
    taken, left = _take_words(library, place, parcel, ids)
    if parcel.guide is not None:
        author = parcel.about.sheet.get("coach") or parcel.about.sheet.get("driver") or "handed on"
        library.guides.keep_version(place, came.run, author, _with_ids(parcel.guide, ids))
    return TookIn(came.run, came.known, circuit and parcel.circuit is not None, taken, left)


def _refuse_unsound(library: Library, parcel: Parcel, *, circuit: bool) -> None:
    """Refuse a parcel whose parts don't go together, before anything of it is stored: it is taken whole or not at all.

    Raises:
        InputError: a lap that lasts longer or shorter than is said, or that was not driven on its circuit.
    """
    with TemporaryDirectory(prefix="jete-") as folder:
        path = Path(folder) / LAP
        path.write_bytes(parcel.lap)
        log = read_log(path)
    said, first_last = parcel.about.time_s, log.span_s()
    lasts = first_last[1] - first_last[0]
    if not -SHORTER_S <= lasts - said <= LONGER_S + said * LONGER_SHARE:
        what = f"it says that its lap took {said:.3f} s, and its data lasts {lasts:.3f} s."
        raise InputError(LAP, what, "Ask for it anew from whoever wrote it.")
    if parcel.circuit is None:
        return
    placed = positions(log, parcel.circuit.origin)
    if placed is not None:
        xy = np.stack([c.value[:: max(len(c) // POINTS, 1)] for c in placed], axis=1)
        path_m = parcel.circuit.path_m[None, :: max(len(parcel.circuit.path_m) // POINTS, 1)]
        away = np.hypot(*(xy[:, None, :] - path_m).transpose(2, 0, 1)).min(axis=1)
        if float(np.median(away)) > ELSEWHERE_M:
            raise InputError(LAP, "its lap was not driven on its circuit.", "Ask for it anew from whoever wrote it.")
    here = recognise(library, log, None, parcel.about.sheet.get("circuit", "")).place if circuit else None
    if here is not None:
        refuse_elsewhere(library.circuits.road(here), here.name, parcel.circuit)


def _bring_lap(library: Library, parcel: Parcel) -> BroughtIn:
    """Bring the lap in as a run of its own, noted as far as it is said."""
    about, known = parcel.about, {f.name for f in FIELDS}
    span = LapSpan(about.lap, 0.0, about.time_s, about.length_m, complete=True)
    given = {k: v for k, v in parcel.about.sheet.items() if k in known}
    with TemporaryDirectory(prefix="jete-") as folder:
        path = Path(folder) / LAP
        path.write_bytes(parcel.lap)
        found = bring_in(library, path, given, spans=[span])
    if about.note and not found.known:
        library.note_lap(found.run, about.lap, LapNote(note=about.note))
    return found


def _take_words(library: Library, place: Place, parcel: Parcel, ids: Mapping[CornerId, CornerId]) -> tuple[int, int]:
    """Own words and notes where nobody here wrote any; how many were taken, how many left."""
    taken = left = 0
    typed = library.guides.typed(place)
    for words in parcel.about.words:
        corner = ids.get(words.corner)
        if corner is None or (corner, words.field) in typed:
            left += 1
            continue
        library.guides.write(place, corner, words.field, OwnWords(words.text, words.over))
        taken += 1
    for note in parcel.about.notes:
        corner = ids.get(note.corner)
        if corner is None or note.driver in library.circuits.corner_notes(place, corner):
            left += 1
            continue
        library.circuits.note_corner(place, corner, note.driver, note.note)
        taken += 1
    return taken, left


def _with_ids(guide: dict[str, Any], ids: Mapping[CornerId, CornerId]) -> dict[str, Any]:
    """A guide's document under the ids that its corners have here."""
    return {**guide, "cards": [{**c, "corner": ids.get(c["corner"], c["corner"])} for c in guide["cards"]]}
