"""Where a lap begins to turn into a corner."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.driving.passage import Passage
    from jete.core.driving.slow import Zone


def turn_in(passage: Passage, zone: Zone) -> float | None:
    """When the steering begins to build up to the bend, None without one."""
    centred = passage.centred_steering
    if centred is None:
        return None
    t, whole = centred
    part = slice(int(t.searchsorted(max(zone.before_s, zone.previous_s))), int(t.searchsorted(zone.apex_s)) + 1)
    angle = whole[part]
    if len(angle) < 4:
        return None
    top = angle[int(np.abs(angle).argmax())]
    built = angle * np.sign(top) / max(abs(float(top)), 1e-9)
    return _build_up(t[part], built)


def _build_up(time: FloatArray, built: FloatArray) -> float:
    """Start of the last rise to half of the peak, run back along the edge."""
    half = int((built > 0.5).argmax())
    below = (built[:half] <= 0.15).nonzero()[0]
    k = int(below[-1]) + 1 if below.size else 0
    slope = (built[half] - built[k]) / max(float(time[half] - time[k]), 1e-6)
    begin = time[k] - built[k] / slope if slope > 0.0 else time[k]
    return float(min(max(begin, time[0]), time[half]))
