"""Pure operations on a session: each takes the old state and returns the new one."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from jete.notes.guess import Guess, guessed_for
from jete.notes.sheet import RunSheet, with_value
from jete.session.display import choices
from jete.session.state import IDEAL, Choice, LapKey, Lay, Look, Run, Session

# What a circuit is called until a person names it.
_UNNAMED = re.compile(r"Circuit \d+")

SHORTEST_RANGE_M = 20.0


def add_run(session: Session, run: Run) -> Session:
    """Put a run on the shelf; until a person chooses, the pair is the one that makes most sense."""
    grown = replace(session, runs=(*session.runs, run))
    return grown if session.settled else replace(grown, choice=sensible_choice(grown))


def settle(session: Session, choice: Choice) -> Session:
    """A pair that stays until a person chooses another, whatever comes onto the shelf."""
    return replace(session, choice=choice, settled=True)


def put_run(session: Session, run: Run) -> Session:
    """Take over a run that has changed; one that is new comes at the end."""
    if session.run(run.number) is None:
        return add_run(session, run)
    return replace(session, runs=tuple(run if r.number == run.number else r for r in session.runs))


def put_runs(session: Session, runs: Sequence[Run]) -> Session:
    """Take over several runs."""
    for run in runs:
        session = put_run(session, run)
    return session


def named_along(session: Session, number: int, sheet: RunSheet) -> dict[int, RunSheet]:
    """The sheets of the other runs of a circuit that gets its first name with the sheet of one of them."""
    run = session.run(number)
    before = (run.sheet.circuit, run.sheet.layout) if run else ("", "")
    after = (sheet.circuit, sheet.layout)
    if run is None or after == before or not sheet.circuit or not _UNNAMED.fullmatch(before[0]):
        return {}
    others = (r for r in session.runs if (r.sheet.circuit, r.sheet.layout) == before and r.number != number)
    return {r.number: replace(r.sheet, circuit=after[0], layout=after[1]) for r in others}


def guesses_for(session: Session, said: Mapping[int, Mapping[str, str]]) -> dict[int, dict[str, Guess]]:
    """What logs say of runs, or else the names of files and folders, where it is not noted yet.

    Args:
        session: that holds the runs.
        said: what each log says itself, by run and field.
    """
    others = [r.sheet for r in session.runs if r.number not in said]
    runs = [r for n in said if (r := session.run(n)) is not None]
    found = {run.number: guessed_for(Path(run.path), run.sheet, others, said[run.number]) for run in runs}
    return {number: guesses for number, guesses in found.items() if guesses}


def with_answers(session: Session, numbers: Sequence[int], answers: Mapping[str, str]) -> dict[int, RunSheet]:
    """The sheets of runs with some fields set from what was typed once for all of them.

    Raises:
        InputError: text where a number or one of a few words belongs.
    """
    out = {}
    for run in (r for n in numbers if (r := session.run(n)) is not None):
        sheet = run.sheet
        for name, text in answers.items():
            sheet = with_value(sheet, name, text)
        out[run.number] = sheet
    return out


def unnamed_circuit(session: Session, numbers: Sequence[int]) -> str:
    """The circuit that runs share and that nobody has named yet; empty where there is none."""
    names = {run.sheet.circuit for n in numbers if (run := session.run(n)) is not None}
    name = names.pop() if len(names) == 1 else ""
    return name if _UNNAMED.fullmatch(name) else ""


def drop_run(session: Session, number: int) -> Session:
    """Take a run off the shelf, and its laps out of the choice."""
    old = session.choice
    kept = replace(
        old,
        reference=None if old.reference and old.reference.run == number else old.reference,
        lap=None if old.lap and old.lap.run == number else old.lap,
        over=tuple(k for k in old.over if k.run != number),
    )
    look = replace(session.look, run=None if session.look.run == number else session.look.run)
    return replace(session, runs=tuple(r for r in session.runs if r.number != number), choice=kept, look=look)


def new_shelf(
    session: Session, runs: tuple[Run, ...], pins: tuple[tuple[tuple[str, str, str], LapKey], ...]
) -> Session:
    """Another shelf: its runs, and a sensible pair."""
    look = Look(page=session.look.page)
    fresh = replace(Session(runs=runs, display=session.display, pins=pins), look=look)
    return replace(fresh, choice=sensible_choice(fresh))


def reopen(
    session: Session,
    runs: tuple[Run, ...],
    pins: tuple[tuple[tuple[str, str, str], LapKey], ...],
    run: int | None,
    choice: Choice,
) -> Session:
    """A shelf that was looked at before: as it was left, where what was shown of it is shown already."""
    fresh = come_back(new_shelf(session, runs, pins), run, choice)
    by_number = [sorted(s.runs, key=lambda r: r.number) for s in (fresh, session)]
    if fresh.choice != session.choice or by_number[0] != by_number[1]:
        return fresh
    return replace(session, runs=runs, pins=pins, settled=fresh.settled)


def come_back(session: Session, run: int | None, choice: Choice) -> Session:
    """Take up a run and a choice from an earlier start, as far as they are still there."""
    keys = (choice.reference, choice.lap)
    if any(k is None or why_not(session, k) is not None for k in keys) or not one_circuit(session, *keys):
        return session
    over = tuple(k for k in choice.over if why_not(session, k) is None)
    shown = run if run is not None and session.run(run) is not None else None
    return select_run(settle(session, replace(choice, over=over)), shown)


def in_order_of_time(runs: Iterable[Run]) -> list[Run]:
    """Runs by day and clock; those without a date first."""
    return sorted(runs, key=lambda r: (r.sheet.date, r.sheet.time, r.number))


def select_run(session: Session, number: int | None) -> Session:
    """Show the laps of a run."""
    return _look(session, run=number, chosen=())


def choose_runs(session: Session, numbers: tuple[int, ...], shown: int) -> Session:
    """Choose several runs, to be noted at once; one of them is shown."""
    return _look(session, run=shown, chosen=numbers if len(numbers) > 1 else ())


def chosen_runs(session: Session) -> list[Run]:
    """The runs that a note is about: those that are chosen, or the shown one."""
    chosen = [r for n in session.look.chosen if (r := session.run(n)) is not None]
    run = shown_run(session)
    return chosen or ([run] if run is not None else [])


def search(session: Session, text: str) -> Session:
    """Look for runs."""
    return _look(session, search=text)


def shown_run(session: Session) -> Run | None:
    """The run whose laps are shown: the one selected, else that of the compared lap, else the last."""
    for number in (session.look.run, session.choice.lap.run if session.choice.lap else None):
        run = session.run(number) if number is not None else None
        if run is not None:
            return run
    return session.runs[-1] if session.runs else None


MOST_OVER = 5


def lay_over(session: Session, key: LapKey) -> Session:
    """Lay a lap over the traces, or take it off again; five at the most besides the compared one."""
    old = session.choice
    if key in (old.reference, old.lap) or not one_circuit(session, key, old.reference):
        return session
    over = tuple(k for k in old.over if k != key) if key in old.over else (*old.over, key)[-MOST_OVER:]
    return replace(session, choice=replace(old, over=over))


def pin(session: Session, pins: tuple[tuple[tuple[str, str, str], LapKey], ...]) -> Session:
    """Take over what is pinned."""
    return replace(session, pins=pins)


def sensible_choice(session: Session) -> Choice:
    """A pair of the newest run's circuit and class: what is pinned or the fastest lap, and the best of another run.

    The newest run is the one held against it, unless the fastest lap is its own: then the
    first other run is, or the run's next lap where there is none.
    """
    newest = max((r for r in session.runs if r.best is not None), key=lambda r: r.number, default=None)
    if newest is None or newest.best is None:
        return session.choice
    alike = [r for r in session.runs if r.place == newest.place and _one_vehicle(r, newest)]
    best = [(r.best.time_s, LapKey(r.number, r.best.number)) for r in alike if r.best is not None]
    reference = session.pin_of(newest) or min(best, key=lambda b: b[0])[1]
    if reference.run != newest.number:
        return Choice(reference, LapKey(newest.number, newest.best.number))
    others = [key for _, key in best if key.run != reference.run]
    if others:
        return Choice(reference, others[0])
    run = session.run(reference.run)
    rest = sorted((s.time_s, s.number) for s in (run.laps if run else ()) if s.complete and s.number != reference.lap)
    return Choice(reference, LapKey(reference.run, rest[0][1]) if rest else None)


def _one_vehicle(a: Run, b: Run) -> bool:
    """Whether nothing says that two runs were driven in different vehicles."""
    pairs = ((a.sheet.vehicle, b.sheet.vehicle), (a.sheet.kind, b.sheet.kind))
    return all(x == y for x, y in pairs if x and y) and a.sheet.kind == b.sheet.kind


def why_not(session: Session, key: LapKey) -> str | None:
    """Why a lap can't be compared at all; None where it can."""
    span = session.span(key)
    run = session.run(key.run)
    if run is None or (span is None and key.lap != IDEAL):
        return "it is not on the shelf any more."
    if run.damaged:
        return f"its channel data {run.damaged}."
    if key.lap == IDEAL:
        return None if len(run.counted) > 1 else "an ideal lap needs at least two complete laps that count."
    return None if span is None or span.complete else f"it is not complete ({(span.why or '').partition(':')[0]})."


