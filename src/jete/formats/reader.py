"""Reading a log file of any known format: which one it is, is found by its content, not by its name."""

from __future__ import annotations

from contextlib import contextmanager
from dataclasses import replace
from stat import S_ISDIR, S_ISREG
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats import packed
from jete.formats.columns import Columns, log_of
from jete.formats.mapping import ColumnMap, mapped
from jete.formats.names import refuse_odd_name
from jete.formats.table import format_of
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from pathlib import Path

    from jete.core.log.lap import Log

HEAD_BYTES = 4096
UNPACKING_SHARE = 0.4


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
