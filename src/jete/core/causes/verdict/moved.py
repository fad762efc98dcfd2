"""How far the marks of two laps lie apart at one corner, and how sure that is: one answer for each factor."""

from __future__ import annotations

from math import sqrt
from typing import TYPE_CHECKING, Final

from jete.core.causes.kinds import GOES_WITH, Factor, Kind
from jete.core.causes.verdict.brake_point import against, brake_point
from jete.core.causes.verdict.lowest_speed import slowest
from jete.core.causes.verdict.pair import LEAST_MOVE_M, Moved
from jete.core.log.channels import GRAVITY_MPS2

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from jete.core.causes.verdict.pair import Pair

# What two passes differ by without anything having been done otherwise.
LEAST_ARRIVAL_KMH = 0.5
# Of what two laps differ by at the beginning of a window, so much was there before either braked, or it was not carried there.
CARRIED_SHARE = 0.3
# A deceleration to a hundredth of g,
LEAST_BRAKING_G = 0.01
# And a hundredth of itself,
LEAST_BRAKING_SHARE = 0.01
# A change of pedals to a twentieth of a second,
LEAST_COAST_S = 0.05
# and a twentieth of a longer roll,
LEAST_COAST_SHARE = 0.05
# What a roll is longer by than an early braking leaves of it is known to this many standard deviations of its edges.
LEFT_SIGMAS = 3.0
# Where the slowing was over, whatever made that; and all that is told of where a lap slowed.
SLOWED = (Kind.SLOWED_EARLY, Kind.SLOWED_LATE)
BY_BRAKE = (*SLOWED, Kind.EARLY_BRAKING, Kind.LATE_BRAKING)
# A speed at the exit to a third of a km/h.
LEAST_EXIT_KMH = 0.3
# What the speed on arrival makes of the braking is known to this share of it, over no less road than this.
ARRIVAL_SHARE = 0.3
# A shorter braking gives no deceleration that an arrival could need.
LEAST_STRETCH_M = 20.0


def arrival(pair: Pair) -> Moved:
    """Speed at the beginning of the window.

    Where a lap brakes before the corner ahead has ended, it arrives slower for that: a speed is
    carried only by so much as there was between both before either braked.
    """
    change, before = (3.6 * (lap - reference) for reference, lap in (pair.driven.arrival_mps, pair.driven.before_mps))
    carried = abs(change) >= LEAST_ARRIVAL_KMH and before * change >= CARRIED_SHARE * change**2
    slows = (Factor.BRAKE_POINT, Factor.BRAKING)
    return Moved(
        Kind.CARRIED_SPEED, pair.start_m, change, 3.6 * pair.doubt.ends_mps[0], beyond_scatter=carried, goes_with=slows
    )


def braking(pair: Pair) -> Moved:
    """Mean deceleration, where both brake.

    Who arrives slower and brakes at the same place as ever needs less: that much of a softer
    braking is the arrival's; and who rolled before the brake needs less too: that much is the coasting's.
    """
    own, change = (g / GRAVITY_MPS2 for g in (pair.anchors[0].braking_mps2, pair.harder_mps2))
    needs = {f: by(pair) / GRAVITY_MPS2 for f, by in ((Factor.COASTING, _rolled_mps2), (Factor.ARRIVAL, _needed_mps2))}
    needed = sum(needs.values())
    explained = min(needed / change, 1.0) if needed * change > 0.0 else 0.0
    # One decision: harder and too early, it stands under the brake point.
    both = _both_slow(pair) and not against(pair)
    least = LEAST_BRAKING_G + LEAST_BRAKING_SHARE * own
    by_whom = sorted(needs, key=lambda f: -abs(needs[f]))
    return Moved(
        Kind.SOFT_BRAKING if change < 0.0 else Kind.HARD_BRAKING,
        pair.anchors[1].brake_m,
        change,
        pair.doubt.braking * own,
        beyond_scatter=both and abs(change) * (1.0 - explained) >= least + ARRIVAL_SHARE * abs(needed),
        goes_with=tuple(f for f in by_whom if needs[f] * change > 0.0 and abs(needs[f]) >= least),
    )


def _both_slow(pair: Pair) -> bool:
    """Whether both slow, and one of them at least by the brake: who only rolls where the other brakes slows softly."""
    braked = [m.brake_on_m is not None for m in pair.marks]
    return any(braked) and all(m.slowing_m is not None for m in pair.marks)


def _rolled_mps2(pair: Pair) -> float:
    """How much harder the lap must brake only because it rolled for less before the brake; softer for more, 0 for as long a roll."""
    if not coasting(pair).beyond_scatter:
        return 0.0
    reference, lap = pair.driven.rolled_off
    return (reference - lap) / max(pair.anchors[1].slowed_m - pair.anchors[1].brake_m, LEAST_STRETCH_M)


def _needed_mps2(pair: Pair) -> float:
    """How much harder the lap must brake from the reference's brake point only because of how fast it arrives; 0 from another one."""
    reference, lap = pair.driven.slowing_mps
    if brake_point(pair).beyond_scatter or not arrival(pair).beyond_scatter:
        return 0.0
    stretch = pair.anchors[0].slowed_m - pair.anchors[0].brake_m
    return 0.5 * (lap**2 - reference**2) / max(stretch, LEAST_STRETCH_M)


