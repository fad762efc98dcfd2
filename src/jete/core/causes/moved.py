"""How far the marks of two laps lie apart at one corner, and how sure that is: one answer for each factor."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, inf, sqrt
from typing import TYPE_CHECKING, Final, Literal, NamedTuple

from jete.core.causes.kinds import CAUSES, Factor, Kind
from jete.core.log.channels import GRAVITY_MPS2

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from jete.core.arrays import FloatArray
    from jete.core.causes.anchors import Anchors
    from jete.core.causes.doubt import Doubt
    from jete.core.causes.driven import Driven
    from jete.core.driving.marks import Marks

# What two passes differ by without anything having been done otherwise.
LEAST_ARRIVAL_KMH = 0.5
# Of what two laps differ by at the beginning of a window, so much was there before either braked, or it was not carried there.
CARRIED_SHARE = 0.3
# A foot meets a place to a metre or two,
LEAST_MOVE_M = 1.5
# And the whole of a slowing to one,
LEAST_SHIFT_M = 1.0
# and a slowing as a whole against its brake point to five,
LEAST_AGAINST_M = 5.0
# and to three where nothing else moved it, or so many of its own standard deviations.
LEAST_UNMADE_M, UNMADE_SIGMAS = 3.0, 4.0
# A deceleration to a hundredth of g,
LEAST_BRAKING_G = 0.01
# And a hundredth of itself,
LEAST_BRAKING_SHARE = 0.01
# A lowest speed to half a km/h,
LEAST_SLOW_KMH = 0.4
# A change of pedals to a twentieth of a second,
LEAST_COAST_S = 0.05
# and a twentieth of a longer roll,
LEAST_COAST_SHARE = 0.05
# What a roll is longer by than an early braking leaves of it is known to this many standard deviations of its edges.
LEFT_SIGMAS = 3.0
# A speed at the exit to a third of a km/h.
LEAST_EXIT_KMH = 0.3
# Where a line was inferred, or seen by positions whose error lasts, the logged speeds must show this share of what it makes of them.
LOGGED_SHARE = 0.3
# What the speed on arrival makes of the braking is known to this share of it, over no less road than this.
ARRIVAL_SHARE = 0.3
# What marks of one driver lie apart by from lap to lap, at the most: metres, g, km/h, seconds.
SCATTERS: Final[dict[Factor, float]] = {
    Factor.BRAKE_POINT: 5.0,
    Factor.BRAKING: 0.05,
    Factor.SLOWEST: 2.0,
    Factor.COASTING: 0.2,
    Factor.PICKUP: 5.0,
}
# And so many of its own standard deviations.
FAR_SIGMAS = 2.5
# A brake point that lies no farther off than its deceleration needs, and this share of it.
BEYOND_SHARE = 0.15
# Who goes on to a speed that is lower by so much slows otherwise for it.
LEAST_MADE_KMH = 1.5
# A roll and an arrival that make so much of a shift of the slowing have made it; of them such as make this much.
MADE_SHARE, NAMED_SHARE = 0.4, 0.15
# A shorter braking gives no deceleration that an arrival could need.
LEAST_STRETCH_M = 20.0


LineSeen = Literal["seen", "doubtful", "unseen"]


@dataclass(frozen=True, eq=False)
class Pair:
    """Both laps at one corner: marks and anchors, and how they drove its window.

    ``misfit_s`` is what the profiles of both laps miss of the gap on each stretch, (S,); ``line`` says whether the
    lines were seen by positions, were seen by such whose error lasts, or were not;
    ``scale`` brings the lap's speeds on the reference's odometer.
    """

    marks: tuple[Marks, Marks]
    anchors: tuple[Anchors, Anchors]
    brake_shift_m: float
    driven: Driven
    start_m: float
    end_m: float
    doubt: Doubt
    misfit_s: FloatArray
    line: LineSeen = "seen"
    scale: float = 1.0


class Moved(NamedTuple):
    """A mark's difference in its kind's unit, its standard deviation, and whether there is any to speak of.

    ``goes_with`` are factors that its factor goes along with before others, where it has not moved itself.
    ``shown`` is the difference that shows that it was driven otherwise, where that is another than the one that is told.
    """

    kind: Kind
    at_m: float
    measure: float
    sigma: float
    really: bool
    goes_with: tuple[Factor, ...] = ()
    shown: float | None = None

    @property
    def size(self) -> float:
        """How far it has moved, in its kind's unit, without sign."""
        return abs(self.measure if self.shown is None else self.shown)

    @property
    def sigmas(self) -> float:
        """How many standard deviations the mark has moved by."""
        return self.size / self.sigma if self.sigma > 0.0 else inf

    @property
    def far(self) -> float:
        """How far it has moved beyond what feet and sensors scatter by: 0 for no more than that, 1 for twice as much."""
        scatter = SCATTERS.get(CAUSES[self.kind].factor, inf)
        return min(max(self.size / (scatter + FAR_SIGMAS * self.sigma) - 1.0, 0.0), 1.0)


