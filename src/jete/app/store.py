"""The one writer of the session state, with undo, and one signal for all views."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from jete.session.state import Changed, Choice, Session, difference

if TYPE_CHECKING:
    from jete.app.analysis import RunResult
    from jete.app.evenness import Evenness
    from jete.core.result import Comparison

    Operation = Callable[[Session], Session]

LONGEST_UNDO = 100


@dataclass(frozen=True)
class Step:
    """One thing that was done: its name, and how it is taken back and done again."""

    text: str
    back: Callable[[], object]
    again: Callable[[], object]


class SessionStore(QObject):
    """Holds the session; ``do`` is undoable, ``look_at`` is not; equal states say nothing.

    A change made while views are being told is queued, so that every view sees the
    states in the same order.
    """

    changed = pyqtSignal(object, object)

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self._session = session or Session()
        self._undo: deque[Step] = deque(maxlen=LONGEST_UNDO)
        self._redo: list[Step] = []
        self._queue: deque[tuple[Operation, Changed]] = deque()
        self._telling = False
        self.comparison: Comparison | None = None
        self.run: RunResult | None = None
        self.evenness: Evenness | None = None

    @property
    def session(self) -> Session:
        """The present state."""
        return self._session

    def do(self, text: str, operation: Operation) -> None:
        """Change the state in a way that can be undone, under a name for the menu."""
        before = self._session.choice
        self.look_at(operation)
        after = self._session.choice
        if after != before:
            self.did(text, lambda: self._choose(before), lambda: self._choose(after))

    def did(self, text: str, back: Callable[[], object], again: Callable[[], object]) -> None:
        """Remember what was done, so that it can be taken back."""
        self._undo.append(Step(text, back, again))
        self._redo.clear()
        self.look_at(lambda s: s, also=Changed.UNDO)

    def forget(self) -> None:
        """Forget what could be undone: it was about another shelf."""
        self._undo.clear()
        self._redo.clear()

    def _choose(self, choice: Choice) -> None:
        self.look_at(lambda s: replace(s, choice=choice))

    def look_at(self, operation: Operation, also: Changed = Changed.NOTHING) -> None:
        """Change the state without a step of undo; ``also`` is told in any case."""
        self._queue.append((operation, also))
        if self._telling:
            return
        self._telling = True
        try:
            while self._queue:
                self._apply(*self._queue.popleft())
        finally:
            self._telling = False

    def _apply(self, operation: Operation, also: Changed) -> None:
        old, self._session = self._session, operation(self._session)
        flags = difference(old, self._session) | also
        if flags:
            self.changed.emit(self._session, flags)

    @property
    def undo_text(self) -> str | None:
        """What would be undone, or None."""
        return self._undo[-1].text if self._undo else None

    @property
    def redo_text(self) -> str | None:
        """What would be done again, or None."""
        return self._redo[-1].text if self._redo else None

    def undo(self) -> None:
        """Take back the last thing that was done; the look stays."""
        if self._undo:
            step = self._undo.pop()
            self._redo.append(step)
            step.back()

    def redo(self) -> None:
        """Do again what was undone."""
        if self._redo:
            step = self._redo.pop()
            self._undo.append(step)
            step.again()
