"""The state of a session: ids and numbers only, frozen and hashable.

``Choice`` is what is compared: it is undone.  ``Look`` is where one looks, ``Display``
how it is shown: neither is undone.  Arrays live in :mod:`jete.app.analysis`, never here.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Flag, auto
from functools import cached_property

from jete.core.log.lap import LapSpan, Repair
from jete.notes.fade import Fade, fade_of
from jete.notes.sheet import LapSheet, RunSheet
from jete.session.display import Display


class Changed(Flag):
    """What a change touched; a view tests the flags it cares for."""

    NOTHING = 0
    RUNS = auto()
    CHOICE = auto()
    RESULT = auto()
    RUN_RESULT = auto()
    PLACE = auto()
    CORNER = auto()
    RANGE = auto()
    PAGE = auto()
    DISPLAY = auto()
    SHELF = auto()
    UNDO = auto()
    PASSES = auto()
    GUIDE = auto()
    FILM = auto()
    WHAT_IF = auto()
    PLAN = auto()


IDEAL = -1


@dataclass(frozen=True)
class LapKey:
    """One lap of one run; ``IDEAL`` for the one joined from the run's best passes."""

    run: int
    lap: int


@dataclass(frozen=True)
class Run:
    """A run on the shelf: its laps and their pieces, what is noted, what was mended, why it can't be read."""

    number: int
    name: str
    path: str
    laps: tuple[LapSpan, ...]
    repairs: tuple[Repair, ...] = ()
    sheet: RunSheet = field(default_factory=RunSheet)
    notes: LapSheet = field(default_factory=LapSheet)
    pieces: tuple[tuple[float, ...], ...] = ()
    damaged: str | None = None

    @cached_property
    def counted(self) -> tuple[LapSpan, ...]:
        """The complete laps that are not set aside."""
        return self.notes.counted(self.laps)

    @cached_property
    def fade(self) -> Fade | None:
        """How the times of the laps that count change over the run."""
        return fade_of([s.number for s in self.counted], [s.time_s for s in self.counted])

    @cached_property
    def best(self) -> LapSpan | None:
        """The fastest complete lap that is not set aside; of those set aside where there is no other."""
        return min(self.counted or (s for s in self.laps if s.complete), key=lambda s: s.time_s, default=None)

    @property
    def place(self) -> tuple[str, str, str]:
        """Circuit, layout and class: what a reference is pinned to."""
        return self.sheet.circuit, self.sheet.layout, self.sheet.group


@dataclass(frozen=True)
class Choice:
    """The reference and the lap held against it.

    ``taken_back`` are laps that count in their run although they stray from it; ``over``
    are further laps that are laid over the traces.
    """

    reference: LapKey | None = None
    lap: LapKey | None = None
    taken_back: tuple[LapKey, ...] = ()
    over: tuple[LapKey, ...] = ()


@dataclass(frozen=True)
class CornerPlace:
    """A corner, its window in metres of the reference's axis, and what it is called.

    ``from_m`` is a little before anything happens in it.
    """

    number: int
    start_m: float
    apex_m: float
    end_m: float
    label: str = ""
    from_m: float = 0.0


@dataclass(frozen=True)
class Lay:
    """The axis of the present comparison: length and corners; empty without one."""

    length_m: float = 0.0
    corners: tuple[CornerPlace, ...] = ()

    def corner_at(self, place_m: float) -> int | None:
        """Number of the corner whose window holds a place."""
        return next(
            (c.number for c in self.corners if c.start_m <= place_m < c.end_m),
            self.corners[-1].number if self.corners else None,
        )

    def corner(self, number: int | None) -> CornerPlace | None:
        """A corner by number."""
        return next((c for c in self.corners if c.number == number), None)


@dataclass(frozen=True)
class Look:
    """One page, one place, one corner and one visible range, for all views; the run and the search of the shelf.

    ``chosen`` are several runs that are to be noted at once; empty for the shown one alone.
    """

    page: str = "laps"
    place_m: float = 0.0
    corner: int | None = None
    start_m: float = 0.0
    end_m: float = 0.0
    run: int | None = None
    search: str = ""
    chosen: tuple[int, ...] = ()


@dataclass(frozen=True)
class Session:
    """Everything a view may show; ``settled`` says that a person chose the pair."""

    runs: tuple[Run, ...] = ()
    choice: Choice = field(default_factory=Choice)
    lay: Lay = field(default_factory=Lay)
    look: Look = field(default_factory=Look)
    display: Display = field(default_factory=Display)
    settled: bool = False
    pins: tuple[tuple[tuple[str, str, str], LapKey], ...] = ()

    def pin_of(self, run: Run) -> LapKey | None:
        """The lap that is always held against those of a run's circuit, layout and class."""
        return next((key for place, key in self.pins if place == run.place), None)

    def run(self, number: int) -> Run | None:
        """An open run by number."""
        return next((r for r in self.runs if r.number == number), None)

    def span(self, key: LapKey | None) -> LapSpan | None:
        """The lap a key names, or None."""
        run = self.run(key.run) if key else None
        return next((s for s in run.laps if key and s.number == key.lap), None) if run else None

    def label(self, key: LapKey | None) -> str:
        """Run and lap as text; a dash for none."""
        run = self.run(key.run) if key else None
        if run is None or key is None:
            return "–"
        return f"{run.name} · " + ("ideal lap" if key.lap == IDEAL else f"lap {key.lap}")


def _shelf_of(session: Session) -> tuple[object, ...]:
    look = session.look
    return look.run, look.search, look.chosen, session.pins


def difference(old: Session, new: Session) -> Changed:
    """What differs between two states."""
    flags = Changed.NOTHING
    pairs = (
        (old.runs, new.runs, Changed.RUNS),
        (old.choice, new.choice, Changed.CHOICE),
        (old.lay, new.lay, Changed.RESULT),
        (old.look.page, new.look.page, Changed.PAGE),
        (old.look.place_m, new.look.place_m, Changed.PLACE),
        (old.look.corner, new.look.corner, Changed.CORNER),
        ((old.look.start_m, old.look.end_m), (new.look.start_m, new.look.end_m), Changed.RANGE),
        (old.display, new.display, Changed.DISPLAY),
        (_shelf_of(old), _shelf_of(new), Changed.SHELF),
    )
    for before, after, flag in pairs:
        if before != after:
            flags |= flag
    return flags
