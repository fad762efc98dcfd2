"""Single cells of a text log: numbers, clocks, dates with a clock, degrees and minutes.

What a cell may hold depends on its column: ``52:30.5`` is a clock under ``time`` and an
angle under ``latitude``.
"""

from __future__ import annotations

import re
from datetime import datetime

EMPTY_CELLS = ["", "nan", "NaN", "NAN", "null", "NULL", "None", "n/a", "N/A", "-", "--"]
COORDINATES = ("latitude", "longitude")

_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
_CLOCK = re.compile(r"^\d+:\d{1,2}(:\d{1,2})?([.,]\d+)?$")
_DATE = re.compile(r"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}")
_ARC = re.compile(
    r"""^(?P<before>[NSEW])?\s*(?P<sign>[+-])?\s*(?P<deg>\d+([.,]\d+)?)
        ([\s°:dº]+((?P<min>\d+([.,]\d+)?)([\s'′:m]+((?P<sec>\d+([.,]\d+)?)[\s"″s']*)?)?)?)?
        \s*(?P<after>[NSEW])?$""",
    re.VERBOSE | re.IGNORECASE,
)
# Degrees and minutes written together, as receivers send them: ddmm.mmmm.
_TOGETHER_FROM = 181.0


def is_number(cell: str) -> bool:
    """Whether a cell holds a number, with a point or a comma."""
    return bool(_NUMBER.match(cell)) or cell.casefold() in {"nan", "inf", "-inf"}


def is_clock(cell: str) -> bool:
    """Whether a cell holds a time as ``h:mm:ss.sss``, ``mm:ss.sss`` or with its date."""
    return bool(_CLOCK.match(cell) or _DATE.match(cell))


def is_arc(cell: str) -> bool:
    """Whether a cell holds degrees with minutes, or with a side of the world."""
    return not is_number(cell) and bool(_ARC.match(cell))


def value_of(cell: str, name: str = "", decimal: str = ".") -> float:
    """What a cell of the channel ``name`` holds: a number, seconds of a clock, or degrees; NaN if empty.

    Raises:
        ValueError: for other text.

    >>> value_of("1:02.5", "time"), value_of("52° 30.0' N", "latitude"), value_of("3,5", decimal=",")
    (62.5, 52.5, 3.5)
    """
    plain = cell.strip().strip('"')
    if plain in EMPTY_CELLS:
        return float("nan")
    if name in COORDINATES and not is_number(plain):
        return _degrees(plain)
    if _DATE.match(plain):
        return _seconds_of_date(plain)
    if is_clock(plain):
        return _seconds(plain)
    return float(plain.replace(",", ".") if decimal == "," else plain)


def _seconds(clock: str) -> float:
    seconds = 0.0
    for part in clock.replace(",", ".").split(":"):
        seconds = seconds * 60.0 + float(part)
    return seconds


def _seconds_of_date(text: str) -> float:
    """Seconds since midnight of the first day of the year, so that midnight is no step back."""
    at = datetime.fromisoformat(text.replace(",", "."))
    return (at - at.replace(month=1, day=1, hour=0, minute=0, second=0, microsecond=0)).total_seconds()


def _degrees(text: str) -> float:
    """Degrees of an angle in degrees, minutes and seconds, negative to the south and west.

    Raises:
        ValueError: for other text.
    """
    arc = _ARC.match(text)
    if not arc:
        raise ValueError(text)
    degrees, minutes, seconds = (float((arc[k] or "0").replace(",", ".")) for k in ("deg", "min", "sec"))
    if degrees >= _TOGETHER_FROM:
        degrees, minutes = divmod(degrees, 100.0)
    value = degrees + minutes / 60.0 + seconds / 3600.0
    side = (arc["before"] or arc["after"] or "").upper()
    return -value if side in {"S", "W"} or arc["sign"] == "-" else value