def one_circuit(session: Session, a: LapKey | None, b: LapKey | None) -> bool:
    """Whether two laps may be of one circuit and layout, as far as that is noted."""
    runs = [session.run(k.run) if k else None for k in (a, b)]
    places = [r.place[:2] for r in runs if r is not None]
    return len(places) < 2 or places[0] == places[1] or "" in (places[0][0], places[1][0])


def choose_reference(session: Session, key: LapKey) -> Session:
    """Use a lap as the reference; where it was the compared lap, the two change places.

    A lap of another circuit is not compared with it: none is until one is chosen.
    """
    old = session.choice
    lap = old.reference if old.lap == key else old.lap
    kept = lap if one_circuit(session, key, lap) else None
    return _chosen(session, replace(old, reference=key, lap=kept))


def choose_lap(session: Session, key: LapKey) -> Session:
    """Compare a lap with the reference; where it was the reference, the two change places.

    Without a reference of its circuit it is compared with what makes most sense there.
    """
    old = session.choice
    reference = old.lap if old.reference == key else old.reference
    if reference is None or not one_circuit(session, key, reference):
        reference = _reference_for(session, key)
    return _chosen(session, replace(old, reference=reference, lap=key))


def _reference_for(session: Session, key: LapKey) -> LapKey | None:
    """The pinned lap of a lap's circuit and class, else the fastest one but itself."""
    run = session.run(key.run)
    if run is None:
        return None
    pinned = session.pin_of(run)
    if pinned is not None and pinned != key:
        return pinned
    laps = [(s.time_s, LapKey(r.number, s.number)) for r in session.runs if r.place == run.place for s in r.counted]
    return min(((t, k) for t, k in laps if k != key), key=lambda x: x[0], default=(0.0, None))[1]


