"""Whether a library is open in another window or command: what puts another database in its place waits for these.

Each open library holds a shared lock on a file beside it for as long as its process lives; who restores or mends wants it alone.
"""

from __future__ import annotations

import fcntl
import os
from contextlib import contextmanager
from typing import TYPE_CHECKING

from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from jete.library.location import Location

LOCK = "open.lock"


class OpenMark:
    """Says that a library is open here, until it is let go; on a folder that can't be written to nothing is said."""

    def __init__(self, location: Location) -> None:
        self._file: int | None = None
        if location.file is None or not location.folder.is_dir():
            return
        try:
            self._file = os.open(location.folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
            fcntl.flock(self._file, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except OSError:
            self.let_go()

    def let_go(self) -> None:
        """It is not open here any more."""
        if self._file is not None:
            os.close(self._file)
        self._file = None


@contextmanager
def alone(location: Location, what: str) -> Iterator[None]:
    """Nobody else opens the library meanwhile.

    Args:
        location: of the library.
        what: is to be done, for the message.

    Raises:
        InputError: it is open elsewhere.
    """
    if location.file is None or not location.folder.is_dir():
        yield
        return
    file = os.open(location.folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
    try:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            told = f"it is open in another window or command, which would go on writing to what is put aside; it can't be {what} now."
            raise InputError(location.shown, told, "Close it there first.") from None
        yield
    finally:
        os.close(file)
