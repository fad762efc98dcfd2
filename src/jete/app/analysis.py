"""Logs and comparisons behind the state: read and computed in the background, kept by key."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from jete.core.lap import Lap
from jete.session.operations import add_run, laps_of_run, lay_out
from jete.session.state import Changed, CornerPlace, LapKey, Lay, Run, Session

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.lap import Log
    from jete.core.result import Comparison
    from jete.core.run import RunSummary
    from jete.core.split import LineSource

READING = "reading"
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
    """Reads logs, compares the chosen laps, and puts the results into the store."""

    failed = pyqtSignal(object)
    progress = pyqtSignal(str, int, int)

    def __init__(self, store: SessionStore, tasks: Tasks) -> None:
        super().__init__()
        self._store, self._tasks = store, tasks
        self._logs: dict[int, Log] = {}
        self._line: LineSource | None = None
        self._kept: dict[object, Comparison] = {}
        self._waiting: list[Path] = []
        store.changed.connect(self._on_changed)

    def open_files(self, paths: Sequence[Path]) -> None:
        """Read files one after the other; those that can't be used are told, the others stay."""
        known = {r.path for r in self._store.session.runs}
        fresh = [p for p in paths if str(p.resolve()) not in known]
        self._waiting += fresh
        if self._waiting and len(self._waiting) == len(fresh):
            self._read_next()

    def cancel(self) -> None:
        """Stop reading; what has been read stays."""
        self._waiting.clear()
        self._tasks.cancel(READING)
        self.progress.emit("", 0, 0)

    def _read_next(self) -> None:
        """Read the next file; not while a comparison is computed, which one waits for."""
        if not self._waiting:
            self.progress.emit("", 0, 0)
            return
        if self._tasks.runs(COMPARING):
            return
        path = self._waiting[0]
        done = len(self._store.session.runs)
        self.progress.emit(path.name, done, done + len(self._waiting))
        self._tasks.start(READING, lambda token: _read(path, self._line, token), self._on_read, self._on_read_failed)

    def _on_read(self, result: tuple[Path, Log, LineSource, tuple[Any, ...]]) -> None:
        path, log, line, spans = result
        if log.has_position():
            self._line = self._line or line
        number = 1 + max((r.number for r in self._store.session.runs), default=0)
        self._logs[number] = log
        run = Run(number, path.stem, str(path.resolve()), spans, log.repairs)
        self._store.look_at(lambda s: add_run(s, run))
        self._after_file()

    def _on_read_failed(self, error: Exception) -> None:
        self.failed.emit(error)
        self._after_file()
        if not self._waiting and self._store.comparison is None and not self._tasks.runs(COMPARING):
            self._compare(self._store.session)

    def _after_file(self) -> None:
        if self._waiting:
            self._waiting.pop(0)
        self._read_next()

    def _on_changed(self, session: Session, flags: Changed) -> None:
        """Compare what is chosen; a first pair within one run can wait for the next file."""
        more = len(self._waiting) > 1 and len(session.runs) == 1 and not session.settled
        if Changed.CHOICE in flags and not more:
            self._compare(session)
        if flags & (Changed.CHOICE | Changed.DISPLAY | Changed.RUNS) and not more:
            self._sum_up(session)

    def _compare(self, session: Session) -> None:
        laps = [self._lap(session, key) for key in (session.choice.reference, session.choice.lap)]
        if laps[0] is None or laps[1] is None:
            return
        reference, lap = laps[0], laps[1]
        key = (session.choice.reference, session.choice.lap)
        if key in self._kept:
            self._tasks.cancel(COMPARING)
            self._on_compared((key, self._kept[key]))
            return
        self._tasks.start(
            COMPARING, lambda _: (key, _compared(reference, [lap])), self._on_compared, self._on_compare_failed
        )

    def _lap(self, session: Session, key: Any) -> Lap | None:
        span = session.span(key)
        return Lap(self._logs[key.run], span) if span is not None else None

    def _on_compared(self, result: tuple[object, Comparison]) -> None:
        key, comparison = result
        self._keep(key, comparison)
        self._store.comparison = comparison
        lay = _lay_of(comparison)
        self._store.look_at(lambda s: lay_out(s, lay), also=Changed.RESULT)
        self._go_on_reading()

    def _sum_up(self, session: Session) -> None:
        """Compare the whole run where the ledger shows it; laps set aside are taken back at once."""
        reference = self._lap(session, session.choice.reference)
        keys = laps_of_run(session)
        if not session.display.whole_run or reference is None or not keys:
            return
        laps = [lap for lap in (self._lap(session, key) for key in keys) if lap is not None]
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
            self._on_compared(((reference, choice.lap), one))

    def _keep(self, key: object, comparison: Comparison) -> None:
        self._kept[key] = comparison
        if len(self._kept) > MOST_KEPT:
            self._kept.pop(next(iter(self._kept)))

    def _go_on_reading(self) -> None:
        """Files that waited for the comparison are read now."""
        if self._waiting and not self._tasks.runs(READING):
            self._read_next()

    def _on_compare_failed(self, error: Exception) -> None:
        self._store.comparison = None
        self._store.look_at(lambda s: lay_out(s, Lay()), also=Changed.RESULT)
        self.failed.emit(error)
        self._go_on_reading()


def _read(path: Path, line: LineSource | None, token: Token) -> tuple[Path, Log, LineSource, tuple[Any, ...]]:
    """Read and split one file (off the window's thread).

    The readers and the numerics are imported where they are used, so that the window is
    drawn before they are loaded.
    """
    from jete.core.errors import InputError
    from jete.core.split import line_of, split
    from jete.formats.reader import read_log

    log = read_log(path, token.cancelled)
    own = line if line is not None and log.has_position() else line_of(log)
    spans = split(log, own)
    if not spans:
        raise InputError(path.name, "it holds no lap.", "Export the whole log again.")
    return path, log, own, spans


def _compared(reference: Lap, laps: list[Lap]) -> Comparison:
    """Laps against the reference (off the window's thread)."""
    from jete.core.compare import compare

    return compare(reference, laps)


def _lay_of(comparison: Comparison) -> Lay:
    """The axis and the corners' windows of a comparison."""
    corners = comparison.laps[0].corners
    return Lay(
        comparison.reference.motion.length_m,
        tuple(CornerPlace(c.corner.number, c.window.start_m, c.corner.apex_m, c.window.end_m) for c in corners),
    )