def _chosen(session: Session, choice: Choice) -> Session:
    """A pair that a person chose; its laps are no longer laid over."""
    over = tuple(
        k for k in choice.over if k not in (choice.reference, choice.lap) and one_circuit(session, k, choice.reference)
    )
    return replace(session, choice=replace(choice, over=over), settled=True)


def take_back(session: Session, key: LapKey) -> Session:
    """Let a lap count in its run although it strays from it."""
    old = session.choice
    if key in old.taken_back:
        return session
    return replace(session, choice=replace(old, taken_back=(*old.taken_back, key)))


def laps_of_run(session: Session) -> tuple[LapKey, ...]:
    """The complete laps of the compared lap's run, without the reference."""
    choice = session.choice
    run = session.run(choice.lap.run) if choice.lap else None
    if run is None:
        return ()
    keys = (LapKey(run.number, s.number) for s in run.counted)
    return tuple(k for k in keys if k != choice.reference)


def lay_out(session: Session, lay: Lay) -> Session:
    """Take over the axis of a new comparison; the look stays where it still makes sense."""
    look = session.look
    same = abs(lay.length_m - session.lay.length_m) < 0.02 * max(lay.length_m, 1.0)
    if not same or look.end_m <= look.start_m:
        look = replace(look, place_m=0.0, start_m=0.0, end_m=lay.length_m)
    place = min(look.place_m, lay.length_m)
    end = lay.length_m if look.start_m <= 0.0 and look.end_m >= session.lay.length_m else min(look.end_m, lay.length_m)
    look = replace(look, place_m=place, corner=lay.corner_at(place), end_m=end)
    return replace(session, lay=lay, look=look)


