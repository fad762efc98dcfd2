"""Corners that follow so closely that a lap only gains speed through them.

Who comes out of the corner before too slowly to slow for this one pays here for what was done
there: the lower speed in the bend is the arrival's, not an overslowing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.kinds import Factor

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.core.arrays import BoolArray, FloatArray
    from jete.core.causes.hybrids.driven import Driven
    from jete.core.causes.profiles.cells import Cells
    from jete.core.causes.profiles.profile import Profile

# More than noise and a breath of the throttle make of it; less would find a slowing in every bend.
SLOWED_MPS = 0.5
# What is done on the way to the pick-up; a lap that only gains speed does nothing of it.
ON_THE_WAY = (Factor.BRAKE_POINT, Factor.BRAKING, Factor.SLOWEST, Factor.COASTING, Factor.PICKUP)


def only_gains(profile: Profile, cells: Cells) -> BoolArray:
    """Whether a lap never loses more than 0.5 m/s within the window of each corner, (c,)."""
    v = np.sqrt(2.0 * profile.grid.look_up(profile.driven, cells.middles_m, cells.of))
    # Windows lie one above the other, so that the running top begins anew with each.
    above = 2.0 * float(v.max()) * cells.of
    fallen = np.maximum.accumulate(v + above) - above - v
    return np.asarray(np.maximum.reduceat(fallen, cells.first) < SLOWED_MPS)


def carried(shares: Mapping[Factor, FloatArray], driven: Driven, gains: tuple[bool, bool]) -> dict[Factor, FloatArray]:
    """Shares by factor, with all on the way to the pick-up given to the arrival where the slower to arrive only gains speed.

    Args:
        shares: seconds by factor on each stretch, (S,) each.
        driven: how both laps drove the window.
        gains: whether the reference, and the lap, only gain speed through it.
    """
    reference_mps, lap_mps = driven.arrival_mps
    if not gains[1 if lap_mps < reference_mps else 0]:
        return dict(shares)
    left = {factor: share for factor, share in shares.items() if factor not in ON_THE_WAY}
    given = [s for factor, s in shares.items() if factor in ON_THE_WAY or factor == Factor.ARRIVAL]
    if given:
        left[Factor.ARRIVAL] = np.sum(given, axis=0)
        drive = left.get(Factor.DRIVE)
        # Who comes slower has grip left to drive out harder: what only undoes the arrival's is no cause of its own.
        if drive is not None and drive.sum() * left[Factor.ARRIVAL].sum() < 0.0:
            left[Factor.ARRIVAL] = left[Factor.ARRIVAL] + left.pop(Factor.DRIVE)
    return left
