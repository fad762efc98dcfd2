"""A distance whose counter overflows and begins anew: told from one that starts with each lap."""

from __future__ import annotations

import numpy as np

from jete.core.arrays import BoolArray, FloatArray
from jete.core.log.lap import Repair

# A distance that falls by less has jittered.
LEAST_FALL_M = 20.0
# Overflows of one counter are alike to this share,
SPREAD_SHARE = 2e-3
# And these metres.
SPREAD_M = 3.0
# A lap number and its distance change within so many rows of each other.
NEAR_LINE_ROWS = 3


def unwrapped(distance_m: FloatArray, lap: FloatArray | None = None) -> tuple[FloatArray, list[Repair]]:
    """A distance that runs on where its counter overflowed, and what was done.

    A counter overflows at the same round count each time: a power of ten, or of two in m,
    dm or cm.  A distance that starts anew with each lap falls by the length of the lap,
    and where the ``lap`` column changes; it is left as it is.

    Args:
        distance_m: as logged, (n,), NaN where empty.
        lap: the lap column (n,), where there is one.

    >>> at = np.arange(0.0, 30000.0, 50.0)
    >>> bool(np.all(unwrapped(at % 10000.0)[0] == at))
    True
    """
    known = np.flatnonzero(np.isfinite(distance_m))
    if len(known) < 3:
        return distance_m, []
    d = distance_m[known]
    steps = np.diff(d)
    falls = steps < -max(LEAST_FALL_M, 0.3 * float(np.ptp(d)))
    if lap is not None:
        falls &= ~_near_a_new_lap(lap[known])
    if not falls.any():
        return distance_m, []
    ahead = np.median(np.maximum(steps, 0.0)[np.maximum(np.flatnonzero(falls) - 1, 0)])
    spans = ahead - steps[falls]
    span = _full_count(spans) if lap is None else float(np.median(spans))
    if span is None or float(np.ptp(spans)) > SPREAD_M + SPREAD_SHARE * span:
        return distance_m, []
    out = distance_m.copy()
    out[known] = d + span * np.concatenate([[0.0], np.cumsum(falls)])
    return out, [Repair("distance", f"the counter overflows at {span:.0f} m, carried on", int(falls.sum()))]


def _near_a_new_lap(lap: FloatArray) -> BoolArray:
    """Steps (n - 1,) within a few rows of a change of the lap number."""
    changes = np.flatnonzero(np.diff(lap) != 0.0)
    near = (changes[:, None] + np.arange(-NEAR_LINE_ROWS, NEAR_LINE_ROWS + 1)).ravel()
    out = np.zeros(len(lap) - 1, dtype=bool)
    out[near[(near >= 0) & (near < len(out))]] = True
    return out


def _full_count(spans: FloatArray) -> float | None:
    """The round count that all falls (k,) come near to, metres; None where there is none."""
    counts = np.array([10.0**k for k in (3, 4, 5, 6)] + [2.0**k * unit for k in (15, 16) for unit in (0.01, 0.1, 1.0)])
    off = np.abs(counts - np.median(spans))
    best = int(np.argmin(off))
    return float(counts[best]) if off[best] <= SPREAD_M + SPREAD_SHARE * counts[best] else None
