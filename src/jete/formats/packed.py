"""Logs packed with gzip or zip: unpacked into a temporary file, piece by piece, and read as what they are."""

from __future__ import annotations

import gzip
import tempfile
import zipfile
import zlib
from contextlib import contextmanager
from errno import ENOSPC
from pathlib import Path
from typing import IO, TYPE_CHECKING, cast

from jete.core.errors import InputError
from jete.formats.limits import SWELL, refuse_size
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from collections.abc import Iterator

GZIP_MAGIC = b"\x1f\x8b"
ZIP_MAGIC = b"PK\x03\x04"
PIECE_BYTES = 1 << 20
# Up to here nothing is said of how small it was packed: a short log of nothing but zeros is one, too.
SMALL_BYTES = 64 << 20


@contextmanager
def unpacked(path: Path, watch: Watch = UNWATCHED) -> Iterator[Path]:
    """A temporary file with the content of a gzip or of a zip with one log.

    Raises:
        InputError: a damaged or locked archive, one with several files, or one that swells beyond what is allowed.
    """
    with tempfile.TemporaryDirectory(prefix="jete-") as folder:
        target = Path(folder) / (path.name.removesuffix(".gz").removesuffix(".zip") or "log")
        try:
            with WatchedFile(path, watch) as outer, _content(outer, path.name) as packed, target.open("wb") as file:
                _copy(packed, file, path)
        except OSError as error:
            if isinstance(error, InterruptedError):
                raise
            if error.errno == ENOSPC:
                what = "there is no room to unpack it."
                raise InputError(path.name, what, "Make room for temporary files.") from error
            raise InputError(path.name, "this archive is damaged.", "Pack the log again.") from error
        except (EOFError, ValueError, zlib.error, zipfile.BadZipFile, RuntimeError, NotImplementedError) as error:
            if isinstance(error, InputError):
                raise
            raise InputError(path.name, "this archive is damaged or locked.", "Pack the log again.") from error
        yield target


@contextmanager
def content_of(path: Path) -> Iterator[IO[bytes]]:
    """A file's content, unpacked on the way where it is a gzip or a zip of one log.

    Raises:
        OSError, EOFError, ValueError, zlib.error, zipfile.BadZipFile, RuntimeError, NotImplementedError: what
            :func:`unpacked` tells of a file that can't be unpacked.
    """
    with path.open("rb") as file:
        head = file.read(len(ZIP_MAGIC))
        file.seek(0)
        if not head.startswith((GZIP_MAGIC, ZIP_MAGIC)):
            yield file
            return
    with WatchedFile(path, UNWATCHED) as outer, _content(outer, path.name) as content:
        yield content


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
        refuse_size(name, files[0].file_size)
        with archive.open(files[0]) as content:
            yield content


def _copy(packed: IO[bytes], file: IO[bytes], path: Path) -> None:
    total, most = 0, max(SMALL_BYTES, SWELL * path.stat().st_size)
    while piece := packed.read(PIECE_BYTES):
        total += len(piece)
        refuse_size(path.name, total)
        if total > most:
            what = f"it swells to more than {SWELL} times its size, which no log does."
            raise InputError(path.name, what, "Unpack it, look at what it holds, and open that.")
        file.write(piece)
