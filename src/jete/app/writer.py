"""Writes changes into the shelf in the order they were made, on a thread of its own.

A note takes a few milliseconds: the window waits so long and no longer.  Where somebody else is
changing the shelf, the disk is full, or a server is slow or gone, the change waits here and is
tried again until it is in; the window goes on, and what waits can be told.
"""

from __future__ import annotations

import threading
from collections import deque
from dataclasses import dataclass, field
from queue import SimpleQueue
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, Qt, pyqtSignal

from jete.library.errors import NotNowError

if TYPE_CHECKING:
    from collections.abc import Callable

# How long a person does not notice that the window waits.
PATIENCE_S = 0.05
# How long to wait before a change is tried again; the database has waited for its turn by then.
AGAIN_S = 1.0


@dataclass(kw_only=True)
class Change:
    """Something to be written.

    Args:
        words: what a person would call it, with what was typed.
        work: writes it; called off the window's thread, more than once where the shelf was busy.
        done: called with the work's result, on the window's thread.
        refused: called with what was wrong with it, on the window's thread.
        runs: the runs it is about.
    """

    words: str
    work: Callable[[], Any]
    done: Callable[[Any], None]
    refused: Callable[[Exception], None]
    runs: frozenset[int] = frozenset()
    ended: threading.Event = field(default_factory=threading.Event)
    result: Any = None
    error: Exception | None = None


class Writer(QObject):
    """Takes changes from the window's thread, writes them one after the other, and tells what became of each in order."""

    # What waits, or why it waits, is another than before.
    changed = pyqtSignal()
    _came = pyqtSignal()
    _waits = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._pending: deque[Change] = deque()
        self._queue: SimpleQueue[Change | None] = SimpleQueue()
        self._thread: threading.Thread | None = None
        self._given_up = threading.Event()
        self._why = ""
        self._came.connect(self._deliver, type=Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        self._waits.connect(self._on_waits, type=Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    @property
    def pending(self) -> tuple[Change, ...]:
        """What is not in yet, in the order it was made."""
        return tuple(self._pending)

    @property
    def why(self) -> str:
        """Why the first of them waits, where that is known."""
        return self._why

    def put(self, change: Change) -> bool:
        """Write a change; whether it is in (or refused) on return, else it is on its way."""
        first = not self._pending
        self._pending.append(change)
        if self._thread is None:
            self._thread = threading.Thread(target=self._write_all, name="jete-writer", daemon=True)
            self._thread.start()
        self._queue.put(change)
        if first and change.ended.wait(PATIENCE_S):
            self._deliver()
            return True
        self.changed.emit()
        return False

    def settle(self, patience_s: float = PATIENCE_S) -> bool:
        """Wait a moment for all that is on its way; whether it is in."""
        if self._pending:
            self._pending[-1].ended.wait(patience_s)
            self._deliver()
        return not self._pending

    def give_up(self) -> tuple[Change, ...]:
        """Let go of what is on its way, for the program to end; returns it."""
        left = self.pending
        self._given_up.set()
        self._pending.clear()
        return left

    def close(self) -> None:
        """End the thread, once what it has in its hands is written."""
        self._queue.put(None)
        self._thread = None

    # --- on its own thread

    def _write_all(self) -> None:
        while (change := self._queue.get()) is not None:
            if not self._given_up.is_set():
                self._write(change)
                change.ended.set()
                self._came.emit()

    def _write(self, change: Change) -> None:
        while True:
            try:
                change.result = change.work()
            except NotNowError as error:
                if self._given_up.is_set():
                    return
                self._waits.emit(error)
                self._given_up.wait(AGAIN_S)
                continue
            except Exception as error:  # noqa: BLE001 - told on the window's thread
                change.error = error
            return

    # --- on the window's thread

    def _on_waits(self, error: NotNowError) -> None:
        if self._pending and self._why != error.what:
            self._why = error.what
            self.changed.emit()

    def _deliver(self) -> None:
        """Hand over what has ended, in order; each is still the first of what is pending while it is told."""
        told = False
        while self._pending and self._pending[0].ended.is_set():
            change = self._pending.popleft()
            self._why, told = "", True
            if change.error is None:
                change.done(change.result)
            else:
                change.refused(change.error)
        if told:
            self.changed.emit()
