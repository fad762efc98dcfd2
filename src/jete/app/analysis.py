"""Comparisons behind the state: computed in the background, kept by key."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, NamedTuple

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.app.results import Results, RunResult
from jete.app.tasks import one_by_one
from jete.session.operations import laps_of_run, lay_out
from jete.session.state import Changed, Choice, CornerPlace, LapKey, Lay, Session

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from jete.app.imports import ImportQueue
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.causes.verdict.result import Comparison, CornerLoss, LapComparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap
    from jete.desk.road import RoadBeside

    Finder = Callable[[Lap], CircuitOnAxis | None]

COMPARING = "comparing"
SUMMING = "summing"
MOST_KEPT = 40
# What is shown of a corner begins so far before anything happens in it.
LEAD_M = 40.0
AHEAD_MS = 400


class Worked(NamedTuple):
    """A comparison, and the road that it lies on."""

    comparison: Comparison
    road: RoadBeside


class Analyst(Follower):
    """Compares the chosen laps and puts the results into the store."""

    WORKS = (COMPARING, SUMMING)
    failed = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf, imports: ImportQueue) -> None:
        super().__init__(store, tasks, shelf)
        self._imports = imports
        self._kept: dict[object, Worked] = {}
        self._run_shown = False
        # Once a pair is shown, its run is summed up ahead: the switch to it takes no time then.
        self._ahead = self._waiting(AHEAD_MS, self._sum_ahead)
        self._sound = Choice()
        shelf.opened.connect(self._on_opened)
        shelf.shown.connect(self._on_shown)
        shelf.split_anew.connect(self._on_split_anew)
        shelf.circuit_changed.connect(self._on_split_anew)

    def _on_opened(self) -> None:
        self._kept.clear()
        self._sound = Choice()

    def _on_shown(self) -> None:
        """What was shown last knows no circuit: that needs the shelf."""
        if self._store.comparison is not None and self._store.road is None:
            self._compare(self._store.session)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        """Compare what is chosen; a first pair within one run can wait for the next file."""
        if self._shelf.location is None:
            # What was shown last is there before its shelf is.
            return
        more = self._imports.waits and len(session.runs) == 1 and not session.settled
        if Changed.CHOICE in flags and not more:
            self._compare(session)
        now = _run_is_shown(session)
        asked, self._run_shown = now and not self._run_shown, now
        if (asked or flags & (Changed.CHOICE | Changed.RUNS)) and not more:
            self._sum_up(session)

    def _on_split_anew(self) -> None:
        """Laps are others under the same numbers: nothing that was kept holds."""
        self._kept.clear()
        self._compare(self._store.session)
        self._sum_up(self._store.session)

    def _compare(self, session: Session) -> None:
        reference, *others = (self._shelf.lap_loader(k) for k in _compared_keys(session))
        laps = [lap for lap in others if lap is not None]
        if reference is None or not laps:
            self._show_nothing()
            return
        key, choice = _compared_keys(session), session.choice
        if key in self._kept:
            self._tasks.cancel(COMPARING)
            self._on_compared(key, self._kept[key], choice)
            return
        finder = self._shelf.circuit_finder(choice.reference)
        self._tasks.start(
            COMPARING,
            lambda token: _compared(reference, laps, finder, token),
            lambda worked: self._on_compared(key, worked, choice),
            lambda error: self._on_compare_failed(error, choice),
        )

    def _show_nothing(self) -> None:
        """Take the last comparison off where its laps are no longer chosen."""
        if self._store.comparison is not None or self._store.refused:
            self._tasks.cancel(COMPARING)
            self._store.show(lambda r: replace(r, comparison=None, road=None, refused=""), lambda s: lay_out(s, Lay()))

    def _on_compared(self, key: object, worked: Worked, choice: Choice) -> None:
        self._keep(key, worked)
        self._sound = choice
        comparison, road = worked
        lay = _lay_of(comparison)
        self._store.show(lambda r: replace(r, comparison=comparison, road=road, refused=""), lambda s: lay_out(s, lay))
        self._ahead.start()

    def _sum_ahead(self) -> None:
        if not _run_is_shown(self._store.session) and not self._imports.waits:
            self._sum(self._store.session)

    def _sum_up(self, session: Session) -> None:
        """Compare the whole run where it is shown; laps that do not count are told at once."""
        if _run_is_shown(session):
            self._sum(session)

    def _sum(self, session: Session) -> None:
        reference = self._shelf.lap_loader(session.choice.reference)
        keys = laps_of_run(session)
        if reference is None or not keys:
            return
        laps = [lap for lap in (self._shelf.lap_loader(key) for key in keys) if lap is not None]
        key = (session.choice.reference, keys)
        if key in self._kept:
            self._tasks.cancel(SUMMING)
            self._on_summed((key, self._kept[key]))
            return
        finder = self._shelf.circuit_finder(session.choice.reference)
        self._tasks.start(
            SUMMING,
            lambda token: (key, _compared(reference, laps, finder, token)),
            self._on_summed,
            self._on_sum_failed,
        )

    def _on_summed(self, result: tuple[tuple[LapKey | None, tuple[LapKey, ...]], Worked]) -> None:
        """Keep the run's result; the lap in comparison is taken from it where it is among its laps."""
        from jete.core.run import run_of
        from jete.report.thousandths import run_in_thousandths

        (reference, keys), worked = result
        comparison, road = worked
        choice = self._store.session.choice
        self._keep((reference, keys), worked)
        asked = _run_is_shown(self._store.session)
        if not asked or reference != choice.reference or keys != laps_of_run(self._store.session):
            return
        kept = [i for i, key in enumerate(keys) if key in choice.taken_back]
        found = RunResult(reference, keys, comparison, run_in_thousandths(run_of(comparison, kept)))
        self._store.show(lambda r: replace(r, run=found), also=Changed.RUN_RESULT)
        if choice.lap in keys and not choice.over and self._store.comparison is None:
            one = replace(comparison, laps=(comparison.laps[keys.index(choice.lap)],))
            self._on_compared((reference, choice.lap), Worked(one, road), choice)

    def _keep(self, key: object, worked: Worked) -> None:
        self._kept[key] = worked
        while len(self._kept) > 1 and sum(len(w.comparison.laps) for w in self._kept.values()) > MOST_KEPT:
            self._kept.pop(next(iter(self._kept)))

    def _on_compare_failed(self, error: Exception, choice: Choice) -> None:
        """A pair that a person asked for is refused and the one before stays; about another nothing pops up."""
        if not self._store.session.settled:
            self._store.show(lambda _: Results(refused=str(error)), lambda s: lay_out(s, Lay()))
            return
        self._store.refuse(choice, self._sound)
        self.failed.emit(error)

    def _on_sum_failed(self, error: Exception) -> None:
        if self._store.session.settled and _run_is_shown(self._store.session):
            self.failed.emit(error)


