"""How surely a lap's ends lie on the line: by how its log tells them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal
from weakref import WeakKeyDictionary

import numpy as np

from jete.core.log.once import once_a_lap
from jete.core.motion.borders import borders_of
from jete.core.motion.crossing import FIT_REACH_M
from jete.core.motion.motion import SEEN_BEYOND_S

if TYPE_CHECKING:
    from jete.core.axis.positions.path import Fixes
    from jete.core.log.lap import Lap, Log
    from jete.core.motion.motion import Motion

    Borders = Literal["told", "positions", "samples", "both"]

# So few positions near the line are always there at 1 Hz and 60 m.
FEWEST = 3
_KNOWN: WeakKeyDictionary[Log, Borders] = WeakKeyDictionary()


@once_a_lap
def line_sigmas_m(lap: Lap, motion: Motion, fixes: Fixes | None) -> tuple[float, float]:
    """Standard deviations of the places at which a lap begins and ends, metres.

    None where a clock or a distance that starts anew tells them.  By a lap number alone they
    lie anywhere between two samples, whatever positions say; by n positions of noise σ on one side of the line
    within 2 σ / √n of it (place and speed both unknown), with as many on the other within
    σ / √(2 n).  Where the speed was not logged the smoother's doubts hold.
    """
    if motion.inferred:
        start, end = motion.end_sigmas
        return start.place_m, end.place_m
    log = lap.log
    if log not in _KNOWN:
        _KNOWN[log] = borders_of(log)
    borders = _KNOWN[log]
    if borders == "told":
        return 0.0, 0.0
    between = motion.step_s / 12.0**0.5 * motion.speed_mps[[0, -1]]
    if borders == "samples" or fixes is None:
        return float(between[0]), float(between[1])
    begin, finish = log.span_s()
    both = lap.span.start_s - begin > SEEN_BEYOND_S, finish - lap.span.end_s > SEEN_BEYOND_S
    away = fixes.distance_m, motion.length_m - fixes.distance_m
    counts = [max(int(np.count_nonzero(d < FIT_REACH_M)), FEWEST) for d in away]
    first, last = (
        fixes.noise_m * (1.0 / (2.0 * n) ** 0.5 if two else 2.0 / n**0.5) for n, two in zip(counts, both, strict=True)
    )
    seen = np.hypot([first, last], fixes.errors.drift_m)
    ends = np.minimum(seen, between) if borders == "both" else seen
    return float(ends[0]), float(ends[1])