def arrival(pair: Pair) -> Moved:
    """Speed at the beginning of the window.

    Where a lap brakes before the corner ahead has ended, it arrives slower for that: a speed is
    carried only by so much as there was between both before either braked.
    """
    change, before = (3.6 * (lap - reference) for reference, lap in (pair.driven.arrival_mps, pair.driven.before_mps))
    carried = abs(change) >= LEAST_ARRIVAL_KMH and before * change >= CARRIED_SHARE * change**2
    slows = (Factor.BRAKE_POINT, Factor.BRAKING)
    return Moved(
        Kind.CARRIED_SPEED, pair.start_m, change, 3.6 * pair.doubt.ends_mps[0], really=carried, goes_with=slows
    )


def brake_point(pair: Pair) -> Moved:
    """Brake point, or lift where neither brakes; of the side to which the whole slowing has moved.

    By what its own deceleration needs: who brakes 5 m later, and so much harder that he is slow
    20 m before the reference, braked too early.
    Where both begin before the window (braking across the line) the slowing tells by how much.
    """
    reference, lap = pair.marks
    shift = pair.brake_shift_m
    on = [m for m in (reference.onset_m, lap.onset_m) if m is not None]
    seen = len(on) == 2 and max(on) > pair.start_m + LEAST_SHIFT_M
    measure = on[1] - on[0] if seen else shift
    at = lap.onset_m if lap.onset_m is not None else pair.anchors[1].brake_m
    moved = abs(shift) > max(LEAST_SHIFT_M, pair.doubt.brake_m)
    needed = _needed_for(pair, measure) if abs(measure) > LEAST_MOVE_M else ()
    with_it = measure * shift > 0.0 and abs(measure) > LEAST_MOVE_M and not needed
    alone = not with_it and (_against(pair) or (abs(measure) <= LEAST_MOVE_M and _unmade(pair)))
    return Moved(
        Kind.EARLY_BRAKING if shift < 0.0 else Kind.LATE_BRAKING,
        at,
        measure,
        pair.doubt.brake_m,
        really=moved and (with_it or alone),
        goes_with=needed or _shifted_by(pair),
        shown=shift if alone else None,
    )


def _needed_for(pair: Pair, move_m: float) -> tuple[Factor, ...]:
    """What needs a brake point that is moved by as much: the lap's own deceleration, or the lowest speed that it slows to.

    Who brakes softer, or slows to less, must begin earlier: that much is not too early.  None where it is moved by more.
    Where a lap rolls from the brake to its slowest, the deceleration over all of that says nothing of its foot.
    """
    if any(a.rolls_in or a.rolls_below for a in pair.anchors):
        return ()
    (reference, lap), needs = (max(a.braking_mps2, 1.0) for a in pair.anchors), {}
    stretch = pair.anchors[0].slowed_m - pair.anchors[0].brake_m
    needs[Factor.BRAKING] = -stretch * (reference / lap - 1.0)
    if slowest(pair).really:
        needs[Factor.SLOWEST] = (pair.anchors[1].least - pair.anchors[0].least) / lap
    needed = sum(needs.values())
    beyond = move_m - needed if move_m > 0.0 else needed - move_m
    if needed * move_m <= 0.0 or beyond > max(LEAST_MOVE_M, BEYOND_SHARE * abs(move_m)):
        return ()
    return tuple(sorted((f for f, m in needs.items() if m * move_m > 0.0), key=lambda f: -abs(needs[f])))


