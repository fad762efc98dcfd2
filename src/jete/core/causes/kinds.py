"""The causes of lost and gained time: one record each, which the method, the words and the tests read.

A *factor* is one thing in which two laps can differ and that a hybrid lap takes from one
or the other; a *kind* is a factor with the way it differs (braked earlier, or later).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final, Literal


class Factor(StrEnum):
    """What hybrids exchange, in the order in which it is driven."""

    ARRIVAL = "arrival"
    BRAKE_POINT = "brake_point"
    BRAKING = "braking"
    SLOWEST = "slowest"
    COASTING = "coasting"
    PICKUP = "pickup"
    DIPS = "dips"
    DRIVE = "drive"


class Kind(StrEnum):
    """What a lap did otherwise than the reference; the names of the JSON."""

    CARRIED_SPEED = "carried_speed"
    EARLY_BRAKING = "early_braking"
    LATE_BRAKING = "late_braking"
    SLOWED_EARLY = "slowed_early"
    SLOWED_LATE = "slowed_late"
    OVERSHOT = "overshot"
    SOFT_BRAKING = "soft_braking"
    HARD_BRAKING = "hard_braking"
    OVERSLOWING = "overslowing"
    MORE_SPEED = "more_speed"
    COASTING = "coasting"
    LATE_THROTTLE = "late_throttle"
    EARLY_THROTTLE = "early_throttle"
    THROTTLE_HESITATION = "throttle_hesitation"
    SLOW_EXIT = "slow_exit"
    FAST_EXIT = "fast_exit"
    SLOW_STRAIGHT = "slow_straight"
    FAST_STRAIGHT = "fast_straight"


Unit = Literal["m", "km/h", "g", "s", "dips"]
Place = Literal["approach", "braking", "turning", "exit"]


@dataclass(frozen=True, kw_only=True)
class Cause:
    """One kind of cause.

    Attributes:
        kind: its name.
        factor: what hybrids exchange for it.
        title: what it is called in a word or two.
        unit: of its measure.
        where: the phase in which it begins to cost.
        measured: what its measure is.
        said: the sentence on it, with places for what a lap's numbers and marks fill in (``jete.report.sentences``).
        also: what it may rightly be called where no mark shows it: who keeps more speed and then waits is down to the
            reference's lowest speed later, and no faster at the slowest.
        costs: the sign that its cost has for a positive measure; 0 where it can be either.
        mostly: the sign that the cost of a pedal point has as a rule, whatever its measure; 0 for none.
        of_the_line: whether its measure is a speed in the bend, which depends on the line driven, and that only positions show.
    """

    kind: Kind
    factor: Factor
    title: str
    unit: Unit
    where: Place
    measured: str
    said: str
    also: tuple[Kind, ...] = ()
    costs: int = 0
    mostly: int = 0
    of_the_line: bool = False


_ARRIVED = "speed at the window's beginning, against the reference's"
_BRAKES = "brake point (lift where nobody brakes), against the reference's; negative is earlier"
_DOWN = "where the lap is down to the lowest speed that both reach, against the reference; negative is earlier"
_SLOWS = "mean deceleration over the braking, against the reference's; negative is softer"
_SLOWEST = "lowest speed, against the reference's"
_PICKED = "where the throttle begins the rise that drives on, against the reference's"
_LEFT = "speed at the window's end, against the reference's; the exit speed does not say otherwise"
_GAINED = "speed at the window's end, against the reference's, where the exit speed is no lower, or no higher"
_RAN_ON = "slow point, past the reference's: missed the apex or ran wide, with all that follows"
_RECORDS = (
    Cause(kind=Kind.CARRIED_SPEED, factor=Factor.ARRIVAL, title="speed on arrival", unit="km/h", where="approach", measured=_ARRIVED, costs=-1, said="Arrived {size} {faster} from the exit before."),
    Cause(kind=Kind.EARLY_BRAKING, factor=Factor.BRAKE_POINT, title="early braking", unit="m", where="braking", measured=_BRAKES, mostly=1, said="Braked {size} before the reference.", also=(Kind.SLOWED_EARLY,)),
    Cause(kind=Kind.LATE_BRAKING, factor=Factor.BRAKE_POINT, title="late braking", unit="m", where="braking", measured=_BRAKES, mostly=-1, said="Braked {size} past the reference.", also=(Kind.SLOWED_LATE,)),
    Cause(kind=Kind.SLOWED_EARLY, factor=Factor.BRAKE_POINT, title="slowed early", unit="m", where="braking", measured=_DOWN, mostly=1, said="{slowed}."),
    Cause(kind=Kind.SLOWED_LATE, factor=Factor.BRAKE_POINT, title="slowed late", unit="m", where="braking", measured=_DOWN, mostly=-1, said="{slowed}."),
    Cause(kind=Kind.OVERSHOT, factor=Factor.BRAKE_POINT, title="overshot", unit="m", where="turning", measured=_RAN_ON, costs=1, said="Ran on past the apex: slowest {size} after the reference."),
    Cause(kind=Kind.SOFT_BRAKING, factor=Factor.BRAKING, title="soft braking", unit="g", where="braking", measured=_SLOWS, costs=-1, said="Braked {brake}softer by {size} over the braking.", also=(Kind.SLOWED_LATE,)),
    Cause(kind=Kind.HARD_BRAKING, factor=Factor.BRAKING, title="hard braking", unit="g", where="braking", measured=_SLOWS, costs=-1, said="Braked {brake}harder by {size} over the braking.", also=(Kind.SLOWED_EARLY,)),
    Cause(kind=Kind.OVERSLOWING, factor=Factor.SLOWEST, title="overslowing", unit="km/h", where="turning", measured=_SLOWEST, costs=-1, of_the_line=True, said="Slowed {size} more than the reference.", also=(Kind.SLOWED_EARLY, Kind.EARLY_BRAKING)),
    Cause(kind=Kind.MORE_SPEED, factor=Factor.SLOWEST, title="more speed", unit="km/h", where="turning", measured=_SLOWEST, costs=-1, of_the_line=True, said="Kept {size} more at the slow point.", also=(Kind.SLOWED_LATE, Kind.LATE_BRAKING)),
    Cause(kind=Kind.COASTING, factor=Factor.COASTING, title="coasting", unit="s", where="turning", measured="time on neither pedal up to the pick-up, against the reference's", costs=1, said="On neither pedal {size} {longer}."),
    Cause(kind=Kind.LATE_THROTTLE, factor=Factor.PICKUP, title="late throttle", unit="m", where="exit", measured=_PICKED, mostly=1, said="Picked up the throttle {size} later."),
    Cause(kind=Kind.EARLY_THROTTLE, factor=Factor.PICKUP, title="early throttle", unit="m", where="exit", measured=_PICKED, mostly=-1, said="Picked up the throttle {size} earlier."),
    Cause(kind=Kind.THROTTLE_HESITATION, factor=Factor.DIPS, title="hesitation", unit="dips", where="exit", measured="times the throttle comes off again before it is full, against the reference's", costs=1, said="{dips}"),
    Cause(kind=Kind.SLOW_EXIT, factor=Factor.DRIVE, title="slow exit", unit="km/h", where="exit", measured=_LEFT, costs=-1, of_the_line=True, said="{size} slower {where}, for another cause than the pick-up.", also=(Kind.SLOW_STRAIGHT,)),
    Cause(kind=Kind.FAST_EXIT, factor=Factor.DRIVE, title="fast exit", unit="km/h", where="exit", measured=_LEFT, costs=-1, of_the_line=True, said="{size} faster {where}, for another cause than the pick-up.", also=(Kind.FAST_STRAIGHT,)),
    Cause(kind=Kind.SLOW_STRAIGHT, factor=Factor.DRIVE, title="slow straight", unit="km/h", where="exit", measured=_GAINED, costs=-1, of_the_line=True, said="{size} slower at the straight's end, though not at the exit."),
    Cause(kind=Kind.FAST_STRAIGHT, factor=Factor.DRIVE, title="fast straight", unit="km/h", where="exit", measured=_GAINED, costs=-1, of_the_line=True, said="{size} faster at the straight's end, though not at the exit."),
)  # fmt: skip
CAUSES: Final[dict[Kind, Cause]] = {c.kind: c for c in _RECORDS}


# By which factors' cause a factor is told whose own mark has not moved, the likeliest first: who is quicker at the slow
# point is so on the way there too, with brake and foot as ever.
GOES_WITH: Final[dict[Factor, tuple[Factor, ...]]] = {
    Factor.ARRIVAL: (),
    Factor.BRAKE_POINT: (Factor.BRAKING, Factor.SLOWEST, Factor.COASTING),
    Factor.BRAKING: (Factor.BRAKE_POINT, Factor.SLOWEST, Factor.COASTING),
    Factor.SLOWEST: (Factor.COASTING, Factor.BRAKE_POINT, Factor.BRAKING, Factor.PICKUP),
    Factor.COASTING: (Factor.SLOWEST, Factor.BRAKE_POINT, Factor.BRAKING),
    Factor.PICKUP: (Factor.DRIVE, Factor.SLOWEST),
    Factor.DIPS: (Factor.DRIVE, Factor.PICKUP),
    Factor.DRIVE: (Factor.PICKUP, Factor.DIPS),
}
