"""How far a reading is, told as it goes on, and whether it is to go on at all."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path


@dataclass(frozen=True)
class Watch:
    """Somebody who looks on at a reading: may stop it, and is told the share that is done, 0 to 1."""

    cancelled: Callable[[], bool] = lambda: False
    told: Callable[[float], None] = lambda _: None

    def step(self, share: float) -> None:
        """Tell how far it is.

        Raises:
            InterruptedError: it was cancelled.
        """
        if self.cancelled():
            raise InterruptedError
        self.told(share)

    def part(self, start: float, end: float) -> Watch:
        """The watch of a part of the work, from one share of the whole to another."""
        return Watch(self.cancelled, lambda share: self.told(start + share * (end - start)))


UNWATCHED = Watch()


class WatchedFile(io.FileIO):
    """A file opened to be read; each read tells how far it is."""

    def __init__(self, path: Path, watch: Watch) -> None:
        super().__init__(path)
        self._watch, self._bytes = watch, max(path.stat().st_size, 1)

    def read(self, size: int | None = -1) -> bytes:
        """Read bytes, as any file does.

        Raises:
            InterruptedError: it was cancelled.
        """
        self._watch.step(self.tell() / self._bytes)
        return super().read(-1 if size is None else size) or b""

    def readinto(self, buffer: Any) -> int:
        """Read bytes into a buffer, as a reader laid over the file does.

        Raises:
            InterruptedError: it was cancelled.
        """
        self._watch.step(self.tell() / self._bytes)
        return super().readinto(buffer) or 0
