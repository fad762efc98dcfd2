"""Logs packed with gzip or zip: unpacked into a temporary file, piece by piece, and read as what they are."""

from __future__ import annotations

import gzip
import tempfile
import zipfile
import zlib
from contextlib import contextmanager
from pathlib import Path
from typing import IO, TYPE_CHECKING, cast

from jete.core.errors import InputError
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from collections.abc import Iterator

GZIP_MAGIC = b"\x1f\x8b"
ZIP_MAGIC = b"PK\x03\x04"
PIECE_BYTES = 1 << 20
MOST_BYTES = 8 << 30


@contextmanager
def unpacked(path: Path, watch: Watch = UNWATCHED) -> Iterator[Path]:
    """A temporary file with the content of a gzip or of a zip with one log.

    Raises:
        InputError: a damaged archive, one with several files, or one that swells beyond 8 GiB.
    """
    with tempfile.TemporaryDirectory(prefix="jete-") as folder:
        target = Path(folder) / (path.name.removesuffix(".gz").removesuffix(".zip") or "log")
        try:
            with WatchedFile(path, watch) as outer, _content(outer, path.name) as packed, target.open("wb") as file:
                _copy(packed, file, path.name)
        except (OSError, EOFError, zlib.error, zipfile.BadZipFile, RuntimeError) as error:
            if isinstance(error, InterruptedError):
                raise
            raise InputError(path.name, "this archive is damaged or locked.", "Pack the log again.") from error
        yield target


@contextmanager
def _content(file: WatchedFile, name: str) -> Iterator[IO[bytes]]:
    packed = file.read(2) == GZIP_MAGIC
    file.seek(0)
    if packed:
        with gzip.open(file, "rb") as content:
            yield cast("IO[bytes]", content)
        return
    with zipfile.ZipFile(file) as archive:
        files = [i for i in archive.infolist() if not i.is_dir() and not i.filename.startswith("__MACOSX/")]
        if len(files) != 1:
            raise InputError(name, f"this archive holds {len(files)} files.", "Unpack it and open the logs in it.")
        with archive.open(files[0]) as content:
            yield content


def _copy(packed: IO[bytes], file: IO[bytes], source: str) -> None:
    total = 0
    while piece := packed.read(PIECE_BYTES):
        total += len(piece)
        if total > MOST_BYTES:
            raise InputError(source, "it swells to more than 8 GiB.", "Unpack it and split the log.")
        file.write(piece)
