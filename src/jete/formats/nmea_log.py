"""Receivers' logs as NMEA 0183: RMC, GGA and VTG sentences, one position an epoch.

Sentences with one time of day belong to one epoch; a VTG belongs to the epoch before it.
Lines that are cut off or fail their checksum are left out and told.
"""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from datetime import date
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.errors import InputError
from jete.core.log.lap import Repair
from jete.formats.columns import Columns
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from datetime import time
    from pathlib import Path

DAY_S = 86_400.0
EPOCH = date(1970, 1, 1)
KNOT_MPS = 1852.0 / 3600.0


@dataclass
class _Epochs:
    """Rows as they come in: time of day, latitude, longitude, speed in m/s (NaN where not said)."""

    rows: list[list[float]] = field(default_factory=list)
    broken: int = 0
    day: date | None = None

    def of(self, stamp: time) -> list[float]:
        """The row of a time of day: the last one, or a new one."""
        seconds = stamp.hour * 3600.0 + stamp.minute * 60.0 + stamp.second + stamp.microsecond * 1e-6
        if not self.rows or abs(self.rows[-1][0] - seconds) > 1e-6:
            self.rows.append([seconds, np.nan, np.nan, np.nan])
        return self.rows[-1]


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read an NMEA log.

    Raises:
        InputError: no sentence with a position.
    """
    epochs = _Epochs()
    with io.TextIOWrapper(io.BufferedReader(WatchedFile(path, watch)), encoding="ascii", errors="replace") as file:
        for line in file:
            _take(line.strip(), epochs)
    rows = np.array(epochs.rows, dtype=float).reshape(-1, 4)
    rows = rows[np.isfinite(rows[:, 1])]
    if len(rows) == 0:
        raise InputError(path.name, "no RMC or GGA sentence holds a valid position.", "Log with a view of the sky.")
    clock = rows[:, 0] + DAY_S * np.cumsum(np.diff(rows[:, 0], prepend=rows[0, 0]) < -0.5 * DAY_S)
    columns = [clock - clock[0], rows[:, 1], rows[:, 2]]
    names, units = ["time", "latitude", "longitude"], ["s", "deg", "deg"]
    if np.isfinite(rows[:, 3]).any():
        columns.append(rows[:, 3])
        names.append("speed")
        units.append("m/s")
    told = (Repair("rows", "sentences that are cut off or damaged left out", epochs.broken),) if epochs.broken else ()
    return Columns(path.name, tuple(names), tuple(units), tuple(columns), told, _started_s(epochs.day, float(clock[0])))


def _started_s(day: date | None, seconds: float) -> float | None:
    """When the first epoch was, seconds since 1970 UTC; None where no sentence tells the day."""
    return None if day is None else (day - EPOCH).days * DAY_S + seconds


def _take(line: str, epochs: _Epochs) -> None:
    """Take over what a sentence says."""
    import pynmea2

    if not line.startswith("$") or line[3:6] not in ("RMC", "GGA", "VTG"):
        return
    try:
        sentence = pynmea2.parse(line, check="*" in line)
        if line[3:6] == "VTG":
            _take_speed(sentence, epochs)
        else:
            _take_position(sentence, line[3:6], epochs)
    except (pynmea2.ParseError, ValueError, TypeError, AttributeError, ArithmeticError):
        # A field is looked at only when it is asked for: one that holds something else shows here.
        epochs.broken += 1


def _take_position(sentence: Any, kind: str, epochs: _Epochs) -> None:
    """Position, and the speed of an RMC; one that says it is not valid is left out."""
    valid = sentence.status == "A" if kind == "RMC" else (sentence.gps_qual or 0) > 0
    if not valid or sentence.timestamp is None or not sentence.lat:
        return
    place = float(sentence.latitude), float(sentence.longitude)
    knots = float(sentence.spd_over_grnd) if kind == "RMC" and sentence.spd_over_grnd is not None else None
    if kind == "RMC" and epochs.day is None and len(epochs.rows) < 2:
        epochs.day = sentence.datestamp
    row = epochs.of(sentence.timestamp)
    row[1], row[2] = place
    if knots is not None:
        row[3] = knots * KNOT_MPS


def _take_speed(sentence: Any, epochs: _Epochs) -> None:
    """The speed of a VTG for the epoch before it, where that has none."""
    if epochs.rows and np.isnan(epochs.rows[-1][3]) and sentence.spd_over_grnd_kts is not None:
        epochs.rows[-1][3] = float(sentence.spd_over_grnd_kts) * KNOT_MPS