def coasting(pair: Pair) -> Moved:
    """Time on neither pedal.

    Who is quicker rolls the same metres in less: that is no shorter roll.  Who braked early, and
    rolls from there to where he always picks up, made the roll by the brake point: it is no cause of its own.
    """
    reference, lap = pair.driven.coast_s
    change = lap - reference
    beyond = lap - reference * sqrt(pair.anchors[0].least / max(pair.anchors[1].least, 1.0))
    at, sigma = pair.anchors[1].released_m, pair.doubt.coast_s
    least = LEAST_COAST_S + LEAST_COAST_SHARE * reference
    told = pair.marks[1].coast_s - pair.marks[0].coast_s
    beyond_scatter = (
        min(abs(change), abs(beyond)) >= least
        and change * beyond > 0.0
        and told * change > -LEAST_COAST_S * abs(change)
    )
    # Told is no more than the marks show, where they show it.
    shown = change if abs(told) < LEAST_COAST_S else min(abs(change), abs(told)) * (1.0 if change > 0.0 else -1.0)
    left = _left_by_braking_s(pair)
    if left * change > 0.0:
        # Both laps' edges on each pedal stand between the two.
        beyond_scatter = beyond_scatter and abs(change) - abs(left) >= least + LEFT_SIGMAS * sigma
    goes_with = (Factor.BRAKE_POINT,) if left else ()
    return Moved(Kind.COASTING, at, shown, sigma, beyond_scatter=beyond_scatter, goes_with=goes_with, shown=change)


def _left_by_braking_s(pair: Pair) -> float:
    """The roll that an early braking leaves until the other lap is off the brake, seconds; negative where the reference braked early, 0 where nobody rolls on."""
    reference, lap = pair.anchors
    if not (lap.rolls_below or reference.rolls_below):
        return 0.0
    slower = min(reference.least, lap.least)
    return (reference.released_m - lap.released_m) / sqrt(2.0 * max(slower, 1.0))


def pickup(pair: Pair) -> Moved:
    """Pick-up point."""
    on = [m.throttle_on_m for m in pair.marks]
    change = on[1] - on[0] if on[0] is not None and on[1] is not None else 0.0
    kind = Kind.LATE_THROTTLE if change > 0.0 else Kind.EARLY_THROTTLE
    beyond_scatter = abs(change) >= LEAST_MOVE_M
    # A roll before the pick-up, and the speed that it leaves there, is the coasting's, or of the brake point that left it.
    rolls = (Factor.COASTING, Factor.BRAKE_POINT) if any(a.rolls_below for a in pair.anchors) else ()
    return Moved(
        kind, pair.anchors[1].pickup_m, change, pair.doubt.pickup_m, beyond_scatter=beyond_scatter, goes_with=rolls
    )


def dips(pair: Pair) -> Moved:
    """Dips of the throttle that the other lap does not have, of those that the marks count."""
    own = (min(a.own_dips, m.throttle_dips) for a, m in zip(pair.anchors, pair.marks, strict=True))
    reference, lap = own
    change = lap - reference
    return Moved(Kind.THROTTLE_HESITATION, pair.anchors[1].pickup_m, float(change), 0.0, beyond_scatter=change != 0)


def drive(pair: Pair) -> Moved:
    """Speed at the window's end, or at the exit where the speeds have met again by then.

    Who is no slower at the exit, and slower at the straight's end, lost it on the straight.
    """
    end, drive_kmh = 3.6 * (pair.driven.leaving_mps[1] - pair.driven.leaving_mps[0]), pair.driven.drive_kmh
    exits = pair.faster_kmh("exit_speed_kmh")
    met = end * drive_kmh <= 0.0 or abs(end) < LEAST_EXIT_KMH
    change = exits[1] if met else end
    side = -1.0 if drive_kmh < 0.0 else 1.0
    sigma = 3.6 * pair.doubt.ends_mps[1]
    at_exit = all(side * kmh > -max(LEAST_EXIT_KMH, sigma) for kmh in exits)
    slow, fast = (Kind.SLOW_EXIT, Kind.FAST_EXIT) if at_exit else (Kind.SLOW_STRAIGHT, Kind.FAST_STRAIGHT)
    beyond_scatter = side * change >= LEAST_EXIT_KMH
    return Moved(slow if side < 0.0 else fast, pair.anchors[1].pickup_m, change, sigma, beyond_scatter=beyond_scatter)


def moved_of(pair: Pair) -> dict[Factor, Moved]:
    """How far the mark of each factor has moved; one word for one thing: who is slow too early is so once."""
    moved = {factor: measure(pair) for factor, measure in MOVED.items()}
    brake, lowest = moved[Factor.BRAKE_POINT], moved[Factor.SLOWEST]
    if brake.beyond_scatter and lowest.kind in BY_BRAKE and (brake.kind in SLOWED or lowest.kind == brake.kind):
        moved[Factor.SLOWEST] = lowest._replace(beyond_scatter=False, goes_with=(Factor.BRAKE_POINT,))
    return moved


def together(moved: Mapping[Factor, Moved]) -> dict[Factor, tuple[Factor, ...]]:
    """The factors that are exchanged together, by the one among them whose mark has moved.

    Those with no such one are left out.
    """
    out = {factor: [factor] for factor, mark in moved.items() if mark.beyond_scatter}
    for factor, mark in moved.items():
        leader = next((f for f in (*mark.goes_with, *GOES_WITH[factor]) if f in out), None)
        if not mark.beyond_scatter and leader is not None:
            out[leader].append(factor)
    return {leader: tuple(each) for leader, each in out.items()}


MOVED: Final[dict[Factor, Callable[[Pair], Moved]]] = {
    Factor.ARRIVAL: arrival,
    Factor.BRAKE_POINT: brake_point,
    Factor.BRAKING: braking,
    Factor.SLOWEST: slowest,
    Factor.COASTING: coasting,
    Factor.PICKUP: pickup,
    Factor.DIPS: dips,
    Factor.DRIVE: drive,
}
