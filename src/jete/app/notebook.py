"""What is noted of runs and laps: each change is written in the library, and is a step of undo once it is in."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jete.notes.merge import changed_words, conflict_words
from jete.session import operations as ops
from jete.session.state import Changed

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from jete.app.store import SessionStore
    from jete.app.writing_shelf import WritingShelf
    from jete.core.axis.road.corners import CornerId
    from jete.core.motion.one_line import LineSource
    from jete.library.library import Library
    from jete.library.records import RunRecord
    from jete.notes.merge import Conflict
    from jete.notes.sheet import LapNote, RunSheet
    from jete.session.state import LapKey


class Notebook:
    """Notes on the runs of one shelf; a refusal is told by the shelf and leaves no step."""

    def __init__(self, store: SessionStore, shelf: WritingShelf) -> None:
        self._store, self._shelf = store, shelf

    def note_run(self, number: int, sheet: RunSheet) -> None:
        """Put a sheet on a run."""
        self.note_runs({number: sheet})

    def note_runs(self, sheets: Mapping[int, RunSheet]) -> None:
        """Put sheets on runs, as one step.

        A circuit that nobody had named yet gets its name on all of its runs.
        """
        session = self._store.session
        wanted = dict(sheets)
        for number, sheet in sheets.items():
            wanted.update({k: s for k, s in ops.named_along(session, number, sheet).items() if k not in wanted})
        before = {n: run.sheet for n in wanted if (run := session.run(n)) is not None}
        changed = {n: s for n, s in wanted.items() if n in before and before[n] != s}
        there = {n: (before[n], s) for n, s in changed.items()}
        back = {n: (s, before[n]) for n, s in changed.items()}
        if changed:
            text = "note on the run" if len(changed) == 1 else f"note on {len(changed)} runs"
            undo, redo = lambda: self._put_sheets(back), lambda: self._put_sheets(there)
            self._put_sheets(there, lambda: self._store.did(text, undo, redo))

    def _put_sheets(
        self, changes: Mapping[int, tuple[RunSheet, RunSheet]], did: Callable[[], object] = lambda: None
    ) -> bool:
        """Write what was changed of sheets, before and after: other fields are somebody else's."""
        typed = "; ".join(sorted({words for s in changes.values() if (words := changed_words(*s))}))
        return self._shelf.write(
            f"run {', '.join(str(n) for n in changes)}: {typed}",
            lambda x: x.change_sheets(changes),
            *changes,
            meanwhile=lambda r: replace(r, sheet=changes[r.id][1]),
            then=lambda conflicts: self._tell(conflicts, did),
        )

    def _tell(self, conflicts: Sequence[Conflict], did: Callable[[], object]) -> None:
        if conflicts:
            self._shelf.told.emit(conflict_words(conflicts))
        did()

    def part(self, places: Mapping[int, tuple[str, str]]) -> None:
        """Note runs under the circuits they were driven on, as one step."""
        runs = {n: self._store.session.run(n) for n in places}
        self.note_runs({
            n: replace(run.sheet, circuit=places[n][0], layout=places[n][1], event="")
            for n, run in runs.items() if run is not None
        })  # fmt: skip

    def note_lap(self, key: LapKey, note: LapNote) -> None:
        """Put a note on a lap."""
        run = self._store.session.run(key.run)
        before = run.notes.of(key.lap) if run else None
        if before is None or before == note:
            return

        def did() -> None:
            back, again = lambda: self._put_note(key, note, before), lambda: self._put_note(key, before, note)
            self._store.did("note on the lap", back, again)

        self._put_note(key, before, note, did)

    def _put_note(self, key: LapKey, before: LapNote, after: LapNote, did: Callable[[], object] = lambda: None) -> bool:
        return self._shelf.write(
            f"run {key.run}, lap {key.lap}: {changed_words(before, after)}",
            lambda x: x.change_lap_note(key.run, key.lap, before, after),
            key.run,
            meanwhile=lambda r: replace(r, notes=r.notes.with_note(key.lap, after)),
            then=lambda conflicts: self._tell(conflicts, did),
        )

    def note_pass(self, key: tuple[int, int, CornerId], tag: str, note: str) -> bool:
        """Put a tag and a note on a pass: run, lap and corner (its id)."""
        before, after = self._pass_note(key), (tag, note)
        if before == after:
            return False

        def did() -> None:
            back, again = lambda: self._put_pass(key, before), lambda: self._put_pass(key, after)
            self._store.did(f"tag on lap {key[1]}", back, again)

        return self._put_pass(key, after, did)

    def _pass_note(self, key: tuple[int, int, CornerId]) -> tuple[str, str]:
        kept = self._store.passes
        found = kept.passes if kept is not None and kept.corner == key[2] else ()
        return next(((p.tag, p.note) for p in found if (p.run, p.lap) == key[:2]), ("", ""))

    def _put_pass(
        self, key: tuple[int, int, CornerId], words: tuple[str, str], did: Callable[[], object] = lambda: None
    ) -> bool:
        def then(_: object) -> None:
            self._store.look_at(lambda s: s, also=Changed.RUNS)
            did()

        told = f"run {key[0]}, lap {key[1]}, its pass: {' '.join(w for w in words if w)}"
        return self._shelf.write(told, lambda x: x.passes.note(*key, *words), then=then)

    def remove(self, number: int) -> None:
        """Put a run into the bin, from where it can be restored later too."""
        back, again = lambda: self.restore(number), lambda: self._take_off(number)
        self._take_off(number, lambda: self._store.did("run put into the bin", back, again))

    def _take_off(self, number: int, did: Callable[[], object] = lambda: None) -> bool:
        def then(_: object) -> None:
            self._store.look_at(lambda s: ops.drop_run(s, number))
            did()

        return self._shelf.write(f"run {number}, into the bin", lambda x: x.remove(number), then=then)

    def restore(self, number: int, did: Callable[[], object] = lambda: None) -> bool:
        """Take a run out of the bin."""
        words = f"run {number}, out of the bin"
        return self._shelf.write(words, lambda x: x.restore(number), number, then=lambda _: did())

    def split_again(self, number: int, line: LineSource) -> None:
        """Split a run at another start line."""
        words = f"run {number}, its start line"

        def split(library: Library, record: RunRecord) -> tuple[RunRecord, LineSource | None]:
            old = library.line_of(record)
            library.split_again(record, line)
            return record, old

        def did(before: tuple[RunRecord, LineSource | None]) -> None:
            self._store.did(
                "start line",
                lambda: self._shelf.lay_anew(words, number, lambda x, _: x.split_back(*before)),
                lambda: self._shelf.lay_anew(words, number, split),
            )

        self._shelf.lay_anew(words, number, split, did)

    def pin(self, key: LapKey) -> None:
        """Always use a lap as the reference of its circuit, layout and class; once more takes it off."""
        run = self._store.session.run(key.run)
        if run is None:
            return
        before = self._store.session.pin_of(run)
        after = None if before == key else key
        back, again = lambda: self._shelf.put_pin(run.sheet, before), lambda: self._shelf.put_pin(run.sheet, after)
        self._shelf.put_pin(run.sheet, after, lambda: self._store.did("pin", back, again))
