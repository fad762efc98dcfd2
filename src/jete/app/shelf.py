"""The shelf that the window works with: an open library, what is noted in it, and what is looked for in it on demand."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.app.circuit_notebook import CircuitNotebook
from jete.app.notebook import Notebook
from jete.app.open_shelf import LOOKING
from jete.app.writing_shelf import WritingShelf

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.library.location import Location
    from jete.library.records import RunRecord

LOADING = "loading"
REMOVED = "reading the bin"


class Shelf(WritingShelf):
    """Runs of one library in the session, with the notebooks of runs and of circuits."""

    def __init__(self, store: SessionStore, tasks: Tasks, location: Location | None = None) -> None:
        super().__init__(store, tasks, location)
        self.notebook = Notebook(store, self)
        self.circuits = CircuitNotebook(store, self)

    def removed(self, then: Callable[[list[RunRecord]], None]) -> None:
        """Read in the background which runs are in the bin."""
        library = self.library()
        self._tasks.start(REMOVED, lambda _: library.runs(removed=True), then, self.failed.emit)

    def path_of(self, number: int, then: Callable[[Any], None]) -> None:
        """Load a run's path and its present start line in the background, for it to be moved."""
        record, library = self._records.get(number), self._library
        if record is None or library is None:
            return

        def work(_: Token) -> object:
            from jete.core.log.plane import origin_of
            from jete.core.motion.borders import line_of
            from jete.core.motion.start_line import path_along

            log = library.log(record)
            line = library.line_of(record)
            origin = line.origin if line else origin_of(log)
            return record.id, path_along(log, origin), line or line_of(log)

        self._tasks.start(LOADING, work, then, self.failed.emit)

    def other_places(self, runs: list[int], then: Callable[[dict[int, tuple[str, str]]], None]) -> None:
        """Find out in the background where runs were driven, for them to be noted there."""
        library = self.library()
        self._tasks.start(LOOKING, lambda _: library.circuits.other_places(runs), then, self.failed.emit)
