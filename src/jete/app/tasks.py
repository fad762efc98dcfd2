"""Background work: one executor, results through a queued signal, latest wins per key."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

from PyQt6.QtCore import QObject, Qt, pyqtSignal

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

T = TypeVar("T")
R = TypeVar("R")


@dataclass
class Token:
    """Asked by the work whether it should stop."""

    _stop: threading.Event = field(default_factory=threading.Event)

    def cancel(self) -> None:
        """Ask the work to stop."""
        self._stop.set()

    def cancelled(self) -> bool:
        """Whether it was asked to."""
        return self._stop.is_set()


def one_by_one(work: Callable[[T], R], items: Sequence[T], cancelled: Callable[[], bool]) -> Iterator[R]:
    """What is worked out of each thing, until it is asked to stop.

    Raises:
        InterruptedError: it was.
    """
    for item in items:
        if cancelled():
            raise InterruptedError
        yield work(item)


class Tasks(QObject):
    """Runs functions off the window's thread and hands back their results on it."""

    _finished = pyqtSignal(object, object, object, object)
    busy_changed = pyqtSignal(bool)
    # Nothing runs from here on: who waits to start something waits no more.
    closing = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(max_workers=2, thread_name_prefix="jete")
        self._closed = False
        self._running: dict[str, Token] = {}
        self._left = 0
        self._finished.connect(self._deliver, type=Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    def start(
        self,
        key: str,
        work: Callable[[Token], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
    ) -> Token:
        """Run ``work``; an earlier task of the same key is cancelled and its result dropped.  Nothing runs after the end."""
        self.cancel(key)
        token = Token()
        if self._closed:
            token.cancel()
            return token
        self._running[key] = token
        self._left += 1
        self._pool.submit(self._work, key, token, work, (done, failed))
        self.busy_changed.emit(True)
        return token

    def _work(self, key: str, token: Token, work: Callable[[Token], Any], ends: object) -> None:
        result: Any = None
        error: Exception | None = None
        try:
            # What was overtaken while it waited for a thread is not begun.
            result = None if token.cancelled() else work(token)
        except Exception as caught:  # noqa: BLE001 - told on the window's thread
            error = caught
        self._finished.emit(key, token, (result, error), ends)

    def _deliver(self, key: str, token: Token, outcome: tuple[Any, Exception | None], ends: Any) -> None:
        self._left -= 1
        if self._running.get(key) is token:
            del self._running[key]
        self.busy_changed.emit(bool(self._running))
        if token.cancelled():
            return
        result, error = outcome
        done, failed = ends
        if error is None:
            done(result)
        else:
            failed(error)

    def runs(self, key: str) -> bool:
        """Whether a task of a key is under way."""
        return key in self._running

    @property
    def idle(self) -> bool:
        """Whether nothing runs any more, work that was asked to stop included, and all results are handed over."""
        return self._left == 0

    def cancel(self, key: str) -> None:
        """Ask a task to stop; its result will not come."""
        token = self._running.pop(key, None)
        if token is not None:
            token.cancel()
            self.busy_changed.emit(bool(self._running))

    def cancel_all(self) -> None:
        """Ask everything to stop."""
        for key in list(self._running):
            self.cancel(key)

    def close(self) -> None:
        """Stop everything and wait for the threads."""
        self._closed = True
        self.closing.emit()
        self.cancel_all()
        self._pool.shutdown(wait=True, cancel_futures=True)
