r"""An early braking that rolls on: where its slowing has ended.

Who brakes early, is as slow as the other lap by the release, and rolls from there to the pick-up, slowed too early
and then coasted: rolling is no slowing any more.  Who leaves the brake for a lower speed has overslowed, and who
leaves it at a higher one to roll down to the other's rolls in: neither is meant here.

    speed   \    \
             \    \
              \    '.___   the other brakes later, and trails the brake down to its lowest
               '--..__
                      ''   rolls on below it
"""

from __future__ import annotations

from dataclasses import replace
from math import sqrt
from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.profiles.anchors import VALLEY_MPS

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.profiles.anchors import Anchors
    from jete.core.causes.profiles.profile import Profile

# A foot that rests for less has not waited.
LEAST_WAIT_M = 1.5
# Who rolls for so much longer than the other lap after the brake, and is as slow as it already, waits by choice.
LONGER_ROLL_S = 0.15
# An early roll begins with a brake point so much before the other's.
EARLY_ROLL_M = 3.0
# Who leaves the brake slower than the other by more than this braked for a lower speed, and not too early.
AS_SLOW_SHARE, AS_SLOW_MPS = 0.028, 0.6
# Who leaves the brake no more than this before the end of the slowing brakes to its end.
TRAILS_M = 0.5


def ended_by_roll(profile: Profile, other: Profile) -> Profile:
    """A profile whose slowing has ended where it rolls on below what the other lap ever slows to."""
    every = np.arange(len(profile.anchors))
    released_m = [p.each("released_m") for p in (profile, other)]
    pace = [
        np.sqrt(2.0 * p.grid.look_up(p.driven, m, every)) for p, m in zip((profile, other), released_m, strict=True)
    ]
    as_slow = pace[0] > _leaves_at(other, pace[1]) - np.maximum(AS_SLOW_SHARE * pace[1], AS_SLOW_MPS)
    slowed = np.maximum(profile.falls_to_m(other.each("least")), released_m[0])
    least = profile.grid.look_up(profile.driven, slowed, every)
    before = as_slow & (slowed < profile.each("slowed_m") - LEAST_WAIT_M)
    anchors = tuple(
        replace(a, slowed_m=m, least=e, rolls_below=True, rolls_in=m > a.released_m)
        if ended and _rolls_early(a, o)
        else a
        for a, o, ended, m, e in zip(
            profile.anchors, other.anchors, before.tolist(), slowed.tolist(), least.tolist(), strict=True
        )
    )
    return replace(profile, anchors=anchors)


def _leaves_at(other: Profile, pace_mps: FloatArray) -> FloatArray:
    """How fast the other lap leaves the brake, (c,): where it brakes to the end of its slowing, its lowest speed, which a smoother blurs less."""
    trails = other.each("released_m") >= other.each("slowed_m") - TRAILS_M
    return np.where(trails, np.minimum(pace_mps, np.sqrt(2.0 * other.each("least")) + VALLEY_MPS), pace_mps)


def _rolls_early(own: Anchors, other: Anchors) -> bool:
    """Whether a lap brakes earlier, leaves the brake earlier, and for that rolls longer than another.

    Where the other's roll is cut off by this lap's earlier pick-up, twice as much longer.
    """
    earlier = own.brake_m < other.brake_m - EARLY_ROLL_M
    released = own.released_m + LONGER_ROLL_S * sqrt(2.0 * other.least) < other.released_m
    longer, whole = own.rolled_first_s - other.rolled_first_s, own.rolled_s - other.rolled_s
    return earlier and released and (longer > 2.0 * LONGER_ROLL_S or min(longer, whole) > LONGER_ROLL_S)
