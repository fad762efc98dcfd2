"""Whether a lap braked too early or too late, or its brake point only goes with something else.

Two laps differ by where the brake goes on, and by where the slowing is over.  Both can come from
something else:

    softer or harder braking, another lowest speed  ──>  need another brake point
    a roll before the brake, another arrival        ──>  end the slowing elsewhere from the same one

What is left when these are taken away is early, or late, braking.
"""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

from jete.core.causes.kinds import Factor, Kind
from jete.core.causes.verdict.lowest_speed import slowed_by_kmh
from jete.core.causes.verdict.pair import LEAST_MOVE_M, Moved

if TYPE_CHECKING:
    from jete.core.causes.verdict.pair import Pair

# A foot meets the whole of a slowing to a metre,
LEAST_SHIFT_M = 1.0
# and a slowing as a whole against its brake point to five,
LEAST_AGAINST_M = 5.0
# and to three where nothing else moved it, or so many of its own standard deviations.
LEAST_UNMADE_M, UNMADE_SIGMAS = 3.0, 4.0
# A brake point that lies no farther off than its deceleration needs, and this share of it.
BEYOND_SHARE = 0.15
# Who goes on to a speed that is lower by so much slows otherwise for it.
LEAST_MADE_KMH = 1.5
# A roll and an arrival that make so much of a shift of the slowing have made it; of them such as make this much.
MADE_SHARE, NAMED_SHARE = 0.4, 0.15


def brake_point(pair: Pair) -> Moved:
    """Brake point, or lift where neither brakes, where the whole slowing has moved with it; else where that was over.

    Who brakes 5 m later, and so much harder that he is slow 20 m before the reference, has not
    braked early: he slowed early.  Where both begin before the window (braking across the line), or
    one brakes and the other lifts, no pair of marks tells, and the slowing does.
    """
    shift, lap = pair.brake_shift_m, pair.marks[1]
    apart = pair.brakes_apart_m
    measure = shift if apart is None else apart
    elsewhere = abs(measure) > (LEAST_MOVE_M if apart is None else max(LEAST_MOVE_M, pair.doubt.brake_m))
    needed = _needed_for(pair, measure) if elsewhere else ()
    with_it = elsewhere and measure * shift > 0.0 and not needed
    alone = not with_it and (against(pair) or (not elsewhere and _unmade(pair)))
    early, late = (
        (Kind.EARLY_BRAKING, Kind.LATE_BRAKING)
        if with_it and apart is not None
        else (Kind.SLOWED_EARLY, Kind.SLOWED_LATE)
    )
    return Moved(
        early if shift < 0.0 else late,
        lap.onset_m if lap.onset_m is not None else pair.anchors[1].brake_m,
        measure if with_it else pair.down_shift_m,
        pair.doubt.brake_m,
        beyond_scatter=abs(shift) > max(LEAST_SHIFT_M, pair.doubt.brake_m) and (with_it or alone),
        goes_with=needed or _shifted_by(pair),
        shown=shift if alone else None,
    )


def _needed_for(pair: Pair, move_m: float) -> tuple[Factor, ...]:
    """What needs a brake point that is moved by as much, the largest need first; none where it is moved by more.

    Who brakes softer, or slows to less, must begin earlier: that much is not too early.
    """
    needs = _needs_m(pair)
    needed = sum(needs.values())
    beyond = abs(move_m) - abs(needed)
    if needed * move_m <= 0.0 or beyond > max(LEAST_MOVE_M, BEYOND_SHARE * abs(move_m)):
        return ()
    return tuple(sorted((f for f, m in needs.items() if m * move_m > 0.0), key=lambda f: -abs(needs[f])))


def _needs_m(pair: Pair) -> dict[Factor, float]:
    """The metres that the lap's deceleration, and the lowest speed that it slows to, move the brake point by that it needs.

    Where a lap rolls from the brake to its slowest, the deceleration over all of that says nothing of its foot.
    """
    if any(a.rolls_in or a.rolls_below for a in pair.anchors):
        return {}
    reference, lap = (max(a.braking_mps2, 1.0) for a in pair.anchors)
    stretch = pair.anchors[0].slowed_m - pair.anchors[0].brake_m
    needs = {Factor.BRAKING: -stretch * (reference / lap - 1.0)}
    if slowed_by_kmh(pair):
        needs[Factor.SLOWEST] = (pair.anchors[1].least - pair.anchors[0].least) / lap
    return needs


def _unmade(pair: Pair) -> bool:
    """Whether a slowing is over elsewhere from the same brake point, and no roll, arrival or other lowest speed made that.

    By its own deceleration it was braked for too early, or too late, wherever the reference brakes.
    """
    own = pair.anchors[1]
    end_m = pair.doubt.pace * 2.0 * own.least / max(own.braking_mps2, 1.0)
    least = max(LEAST_UNMADE_M, UNMADE_SIGMAS * hypot(pair.doubt.brake_m, end_m))
    lower = slowed_by_kmh(pair)
    by_speed = lower * pair.brake_shift_m > 0.0 and abs(lower) >= LEAST_MADE_KMH
    return abs(pair.brake_shift_m) > least and not by_speed and not _shifted_by(pair)


def _shifted_by(pair: Pair) -> tuple[Factor, ...]:
    """What moved the end of a slowing whose brake point has not moved: a roll before it, or a slower arrival.

    Who comes to the brake slower, and brakes there as ever, is slow too early.  Named are those
    that act the way it has moved, if they make enough of it; the roll first, since it is what the foot did.
    """
    shift = pair.brake_shift_m
    made = zip((Factor.COASTING, Factor.ARRIVAL), pair.driven.shift_made_m, strict=True)
    shares = {f: m / shift for f, m in made if m * shift > 0.0}
    return tuple(f for f, m in shares.items() if m >= NAMED_SHARE) if sum(shares.values()) >= MADE_SHARE else ()


def against(pair: Pair) -> bool:
    """Whether the lap braked later, but so much harder that it was slow too early; or earlier, but so softly that it was slow later."""
    shift = pair.brake_shift_m
    return abs(shift) > LEAST_AGAINST_M and pair.harder_mps2 * shift < 0.0 and _brake_move_m(pair) * shift < 0.0


def _brake_move_m(pair: Pair) -> float:
    """Distance between the brake points; 0 where one is not seen."""
    on = [m.onset_m for m in pair.marks]
    return on[1] - on[0] if on[0] is not None and on[1] is not None else 0.0
