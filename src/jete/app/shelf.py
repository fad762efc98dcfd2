"""The library behind the session: opened, brought into, written in, and its laps handed out.

What is typed is confirmed by the library before it is shown.  Reading and splitting run
in the background; a note takes a few milliseconds and is written at once.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from jete.app.notebook import Notebook
from jete.core.errors import InputError
from jete.library.files import files_of
from jete.session import operations as ops
from jete.session.state import IDEAL, LapKey, Run

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.lap import Lap
    from jete.core.result import Comparison
    from jete.core.sheet import RunSheet
    from jete.core.split import LineSource
    from jete.formats.mapping import ColumnMap
    from jete.library.check import Finding
    from jete.library.library import Library
    from jete.library.location import Location
    from jete.library.records import RunRecord

OPENING = "opening"
READING = "reading"
SAVING = "saving"
EXPORTING = "exporting"
LOADING = "loading"
LAPS_KEPT = 48
STEPS_A_FILE = 100


class Shelf(QObject):
    """Runs of one library in the session; the usual one until another is opened."""

    failed = pyqtSignal(object)
    refused_newer = pyqtSignal(object)
    unknown_columns = pyqtSignal(object, object)
    progress = pyqtSignal(str, int, int)
    found = pyqtSignal(object)
    told = pyqtSignal(str)
    opened = pyqtSignal()
    split_anew = pyqtSignal()
    _read_so_far = pyqtSignal(object, int)

    def __init__(self, store: SessionStore, tasks: Tasks, location: Location | None = None) -> None:
        super().__init__()
        self._store, self._tasks, self._location = store, tasks, location
        self._read_so_far.connect(self._tell_progress)
        self._library: Library | None = None
        self._opening, self._keeping = threading.Lock(), threading.Lock()
        self._records: dict[int, RunRecord] = {}
        self._laps: OrderedDict[tuple[str, int], Lap] = OrderedDict()
        self._waiting: list[tuple[Path, Mapping[str, str]]] = []
        self._total = 0
        self._line: LineSource | None = None
        self.notebook = Notebook(store, self)

    @property
    def read_only(self) -> bool:
        """Whether nothing can be noted."""
        return self._library is not None and self._library.read_only

    # --- opening

    def open(
        self, location: Location | None = None, *, read_only: bool = False, then: Callable[[], None] | None = None
    ) -> None:
        """Open a library (the one at hand without a location) and show its runs."""
        if location is not None:
            self.close()
            self._location = location
        self._tasks.start(
            OPENING,
            lambda _: self._open(read_only=read_only),
            lambda result: self._on_opened(result, then),
            self._on_open_failed,
        )

    def close(self) -> None:
        """Let go of the library and of everything that hangs on it."""
        self._waiting.clear()
        self._tasks.cancel(READING)
        if self._library is not None:
            self._library.close()
        self._library = None
        self._records.clear()
        self._laps.clear()
        self._line = None

    def _open(self, *, read_only: bool = False) -> tuple[Library, list[Finding], list[RunRecord], dict[Any, Any]]:
        """The library, what its check found, its runs and pins (off the window's thread)."""
        library, findings = self._ready(read_only=read_only)
        return library, findings, library.runs(), library.pins()

    def _ready(self, *, read_only: bool = False) -> tuple[Library, list[Finding]]:
        """The library, opened where it is not, and what its check found then."""
        from jete.app.settings import shelf_place
        from jete.library.location import usual_location
        from jete.library.opening import open_library

        findings: list[Finding] = []
        with self._opening:
            if self._library is None:
                self._location = self._location or usual_location(*shelf_place())
                self._library, findings = open_library(self._location, read_only=read_only)
            return self._library, findings

    def _on_opened(self, result: tuple[Library, list[Finding], list[RunRecord], dict[Any, Any]], then: Any) -> None:
        _, findings, records, pins = result
        self._records = {r.id: r for r in records}
        shown = tuple(run_of_record(r) for r in records)
        self._store.forget()
        self.opened.emit()
        self._store.look_at(lambda s: ops.new_shelf(s, shown, _pins(pins)))
        if findings:
            self.found.emit(findings)
        if then is not None:
            then()

    def _on_open_failed(self, error: Exception) -> None:
        from jete.library.errors import NewerLibraryError

        if isinstance(error, NewerLibraryError):
            self.refused_newer.emit(error)
        else:
            self.failed.emit(error)

    # --- bringing in

    def open_files(self, paths: Sequence[Path], given: Mapping[str, str] | None = None) -> None:
        """Bring files (and those in folders) in, one after the other; those that can't be used are told."""
        files = [f for path in paths for f in files_of(path)]
        idle = not self._waiting
        self._waiting += [(f, given or {}) for f in files]
        self._total = len(self._waiting) if idle else self._total + len(files)
        if idle and files:
            self._read_next()

    def read_again(self, path: Path, chosen: ColumnMap) -> None:
        """Remember what the columns of a file are, and bring it in."""
        library = self._ready()[0]
        library.keep_column_map(chosen)
        self.open_files([path])

    def cancel(self) -> None:
        """Stop reading; what has been read stays."""
        self._waiting.clear()
        self._tasks.cancel(READING)
        self.progress.emit("", 0, 0)

    def _read_next(self) -> None:
        if not self._waiting:
            self.progress.emit("", 0, 0)
            return
        path, given = self._waiting[0]
        self._tell_progress(path, 0)
        self._tasks.start(
            READING,
            lambda token: self._read(path, given, token),
            lambda result: self._on_read(*result, select=not given),
            lambda e: self._on_read_failed(path, e),
        )

    def _tell_progress(self, path: Path, steps: int) -> None:
        """How far the file that is read, and those before it, are; what comes late of another is dropped."""
        if self._waiting and self._waiting[0][0] == path:
            before = self._total - len(self._waiting)
            self.progress.emit(path.name, STEPS_A_FILE * before + steps, STEPS_A_FILE * self._total)

    def _read(self, path: Path, given: Mapping[str, str], token: Token) -> tuple[RunRecord, bool]:
        """Bring one file in (off the window's thread)."""
        from jete.formats.watched import Watch
        from jete.library.bring_in import bring_in

        library = self._ready()[0]
        watch = Watch(token.cancelled, lambda share: self._read_so_far.emit(path, round(STEPS_A_FILE * share)))
        brought = bring_in(library, path, given, watch, line=self._line)
        self._line = self._line or brought.line
        return library.run(brought.run), brought.known

    def _on_read(self, record: RunRecord, known: bool, *, select: bool) -> None:  # noqa: FBT001 - what the task hands back
        """Show a run that came in, its laps too if it is the last of those that were opened."""
        self._records[record.id] = record
        run = run_of_record(record)
        last = select and not self.waits
        self._store.look_at(lambda s: ops.select_run(ops.put_run(s, run), run.number if last else s.look.run))
        if known:
            self.told.emit(f"{record.source} is on the shelf already.")
        self._after_file()

    def _on_read_failed(self, path: Path, error: Exception) -> None:
        from jete.formats.columns import UnknownColumnsError

        if isinstance(error, UnknownColumnsError) and error.worth_mapping:
            self.unknown_columns.emit(path, error)
        else:
            self.failed.emit(error)
        self._after_file()

    def _after_file(self) -> None:
        if self._waiting:
            self._waiting.pop(0)
        self._read_next()

    @property
    def waits(self) -> bool:
        """Whether more files are to come after the one that is read."""
        return len(self._waiting) > 1

    # --- laps

    def lap_loader(self, key: LapKey | None) -> Callable[[], Lap] | None:
        """What loads a lap (off the window's thread), None for one that is not there."""
        record = self._records.get(key.run) if key else None
        library = self._library
        if key is None or record is None or library is None:
            return None
        if key.lap == IDEAL:
            return lambda: library.ideal(record)
        if not any(s.number == key.lap for s in record.laps):
            return None
        return lambda: self._lap(library, record, key.lap)

    def _lap(self, library: Library, record: RunRecord, number: int) -> Lap:
        at = (record.digest, number)
        with self._keeping:
            kept = self._laps.get(at)
        lap = kept or library.lap(record, number)
        with self._keeping:
            self._laps[at] = lap
            self._laps.move_to_end(at)
            while len(self._laps) > LAPS_KEPT:
                self._laps.popitem(last=False)
        return lap

    # --- what is written for the notebook

    def write(self, change: Callable[[Library], object], number: int | None = None) -> bool:
        """Write a change and show the run as it is then; a refusal is told."""
        try:
            library = self._ready()[0]
            change(library)
            record = library.run(number) if number is not None else None
        except InputError as error:
            self.failed.emit(error)
            return False
        if record is not None:
            self._records[record.id] = record
            self._store.look_at(lambda s: ops.put_run(s, run_of_record(record)))
        return True

    def record_and_line(self, number: int) -> tuple[RunRecord, LineSource | None] | None:
        """A run as the library has it now, and the start line of its circuit."""
        record, library = self._records.get(number), self._library
        return (record, library.line_of(record)) if record is not None and library is not None else None

    def lay_anew(self, number: int, change: Callable[[Library, RunRecord], object]) -> bool:
        """Lay a run's laps anew; those that were kept are not its laps any more."""
        self._laps.clear()
        done = self.write(lambda x: change(x, self._records[number]), number)
        if done:
            self.split_anew.emit()
        return done

    def put_pin(self, sheet: RunSheet, key: LapKey | None) -> bool:
        """Pin a lap, or none, to a sheet's circuit, layout and class."""
        if not self.write(lambda x: x.pin(sheet, key.run, key.lap) if key else x.unpin(sheet)):
            return False
        pins = _pins(self._ready()[0].pins())
        self._store.look_at(lambda s: ops.pin(s, pins))
        return True

    def removed(self) -> list[RunRecord]:
        """The runs in the bin."""
        return self._ready()[0].runs(removed=True)

    def path_of(self, number: int, then: Callable[[Any], None]) -> None:
        """Load a run's path and its present start line in the background, for it to be moved."""
        record, library = self._records.get(number), self._library
        if record is None or library is None:
            return

        def work(_: Token) -> object:
            from jete.core.plane import origin_of
            from jete.core.split import line_of
            from jete.core.start_line import path_along

            log = library.log(record)
            line = library.line_of(record)
            origin = line.origin if line else origin_of(log)
            return record.id, path_along(log, origin), line or line_of(log)

        self._tasks.start(LOADING, work, then, self.failed.emit)

    # --- files out

    def back_up(self, target: Path) -> None:
        """Write the whole library into one file, in the background."""
        location = self._location
        if location is None:
            return

        def work(token: Token) -> int:
            from jete.library.backup import back_up

            def step(done: int, of: int) -> None:
                if token.cancelled():
                    raise InterruptedError
                self.progress.emit(target.name, done, of)

            return back_up(location, target, step)

        self._tasks.start(SAVING, work, lambda n: self._on_backed_up(target, n), self._on_save_failed)

    def _on_backed_up(self, target: Path, count: int) -> None:
        self.progress.emit("", 0, 0)
        self.told.emit(f"{count} recordings and the notes are in {target.name}.")

    def _on_save_failed(self, error: Exception) -> None:
        self.progress.emit("", 0, 0)
        self.failed.emit(error)

    def export_lap(self, key: LapKey, target: Path) -> None:
        """Write a lap as a file of its own, in the background."""
        load = self.lap_loader(key)
        if load is None:
            return

        def work(_: Token) -> None:
            from jete.formats.aligned import log_of_lap
            from jete.formats.writer import write_log

            write_log(target, log_of_lap(load()))

        self._tasks.start(EXPORTING, work, lambda _: self.told.emit(f"The lap is in {target.name}."), self.failed.emit)


def export_pair(comparison: Comparison, target: Path) -> None:
    """Write the compared laps on the reference's distance axis.

    Raises:
        InputError: an ending that is not known, or a place that can't be written to.
    """
    from jete.formats.aligned import aligned_columns
    from jete.formats.writer import write_columns

    write_columns(target, aligned_columns(comparison))


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


def _pins(pins: dict[Any, Any]) -> tuple[tuple[tuple[str, str, str], LapKey], ...]:
    return tuple((place, LapKey(*key)) for place, key in pins.items())
