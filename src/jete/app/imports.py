"""Logs coming onto the shelf, one after the other in the background; one summary at the end.

One bad file never ends an import of many: what can't be used is in the summary, with the
reason and what would mend it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from jete.core.errors import InputError
from jete.library.files import files_of
from jete.session import operations as ops

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.motion.one_line import LineSource
    from jete.formats.mapping import ColumnMap
    from jete.library.records import RunRecord

READING = "reading"
STEPS_A_FILE = 100

Fate = Literal["in", "known", "unknown columns", "refused"]


@dataclass(frozen=True)
class Outcome:
    """What became of one file: the run's number where it is on the shelf, else the error that says why not.

    ``said`` is who drove what as the log names it, by field of the sheet.
    """

    path: Path
    fate: Fate
    run: int | None = None
    error: Exception | None = None
    said: Mapping[str, str] = field(default_factory=dict)

    @property
    def why(self) -> str:
        """What is wrong, in one sentence."""
        return self.error.what if isinstance(self.error, InputError) else str(self.error or "")

    @property
    def mend(self) -> str:
        """What would mend it."""
        return self.error.mend if isinstance(self.error, InputError) else ""


@dataclass(frozen=True)
class Import:
    """One import: the files in their order; ``noted`` says that who drove was given with them."""

    outcomes: tuple[Outcome, ...]
    noted: bool = False

    def runs(self, fate: Fate) -> list[int]:
        """The runs of the files of one fate."""
        return [o.run for o in self.outcomes if o.fate == fate and o.run is not None]

    @property
    def said(self) -> dict[int, Mapping[str, str]]:
        """What the logs that came in say themselves, by run."""
        return {o.run: o.said for o in self.of("in") if o.run is not None}

    def of(self, *fates: Fate) -> list[Outcome]:
        """The files of some fates."""
        return [o for o in self.outcomes if o.fate in fates]

    @property
    def summary(self) -> str:
        """The whole import as one line.

        >>> Import((Outcome(Path("a"), "in", 1), Outcome(Path("b"), "known", 2))).summary
        '1 log came in · 1 known already'
        """
        words = {
            "in": "came in",
            "known": "known already",
            "unknown columns": "with unknown columns",
            "refused": "refused",
        }
        counts = [(len(self.of(fate)), text) for fate, text in words.items()]  # type: ignore[arg-type]
        told = [f"{n} {text}" for n, text in counts if n]
        return (
            " · ".join([_with_logs(told[0]), *told[1:]]) if told else "Nothing to bring in: the folder holds no files."
        )


def _with_logs(text: str) -> str:
    """The first count with its noun."""
    count, rest = text.split(" ", 1)
    return f"{count} {'log' if count == '1' else 'logs'} {rest}"


class ImportQueue(QObject):
    """Brings files onto the shelf that is open."""

    ended = pyqtSignal(object)
    progress = pyqtSignal(str, int, int)
    failed = pyqtSignal(object)
    # A file whose columns nobody knows is to be mapped: its path, and what was wrong.
    columns_wanted = pyqtSignal(object, object)
    _read_so_far = pyqtSignal(object, int)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._tasks, self._shelf = store, tasks, shelf
        self._waiting: list[tuple[Path, Mapping[str, str]]] = []
        self._outcomes: list[Outcome] = []
        self._total = 0
        self._noted = False
        self._line: LineSource | None = None
        self._read_so_far.connect(self._tell_progress)
        shelf.closing.connect(self.cancel)
        shelf.not_opened.connect(self._waiting.clear)

    @property
    def waits(self) -> bool:
        """Whether more files are to come after the one that is read."""
        return len(self._waiting) > 1

    def open_files(self, paths: Sequence[Path], given: Mapping[str, str] | None = None) -> None:
        """Bring files (and those in folders) in, one after the other.

        Args:
            paths: of files and folders.
            given: what is noted on all of them.
        """
        files = [f for path in paths for f in files_of(path)]
        idle = not self._waiting
        self._noted = bool(given) and (idle or self._noted)
        self._waiting += [(f, given or {}) for f in files]
        self._total = len(self._waiting) if idle else self._total + len(files)
        if idle and files and self._shelf.location is None:
            self._shelf.open(then=self._read_next)
        elif idle and files:
            self._read_next()
        elif idle:
            self.ended.emit(Import(()))

    def read_again(self, path: Path, chosen: ColumnMap) -> None:
        """Remember what the columns of a file are, and bring it in."""
        words = f"what the columns of {path.name} are"
        self._shelf.write(words, lambda x: x.keep_column_map(chosen), then=lambda _: self.open_files([path]))

    def cancel(self) -> None:
        """Stop reading; what has been read stays."""
        was_at_work = bool(self._waiting)
        self._waiting.clear()
        self._line = None
        self._tasks.cancel(READING)
        if was_at_work:
            self._end()

    def _read_next(self) -> None:
        if not self._waiting:
            self._end()
            return
        path, given = self._waiting[0]
        self._tell_progress(path, 0)
        self._tasks.start(
            READING,
            lambda token: self._read(path, given, token),
            lambda result: self._on_read(*result, select=not given),
            lambda error: self._on_read_failed(path, error),
        )

    def _end(self) -> None:
        """Tell what became of all files."""
        done, self._outcomes = Import(tuple(self._outcomes), self._noted), []
        self.progress.emit("", 0, 0)
        self.ended.emit(done)

    def _tell_progress(self, path: Path, steps: int) -> None:
        """How far the file that is read, and those before it, are; what comes late of another is dropped."""
        if self._waiting and self._waiting[0][0] == path:
            before = self._total - len(self._waiting)
            self.progress.emit(path.name, STEPS_A_FILE * before + steps, STEPS_A_FILE * self._total)

    def _read(self, path: Path, given: Mapping[str, str], token: Token) -> tuple[RunRecord, Outcome]:
        """Bring one file in (off the window's thread)."""
        from jete.formats.said import said_in
        from jete.formats.watched import Watch
        from jete.library.bring_in import bring_in

        library = self._shelf.library()
        watch = Watch(token.cancelled, lambda share: self._read_so_far.emit(path, round(STEPS_A_FILE * share)))
        brought = bring_in(library, path, given, watch, line=self._line)
        self._line = self._line or brought.line
        # Nobody is asked about a log that is on the shelf: what it says itself is not looked for.
        known = Outcome(path, "known", brought.run)
        return library.run(brought.run), known if brought.known else Outcome(
            path, "in", brought.run, said=said_in(path)
        )

    def _on_read(self, record: RunRecord, outcome: Outcome, *, select: bool) -> None:
        """Show a run that came in, its laps too if it is the last of those that were opened."""
        run = self._shelf.took(record)
        last = select and not self.waits
        self._store.look_at(lambda s: ops.select_run(ops.put_run(s, run), run.number if last else s.look.run))
        self._after(outcome)

    def _on_read_failed(self, path: Path, error: Exception) -> None:
        from jete.formats.columns import UnknownColumnsError

        if not isinstance(error, InputError):
            self.failed.emit(error)
        mappable = isinstance(error, UnknownColumnsError) and error.worth_mapping
        self._after(Outcome(path, "unknown columns" if mappable else "refused", error=error))

    def _after(self, outcome: Outcome) -> None:
        self._outcomes.append(outcome)
        if self._waiting:
            self._waiting.pop(0)
        self._read_next()
