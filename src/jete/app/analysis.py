"""Comparisons behind the state: computed in the background, kept by key."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from jete.session.operations import laps_of_run, lay_out
from jete.session.state import Changed, CornerPlace, LapKey, Lay, Session

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.core.lap import Lap
    from jete.core.result import Comparison
    from jete.core.run import RunSummary

COMPARING = "comparing"
SUMMING = "summing"
MOST_KEPT = 40


@dataclass(frozen=True, eq=False)
class RunResult:
    """The laps of a run against the reference, in the order of ``keys``, and what they have in common."""

    keys: tuple[LapKey, ...]
    comparison: Comparison
    summary: RunSummary


class Analyst(QObject):
    """Compares the chosen laps and puts the results into the store."""

    failed = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._tasks, self._shelf = store, tasks, shelf
        self._kept: dict[object, Comparison] = {}
        self._whole_run = False
        store.changed.connect(self._on_changed)
        shelf.opened.connect(self._kept.clear)
        shelf.split_anew.connect(self._on_split_anew)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        """Compare what is chosen; a first pair within one run can wait for the next file."""
        more = self._shelf.waits and len(session.runs) == 1 and not session.settled
        if Changed.CHOICE in flags and not more:
            self._compare(session)
        asked = session.display.whole_run and not self._whole_run
        self._whole_run = session.display.whole_run
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
        key = _compared_keys(session)
        if key in self._kept:
            self._tasks.cancel(COMPARING)
            self._on_compared((key, self._kept[key]))
            return
        self._tasks.start(
            COMPARING, lambda _: (key, _compared(reference, laps)), self._on_compared, self._on_compare_failed
        )

    def _show_nothing(self) -> None:
        """Take the last comparison off where its laps are no longer chosen."""
        if self._store.comparison is not None:
            self._tasks.cancel(COMPARING)
            self._store.comparison = None
            self._store.look_at(lambda s: lay_out(s, Lay()), also=Changed.RESULT)

    def _on_compared(self, result: tuple[object, Comparison]) -> None:
        key, comparison = result
        self._keep(key, comparison)
        self._store.comparison = comparison
        lay = _lay_of(comparison)
        self._store.look_at(lambda s: lay_out(s, lay), also=Changed.RESULT)

    def _sum_up(self, session: Session) -> None:
        """Compare the whole run where the ledger shows it; laps set aside are taken back at once."""
        reference = self._shelf.lap_loader(session.choice.reference)
        keys = laps_of_run(session)
        if not session.display.whole_run or reference is None or not keys:
            return
        laps = [lap for lap in (self._shelf.lap_loader(key) for key in keys) if lap is not None]
        key = (session.choice.reference, keys)
        if key in self._kept:
            self._tasks.cancel(SUMMING)
            self._on_summed((key, self._kept[key]))
            return
        self._tasks.start(SUMMING, lambda _: (key, _compared(reference, laps)), self._on_summed, self.failed.emit)

    def _on_summed(self, result: tuple[tuple[LapKey | None, tuple[LapKey, ...]], Comparison]) -> None:
        """Keep the run's result; the lap in comparison takes its corners from it, so that numbers agree."""
        from jete.core.run import run_of

        (reference, keys), comparison = result
        choice = self._store.session.choice
        if reference != choice.reference or keys != laps_of_run(self._store.session):
            return
        self._keep((reference, keys), comparison)
        kept = [i for i, key in enumerate(keys) if key in choice.taken_back]
        self._store.run = RunResult(keys, comparison, run_of(comparison, kept))
        self._store.look_at(lambda s: s, also=Changed.RUN_RESULT)
        if choice.lap in keys:
            one = replace(comparison, laps=(comparison.laps[keys.index(choice.lap)],))
            if not choice.over:
                self._on_compared(((reference, choice.lap), one))

    def _keep(self, key: object, comparison: Comparison) -> None:
        self._kept[key] = comparison
        if len(self._kept) > MOST_KEPT:
            self._kept.pop(next(iter(self._kept)))

    def _on_compare_failed(self, error: Exception) -> None:
        self._store.comparison = None
        self._store.look_at(lambda s: lay_out(s, Lay()), also=Changed.RESULT)
        self.failed.emit(error)


def _compared_keys(session: Session) -> tuple[LapKey | None, ...]:
    """The reference, the lap held against it, and those laid over."""
    choice = session.choice
    return (choice.reference, choice.lap, *choice.over)


def _compared(reference: Callable[[], Lap], laps: list[Callable[[], Lap]]) -> Comparison:
    """Laps against the reference, loaded and compared (off the window's thread).

    The numerics are imported where they are used, so that the window is drawn before they
    are loaded.
    """
    from jete.core.compare import compare

    return compare(reference(), [lap() for lap in laps])


def _lay_of(comparison: Comparison) -> Lay:
    """The axis and the corners' windows of a comparison."""
    corners = comparison.laps[0].corners
    return Lay(
        comparison.reference.motion.length_m,
        tuple(
            CornerPlace(c.corner.number, c.window.start_m, c.corner.apex_m, c.window.end_m, c.corner.shown)
            for c in corners
        ),
    )
