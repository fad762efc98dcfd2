"""How a vehicle moved: time, distance and speed of a log or a lap on its own clock.

Where a speed is logged it carries the detail and the logged distance the level: a
distance that is rounded or slow to update must not shake the speeds that follow from it.
Without speed the distance or the position gives it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import pi, sqrt
from weakref import WeakKeyDictionary

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Channel, Lap, Log
from jete.core.log.once import once_a_lap
from jete.core.motion.track import JERK_DENSITIES, Sigmas, path_motion, smoother_sigmas
from jete.core.numeric.interpolate import integral, slopes
from jete.core.numeric.spline import Knots, likeliest, noise_of

# The logged distance corrects the speed's over lengths of this and more.
LEVEL_REACH_M = 60.0
# A logged distance this many times as long, or as short, as the speed makes it is in another unit than it says.
WRONG_UNIT = 10.0
# A speed is averaged until its noise is this, over no longer than so many seconds; an acceleration alike.
QUIET_MPS = 0.04
# See QUIET_MPS.
LONGEST_QUIET_S = 0.3
# See QUIET_MPS.
QUIET_MPS2 = 0.3
# See QUIET_MPS.
LONGEST_REACH_S = 0.8
# At a line that samples reach from one side only, a speed and a place are so much less sure than among them.
ONE_SIDED_SPEED, ONE_SIDED_PLACE = 3.0, 2.6
# So much of a log beyond the line shows it from both sides.
SEEN_BEYOND_S = 1.0
LOGGED = Sigmas()
# Over how long an acceleration is taken that pedals are inferred from.
INFERRED_REACH_S = 0.3


@dataclass(frozen=True, eq=False)
class Motion:
    """One lap as driven; all arrays (n,), time strictly increasing from 0 to the lap time.

    ``distance_m`` runs from 0 to the lap's length.  ``sigmas``, and ``end_sigmas`` at both
    ends of the lap, are those of a speed that was not logged.
    """

    time_s: FloatArray
    distance_m: FloatArray
    speed_mps: FloatArray
    sigmas: Sigmas = LOGGED
    end_sigmas: tuple[Sigmas, Sigmas] = (LOGGED, LOGGED)

    @cached_property
    def step_s(self) -> float:
        """Median time between samples."""
        return float(np.median(np.diff(self.time_s)))

    @cached_property
    def noise_mps(self) -> float:
        """Standard deviation of the white noise of a logged speed; 0 for one that was not."""
        return 0.0 if self.inferred else noise_of(self.speed_mps)

    @cached_property
    def quiet_mps(self) -> FloatArray:
        """The speed, (n,), where it is noisy averaged over as few samples as will do."""
        samples = min((self.noise_mps / QUIET_MPS) ** 2, LONGEST_QUIET_S / max(self.step_s, 1e-6))
        return smooth_box(self.speed_mps, 2 * int(samples / 2.0) + 1)

    @property
    def inferred(self) -> bool:
        """Whether the speed was not logged."""
        return self.sigmas.speed_mps > 0.0

    @property
    def length_m(self) -> float:
        """Own length of the lap, metres."""
        return float(self.distance_m[-1])

    @cached_property
    def adds_up(self) -> float:
        """What the speed adds up to over the lap, as a share of its length: a logged distance may be on another scale."""
        return float(integral(self.time_s, self.speed_mps)[-1]) / self.length_m

    def distance_at(self, time_s: FloatArray) -> FloatArray:
        """Distance at times within the lap (m,), metres, (m,)."""
        return np.interp(time_s, self.time_s, self.distance_m)


_KNOWN: WeakKeyDictionary[Log, tuple[FloatArray, FloatArray]] = WeakKeyDictionary()


def travelled(log: Log) -> tuple[FloatArray, FloatArray]:
    """Row clock (n,) and metres travelled since the first row (n,), never decreasing; kept with the log."""
    if log not in _KNOWN:
        _KNOWN[log] = _travelled(log)
    return _KNOWN[log]


def _travelled(log: Log) -> tuple[FloatArray, FloatArray]:
    clock = log.channels["time"].time_s
    speed = log.get("speed")
    if speed is not None:
        v = np.maximum(speed.at(clock), 0.0)
        return clock, integral(clock, v)
    distance = log.get("distance")
    steps = np.diff(distance.at(clock)) if distance is not None else np.empty(0)
    moves = bool(np.any(steps > 0.0))
    # A counter that stands still says nothing where positions say more.
    if distance is not None and (moves or not log.has_position()):
        typical = float(np.median(steps[steps > 0.0])) if moves else 0.0
        return clock, np.concatenate([[0.0], np.cumsum(np.where(steps < 0.0, typical, steps))])
    track = path_motion(log)
    time, v = track.time_s, track.speed_mps
    beyond = np.minimum(clock - time[0], 0.0) * v[0] + np.maximum(clock - time[-1], 0.0) * v[-1]
    return clock, np.interp(clock, time, track.travelled_m) + beyond


@once_a_lap
def motion_of(lap: Lap) -> Motion:
    """Motion of a lap from line to line, its ends interpolated or run on."""
    log, span = lap.log, lap.span
    time, speed, sigmas = _speed_of(log)
    inside = slice(*time.searchsorted([span.start_s + 1e-6, span.end_s - 1e-6], side="right"))
    own = np.concatenate([[0.0], time[inside] - span.start_s, [span.time_s]])
    v = np.interp(own + span.start_s, time, speed)
    along = integral(own, np.maximum(v, 0.05))
    along = _levelled(lap, own, along)
    seen = span.start_s - time[0] > SEEN_BEYOND_S, time[-1] - span.end_s > SEEN_BEYOND_S
    alone = sigmas._replace(speed_mps=ONE_SIDED_SPEED * sigmas.speed_mps, place_m=ONE_SIDED_PLACE * sigmas.place_m)
    return Motion(own, along, v, sigmas, (sigmas if seen[0] else alone, sigmas if seen[1] else alone))


def _speed_of(log: Log) -> tuple[FloatArray, FloatArray, Sigmas]:
    """Time and speed of the whole log, logged or derived, and how sure it is."""
    speed = log.get("speed")
    if speed is not None:
        return speed.time_s, np.maximum(speed.value, 0.0), LOGGED
    if log.has_position():
        track = path_motion(log)
        return track.time_s, track.speed_mps, track.sigmas
    time, along = travelled(log)
    step = float(np.median(np.diff(time)))
    knots = Knots.over(float(time[0]), float(time[-1]), max(0.2, 2.0 * step))
    noise = max(0.01, noise_of(along))
    curve = likeliest(time, along, noise, knots, derivative=3, roughnesses=JERK_DENSITIES)
    return time, curve(time, 1), smoother_sigmas(noise, step, JERK_DENSITIES[1])


def _levelled(lap: Lap, time: FloatArray, along: FloatArray) -> FloatArray:
    """Correct integrated metres by the slow part of their difference to the logged distance."""
    distance = lap.get("distance")
    if distance is None:
        return along
    logged = _within_lap(distance, lap.span.time_s)
    if logged is None or not 1.0 / WRONG_UNIT < logged.value[-1] / along[-1] < WRONG_UNIT:
        return along
    found = np.interp(logged.time_s, time, along)
    bins = np.floor(logged.value / LEVEL_REACH_M).astype(int)
    count = np.bincount(bins)
    full = count > 0
    at = np.bincount(bins, found)[full] / count[full]
    mean = np.bincount(bins, logged.value - found)[full] / count[full]
    level = _run_on(along, at, mean)
    corrected = along + level - level[0]
    return corrected if np.all(np.diff(corrected) > 0.0) else along


def _run_on(x: FloatArray, at: FloatArray, mean: FloatArray) -> FloatArray:
    """Linear interpolation that runs on at both ends with the slope of the end bins."""
    if len(at) < 3:
        return np.zeros_like(x)
    level = np.interp(x, at, mean)
    for end, inner in ((0, 2), (-1, -3)):
        slope = (mean[end] - mean[inner]) / (at[end] - at[inner])
        out = x < at[0] if end == 0 else x > at[-1]
        level[out] = mean[end] + slope * (x[out] - at[end])
    return np.asarray(level)


def _within_lap(distance: Channel, lap_time_s: float) -> Channel | None:
    """Distance from the line over the samples inside the lap, or None if it makes no sense."""
    keep = (distance.time_s >= 0.0) & (distance.time_s <= lap_time_s)
    t, d = distance.time_s[keep], distance.value[keep]
    if len(t) < 20 or np.any(np.diff(d) < -5.0) or d[-1] - d[0] < 100.0:
        return None
    start = d[0] - (d[5] - d[0]) / (t[5] - t[0]) * t[0]
    zero = 0.0 if abs(start) < 30.0 else float(start)
    return Channel("distance", "m", t, np.maximum(d - zero, 0.0))


def smooth_box(values: FloatArray, width: int) -> FloatArray:
    """Running mean over ``width`` samples (odd), ends shortened; (n,) to (n,)."""
    if width < 2 or len(values) < width:
        return values
    half = width // 2
    total = np.concatenate([[0.0], np.cumsum(values)])
    out = np.empty(len(values))
    out[half : len(values) - half] = (total[width:] - total[:-width]) / width
    counts = np.arange(half + 1, width)
    out[:half] = total[half + 1 : width] / counts
    out[len(values) - half :] = (total[-1] - total[-width : -half - 1]) / counts[::-1]
    return out


def blur_s(motion: Motion) -> float:
    """Over about how long an acceleration is blurred: by what quietens a speed, or by the smoother it came from.

    The latter lets through what is slower than ω0 (:func:`jete.core.motion.track.smoother_sigmas`),
    so it is π / ω0.
    """
    if motion.inferred:
        return pi * sqrt(2.0) * motion.sigmas.speed_mps / motion.sigmas.acceleration_mps2
    return max(INFERRED_REACH_S, _quiet_reach_s(motion))


def _quiet_reach_s(motion: Motion) -> float:
    """Over how long an acceleration is taken so that the speed's noise leaves it quiet."""
    return float(min((4.0 * motion.noise_mps * motion.step_s**0.5 / QUIET_MPS2) ** (2.0 / 3.0), LONGEST_REACH_S))


