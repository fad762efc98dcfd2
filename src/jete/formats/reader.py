"""Which reader takes a file: found by its content, not by its name.

Each format has one file in this folder with ``read(path, watch) -> Columns``; the
registry tells them apart by the first bytes.
"""

from __future__ import annotations

from contextlib import contextmanager
from dataclasses import dataclass, replace
from importlib import import_module
from stat import S_ISDIR, S_ISREG
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats import arrow_log, mdf_log, packed, parquet_log
from jete.formats.columns import Columns, log_of
from jete.formats.csv_text import UTF_16_MARKS
from jete.formats.mapping import ColumnMap, mapped
from jete.formats.names import refuse_odd_name
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence
    from pathlib import Path

    from jete.core.log.lap import Log

HEAD_BYTES = 4096
UNPACKING_SHARE = 0.4


@dataclass(frozen=True)
class Format:
    """One format: its name, its module here, and how its first bytes are known."""

    name: str
    module: str
    knows: Callable[[bytes], bool]

    def read(self, path: Path, watch: Watch) -> Columns:
        """Read a file of this format; its library is imported only now."""
        columns: Columns = import_module(f"jete.formats.{self.module}").read(path, watch)
        return columns


def _text_of(head: bytes) -> str:
    return head.decode("utf-8-sig", errors="replace").lstrip()


def _is_json(head: bytes) -> bool:
    return head[:2] not in UTF_16_MARKS and _text_of(head)[:1] == "{"


def _is_nmea(head: bytes) -> bool:
    lines = _text_of(head).splitlines()[:20]
    return any(x[:1] == "$" and x[1:6].isalpha() and x[6:7] == "," for x in lines)


FORMATS = (
    Format("Parquet", "parquet_log", lambda h: h.startswith(parquet_log.MAGIC)),
    Format("Arrow", "arrow_log", lambda h: h.startswith((arrow_log.FILE_MAGIC, arrow_log.STREAM_MAGIC))),
    Format("MDF", "mdf_log", lambda h: h.startswith(mdf_log.MAGIC)),
    Format("GPX", "gpx_log", lambda h: "<gpx" in _text_of(h)),
    Format("NMEA 0183", "nmea_log", _is_nmea),
    Format("JSON Lines", "jsonl_log", _is_json),
    Format("CSV", "csv_log", lambda _: True),
)


def format_of(head: bytes) -> Format:
    """The format of a file from its first bytes; CSV where nothing else knows them."""
    return next(f for f in FORMATS if f.knows(head))


def read_columns(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read what a log file of any known format holds, as written.

    Raises:
        InputError: what can't be used and what would mend it.
        InterruptedError: it was cancelled.
    """
    with telling_of(path):
        refuse_no_file(path)
        with path.open("rb") as file:
            head = file.read(HEAD_BYTES)
        if head.startswith((packed.GZIP_MAGIC, packed.ZIP_MAGIC)):
            with packed.unpacked(path, watch.part(0.0, UNPACKING_SHARE)) as inner:
                return replace(read_columns(inner, watch.part(UNPACKING_SHARE, 1.0)), source=path.name)
        return format_of(head).read(path, watch)


def read_log(path: Path, watch: Watch = UNWATCHED, maps: Sequence[ColumnMap] = ()) -> Log:
    """Read a log file of any known format.

    Args:
        path: the file.
        watch: told how far the reading is, and asked whether it is to go on.
        maps: what columns were said to be; the one for a file that looks alike is used.

    Raises:
        InputError: what can't be used and what would mend it.
        InterruptedError: it was cancelled.
    """
    return log_of(mapped(read_columns(path, watch), maps))


def refuse_no_file(path: Path) -> None:
    """Refuse what can't be read from start to end: folders, pipes, devices.

    Raises:
        InputError: no file of the disk.
        OSError: it is not there, or may not be looked at.
    """
    refuse_odd_name(path)
    mode = path.stat().st_mode
    if S_ISDIR(mode):
        raise InputError(str(path), "this is a directory.", "Name a log file in it.")
    if not S_ISREG(mode):
        raise InputError(str(path), "this is a pipe or a device, not a file.", "Write the log to a file first.")


@contextmanager
def telling_of(path: Path) -> Iterator[None]:
    """Failures of the disk as messages.

    Raises:
        InputError: what the disk, or the memory, can't do.
    """
    try:
        yield
    except InterruptedError:
        raise
    except FileNotFoundError as error:
        raise InputError(str(path), "there is no such file.", "Check the path.") from error
    except PermissionError as error:
        raise InputError(str(path), "it may not be read.", "Change its permissions.") from error
    except OSError as error:
        raise InputError(str(path), f"it can't be read ({error.strerror}).", "Check the disk and try again.") from error
    except (MemoryError, OverflowError) as error:
        raise InputError(str(path), "it is too large to be read here.", "Split the log.") from error
