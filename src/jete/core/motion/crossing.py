"""Where a path crosses the start line, and when: on a curve fitted over the samples around it.

One noisy sample would shift a crossing by its noise; a cubic through the metres ahead of
the line over the metres travelled does not.
"""

from __future__ import annotations

import numpy as np

from jete.core.arrays import BoolArray, FloatArray, IntArray
from jete.core.log.lap import Channel, Log
from jete.core.log.lapclock import SHORTEST_LAP_S
from jete.core.log.plane import StartLine
from jete.core.motion.motion import travelled

# The contract's 10 m by which the end of a log may fall short of the line.
END_SLACK_M = 10.0
# A crossing is fitted to the positions so near the line.
FIT_REACH_M = 60.0
# Samples that lie closer together than this show no slope.
LEAST_FIT_M = 1.0
# No receiver is surer.
LEAST_NOISE_M = 0.05
# What the slope of a crossing path strays from 1 (odometers, angles), and what it bends by.
SLOPE_SPREAD = 0.03
# A road's curvature near a start line: it is a straight, or nearly,
BEND_SPREAD_1PM = 0.002
# And how that changes along it.
TWIST_SPREAD_1PM2 = 3e-5
# A path crosses the line the right way if it gains this many metres across it for each metre travelled, 25 m to
# either side; where a path crosses itself there, the crossing counts that gains nearly (by 0.2) as much as the best.
LEAST_AHEAD = 0.5
# Heading is taken over so far to either side.
DIRECTION_REACH_M = 25.0
# A crossing whose path lies so much farther from the line's direction than the best is another road's.
OTHER_WAY = 0.2
# Samples from which the speed at an end of a log is read.
END_SAMPLES = 5


def crossings(log: Log, path: tuple[Channel, Channel], line: StartLine) -> FloatArray:
    """Times at which the path crosses the line in the direction of travel, (k,) seconds.

    The ends count where the path starts past the line, or stops short of it, by no more
    than a sample's step or 10 m: those crossings are extrapolated.
    """
    t = path[0].time_s
    if len(t) < 2:
        return np.empty(0)
    ahead, aside = line.ahead_m(path[0].value, path[1].value), line.aside_m(path[0].value, path[1].value)
    time, distance = travelled(log)
    s = np.interp(t, time, distance)
    hits = np.flatnonzero((ahead[:-1] < 0.0) & (ahead[1:] >= 0.0) & (np.abs(aside[1:]) < line.half_width_m))
    hits = hits[_same_way(s, ahead, hits)]
    places = [float(s[i] - ahead[i] * (s[i + 1] - s[i]) / (ahead[i + 1] - ahead[i])) for i in hits]
    places = [*_at_ends(s, ahead, aside, line, places), *places]
    fitted = sorted({round(_fitted(s, ahead, p), 4) for p in places})
    times = np.array([time_at(time, distance, p) for p in fitted])
    apart = np.concatenate([[True], np.diff(times) > SHORTEST_LAP_S]) if times.size else np.empty(0, dtype=bool)
    return np.asarray(times[apart])


def _same_way(s: FloatArray, ahead: FloatArray, hits: IntArray) -> BoolArray:
    """Which crossings go the line's way, (k,): where a path crosses itself at the line, the other leg goes another."""
    before = np.maximum(s.searchsorted(s[hits] - DIRECTION_REACH_M), 0)
    after = np.minimum(s.searchsorted(s[hits] + DIRECTION_REACH_M), len(s) - 1)
    share = (ahead[after] - ahead[before]) / np.maximum(s[after] - s[before], 1e-6)
    return np.asarray(share > max(LEAST_AHEAD, float(share.max(initial=0.0)) - OTHER_WAY))


def _at_ends(s: FloatArray, ahead: FloatArray, aside: FloatArray, line: StartLine, inner: list[float]) -> list[float]:
    """Crossings just outside the log: a start past the line, an end short of it."""
    steps = np.diff(s)
    slack = max(END_SLACK_M, float(np.max(steps[[0, -1]])) * 1.05)
    found = []
    if 0.0 <= ahead[0] <= slack and abs(aside[0]) < line.half_width_m:
        found.append(float(s[0] - ahead[0]))
    late = not inner or s[-1] - max(inner) > 4 * slack
    if late and -slack <= ahead[-1] < 0.0 and abs(aside[-1]) < line.half_width_m and ahead[-1] > ahead[-2]:
        found.append(float(s[-1] - ahead[-1]))
    return found


def _fitted(s: FloatArray, ahead: FloatArray, place: float) -> float:
    """The crossing on a curve through the samples within 60 m of travel around it.

    A cubic that is held near to what a path across a line is: a metre ahead for each metre
    travelled, hardly bent.  That matters at the ends of a log, where samples lie on
    one side only and a free curve runs off with their noise.
    """
    near = np.abs(s - place) < FIT_REACH_M
    if near.sum() < 5 or np.ptp(s[near]) < LEAST_FIT_M:
        return place
    x, y = s[near] - place, ahead[near]
    line = np.polynomial.polynomial.polyfit(x, y, 1)
    noise = max(float(np.std(y - line[0] - line[1] * x)), LEAST_NOISE_M)
    rows = np.stack([np.ones_like(x), x, x**2, x**3], axis=1) / noise
    held = np.diag([0.0, 1.0 / SLOPE_SPREAD, 1.0 / BEND_SPREAD_1PM, 1.0 / TWIST_SPREAD_1PM2])[1:]
    wanted = np.concatenate([y / noise, [1.0 / SLOPE_SPREAD, 0.0, 0.0]])
    c = np.linalg.lstsq(np.concatenate([rows, held]), wanted, rcond=None)[0]
    root = -c[0] / c[1]
    root -= float(np.polynomial.polynomial.polyval(root, c)) / (c[1] + 2 * c[2] * root)
    return place + float(np.clip(root, -FIT_REACH_M / 4, FIT_REACH_M / 4))


def time_at(time: FloatArray, distance: FloatArray, place: float) -> float:
    """Time at a distance travelled, seconds, from times and distances (n,); outside the log it runs on at the end speeds."""
    if place < distance[0]:
        return float(time[0] + (place - distance[0]) / max(end_speed(time, distance, first=True), 1.0))
    if place > distance[-1]:
        return float(time[-1] + (place - distance[-1]) / max(end_speed(time, distance, first=False), 1.0))
    return float(np.interp(place, distance, time))


def end_speed(time: FloatArray, distance: FloatArray, *, first: bool) -> float:
    """Speed over the first or the last samples of a log, m/s, from times and distances (n,)."""
    reach = min(END_SAMPLES, len(time) - 1)
    a, b = (0, reach) if first else (-1 - reach, -1)
    return float((distance[b] - distance[a]) / (time[b] - time[a]))