def _run_is_shown(session: Session) -> bool:
    """Whether what the laps of the run have in common is shown: by the ledger, or as what the next run is to be."""
    return session.display.whole_run or session.look.page in shown_on("plan")


def _compared_keys(session: Session) -> tuple[LapKey | None, ...]:
    """The reference, the lap that is compared with it, and those laid over."""
    choice = session.choice
    return (choice.reference, choice.lap, *choice.over)


def _compared(reference: Callable[[], Lap], laps: list[Callable[[], Lap]], finder: Finder, token: Token) -> Worked:
    """Laps against the reference, loaded, compared and told in thousandths (off the window's thread), until it is cancelled.

    The numerics are imported where they are used, so that the window is drawn before they
    are loaded.
    """
    from jete.desk.beside import compare_beside, road_beside
    from jete.report.thousandths import in_thousandths

    def each(work: Callable[[Lap], LapComparison], those: Sequence[Lap]) -> Iterator[LapComparison]:
        return one_by_one(work, those, token.cancelled)

    loaded = reference()
    circuit = finder(loaded)
    found = compare_beside(loaded, list(one_by_one(lambda lap: lap(), laps, token.cancelled)), circuit, each)
    return Worked(in_thousandths(found), road_beside(found, circuit))


def _lay_of(comparison: Comparison) -> Lay:
    """The axis and the corners' windows of a comparison."""
    return Lay(comparison.reference.motion.length_m, tuple(_place_of(c) for c in comparison.laps[0].corners))


def _place_of(c: CornerLoss) -> CornerPlace:
    """A corner's window, and a little before the first of both laps begins anything in it."""
    onsets = [m.slowing_m for m in (c.reference_marks, c.lap_marks) if m.slowing_m is not None]
    first = min([*onsets, c.corner.start_m])
    return CornerPlace(
        c.corner.number, c.window.start_m, c.corner.apex_m, c.window.end_m, c.corner.shown, first - LEAD_M
    )
