r"""Which bends of a road are corners for the lap that drives it: those it slows for, each slowing one corner.

A bend that is taken flat is no corner.  A long bend of one direction in which the lap gets
back to full throttle, and stays there or brakes again, is two, as it is for its driver:

    speed  \__ first ___/''''''\__ second __/
    bend   |------------- one -------------|
"""

from __future__ import annotations

import itertools
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.road.corners import Corner, find_corners, parted
from jete.core.driving.pedals import BRAKE_ON, DIP, THROTTLE_FULL, swings

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.road.road import Road
    from jete.core.driving.passage import Passage

# A bend taken flat scrubs off less than this.
FLAT_MPS2 = -0.6
# A long bend may be bent most anywhere: what is driven on through a third of it was not slowed for.
DRIVEN_SHARE = 1.0 / 3.0
# Gaining more than this through a bend, a lap drives on whatever its throttle does.
DRIVEN_ON_MPS2 = 0.5
# Between two slowings that are two corners a lap gains 29 km/h,
DRIVEN_UP_MPS = 8.0
# And is on full throttle for so long: less is a double apex, taken as one corner,
DRIVEN_UP_S = 1.5
# or a little less where it brakes for the second. At 0.4 s three in a hundred corners are parted that nobody straightens between.
BRAKED_APART_S = 1.1
# It slows by 9 km/h at least, and has begun to speed up again before the bend ends: else it slows for what comes next.
SLOWED_MPS, RISEN_MPS = 2.5, 0.3


def asked_bends(road: Road, passage: Passage) -> list[Corner]:
    """The corners of a road for the lap that drives it, in order, numbered by their bends."""
    bends = find_corners(road)
    ahead_m = [0.0, *(bend.end_m for bend in bends)]
    asked = [bend for bend, after in zip(bends, ahead_m, strict=False) if not is_flat(passage, bend, after)]
    return [part for bend in asked for part in _driven_apart(road, passage, bend)]


def _driven_apart(road: Road, passage: Passage, bend: Corner) -> list[Corner]:
    """The corners that a lap makes of one bend: the bend itself, or its parts where it slows for each."""
    cuts = _cuts_m(road, passage, bend)
    parts = parted(road, bend, cuts) if cuts else []
    return parts if parts and not any(is_flat(passage, part) for part in parts) else [bend]


def _cuts_m(road: Road, passage: Passage, bend: Corner) -> list[float]:
    """Where a bend is least bent between two slowings, metres."""
    first, last = passage.alignment.place_m.searchsorted([bend.start_m, bend.end_m])
    if last - first < 3:
        return []
    speed, time_s = passage.motion.quiet_mps[first:last], passage.motion.time_s[first:last]
    if float((speed - np.minimum.accumulate(speed)).max()) <= DRIVEN_UP_MPS:
        return []
    lows = _lows(speed)
    return [
        _least_bent_m(road, *passage.place_at(time_s[[a, b]]))
        for a, b in itertools.pairwise(lows)
        if speed[a:b].max() - speed[a] > DRIVEN_UP_MPS and _driven_between(passage, *time_s[[a, b]].tolist())
    ]


def _driven_between(passage: Passage, start_s: float, end_s: float) -> bool:
    """Whether a lap is on full throttle between two times for long enough to make two corners of one bend."""
    brakes = passage.brake.value[slice(*passage.brake.time_s.searchsorted([start_s, end_s]))]
    # The first slowing may still be braked for where its speed is lowest: what counts is a brake that goes on anew.
    on = brakes > BRAKE_ON
    braked = bool((on[1:] & ~on[:-1]).any())
    return _at_full_s(passage, start_s, end_s) >= (BRAKED_APART_S if braked else DRIVEN_UP_S)


def _lows(speed: FloatArray) -> list[int]:
    """Where a speed (n,) is lowest before and after each high; not at the end, where it only falls out of the bend."""
    turns = swings(speed, SLOWED_MPS)
    highs = [k for (_, low), (k, high) in itertools.pairwise(turns[:-1]) if high > low]
    lows = [a + int(speed[a:b].argmin()) for a, b in itertools.pairwise([0, *highs, len(speed)])]
    return [k for k in lows if speed[k:].max() - speed[k] > RISEN_MPS]


def _at_full_s(passage: Passage, start_s: float, end_s: float) -> float:
    """How long the throttle is full between two times, seconds; all of a rise where it was not logged."""
    throttle = passage.throttle
    if throttle.inferred:
        return end_s - start_s
    fed = throttle.value[slice(*throttle.time_s.searchsorted([start_s, end_s]))]
    return float(np.count_nonzero(fed > THROTTLE_FULL)) * throttle.step_s


def _least_bent_m(road: Road, start_m: float, end_m: float) -> float:
    first, last = road.grid_m.searchsorted([start_m, end_m])
    return float(road.grid_m[first + int(np.abs(road.curvature_1pm[first:last]).argmin())])


def is_flat(passage: Passage, corner: Corner, after_m: float = 0.0) -> bool:
    """Whether a lap takes a bend flat: no brake for it, past ``after_m`` where the bend ahead ends, and driven on through it.

    The throttle is full or still on its way there, or comes off without the vehicle ceasing
    to gain speed.  Braking or lifting past the apex, or past a third of the bend, that lasts to
    the bend's end is for what comes next.
    """
    driven_m = min(corner.apex_m, corner.start_m + DRIVEN_SHARE * (corner.end_m - corner.start_m))
    start_m = max(corner.start_m - 20.0, min(after_m, corner.start_m))
    start_s, driven_s, end_s = (passage.time_of(m) for m in (start_m, driven_m, corner.end_m))
    ends = [start_s, _begins_to_slow(passage, driven_s, end_s)]
    throttle, brake = passage.throttle, passage.brake
    if float(_over(brake.time_s, brake.value, ends).max()) > BRAKE_ON:
        return False
    least_mps2 = float(_over(passage.motion.time_s, passage.acceleration_mps2, ends).min())
    if throttle.inferred:
        return bool(least_mps2 > FLAT_MPS2)
    fed = _over(throttle.time_s, throttle.value, ends)
    came_off = float((np.maximum.accumulate(fed) - fed).max())
    at_full = came_off < DIP and fed[-1] > THROTTLE_FULL
    return bool(least_mps2 > DRIVEN_ON_MPS2 or (fed[0] > 0.5 and at_full))


def _begins_to_slow(passage: Passage, driven_s: float, end_s: float) -> float:
    """The time, past another, from which a lap is off the throttle until the bend ends and beyond; else the end."""
    throttle = passage.throttle
    k = int(throttle.time_s.searchsorted(end_s))
    first = int(throttle.time_s.searchsorted(driven_s))
    fed = throttle.value[first : k + 1]
    if len(fed) < 2 or fed[-1] > DIP:
        return end_s
    driven = np.flatnonzero(fed > THROTTLE_FULL)
    return float(throttle.time_s[first + int(driven[-1])]) if driven.size else end_s


def _over(time_s: FloatArray, values: FloatArray, ends_s: list[float]) -> FloatArray:
    """The samples between two times, and the values at both."""
    lo, hi = time_s.searchsorted(ends_s)
    first, last = np.interp(ends_s, time_s, values)
    return np.concatenate([[first], values[lo:hi], [last]])
