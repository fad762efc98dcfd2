"""Files that are there wholly or not at all, whatever happens while they are written."""

from __future__ import annotations

import hashlib
import os
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

PIECE_BYTES = 1 << 20
UNFINISHED = ".unfinished"


@contextmanager
def written_wholly(target: Path) -> Iterator[Path]:
    """A name to write to; at the end it is synced and takes the target's name."""
    target.parent.mkdir(parents=True, exist_ok=True)
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


def digest_of(path: Path) -> str:
    """SHA-256 of a file, as hexadecimal."""
    found = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(PIECE_BYTES):
            found.update(piece)
    return found.hexdigest()


def files_of(path: Path) -> list[Path]:
    """A file itself; of a folder all files in it and below, without hidden ones."""
    if not path.is_dir():
        return [path]
    return sorted(p for p in path.rglob("*") if p.is_file() and not p.name.startswith("."))
