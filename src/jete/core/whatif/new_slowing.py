"""The way in of a changed corner: E up to the pick-up, from the lap's own curve shifted, scaled or stretched.

What is asked for says where the slowing begins (L'), where it is over (S') and with which E; between them the driver's own
curve is laid in several ways, whose difference is the doubt of his choice of shape:

    scaled     the same deceleration at each metre before the slow point, times one factor; its first metres fall away
    stretched  the whole curve over more or fewer metres

Where another lowest speed is reached from the same brake point, a third takes the place of the scaled one: the difference at the slow
point dies out backwards by what the bend leaves of the brake.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.whatif.driven_stretch import STEP_M
from jete.core.whatif.grip_shown import KEPT_BACK

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.whatif.asked_for import AskedChange
    from jete.core.whatif.driven_stretch import DrivenStretch
    from jete.core.whatif.grip_shown import GripShown

# A slowing takes at least so many metres, and so much E, to be changed.
LEAST_SLOWING_M, LEAST_FALL = 6.0, 15.0
# The mean deceleration of a slowing is taken between these shares of its fall.
FALL = (0.9, 0.2)
# How much each account counts: the scaled one beside the stretched, and for another lowest speed from the same brake point
# the one whose difference the bend's grip takes away.  The stretched one was right in more changes.
SCALED, FADED = 0.15, 0.5
# Nearer to all of the bend's grip nothing is left that could be divided by.
MOST_USED = 0.9


@dataclass(frozen=True, kw_only=True)
class PlannedSlowing:
    """Where a changed slowing begins, its lowest E, and by how much its end is shifted, metres.

    ``from_brake``: another lowest speed is reached from a brake point that does not follow it.
    """

    onset_m: float
    least: float
    shift_m: float
    from_brake: bool = False


@dataclass(frozen=True, eq=False, kw_only=True)
class WayIn:
    """E up to the pick-up by each account, with the share that it counts, (n,), and where the slowing is over, metres."""

    accounts: tuple[tuple[float, FloatArray], ...]
    over_m: float


def planned(stretch: DrivenStretch, asked: AskedChange) -> PlannedSlowing | None:
    """What a change makes of the slowing; None where it leaves it, or there is too little of one."""
    by_m, by_kmh = asked.delta("brake_on_m"), asked.delta("min_speed_kmh")
    if by_m == 0.0 and by_kmh == 0.0:
        return None
    lowest = max(np.sqrt(2.0 * stretch.least) + by_kmh / 3.6, 2.0)
    least = 0.5 * float(lowest) ** 2
    whole = asked.sets_one("brake_on_m") and asked.keeps("braking") and not by_kmh
    onset = stretch.onset_m + by_m
    as_hard = bool(by_kmh) and not asked.sets_one("brake_on_m") and asked.keeps("braking")
    if as_hard:
        onset += (least - stretch.least) / _mean_deceleration(stretch)
    from_brake = bool(by_kmh) and not as_hard
    return PlannedSlowing(onset_m=onset, least=least, shift_m=by_m if whole else 0.0, from_brake=from_brake)


def can_slow(stretch: DrivenStretch) -> bool:
    """Whether there is enough of a slowing to be changed."""
    fall = float(stretch.energy_at(stretch.onset_m)) - stretch.least
    return fall > LEAST_FALL and stretch.over_m - stretch.onset_m > LEAST_SLOWING_M


def way_in(stretch: DrivenStretch, plan: PlannedSlowing | None, grip: GripShown) -> WayIn:
    """E of a changed slowing, and of the hold after it, as far as the stretch goes."""
    hold = stretch.held_at(stretch.place_m)
    if plan is None:
        return WayIn(accounts=((1.0, hold),), over_m=stretch.over_m)
    approach = _approach(stretch)
    begins = float(np.interp(plan.onset_m, stretch.place_m, approach))
    before = stretch.place_m <= plan.onset_m
    laid = [(1.0, _laid(stretch, plan, hold, _stretched_from(stretch, plan), begins))]
    if plan.from_brake:
        laid = [(1.0 - FADED, laid[0][1]), (FADED, _faded(stretch, plan, hold, grip))]
    elif plan.onset_m - plan.shift_m > stretch.onset_m:
        scaled = _laid(stretch, plan, hold, stretch.place_m - plan.shift_m, begins)
        laid = [(1.0 - SCALED, laid[0][1]), (SCALED, scaled)]
    accounts = tuple(
        (share, np.where(before, np.minimum(approach, e) if plan.from_brake else approach, e)) for share, e in laid
    )
    return WayIn(accounts=accounts, over_m=stretch.over_m + plan.shift_m)


def _faded(stretch: DrivenStretch, plan: PlannedSlowing, hold: FloatArray, grip: GripShown) -> FloatArray:
    """The own curve with the difference at the slow point dying out backwards, as the bend leaves more of the brake to who is slower in it."""
    whole = grip.whole_mps2(np.sqrt(2.0 * stretch.energy))
    bend = 2.0 * KEPT_BACK * stretch.lateral_1pm / whole
    used = np.minimum(stretch.energy * bend, MOST_USED)
    rate = grip.braking.share * whole * used * bend / np.sqrt(1.0 - used**2)
    inside = (stretch.place_m >= stretch.onset_m) & (stretch.place_m < stretch.slow_m)
    left = np.exp(-np.cumsum((rate * inside)[::-1])[::-1] * STEP_M)
    share = plan.least / stretch.least
    return np.where(stretch.place_m < stretch.slow_m, hold + (plan.least - stretch.least) * left, hold * share)


def _laid(
    stretch: DrivenStretch, plan: PlannedSlowing, hold: FloatArray, from_m: FloatArray, begins: float
) -> FloatArray:
    """The own curve read at ``from_m`` (n,), its fall scaled so that it begins with E ``begins`` and ends with the planned lowest."""
    own = np.interp(from_m, stretch.place_m, hold)
    top = float(np.interp(plan.onset_m, stretch.place_m, own))
    factor = (begins - plan.least) / max(top - stretch.least, 1.0)
    # Past the slow point a speed that is higher or lower stays so by its share.
    share = plan.least / stretch.least
    slowing = stretch.place_m <= stretch.slow_m + plan.shift_m
    return np.where(slowing, plan.least + factor * (own - stretch.least), own * share)


def _stretched_from(stretch: DrivenStretch, plan: PlannedSlowing) -> FloatArray:
    """Where the own curve is read for each place, (n,), when all of it is laid between the planned ends."""
    end = stretch.over_m + plan.shift_m
    longer = (stretch.over_m - stretch.onset_m) / max(end - plan.onset_m, LEAST_SLOWING_M)
    inside = stretch.over_m - (end - stretch.place_m) * longer
    return np.where(stretch.place_m < end, inside, stretch.place_m - plan.shift_m)


def _approach(stretch: DrivenStretch) -> FloatArray:
    """E as driven up to the onset, and run on past it as it was, (n,)."""
    past = np.maximum(stretch.place_m - stretch.onset_m, 0.0)
    at_onset = float(stretch.energy_at(stretch.onset_m))
    return np.where(past > 0.0, at_onset + stretch.rise() * past, stretch.energy)


def _mean_deceleration(stretch: DrivenStretch) -> float:
    """Of the slowing, m/s², between nine tenths and a fifth of its fall."""
    inside = (stretch.place_m >= stretch.onset_m) & (stretch.place_m <= stretch.slow_m)
    place, energy = stretch.place_m[inside], stretch.energy[inside]
    top = float(stretch.energy_at(stretch.onset_m))
    levels = [stretch.least + share * (top - stretch.least) for share in FALL]
    falling = np.minimum.accumulate(energy)
    high, low = (float(np.interp(-level, -falling, place)) for level in levels)
    return max((levels[0] - levels[1]) / max(low - high, 2.0), 1.0)