def _unmade(pair: Pair) -> bool:
    """Whether a slowing is over elsewhere from the same brake point, and no roll, arrival or other lowest speed made that.

    By its own deceleration it was braked for too early, or too late, wherever the reference brakes.
    """
    own = pair.anchors[1]
    end_m = pair.doubt.pace * 2.0 * own.least / max(own.braking_mps2, 1.0)
    least = max(LEAST_UNMADE_M, UNMADE_SIGMAS * hypot(pair.doubt.brake_m, end_m))
    lower = slowest(pair)
    by_speed = lower.really and lower.measure * pair.brake_shift_m > 0.0 and abs(lower.measure) >= LEAST_MADE_KMH
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


def _against(pair: Pair) -> bool:
    """Whether the lap braked later, but so much harder that it was slow too early; or earlier, but so softly that it was slow later."""
    shift = pair.brake_shift_m
    return abs(shift) > LEAST_AGAINST_M and _harder_mps2(pair) * shift < 0.0 and _brake_move_m(pair) * shift < 0.0


def _brake_move_m(pair: Pair) -> float:
    """Distance between the brake points; 0 where one is not seen."""
    on = [m.onset_m for m in pair.marks]
    return on[1] - on[0] if on[0] is not None and on[1] is not None else 0.0


def braking(pair: Pair) -> Moved:
    """Mean deceleration, where both brake.

    Who arrives slower and brakes at the same place as ever needs less: that much of a softer
    braking is the arrival's; and who rolled before the brake needs less too: that much is the coasting's.
    """
    own, change = (g / GRAVITY_MPS2 for g in (pair.anchors[0].braking_mps2, _harder_mps2(pair)))
    needs = {f: by(pair) / GRAVITY_MPS2 for f, by in ((Factor.COASTING, _rolled_mps2), (Factor.ARRIVAL, _needed_mps2))}
    needed = sum(needs.values())
    explained = min(needed / change, 1.0) if needed * change > 0.0 else 0.0
    # One decision: harder and too early, it stands under the brake point.
    both = _both_slow(pair) and not _against(pair)
    least = LEAST_BRAKING_G + LEAST_BRAKING_SHARE * own
    by_whom = sorted(needs, key=lambda f: -abs(needs[f]))
    return Moved(
        Kind.SOFT_BRAKING if change < 0.0 else Kind.HARD_BRAKING,
        pair.anchors[1].brake_m,
        change,
        pair.doubt.braking * own,
        really=both and abs(change) * (1.0 - explained) >= least + ARRIVAL_SHARE * abs(needed),
        goes_with=tuple(f for f in by_whom if needs[f] * change > 0.0 and abs(needs[f]) >= least),
    )


def _both_slow(pair: Pair) -> bool:
    """Whether both slow, and one of them at least by the brake: who only rolls where the other brakes slows softly."""
    braked = [m.brake_on_m is not None for m in pair.marks]
    return any(braked) and all(m.slowing_m is not None for m in pair.marks)


def _harder_mps2(pair: Pair) -> float:
    return pair.anchors[1].braking_mps2 - pair.anchors[0].braking_mps2


def _rolled_mps2(pair: Pair) -> float:
    """How much harder the lap must brake only because it rolled for less before the brake; softer for more, 0 for as long a roll."""
    if not coasting(pair).really:
        return 0.0
    reference, lap = pair.driven.rolled_off
    return (reference - lap) / max(pair.anchors[1].slowed_m - pair.anchors[1].brake_m, LEAST_STRETCH_M)


def _needed_mps2(pair: Pair) -> float:
    """How much harder the lap must brake from the reference's brake point only because of how fast it arrives; 0 from another one."""
    reference, lap = pair.driven.slowing_mps
    if brake_point(pair).really or not arrival(pair).really:
        return 0.0
    stretch = pair.anchors[0].slowed_m - pair.anchors[0].brake_m
    return 0.5 * (lap**2 - reference**2) / max(stretch, LEAST_STRETCH_M)