def go_to_page(session: Session, page: str) -> Session:
    """Show another page."""
    return _look(session, page=page)


def go_to(session: Session, place_m: float) -> Session:
    """Move the place; the corner follows, and the range where the place would leave it."""
    place = min(max(place_m, 0.0), session.lay.length_m)
    moved = _look(session, place_m=place, corner=session.lay.corner_at(place))
    look = moved.look
    if look.start_m <= place <= look.end_m:
        return moved
    half = 0.5 * (look.end_m - look.start_m)
    return show_range(moved, place - half, place + half)


def select_corner(session: Session, number: int) -> Session:
    """Select a corner: its window, from where something happens in it, fills the range, and its apex is the place."""
    corner = session.lay.corner(number)
    if corner is None:
        return session
    look = replace(
        session.look,
        corner=number,
        place_m=corner.apex_m,
        start_m=max(corner.from_m, corner.start_m),
        end_m=corner.end_m,
    )
    return replace(session, look=look)


def step_corner(session: Session, step: int) -> Session:
    """Select the corner before (−1) or after (+1); around the line it goes on."""
    numbers = [c.number for c in session.lay.corners]
    if not numbers:
        return session
    at = numbers.index(session.look.corner) if session.look.corner in numbers else -step
    return select_corner(session, numbers[(at + step) % len(numbers)])


def show_range(session: Session, start_m: float, end_m: float) -> Session:
    """Show a piece of the lap, no shorter than 20 m and inside it."""
    length = session.lay.length_m
    width = min(max(end_m - start_m, SHORTEST_RANGE_M), length)
    start = min(max(start_m, 0.0), length - width)
    return _look(session, start_m=start, end_m=start + width)


def show_whole(session: Session) -> Session:
    """Show the whole lap."""
    return show_range(session, 0.0, session.lay.length_m)


def zoom(session: Session, about_m: float, factor: float) -> Session:
    """Scale the range about a place, which stays where it is on the screen."""
    look = session.look
    width = min(
        max((look.end_m - look.start_m) * factor, SHORTEST_RANGE_M), max(session.lay.length_m, SHORTEST_RANGE_M)
    )
    share = (about_m - look.start_m) / max(look.end_m - look.start_m, 1e-9)
    return show_range(session, about_m - share * width, about_m + (1.0 - share) * width)


def display(session: Session, **changes: object) -> Session:
    """Change how things are shown."""
    return replace(session, display=replace(session.display, **changes))  # type: ignore[arg-type]


def next_beside(session: Session) -> Session:
    """Show the next of what may stand beside the corner's traces."""
    beside = choices("beside")
    return display(session, beside=beside[(beside.index(session.display.beside) + 1) % len(beside)])


def in_scope(run: Run, shown: Run, scope: str) -> bool:
    """Whether the passes of a run are meant, as seen from the shown one; all of one circuit and layout."""
    a, b = run.sheet, shown.sheet
    if (a.circuit, a.layout) != (b.circuit, b.layout):
        return False
    if scope == "run":
        return run.number == shown.number
    if scope == "class":
        return a.group == b.group
    if a.vehicle != b.vehicle:
        return False
    return scope == "season" or (a.driver == b.driver and (scope == "driver" or a.date == b.date))


def arrange_panels(session: Session, kind: str, names: Sequence[str]) -> Session:
    """Choose and order the trace panels for a kind of vehicle; no name for the sensible set."""
    others = tuple((k, p) for k, p in session.display.panels if k != kind)
    chosen = ((kind, tuple(names)),) if names else ()
    return display(session, panels=tuple(sorted((*others, *chosen))))


def vehicle_kind(session: Session) -> str:
    """The kind of vehicle of the compared lap: as noted, else a car."""
    run = session.run(session.choice.lap.run) if session.choice.lap else None
    return (run.sheet.kind if run else "") or "car"


def _look(session: Session, **changes: object) -> Session:
    return replace(session, look=replace(session.look, **changes))  # type: ignore[arg-type]
