"""What was used lately, up to a number of things; the one that was not used for longest makes way."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Generic, TypeVar

Key = TypeVar("Key")
Value = TypeVar("Value")


class Recent(Generic[Key, Value]):
    """Keeps the things used last; may be asked from any thread."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._lock = threading.Lock()
        self._kept: OrderedDict[Key, Value] = OrderedDict()

    def get(self, key: Key) -> Value | None:
        """The thing under a key, None where it is not kept (any more)."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def keep(self, key: Key, value: Value) -> None:
        """Keep a thing under a key."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)

    def clear(self) -> None:
        """Forget all."""
        with self._lock:
            self._kept.clear()
