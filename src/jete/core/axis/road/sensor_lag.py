r"""The bends that a lap's sensor felt, in time with its positions.

A lean is worked out and smoothed, and comes late; a steering is ahead of the vehicle that follows
it.  Its bends then lie some metres off where the path bends, more the faster the lap.  Positions
tell: from one chord of the path to the next, h seconds each, the lap turns by

    ∠(p(t) − p(t − h), p(t + h) − p(t)) = k (J(t + τ + h) − 2 J(t + τ) + J(t + τ − h)) / h + b

with J twice the integral over time of the turning that the sensor felt, k its scale, b its offset
and τ how late it is.
"""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.axis.positions.position_errors import step_of
from jete.core.axis.road.sensor_curvature import SensorCurvature, sensor_curvature
from jete.core.log.once import once_a_lap
from jete.core.motion.pace import SLOWEST_MPS
from jete.core.numeric.interpolate import integral
from jete.core.numeric.late import FEWEST, UNKNOWN, Lateness, lateness_of

if TYPE_CHECKING:
    from jete.core.arrays import BoolArray, FloatArray
    from jete.core.axis.positions.path import Fixes
    from jete.core.log.lap import Lap
    from jete.core.motion.motion import Motion

# Chords over a second: longer than noise matters, no longer than a bend.
REACH_S = 1.0
# A chord that lasts so many times as long has a hole.
LONG_SHARE = 1.5
# Less moves a bend by a metre at 90 km/h, as the running mean of a good sensor does.
LEAST_S = 0.04
# A sensor is brought in time only where its lateness is sure,
SURE_SIGMAS = 3.5
# And two are one that differ by no more: long errors of positions are 1.5 to 2 times what pieces of five seconds show of them.
ALIKE_SIGMAS = 5.0


class SensorMoved(NamedTuple):
    """The seconds a sensor was moved by in time, and how late it was found to be: a lateness that is not sure moves nothing."""

    by_s: float
    found: Lateness


NOT_MOVED = SensorMoved(0.0, UNKNOWN)


class SensorInTime(NamedTuple):
    """What a sensor felt of a lap's bends, and by how much that was moved in time."""

    sensor: SensorCurvature
    moved: SensorMoved


@once_a_lap
def sensor_in_time(lap: Lap, motion: Motion, fixes: Fixes | None, like: SensorMoved | None) -> SensorInTime | None:
    """What the best sensor of a lap felt of its bends; None without one.

    Args:
        lap: with its channels.
        motion: of it.
        fixes: its positions; None where nothing is to be told by them.
        like: what was done to the reference's sensor.  Where both may be one, the same is done to this:
            what it is wrong by then moves their bends alike.
    """
    sensor = sensor_curvature(lap, motion)
    if sensor is None:
        return None
    found = UNKNOWN if fixes is None else sensor_lateness(fixes, motion, sensor.curvature_1pm)
    if like is not None and _may_be_one(found, like.found):
        moved = like
    else:
        moved = SensorMoved(found.seconds if found.sure(LEAST_S, SURE_SIGMAS) else 0.0, found)
    if moved.by_s != 0.0:
        sensor = sensor_curvature(lap, motion, moved.by_s) or sensor
    return SensorInTime(sensor, moved)


def _may_be_one(one: Lateness, other: Lateness) -> bool:
    return abs(one.seconds - other.seconds) <= ALIKE_SIGMAS * hypot(one.sigma_s, other.sigma_s)


def sensor_lateness(fixes: Fixes, motion: Motion, curvature_1pm: FloatArray) -> Lateness:
    """How late a sensor is against positions.

    Args:
        fixes: positions of a lap.
        motion: of the lap.
        curvature_1pm: by the sensor at the motion's samples, (n,), of either sign and any scale.
    """
    step = step_of(fixes.time_s)
    reach = max(1, round(REACH_S / step))
    if len(fixes.time_s) < FEWEST + 2 * reach:
        return UNKNOWN
    h, heading = reach * step, integral(motion.time_s, curvature_1pm * motion.speed_mps)
    curves = integral(motion.time_s, heading), heading

    def timed(at_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        turned, rate = (_second_difference(motion.time_s, curve, at_s, h)[:, None] for curve in curves)
        return turned, rate

    return lateness_of(*_turns(fixes, reach, h), timed)


def _turns(fixes: Fixes, reach: int, h: float) -> tuple[FloatArray, FloatArray, BoolArray]:
    """How far the path turns from one chord of ``reach`` positions to the next, radians, (m,), when, and whether both are whole."""
    chords = fixes.places_m[reach:] - fixes.places_m[:-reach]
    before, after = chords[:-reach], chords[reach:]
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    spans = fixes.time_s[reach:] - fixes.time_s[:-reach]
    usual = (spans < LONG_SHARE * h) & (np.hypot(*chords.T) > SLOWEST_MPS * h)
    turned = np.arctan2(cross, np.sum(before * after, axis=1))
    return np.asarray(turned), fixes.time_s[reach:-reach], np.asarray(usual[:-reach] & usual[reach:])


def _second_difference(time_s: FloatArray, curve: FloatArray, at_s: FloatArray, h: float) -> FloatArray:
    """The second difference of a curve over time, (n,) both, about times (m,), ``h`` seconds to either side, over those, (m,)."""
    before, here, after = (np.interp(at_s + by, time_s, curve) for by in (-h, 0.0, h))
    return np.asarray((after - 2.0 * here + before) / h)
