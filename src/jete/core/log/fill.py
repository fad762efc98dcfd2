"""Positions that a logger made up between two fixes of its receiver: found, and left out.

A receiver of 10 Hz in a log of 100 Hz is repeated, or filled in by straight lines or cubics.
What is filled in holds no news, but looks like a path without noise that bends at every fix:

    straight lines   Δ²p is zero but at the fixes
    cubics           Δ⁴p is zero but about the fixes

Where neither shows (rounded, or filtered by the receiver) and the positions are much smoother
from sample to sample than over a tenth of a second, they are thinned to that.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np

from jete.core.arrays import BoolArray, FloatArray, IntArray
from jete.core.log.lap import Log, Repair
from jete.core.log.plane import origin_of, positions
from jete.core.numeric.spline import noise_of

Filled = Literal["linear", "cubic", "smoothed"]

# Fewer positions tell no rhythm.
LEAST_SAMPLES = 200
# A difference this much smaller than the large ones is zero (rounding is left),
SMALL = 0.1
# and where so many of them are, the positions are filled in; of noise one in forty is.
FILLED_SHARE = 0.3
# Nothing made of noise is this much smoother at once than over a tenth of a second.
SMOOTHER = 3.0
# Ten times a second, as most receivers tell their place.
THINNED_S = 0.1


def without_fill(log: Log) -> Log:
    """The log with the positions of its receiver only; told as a repair."""
    origin = origin_of(log)
    path = positions(log, origin)
    if origin is None or path is None:
        return log
    time_s = path[0].time_s
    filled, fixes = true_fixes(time_s, np.stack([c.value for c in path], axis=1))
    if filled is None:
        return log
    names = ("x", "y") if origin.latitude_deg is None else ("latitude", "longitude")
    thin = {n: replace(c, time_s=c.time_s[fixes], value=c.value[fixes]) for n in names if (c := log.channels[n])}
    rate = (len(fixes) - 1) / (time_s[fixes[-1]] - time_s[fixes[0]])
    how = {"linear": "filled in by straight lines", "cubic": "filled in by cubics", "smoothed": "smoothed"}[filled]
    told = Repair("position", f"{rate:.0f} times a second, {how}", len(time_s) - len(fixes))
    made = replace(log.positions, filled=filled)
    return replace(log, channels={**log.channels, **thin}, repairs=(*log.repairs, told), positions=made)


def true_fixes(time_s: FloatArray, places_m: FloatArray) -> tuple[Filled | None, IntArray]:
    """How positions were filled in, None for not at all, and which of them are the receiver's.

    Args:
        time_s: of the positions, (n,).
        places_m: on a plane, (n, 2).
    """
    every = np.arange(len(time_s))
    if len(time_s) < LEAST_SAMPLES:
        return None, every
    step = float(np.median(np.diff(time_s)))
    straight, curved = (_bent(places_m, order) for order in (2, 4))
    if len(straight):
        return "linear", _peaks(straight)
    if len(curved):
        return "cubic", _in_rhythm(curved, len(time_s))
    stride = round(THINNED_S / step)
    if stride >= 2:
        close, apart = (sum(noise_of(x[::k]) for x in places_m.T) for k in (1, stride))
        if apart > SMOOTHER * close:
            return "smoothed", every[::stride]
    return None, every


def _bent(places_m: FloatArray, order: int) -> FloatArray:
    """Sizes of the differences of an order where they are large, in the middle of their samples, else 0, (n,); empty where few are zero."""
    size = np.hypot(*np.diff(places_m, order, axis=0).T)
    large = float(np.percentile(size, 92.0))
    if large <= 0.0 or float(np.mean(size < SMALL * large)) < FILLED_SHARE:
        return np.empty(0)
    return np.pad(np.where(size < SMALL * large, 0.0, size), order // 2)


def _peaks(size: FloatArray) -> IntArray:
    """Where sizes (n,) above zero are largest among their neighbours, with both ends, increasing."""
    around = np.pad(size, 1)
    top = (size > 0.0) & (size >= around[:-2]) & (size > around[2:])
    return np.unique(np.concatenate([[0], np.flatnonzero(top), [len(size) - 1]]))


def _in_rhythm(size: FloatArray, count: int) -> IntArray:
    """Every so many samples, in step with where the sizes (n,) are large."""
    period = _period(size > 0.0)
    phase = int(np.argmax([size[k::period].sum() for k in range(period)]))
    return np.arange(phase, count, period)


def _period(bent: BoolArray) -> int:
    """Samples from one group of large differences to the next, as a rule."""
    begins = np.flatnonzero(np.diff(bent.astype(int)) > 0)
    return max(round(float(np.median(np.diff(begins)))), 2) if len(begins) > 2 else 2
