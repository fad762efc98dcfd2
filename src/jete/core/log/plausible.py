"""Values that no vehicle and no circuit can have: left out before anything is worked out from them.

The bounds are wide: they tell a wrong unit or a broken cell from a reading, not a good
driver from a bad one.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.log.channels import CHANNELS
from jete.core.log.lap import Repair

if TYPE_CHECKING:
    from collections.abc import Mapping

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
        wrong = np.abs(values) > (CHANNELS[name].largest if name in CHANNELS else LARGEST_EXTRA)
        count = int(wrong.sum())
        out[name] = np.where(wrong, np.nan, values) if count else values
        if count:
            repairs.append(Repair(name, "impossible values left out", count))
    return out, repairs


# No vehicle is faster; positions are off by less; and who is back within this has jumped.
FASTEST_MPS, OFF_M, BACK_WITHIN_S = 120.0, 25.0, 12.0


def without_jumps(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns without pieces of positions that jump away and come back, and what was left out.

    A receiver that sees a signal reflected is a hundred metres off for seconds: what jumps is left out, not the whole log doubted.

    Args:
        columns: channel to values in inside units, (n,) each, NaN where empty, with a rising ``time``.
    """
    out, repairs = dict(columns), []
    for pair, metres in ((("x", "y"), 1.0), (("longitude", "latitude"), DEGREE_M)):
        if not {*pair, "time"} <= columns.keys():
            continue
        a, b, t = (columns[n] for n in (*pair, "time"))
        at = np.flatnonzero(np.isfinite(a) & np.isfinite(b) & np.isfinite(t))
        if len(at) < 10:
            continue
        narrow = float(np.cos(np.radians(np.median(b[at])))) if metres > 1.0 else 1.0
        wrong = at[_jumps(t[at], a[at] * metres * narrow, b[at] * metres)]
        if len(wrong):
            for n in pair:
                out[n] = out[n].copy()
                out[n][wrong] = np.nan
            repairs.append(Repair("position", "positions that jump away and back left out", len(wrong)))
    return out, repairs


def _jumps(time_s: FloatArray, x_m: FloatArray, y_m: FloatArray) -> IntArray:
    """Samples (of n) between a step that no vehicle takes and the one that takes it back."""
    step, took = np.hypot(np.diff(x_m), np.diff(y_m)), np.diff(time_s)
    leaps = np.flatnonzero(step > OFF_M + FASTEST_MPS * np.maximum(took, 0.0)).tolist()
    wrong: list[int] = []
    while len(leaps) > 1:
        away = leaps.pop(0)
        back = leaps[0]
        home = float(np.hypot(x_m[back + 1] - x_m[away], y_m[back + 1] - y_m[away]))
        lasted = float(time_s[back + 1] - time_s[away])
        if lasted <= BACK_WITHIN_S and home <= OFF_M + FASTEST_MPS * lasted:
            wrong += range(away + 1, back + 1)
            leaps.pop(0)
    return np.array(wrong, dtype=np.intp)


def without_strays(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns with NaN where a position is none, or lies on another part of the earth, and what was left out.

    A receiver without a fix writes latitude and longitude as zero.

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
