"""Files that are there wholly or not at all, whatever happens while they are written."""

from __future__ import annotations

import os
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

UNFINISHED = ".unfinished"


@contextmanager
def written_wholly(target: Path) -> Iterator[Path]:
    """A name to write to; at the end it is synced and takes the target's name.  A pipe or device is written as it is.

    Raises:
        OSError: what the disk says; a file that had the name before is as it was.
    """
    if target.exists() and not target.is_file() and not target.is_dir():
        yield target
        return
    target = target.resolve()
    unfinished = target.with_name(f"{target.name}.{os.getpid()}{UNFINISHED}")
    try:
        yield unfinished
        keep(unfinished, target)
    finally:
        unfinished.unlink(missing_ok=True)


def keep(unfinished: Path, target: Path) -> None:
    """Sync a file and give it its name for good."""
    with unfinished.open("rb") as file:
        os.fsync(file.fileno())
    target.parent.mkdir(parents=True, exist_ok=True)
    unfinished.replace(target)
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
