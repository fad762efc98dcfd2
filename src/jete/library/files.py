"""Files of the shelf: what they are known by, and those that a folder holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats.packed import content_of

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


def content_digest(path: Path) -> str:
    """SHA-256 of what a file holds, as hexadecimal: the same whether it is packed, and whatever line ends it ends with."""
    import hashlib
    import zipfile
    import zlib

    found, held = hashlib.sha256(), b""
    try:
        with content_of(path) as file:
            while piece := file.read(PIECE_BYTES):
                kept = (held + piece).rstrip(b"\r\n")
                found.update(kept)
                held = (held + piece)[len(kept) :]
    except (InputError, EOFError, ValueError, zlib.error, zipfile.BadZipFile, RuntimeError, NotImplementedError):
        # What can't be unpacked is known by its bytes; whoever reads it tells why.
        return digest_of(path)
    return found.hexdigest()


def files_of(path: Path) -> list[Path]:
    """A file itself; of a folder all files in it and below, without hidden ones."""
    if not path.is_dir():
        return [path]
    return sorted(p for p in path.rglob("*") if p.is_file() and not p.name.startswith("."))
