"""What is written on the shelf that is open: each change in its turn, shown meanwhile, and told where it is refused.

What is typed is confirmed by the library before it is shown as saved; it goes through :mod:`jete.app.writer`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.app.open_shelf import OpenShelf, Pinned, not_open, nothing, pinned
from jete.app.writer import Change
from jete.core.errors import InputError
from jete.library.errors import ReadOnlyError
from jete.session import operations as ops
from jete.session.state import LapKey

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.library.library import Library
    from jete.library.location import Location
    from jete.library.records import RunRecord
    from jete.notes.sheet import RunSheet


CHANGING = "changing the circuit"


class WritingShelf(OpenShelf):
    """An open shelf that takes changes."""

    def __init__(self, store: SessionStore, tasks: Tasks, location: Location | None = None) -> None:
        super().__init__(store, tasks, location)
        self.writer.changed.connect(self._on_writing)

    def write(
        self,
        words: str,
        change: Callable[[Library], object],
        *numbers: int,
        meanwhile: Callable[[RunRecord], RunRecord] | None = None,
        then: Callable[[Any], object] = nothing,
    ) -> bool:
        """Write a change in its turn, and show the runs of these numbers as they are then; a refusal is told.

        Args:
            words: what a person would call it, with what was typed.
            change: writes it; called off the window's thread.
            numbers: of the runs it is about.
            meanwhile: how such a run is shown while the change is on its way.
            then: called with what ``change`` returned, once it is in.

        Returns: whether it is in, or on its way.
        """
        library = self._library
        if library is None or library.read_only:
            self.failed.emit(ReadOnlyError() if library is not None else not_open())
            return False

        def work() -> tuple[object, list[RunRecord]]:
            return change(library), [library.run(n) for n in numbers]

        def done(outcome: tuple[object, list[RunRecord]]) -> None:
            if self._library is library:
                self._show(outcome[1])
                then(outcome[0])

        def refused(error: Exception) -> None:
            self.failed.emit(_not_saved(error, words))
            if meanwhile is not None and self._library is library:
                self.write("", nothing, *numbers)

        made = Change(words=words, work=work, done=done, refused=refused, runs=frozenset(numbers))
        if self.writer.put(made):
            return made.error is None
        if meanwhile is not None:
            runs = [self.took(meanwhile(self._records[n])) for n in numbers]
            self._store.look_at(lambda s: ops.put_runs(s, runs))
        return True

    def _show(self, records: Iterable[RunRecord]) -> None:
        """Show runs as the library has them, but for those of which a later change is on its way."""
        later = {n for change in self.writer.pending for n in change.runs}
        runs = [self.took(r) for r in records if r.id not in later]
        self._store.look_at(lambda s: ops.put_runs(s, runs))

    def _on_writing(self) -> None:
        self._store.hold(bool(self.writer.pending))

    def came_in(self, number: int) -> None:
        """Show a run that was taken in, and what came with it of its circuit."""
        self.change_circuit("", lambda _: True)
        self.write("", nothing, number)

    def lay_anew(
        self,
        words: str,
        number: int,
        change: Callable[[Library, RunRecord], object],
        then: Callable[[Any], object] = nothing,
    ) -> bool:
        """Lay a run's laps anew; those that were kept are not its laps any more."""
        record = self._records.get(number)
        if record is None:
            return False

        def lay(library: Library) -> object:
            result = change(library, record)
            self._forget_laps()
            return result

        def done(result: object) -> None:
            self.split_anew.emit()
            then(result)

        return self.write(words, lay, number, then=done)

    def change_circuit(
        self, words: str, change: Callable[[Library], object], then: Callable[[Any], object] = nothing
    ) -> bool:
        """Write what was edited of a circuit; all comparisons there follow, unless ``change`` says None: nothing to edit."""

        def done(result: object) -> None:
            if result is not None:
                self._alone.clear()
                self.circuit_changed.emit()
                then(result)

        return self.write(words, change, then=done)

    def change_behind(
        self,
        change: Callable[[Library], object],
        then: Callable[[], None],
        failed: Callable[[Exception], None] | None = None,
    ) -> None:
        """Write what takes longer than a window may stand still, in the background; all comparisons follow, then ``then``."""
        library = self.library()

        def done(_: object) -> None:
            if self._library is not library:
                return
            self._alone.clear()
            self.circuit_changed.emit()
            then()

        self._tasks.start(CHANGING, lambda _: change(library), done, failed or self.failed.emit)

    def put_pin(self, sheet: RunSheet, key: LapKey | None, then: Callable[[], object] = nothing) -> bool:
        """Pin a lap, or none, to a sheet's circuit, layout and class."""

        def change(library: Library) -> Pinned:
            if key is not None:
                library.pin(sheet, key.run, key.lap)
            else:
                library.unpin(sheet)
            return pinned(library.pins())

        def done(pins: Pinned) -> None:
            self._store.look_at(lambda s: ops.pin(s, pins))
            then()

        return self.write(f"pin on lap {key.lap}" if key else "pin taken off", change, then=done)


def _not_saved(error: Exception, words: str) -> Exception:
    """The same refusal with what was typed, which would be gone else."""
    if not isinstance(error, InputError) or not words:
        return error
    return InputError(error.where, error.what, f"{error.mend} Not saved: {words}.".strip())
