"""What is noted of runs and laps: each change is written in the library first, and is a step of undo."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.session import operations as ops

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.core.sheet import LapNote, RunSheet
    from jete.core.split import LineSource
    from jete.session.state import LapKey


class Notebook:
    """Notes on the runs of one shelf; a refusal is told by the shelf and leaves no step."""

    def __init__(self, store: SessionStore, shelf: Shelf) -> None:
        self._store, self._shelf = store, shelf

    def note_run(self, number: int, sheet: RunSheet) -> None:
        """Put a sheet on a run."""
        run = self._store.session.run(number)
        before = run.sheet if run else None
        if before is not None and before != sheet and self._put_sheet(number, sheet):
            self._store.did(
                "note on the run", lambda: self._put_sheet(number, before), lambda: self._put_sheet(number, sheet)
            )

    def _put_sheet(self, number: int, sheet: RunSheet) -> bool:
        return self._shelf.write(lambda x: x.note_run(number, sheet), number)

    def note_lap(self, key: LapKey, note: LapNote) -> None:
        """Put a note on a lap."""
        run = self._store.session.run(key.run)
        before = run.notes.of(key.lap) if run else None
        if before is not None and before != note and self._put_note(key, note):
            self._store.did("note on the lap", lambda: self._put_note(key, before), lambda: self._put_note(key, note))

    def _put_note(self, key: LapKey, note: LapNote) -> bool:
        return self._shelf.write(lambda x: x.note_lap(key.run, key.lap, note), key.run)

    def remove(self, number: int) -> None:
        """Put a run into the bin, from where it can be restored later too."""
        if self._take_off(number):
            self._store.did("run put into the bin", lambda: self.restore(number), lambda: self._take_off(number))

    def _take_off(self, number: int) -> bool:
        done = self._shelf.write(lambda x: x.remove(number))
        if done:
            self._store.look_at(lambda s: ops.drop_run(s, number))
        return done

    def restore(self, number: int) -> None:
        """Take a run out of the bin."""
        self._shelf.write(lambda x: x.restore(number), number)

    def split_again(self, number: int, line: LineSource) -> None:
        """Split a run at another start line."""
        before = self._shelf.record_and_line(number)
        if before is not None and self._shelf.lay_anew(number, lambda x, record: x.split_again(record, line)):
            record, old = before
            self._store.did(
                "start line",
                lambda: self._shelf.lay_anew(number, lambda x, _: x.split_back(record, old)),
                lambda: self._shelf.lay_anew(number, lambda x, now: x.split_again(now, line)),
            )

    def pin(self, key: LapKey) -> None:
        """Always hold a lap against those of its circuit, layout and class; once more takes it off."""
        run = self._store.session.run(key.run)
        if run is None:
            return
        before = self._store.session.pin_of(run)
        after = None if before == key else key
        if self._shelf.put_pin(run.sheet, after):
            self._store.did(
                "pin", lambda: self._shelf.put_pin(run.sheet, before), lambda: self._shelf.put_pin(run.sheet, after)
            )
