"""How much a file may swell to when it is read, so that a small one can't fill the memory or the disk."""

from __future__ import annotations

import os

from jete.core.errors import InputError

VARIABLE = "JETE_MOST_BYTES"
# Ten hours of fifty channels at 100 Hz as numbers of eight bytes are 1.4 GB.
MOST_BYTES = 2 << 30
# What a real log is packed to by any of the ways it may be packed.
SWELL = 50
MOST_COLUMNS = 4096
# A day and a half at 100 Hz, three hours at 1 kHz; to find what is wrong with rows takes about 400 bytes for each.
MOST_ROWS = 12_000_000
BYTES_A_NUMBER = 8


def most_bytes() -> int:
    """The largest size in memory or on the disk that one file may unpack to; ``JETE_MOST_BYTES`` sets another."""
    try:
        return int(os.environ[VARIABLE])
    except (KeyError, ValueError):
        return MOST_BYTES


def refuse_size(source: str, size: float) -> None:
    """Refuse what would take too much.

    Args:
        source: name of the file.
        size: bytes that it would unpack to.

    Raises:
        InputError: more than is allowed.
    """
    if size > most_bytes():
        raise InputError(
            source,
            f"it would unpack to {size / 1e9:.1f} GB, and {most_bytes() / 1e9:.1f} GB are allowed.",
            f"Split the log, or allow more with {VARIABLE}.",
        )


def refuse_rows(source: str, rows: float) -> None:
    """Refuse more rows than a log has.

    Raises:
        InputError: too many.
    """
    if rows > MOST_ROWS:
        what = f"it has {rows / 1e6:.0f} million rows, and a log has no more than {MOST_ROWS / 1e6:.0f} million."
        raise InputError(source, what, "Split the log, or export fewer samples a second.")


def refuse_table(source: str, rows: float, columns: int) -> None:
    """Refuse a table of more columns or cells than a log has.

    Raises:
        InputError: too many columns, or more memory than is allowed.
    """
    if columns > MOST_COLUMNS:
        what = f"it has {columns} columns, and a log has no more than {MOST_COLUMNS}."
        raise InputError(source, what, "Export fewer channels.")
    refuse_size(source, BYTES_A_NUMBER * rows * columns)