def slowest(pair: Pair) -> Moved:
    """Lowest speed.  A line that was only inferred must not make most of a difference.

    What only waits for the pick-up is not slowed any more, so two laps are held against each
    other before it; told is the difference that anybody reads off the marks.
    """
    change = 3.6 * (sqrt(2.0 * pair.anchors[1].least) - sqrt(2.0 * pair.anchors[0].least))
    logged = 3.6 * (pair.anchors[1].logged_mps - pair.anchors[0].logged_mps)
    seen = pair.line == "seen" or logged * change >= LOGGED_SHARE * change**2
    read = pair.marks[1].min_speed_kmh * pair.scale - pair.marks[0].min_speed_kmh
    return Moved(
        Kind.OVERSLOWING if change < 0.0 else Kind.MORE_SPEED,
        pair.marks[1].slow_point_m,
        read if read * change > 0.0 and not pair.anchors[1].rolls_below else change,
        pair.doubt.pace * pair.marks[0].min_speed_kmh,
        really=seen and abs(change) >= LEAST_SLOW_KMH,
    )


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
    really = min(abs(change), abs(beyond)) >= least and change * beyond > 0.0
    left = _left_by_braking_s(pair)
    if left * change > 0.0:
        # Both laps' edges on each pedal stand between the two.
        really = really and abs(change) - abs(left) >= least + LEFT_SIGMAS * sigma
    return Moved(Kind.COASTING, at, change, sigma, really=really, goes_with=(Factor.BRAKE_POINT,) if left else ())


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
    really = abs(change) >= LEAST_MOVE_M
    # A roll before the pick-up, and the speed that it leaves there, is the coasting's, or of the brake point that left it.
    rolls = (Factor.COASTING, Factor.BRAKE_POINT) if any(a.rolls_below for a in pair.anchors) else ()
    return Moved(kind, pair.anchors[1].pickup_m, change, pair.doubt.pickup_m, really=really, goes_with=rolls)


def dips(pair: Pair) -> Moved:
    """Dips of the throttle that the other lap does not have."""
    change = pair.anchors[1].own_dips - pair.anchors[0].own_dips
    return Moved(Kind.THROTTLE_HESITATION, pair.anchors[1].pickup_m, float(change), 0.0, really=change != 0)


def drive(pair: Pair) -> Moved:
    """Speed at the window's end; the largest in the drive out where the speeds have met again by then."""
    change = 3.6 * (pair.driven.leaving_mps[1] - pair.driven.leaving_mps[0])
    if change * pair.driven.drive_kmh <= 0.0 or abs(change) < LEAST_EXIT_KMH:
        change = pair.driven.drive_kmh
    kind = Kind.SLOW_EXIT if change < 0.0 else Kind.FAST_EXIT
    sigma = 3.6 * pair.doubt.ends_mps[1]
    return Moved(kind, pair.anchors[1].pickup_m, change, sigma, really=abs(change) >= LEAST_EXIT_KMH)


# With which mark's cause a factor goes along whose own mark has not moved, the likeliest first: who is
# quicker at the slow point is so on the way there too, with brake and foot as ever.
GOES_WITH: Final[dict[Factor, tuple[Factor, ...]]] = {
    Factor.BRAKE_POINT: (Factor.BRAKING, Factor.SLOWEST, Factor.COASTING),
    Factor.BRAKING: (Factor.BRAKE_POINT, Factor.SLOWEST, Factor.COASTING),
    Factor.SLOWEST: (Factor.COASTING, Factor.BRAKE_POINT, Factor.BRAKING, Factor.PICKUP),
    Factor.COASTING: (Factor.SLOWEST, Factor.BRAKE_POINT, Factor.BRAKING),
    Factor.PICKUP: (Factor.DRIVE, Factor.SLOWEST),
    Factor.DIPS: (Factor.DRIVE, Factor.PICKUP),
    Factor.DRIVE: (Factor.PICKUP, Factor.DIPS),
}


def together(moved: Mapping[Factor, Moved]) -> dict[Factor, tuple[Factor, ...]]:
    """The factors that are exchanged together, by the one among them whose mark has moved.

    Those with no such one are left out.
    """
    out = {factor: [factor] for factor, mark in moved.items() if mark.really}
    for factor, mark in moved.items():
        leader = next((f for f in (*mark.goes_with, *GOES_WITH.get(factor, ())) if f in out), None)
        if not mark.really and leader is not None:
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
