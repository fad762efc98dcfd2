"""The open place of a library: its database and its channel data.  All books of the library read and write through it.

A change is confirmed when its method returns: it is committed and synced by then.
"""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from jete.core.errors import InputError
from jete.core.log.lap import Lap, LapSpan, Log
from jete.library import recordings
from jete.library.database import connect, refusing, take_turn, writing_engine
from jete.library.errors import ReadOnlyError
from jete.library.open_elsewhere import OpenMark
from jete.library.records import RunRecord, read_runs

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from jete.library.location import Location


class Storage:
    """Reads and writes at one place, each as a transaction of its own, and hands out runs and laps.

    Methods may be called from any thread.
    """

    def __init__(self, location: Location, *, read_only: bool = False) -> None:
        self.location, self.read_only = location, read_only
        self._engine = connect(location, read_only=read_only)
        self._mark = None if read_only else OpenMark(location)

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()
        if self._mark is not None:
            self._mark.let_go()

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session to read in.

        Raises:
            InputError: the database does not answer.
        """
        with refusing(self.location), Session(self._engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session whose changes are confirmed at its end, all or none.

        Raises:
            ReadOnlyError: where the library is open to read only.
            InputError: somebody else is changing it for long, the disk is full, the server is gone.
        """
        if self.read_only:
            raise ReadOnlyError
        engine = writing_engine(self._engine)
        with refusing(self.location), Session(engine, expire_on_commit=False) as session, session.begin():
            take_turn(session)
            yield session

    # --- what is there

    def runs(self, *, removed: bool = False) -> list[RunRecord]:
        """All runs, or those in the bin."""
        with self.reading() as session:
            return read_runs(session, removed=removed)

    def run(self, number: int) -> RunRecord:
        """One run, in the bin or not.

        Raises:
            InputError: there is none of that number.
        """
        with self.reading() as session:
            found = read_runs(session, only=[number]) or read_runs(session, only=[number], removed=True)
        if not found:
            raise InputError(f"library:{number}", "there is no such run.", "List the runs with 'jete list'.")
        return found[0]

    def lap(self, run: RunRecord, number: int, names: Sequence[str] | None = None) -> Lap:
        """One lap with its channels (all, or those named).

        Raises:
            InputError: no such lap, or channel data that is damaged.
        """
        span = next((s for s in run.laps if s.number == number), None)
        if span is None:
            known = ", ".join(str(s.number) for s in run.laps)
            raise InputError(f"library:{run.id}", f"there is no lap {number}.", f"It has the laps {known}.")
        return Lap(self._load(run, span, names), span, run.sheet.driver)

    def log(self, run: RunRecord) -> Log:
        """A run's whole log.

        Raises:
            InputError: channel data that is damaged.
        """
        return self._load(run, None, None)

    def _load(self, run: RunRecord, span: LapSpan | None, names: Sequence[str] | None) -> Log:
        path = recordings.path_of(self.location.folder, run.digest)
        try:
            if span is None:
                return recordings.load(path)
            return recordings.load(path, span.start_s, span.end_s, names)
        except (OSError, KeyError, ValueError) as error:
            why = "its channel data is damaged or gone."
            raise InputError(
                f"library:{run.id} ({run.source})", why, "Import the log again, or restore a backup."
            ) from error
