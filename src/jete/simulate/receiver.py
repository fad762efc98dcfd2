"""Positions as receivers and loggers write them: filtered, late, drifting, rounded, filled in.

The error of a plain receiver wanders for minutes, that of a filtering one for seconds; what a
logger writes between two fixes it has made up.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.interpolate import CubicSpline

FloatArray = np.ndarray
Filled = Literal["none", "held", "linear", "cubic"]


@dataclass(frozen=True)
class Receiver:
    """One way to make positions.

    Attributes:
        fix_hz: positions a second.
        white_m: error of each of its own, one standard deviation on each axis.
        drift_m: error that wanders, one standard deviation on each axis,
        drift_s: and the time over which it forgets itself.
        filter_s: running mean that the receiver takes.
        lag_s: how late it tells a position, beyond half of that mean.
        round_m: step to which positions are rounded, 0 for none.
        filled: what the logger writes between two fixes.
    """

    fix_hz: float = 10.0
    white_m: float = 1.0
    drift_m: float = 0.0
    drift_s: float = 8.0
    filter_s: float = 0.0
    lag_s: float = 0.0
    round_m: float = 0.0
    filled: Filled = "none"


def wander(rng: np.random.Generator, count: int, step_s: float, sigma: float, memory_s: float) -> FloatArray:
    """A wandering error, (count,): an Ornstein-Uhlenbeck process (Gardiner 2009, Stochastic Methods, § 4.4.4)."""
    keep = float(np.exp(-step_s / memory_s))
    kicks = rng.normal(0.0, sigma * np.sqrt(1.0 - keep**2), count)
    out = np.empty(count)
    at = rng.normal(0.0, sigma)
    for k in range(count):
        at = keep * at + kicks[k]
        out[k] = at
    return out


def seen(receiver: Receiver, true: FloatArray, rng: np.random.Generator) -> FloatArray:
    """One axis of the positions that a receiver tells, (n,), of true ones at its own rate, (n,)."""
    step = 1.0 / receiver.fix_hz
    value = true + rng.normal(0.0, receiver.white_m, len(true))
    width = round(receiver.filter_s / step) | 1
    if receiver.filter_s > 0.0 and width > 1:
        value = np.convolve(np.pad(value, width // 2, mode="edge"), np.ones(width) / width, mode="valid")
    if receiver.drift_m > 0.0:
        value = value + wander(rng, len(true), step, receiver.drift_m, receiver.drift_s)
    return np.round(value / receiver.round_m) * receiver.round_m if receiver.round_m else value


def filled_in(receiver: Receiver, fixes_s: FloatArray, value: FloatArray, time_s: FloatArray) -> FloatArray:
    """What a logger writes at its own times (m,) of fixes (n,)."""
    if receiver.filled == "held":
        return value[np.clip(np.searchsorted(fixes_s, time_s, side="right") - 1, 0, len(value) - 1)]
    if receiver.filled == "cubic":
        return np.asarray(CubicSpline(fixes_s, value)(np.clip(time_s, fixes_s[0], fixes_s[-1])))
    return np.asarray(np.interp(time_s, fixes_s, value))
