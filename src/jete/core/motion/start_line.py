"""Where to put the start line on a log that tells no laps apart: where its path comes by most often, and fastest.

The line at the first sample serves only a log that begins on the road; one that begins in
the paddock needs another.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.log.plane import Origin, StartLine, origin_of, positions
from jete.core.motion.crossing import crossings
from jete.core.motion.motion import travelled
from jete.core.motion.one_line import LineSource

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Channel, Log

# A line is looked for every so many metres,
EVERY_M = 80.0
# At no more places than this.
CANDIDATES = 90
# Heading at each is taken over so far to either side.
REACH_M = 15.0


def line_at(path: tuple[Channel, Channel], along_m: FloatArray, place_m: float) -> StartLine:
    """A line across the direction of travel at a distance along a path.

    Args:
        path: x and y of the log on its plane, (n,) both.
        along_m: distance travelled at those samples, (n,), rising.
        place_m: where the line is to stand.
    """
    at = np.array([place_m - REACH_M, place_m, place_m + REACH_M])
    x, y = (np.interp(at, along_m, c.value) for c in path)
    return StartLine(float(x[1]), float(y[1]), float(np.arctan2(y[2] - y[0], x[2] - x[0])))


def path_along(log: Log, origin: Origin | None) -> tuple[tuple[Channel, Channel], FloatArray] | None:
    """A log's path on the plane of ``origin``, x and y (n,), and the distance travelled at its samples, (n,); None without positions."""
    path = positions(log, origin)
    if path is None or len(path[0]) < 20:
        return None
    clock, distance = travelled(log)
    return path, np.interp(path[0].time_s, clock, distance)


def proposed_line(log: Log) -> LineSource | None:
    """The line that is crossed most often, of these the one crossed fastest; None where none is crossed twice."""
    origin = origin_of(log)
    found = path_along(log, origin)
    if found is None:
        return None
    path, along = found
    speed = np.gradient(along, path[0].time_s)
    count = min(max(int((along[-1] - along[0]) / EVERY_M), 2), CANDIDATES)
    best: tuple[tuple[int, float], StartLine] | None = None
    for place in np.linspace(along[0], along[-1], count + 2)[1:-1]:
        line = line_at(path, along, float(place))
        times = crossings(log, path, line)
        if len(times) < 2:
            continue
        score = (len(times), float(np.median(np.interp(times, path[0].time_s, speed))))
        if best is None or score > best[0]:
            best = (score, line)
    return LineSource(origin, best[1], guessed=True) if best else None
