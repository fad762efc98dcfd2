"""The library behind the session: opened in the background, and its laps handed out.

The shelf that is open stays until the next one is there.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PyQt6.QtCore import QObject, pyqtSignal

from jete.app.lap_cache import LapCache
from jete.app.run_alone import RunsAlone
from jete.app.writer import Change, Writer
from jete.core.errors import InputError
from jete.session import operations as ops
from jete.session.state import IDEAL, LapKey, Run

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.causes.verdict.result import Comparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap
    from jete.library.check import Finding
    from jete.library.library import Library
    from jete.library.location import Location
    from jete.library.records import RunRecord
    from jete.session.state import Session

    TakeUp = Callable[[Session, tuple[Run, ...], "Pinned", str], Session]

OPENING = "opening"
LOOKING = "looking for strangers"

Pins = dict[tuple[str, str, str], tuple[int, int]]
Pinned = tuple[tuple[tuple[str, str, str], LapKey], ...]


def nothing(*_: object) -> None:
    """Nothing is to be done."""


class _Opened(NamedTuple):
    """A library that has just been opened, with what its check found, its runs and pins."""

    library: Library
    findings: list[Finding]
    records: list[RunRecord]
    pins: Pins


class OpenShelf(QObject):
    """Runs of one library in the session, to be read; the usual one until another is opened."""

    failed = pyqtSignal(object)
    refused_newer = pyqtSignal(object)
    refused_damaged = pyqtSignal(object)
    found = pyqtSignal(object)
    told = pyqtSignal(str)
    closing = pyqtSignal()
    opened = pyqtSignal()
    shown = pyqtSignal()
    not_opened = pyqtSignal()
    split_anew = pyqtSignal()
    circuit_changed = pyqtSignal()
    strangers = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, location: Location | None = None) -> None:
        super().__init__()
        self._store, self._tasks, self._wanted = store, tasks, location
        self._library: Library | None = None
        self._records: dict[int, RunRecord] = {}
        self._laps = LapCache()
        self._alone = RunsAlone(self._laps)
        self.writer = Writer()
        # What the session is once the runs of a shelf are there: the window sets it, to go on where one left off.
        self.take_up: TakeUp = _from_scratch

    @property
    def read_only(self) -> bool:
        """Whether nothing can be noted."""
        return self._library is not None and self._library.read_only

    @property
    def location(self) -> Location | None:
        """Where the shelf that is open lies."""
        return self._library.location if self._library is not None else None

    # --- opening

    def open(
        self,
        location: Location | None = None,
        *,
        read_only: bool = False,
        mend: bool = False,
        then: Callable[[], None] | None = None,
    ) -> None:
        """Open a library (the one that was asked for last without a location) and show its runs.

        Where it can't be opened, the one that is open stays.

        Args:
            location: of the library.
            read_only: whether it is only to be looked at.
            mend: let a damaged database make way for its snapshot first.
            then: called when its runs are shown.
        """
        self._wanted = location or self._wanted
        self._tasks.start(
            OPENING,
            lambda _: self._open(read_only=read_only, mend=mend),
            lambda result: self._on_opened(result, then),
            self._on_open_failed,
        )

    def close(self) -> None:
        """Let go of the library and of everything that hangs on it; what could be undone was about it."""
        if self._library is None:
            return
        self.closing.emit()
        self._store.forget()
        library, self._library = self._library, None
        # What is on its way to it is written first.
        self.writer.put(Change(words="", work=library.close, done=nothing, refused=self.failed.emit))
        self._records.clear()
        self._forget_laps()

    def _open(self, *, read_only: bool, mend: bool) -> _Opened:
        """The library, what its check found, its runs and pins (off the window's thread)."""
        from jete.app.settings import shelf_place
        from jete.library.location import usual_location
        from jete.library.opening import open_library

        location = self._wanted or usual_location(*shelf_place())
        before: list[Finding] = []
        if mend:
            from jete.library.mending import mend_database

            before = mend_database(location)
        library, findings = open_library(location, read_only=read_only)
        return _Opened(library, before + findings, library.runs(), library.pins())

    def _on_opened(self, opened: _Opened, then: Callable[[], None] | None) -> None:
        self.close()
        self._library = opened.library
        self._records = {r.id: r for r in opened.records}
        shown = tuple(run_of_record(r) for r in opened.records)
        self.opened.emit()
        self._store.look_at(lambda s: self.take_up(s, shown, pinned(opened.pins), opened.library.location.shown))
        self.shown.emit()
        if opened.findings:
            self.found.emit(opened.findings)
        if then is not None:
            then()
        self._look_for_strangers(opened.library)

    def _on_open_failed(self, error: Exception) -> None:
        from jete.library.errors import DamagedError, NewerLibraryError

        self.not_opened.emit()
        if isinstance(error, NewerLibraryError):
            self.refused_newer.emit(error)
        elif isinstance(error, DamagedError):
            self.refused_damaged.emit(error)
        else:
            self.failed.emit(error)

    def library(self) -> Library:
        """The library that is open.

        Raises:
            InputError: none is.
        """
        if self._library is None:
            raise not_open()
        return self._library

    def _look_for_strangers(self, library: Library) -> None:
        """Find runs that an earlier version noted under a circuit they were not driven on."""
        if not library.read_only:
            self._tasks.start(LOOKING, lambda _: library.circuits.strangers(), self._on_strangers, self.failed.emit)

    def _on_strangers(self, runs: list[int]) -> None:
        if runs:
            self.strangers.emit(runs)

    # --- laps

    def lap_loader(self, key: LapKey | None) -> Callable[[], Lap] | None:
        """What loads a lap (off the window's thread), None for one that is not there."""
        record = self._records.get(key.run) if key else None
        library = self._library
        if key is None or record is None or library is None:
            return None
        if key.lap == IDEAL:
            return lambda: self._alone.ideal(library, record)
        if not any(s.number == key.lap for s in record.laps):
            return None
        return lambda: self._laps.lap(library, record, key.lap)

    def lap_of(self, library: Library) -> Callable[[RunRecord, int], Lap]:
        """What loads a lap by its run and number, off the window's thread; laps that were used lately are kept."""
        return lambda record, number: self._laps.lap(library, record, number)

    def alone_loader(self, number: int) -> Callable[[Token], Comparison] | None:
        """What compares a run with its own best lap (off the window's thread), None for one that is not there."""
        record, library = self._records.get(number), self._library
        if record is None or library is None:
            return None
        return lambda token: self._alone.comparison(library, record, token.cancelled)

    def _forget_laps(self) -> None:
        self._laps.clear()
        self._alone.clear()

    def circuit_finder(self, key: LapKey | None) -> Callable[[Lap], CircuitOnAxis | None]:
        """What lays a lap's circuit on it (off the window's thread)."""
        library = self._library
        if key is None or library is None:
            return lambda _: None
        return lambda lap: library.circuits.circuit_on(key.run, lap)

    def took(self, record: RunRecord) -> Run:
        """Take over a run as the library has it now; returns it as the session shows it."""
        self._records[record.id] = record
        return run_of_record(record)


def run_of_record(record: RunRecord) -> Run:
    """A run of the library as the session shows it; named by driver and time, else by its file."""
    sheet = record.sheet
    name = " · ".join(p for p in (sheet.driver, sheet.time) if p) if sheet.driver else Path(record.source).stem
    return Run(
        record.id,
        name,
        record.path or record.source,
        record.laps,
        record.repairs,
        sheet,
        record.notes,
        record.pieces,
        record.damaged,
    )


def not_open() -> InputError:
    """That a shelf is needed which is not open."""
    return InputError("The shelf", "it is not open.", "Open it first, or wait until it is.")


def _from_scratch(session: Session, runs: tuple[Run, ...], pins: Pinned, _: str) -> Session:
    return ops.new_shelf(session, runs, pins)


def pinned(pins: Pins) -> Pinned:
    """The pins as the session keeps them."""
    return tuple((place, LapKey(*key)) for place, key in pins.items())
