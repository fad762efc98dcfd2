"""What follows the state and works in the background for it: it ends with the program, and what it reads ends with its shelf."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from PyQt6.QtCore import QObject, QTimer

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.session.state import Changed, Session


class Follower(QObject):
    """Told of each change of the state until the program closes.

    Attributes:
        WORKS: keys of its work in the background, which is cancelled when the shelf that it reads closes.
    """

    WORKS: ClassVar[tuple[str, ...]] = ()

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._tasks, self._shelf = store, tasks, shelf
        self._waits: list[QTimer] = []
        store.changed.connect(self._on_changed)
        shelf.closing.connect(self._on_shelf_closing)
        tasks.closing.connect(self._on_closing)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        """Start what the new state needs."""
        raise NotImplementedError

    def _forget(self) -> None:
        """Take what came from the shelf that closes out of the store."""

    def _waiting(self, delay_ms: int, then: Callable[[], None]) -> QTimer:
        """A timer that does a thing once nobody has started it for so long: who steps through a list does not stop at each."""
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(delay_ms)
        timer.timeout.connect(then)
        self._waits.append(timer)
        return timer

    def _on_shelf_closing(self) -> None:
        for key in self.WORKS:
            self._tasks.cancel(key)
        self._forget()

    def _on_closing(self) -> None:
        """What is still on its way to the store starts nothing any more."""
        self._store.changed.disconnect(self._on_changed)
        for timer in self._waits:
            timer.stop()
