"""How much of a later pick-up was forced: by a slowing that ends later, not by a foot that waits.

Who brakes 10 m later and slows as hard is slow 10 m later, and can only then pick up.  Who is off
the brake, no quicker than the reference ever is there, and rolls on, could have picked up.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.profiles.rolls import LONGER_ROLL_S

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.hybrids.source import Source

# What a pick-up is later by beyond what later braking forces; less than this is no throttle of its own.
OWN_PICKUP_M = 1.5
# Who brakes 5 m later is slow 5 to 9 m later; who is so by more than this many times has let the brake trail on by choice.
ENDS_LATER = 2.0
# So long a foot and a vehicle need from the end of the slowing to the pick-up; who takes longer waits by choice.
LONGEST_NEEDED_S = 0.8


def forced_m(reference: Source, lap: Source) -> FloatArray:
    """How much later a lap must pick up only because its slowing ends later, metres, (c,).

    That part of a late pick-up is the brake point's, not the throttle's.
    """
    holds = np.minimum(reference.pickup_m - reference.slowed_m, lap.pickup_m - lap.slowed_m)
    needed = lap.slowed_m + np.maximum(holds, 0.0) - reference.pickup_m
    later = np.maximum(lap.pickup_m - reference.pickup_m, 0.0)
    forced = np.minimum.reduce(
        [np.maximum(needed, 0.0), later, _where_it_waits(reference, lap), _where_it_trails(reference, lap)]
    )
    # Who holds the speed for longer, or rolls off the brake where the reference picks up, could have picked up there.
    holds_long = holds > LONGEST_NEEDED_S * np.sqrt(2.0 * lap.least)
    rolls = (lap.slowed_m >= reference.pickup_m - 0.5) & (lap.released_m <= reference.pickup_m - OWN_PICKUP_M)
    return np.where(holds_long | rolls, 0.0, forced)


def _where_it_waits(reference: Source, lap: Source) -> FloatArray:
    """Where a lap rolls longer: no more than to where it is off the brake and as slow as the reference, with as long a roll; else ∞, (c,)."""
    waits = lap.rolled_s - reference.rolled_s > LONGER_ROLL_S
    could = np.maximum(lap.released_m, lap.profile.falls_to_m(reference.least))
    could = could + reference.rolled_s * np.sqrt(2.0 * lap.least)
    return np.where(waits, np.maximum(could - reference.pickup_m, 0.0), np.inf)


def _where_it_trails(reference: Source, lap: Source) -> FloatArray:
    """Where a lap lets the brake trail on: no more than what its brake point moved by; else ∞, (c,)."""
    braked_later = lap.brake_m - reference.brake_m
    trails = (braked_later > OWN_PICKUP_M) & (lap.slowed_m - reference.slowed_m > ENDS_LATER * braked_later)
    return np.where(trails, braked_later, np.inf)
