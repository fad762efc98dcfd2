"""A rehearsal: what was called this time, and what is kept of it for each person and circuit."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from jete.core.driving.shapes import hardness_of, press_of
from jete.core.walk.rehearse import Call, CallName, Memory, due, expected, judged, quality
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.axis.road.corners import CornerId, CornerNumber
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.driving.shapes import Hardness
    from jete.library.library import Library

REMEMBERING = "reading what is known of the corners"
DAY_S = 86_400
HARD: tuple[Hardness, ...] = ("light", "firm", "hard")
NAMES: tuple[CallName, ...] = ("brake", "turn_in", "pick_up")
# What speed and path alone can tell.
BARE: tuple[CallName, ...] = ("turn_in", "slow_point")


class Rehearsal(QObject):
    """Judges calls against the reference; keeps what is known of each corner of its circuit, for one person."""

    changed = pyqtSignal()

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._tasks, self._shelf = store, tasks, shelf
        self.calls: list[Call] = []
        self.memories: dict[CornerId, Memory] = {}
        store.changed.connect(self._on_changed)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if Changed.RESULT in flags or (Changed.PAGE in flags and session.look.page == "walk"):
            self.calls, self.memories = [], {}
            self.changed.emit()
            self._read()

    def _read(self) -> None:
        """Read what is kept of this circuit for who drove the lap."""
        lap = self._store.session.choice.lap
        if lap is None or self._shelf.location is None:
            return
        library, person = self._shelf.library(), self.person()

        def work(_: Token) -> dict[CornerId, Memory]:
            place = library.circuits.place(lap.run)
            return library.guides.remembered(place, person) if place is not None else {}

        # What can't be read is not known: all corners are asked for then.
        self._tasks.start(REMEMBERING, work, self._on_read, lambda _: None)

    def _on_read(self, memories: dict[CornerId, Memory]) -> None:
        self.memories = {**memories, **self.memories}
        self.changed.emit()

    def _corners(self) -> tuple[CornerLoss, ...]:
        comparison = self._store.comparison
        return comparison.laps[0].corners if comparison is not None else ()

    def names(self) -> tuple[CallName, ...]:
        """What can be asked for: without pedals turn-in and the slowest point."""
        comparison = self._store.comparison
        bare = comparison is not None and {"brake", "throttle"} & set(comparison.reference.inferred)
        return BARE if bare else NAMES

    def person(self) -> str:
        """The person who rehearses: the driver of the compared lap."""
        session = self._store.session
        run = session.run(session.choice.lap.run) if session.choice.lap is not None else None
        return run.sheet.driver if run is not None else ""

    def call(self, name: CallName, hard: Hardness | None = None) -> Call | None:
        """Call something where the place is, and how hard; the first call for each mark counts."""
        if name not in self.names():
            return None
        call = judged(name, self._store.session.look.place_m, self._corners(), hard)
        if call is not None and hard is not None:
            call = replace(call, wanted=self._pressed(call.corner))
        if call is not None and not any((c.corner, c.name) == (call.corner, call.name) for c in self.calls):
            self.calls.append(call)
            self.changed.emit()
        return call

    def _pressed(self, corner: int) -> Hardness | None:
        """How hard the reference brakes in a corner; None where no pressure shows it."""
        comparison = self._store.comparison
        loss = next((c for c in self._corners() if c.corner.number == corner), None)
        if comparison is None or loss is None or comparison.reference.brake.inferred:
            return None
        press = press_of(comparison.reference, loss.reference_marks)
        return hardness_of(press[1].peak) if press is not None else None

    def keep(self) -> None:
        """Keep what is known of the corners that were called, and begin anew."""
        today = int(time.time()) // DAY_S
        after: dict[CornerId, Memory] = {}
        for loss in self._corners():
            mine = [c for c in self.calls if c.corner == loss.corner.number]
            if mine and loss.corner.id is not None:
                answer = quality(mine, len(expected(loss, self.names())))
                after[loss.corner.id] = self.memories.get(loss.corner.id, Memory()).after(answer, today)
        if after and self._write(after):
            self.memories = {**self.memories, **after}
        self.calls = []
        self.changed.emit()

    def _write(self, memories: dict[CornerId, Memory]) -> bool:
        lap = self._store.session.choice.lap
        if lap is None or self._shelf.location is None:
            return False
        person = self.person()

        def write(library: Library) -> None:
            place = library.circuits.place(lap.run)
            if place is not None:
                library.guides.remember(place, person, memories)

        return self._shelf.write("what is known of the corners", write)

    def due(self) -> list[CornerNumber]:
        """The corners (numbers) that are to come again today, the least known first."""
        numbers = {c.corner.id: c.corner.number for c in self._corners() if c.corner.id is not None}
        return [numbers[i] for i in due(self.memories, list(numbers), int(time.time()) // DAY_S)]

    def unknown_words(self) -> str:
        """Which corners are not known yet."""
        shown = {c.corner.number: c.corner.shown for c in self._corners()}
        left = [shown[n] for n in self.due() if n in shown]
        return f"Not known yet, or due again: {', '.join(left)}." if left else "All corners are known for today."