def acceleration_mps2(motion: Motion, reach_s: float = 0.25) -> FloatArray:
    """Longitudinal acceleration (n,) from the speed over about ``reach_s``; over longer where the speed is noisy."""
    noisy_s = _quiet_reach_s(motion)
    if noisy_s > reach_s:
        return _between_means(motion, noisy_s)
    width = 2 * max(1, round(0.5 * reach_s / motion.step_s)) + 1
    if len(motion.time_s) <= width:
        return slopes(motion.speed_mps, motion.time_s)
    v = smooth_box(motion.speed_mps, width)
    return slopes(v, motion.time_s)


def _between_means(motion: Motion, reach_s: float) -> FloatArray:
    """Acceleration (n,) from the mean speeds of the two halves of a reach.

    The noise of the speed comes through as 4 σ √step / reach^1.5, nearly as little as a
    straight line fitted to the samples lets through.
    """
    half = max(1, round(0.5 * reach_s / motion.step_s))
    width = 2 * (half // 2) + 1
    v, t = smooth_box(motion.speed_mps, width), smooth_box(motion.time_s, width)
    ahead = np.minimum(np.arange(len(v)) + (half + 1) // 2, len(v) - 1)
    behind = np.maximum(np.arange(len(v)) - (half + 1) // 2, 0)
    return np.asarray((v[ahead] - v[behind]) / np.maximum(t[ahead] - t[behind], 1e-6))
