"""Files of the shelf: what they are known by, and those that a folder holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pathlib import Path

PIECE_BYTES = 1 << 20


def digest_of(path: Path) -> str:
    """SHA-256 of a file, as hexadecimal."""
    # Hashing loads a library of its own, which the first window does not need.
    import hashlib

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
