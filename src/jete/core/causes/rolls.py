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

if TYPE_CHECKING:
    from jete.core.causes.anchors import Anchors
    from jete.core.causes.profile import Profile

# A foot that rests for less has not waited.
LEAST_WAIT_M = 1.5
# Who rolls for so much longer than the other lap after the brake, and is as slow as it already, waits by choice.
LONGER_ROLL_S = 0.15
# An early roll begins with a brake point so much before the other's.
EARLY_ROLL_M = 3.0
# Who leaves the brake slower than the other by more than this braked for a lower speed, and not too early.
AS_SLOW_SHARE, AS_SLOW_MPS = 0.028, 0.6


def ended_by_roll(profile: Profile, other: Profile) -> Profile:
    """A profile whose slowing has ended where it rolls on below what the other lap ever slows to."""
    falls = profile.falls_to_m(other.each("least"))
    released = [p.grid.look_up(p.driven, p.each("released_m"), np.arange(len(falls))) for p in (profile, other)]
    pace = [np.sqrt(2.0 * e) for e in released]
    as_slow = pace[0] > pace[1] - np.maximum(AS_SLOW_SHARE * pace[1], AS_SLOW_MPS)
    anchors = list(profile.anchors)
    for corner, (a, o) in enumerate(zip(profile.anchors, other.anchors, strict=True)):
        slowed = max(float(falls[corner]), a.released_m)
        if as_slow[corner] and _rolls_early(a, o) and slowed < a.slowed_m - LEAST_WAIT_M:
            least = float(profile.grid.look_up(profile.driven, np.array([slowed]), np.array([corner]))[0])
            anchors[corner] = replace(a, slowed_m=slowed, least=least, rolls_below=True, rolls_in=slowed > a.released_m)
    return replace(profile, anchors=tuple(anchors))


def _rolls_early(own: Anchors, other: Anchors) -> bool:
    """Whether a lap brakes earlier, leaves the brake earlier, and for that rolls longer than another.

    Where the other's roll is cut off by this lap's earlier pick-up, twice as much longer.
    """
    earlier = own.brake_m < other.brake_m - EARLY_ROLL_M
    released = own.released_m + LONGER_ROLL_S * sqrt(2.0 * other.least) < other.released_m
    longer, whole = own.rolled_first_s - other.rolled_first_s, own.rolled_s - other.rolled_s
    return earlier and released and (longer > 2.0 * LONGER_ROLL_S or min(longer, whole) > LONGER_ROLL_S)
