"""Which reader takes a file: found by its content, not by its name."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats import csv_log, parquet_log

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jete.core.lap import Log


def read_log(path: Path, cancelled: Callable[[], bool] = lambda: False) -> Log:
    """Read a log file of any known format.

    Args:
        path: the file.
        cancelled: asked between the steps; when true, ``InterruptedError`` is raised.

    Raises:
        InputError: what can't be used and what would mend it.
        InterruptedError: it was cancelled.
    """
    try:
        with path.open("rb") as file:
            magic = file.read(4)
        return parquet_log.read(path, cancelled) if magic == parquet_log.MAGIC else csv_log.read(path, cancelled)
    except InterruptedError:
        raise
    except IsADirectoryError as error:
        raise InputError(str(path), "this is a directory.", "Name a log file in it.") from error
    except FileNotFoundError as error:
        raise InputError(str(path), "there is no such file.", "Check the path.") from error
    except PermissionError as error:
        raise InputError(str(path), "it may not be read.", "Change its permissions.") from error
    except OSError as error:
        raise InputError(str(path), f"it can't be read ({error.strerror}).", "Check the disk and try again.") from error
