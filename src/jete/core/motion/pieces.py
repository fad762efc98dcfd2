"""Times of laps over equal pieces of their length: what the best pieces of a run add up to."""

from __future__ import annotations

import numpy as np

from jete.core.log.lap import LapSpan, Log
from jete.core.motion.motion import travelled

# Thirds of a lap, as people speak of them.
PIECES = 3


def piece_times(log: Log, span: LapSpan, pieces: int = PIECES) -> tuple[float, ...]:
    """Seconds over each piece of a complete lap; their sum is the lap time; empty for another lap."""
    if not span.complete:
        return ()
    time, along = travelled(log)
    inside = (time > span.start_s) & (time < span.end_s)
    if np.count_nonzero(inside) < pieces:
        return ()
    start, end = np.interp([span.start_s, span.end_s], time, along)
    shares = np.linspace(start, end, pieces + 1)[1:-1]
    borders = np.interp(shares, along[inside], time[inside])
    return tuple(float(x) for x in np.diff([span.start_s, *borders, span.end_s]))
