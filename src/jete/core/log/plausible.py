"""Values that no vehicle and no circuit can have: left out before anything is worked out from them.

The bounds are wide: they tell a wrong unit or a broken cell from a reading, not a good
driver from a bad one.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Repair

if TYPE_CHECKING:
    from collections.abc import Mapping

# The largest size of each quantity, in the inside unit.
LARGEST: Final = {
    "time": 1e11,  # seconds since 1970 are 1.8e9; in milliseconds that were taken for seconds 1.8e12
    "lap_time": 1e6,
    "lap": 1e6,
    "beacon": 1e9,
    "distance": 1e8,
    "speed": 200.0,
    "wheel_speed": 400.0,
    "gps_speed": 200.0,
    "throttle": 1e3,
    "brake": 1e4,
    "brake_front": 1e4,
    "brake_rear": 1e4,
    "steering": 100.0,
    "gear": 100.0,
    "rpm": 1e5,
    "latitude": 90.0,
    "longitude": 360.0,
    "x": 1e8,
    "y": 1e8,
    "acc_long": 1e3,
    "acc_lat": 1e3,
    "acc_vert": 1e4,
    "yaw_rate": 100.0,
    "lean": 10.0,
    "altitude": 1e5,
}
# Squares and sums of larger numbers overflow.
LARGEST_EXTRA: Final = 1e30
# Further than this from the middle of a log no position belongs to its circuit.
FURTHEST_M: Final = 50_000.0
# Metres of a degree of latitude, to a third of a per cent.
DEGREE_M: Final = 111_000.0


def without_impossible(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns with NaN where a value can't be, and what was left out.

    Args:
        columns: channel to values in inside units, (n,) each, NaN where empty.

    >>> without_impossible({"speed": np.array([30.0, np.inf, 900.0])})[0]["speed"]
    array([30., nan, nan])
    """
    out, repairs = {}, []
    for name, values in columns.items():
        # Not a number is no larger than anything, so what is empty stays as it is.
        wrong = np.abs(values) > LARGEST.get(name, LARGEST_EXTRA)
        count = int(wrong.sum())
        out[name] = np.where(wrong, np.nan, values) if count else values
        if count:
            repairs.append(Repair(name, "impossible values left out", count))
    return out, repairs


def without_strays(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns with NaN where a position is none, or lies on another part of the earth, and what was left out.

    A receiver without a fix writes latitude and longitude as nought.

    Args:
        columns: channel to values in inside units, (n,) each, NaN where empty.
    """
    out, repairs = dict(columns), []
    for pair, metres in ((("x", "y"), 1.0), (("latitude", "longitude"), DEGREE_M)):
        if not set(pair) <= columns.keys():
            continue
        a, b = (columns[n] for n in pair)
        wrong = (a == 0.0) & (b == 0.0) if metres > 1.0 else np.zeros(len(a), dtype=bool)
        known = np.isfinite(a) & np.isfinite(b) & ~wrong
        for values in (x[known] for x in (a, b) if known.any() and np.ptp(x[known]) * metres > FURTHEST_M):
            wrong[known] |= np.abs(values - float(np.median(values))) * metres > FURTHEST_M
        if wrong.any():
            out.update({n: np.where(wrong, np.nan, columns[n]) for n in pair})
            repairs.append(Repair("position", "positions far off left out", int(wrong.sum())))
    return out, repairs
