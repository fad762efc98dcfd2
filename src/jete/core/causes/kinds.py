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


@dataclass(frozen=True)
class Cause:
    """One kind of cause.

    Attributes:
        kind: its name.
        factor: what hybrids exchange for it.
        title: what it is called in a word or two.
        unit: of its measure.
        where: the phase in which it begins to cost.
        measured: what its measure is.
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
    Cause(Kind.CARRIED_SPEED, Factor.ARRIVAL, "speed on arrival", "km/h", "approach", _ARRIVED, costs=-1),
    Cause(Kind.EARLY_BRAKING, Factor.BRAKE_POINT, "early braking", "m", "braking", _BRAKES, mostly=1),
    Cause(Kind.LATE_BRAKING, Factor.BRAKE_POINT, "late braking", "m", "braking", _BRAKES, mostly=-1),
    Cause(Kind.SLOWED_EARLY, Factor.BRAKE_POINT, "slowed early", "m", "braking", _DOWN, mostly=1),
    Cause(Kind.SLOWED_LATE, Factor.BRAKE_POINT, "slowed late", "m", "braking", _DOWN, mostly=-1),
    Cause(Kind.OVERSHOT, Factor.BRAKE_POINT, "overshot", "m", "turning", _RAN_ON, costs=1),
    Cause(Kind.SOFT_BRAKING, Factor.BRAKING, "soft braking", "g", "braking", _SLOWS, costs=-1),
    Cause(Kind.HARD_BRAKING, Factor.BRAKING, "hard braking", "g", "braking", _SLOWS, costs=-1),
    Cause(Kind.OVERSLOWING, Factor.SLOWEST, "overslowing", "km/h", "turning", _SLOWEST, costs=-1, of_the_line=True),
    Cause(Kind.MORE_SPEED, Factor.SLOWEST, "more speed", "km/h", "turning", _SLOWEST, costs=-1, of_the_line=True),
    Cause(Kind.COASTING, Factor.COASTING, "coasting", "s", "turning", "time on neither pedal up to the pick-up, against the reference's", costs=1),
    Cause(Kind.LATE_THROTTLE, Factor.PICKUP, "late throttle", "m", "exit", _PICKED, mostly=1),
    Cause(Kind.EARLY_THROTTLE, Factor.PICKUP, "early throttle", "m", "exit", _PICKED, mostly=-1),
    Cause(Kind.THROTTLE_HESITATION, Factor.DIPS, "hesitation", "dips", "exit", "times the throttle comes off again before it is full, against the reference's", costs=1),
    Cause(Kind.SLOW_EXIT, Factor.DRIVE, "slow exit", "km/h", "exit", _LEFT, costs=-1, of_the_line=True),
    Cause(Kind.FAST_EXIT, Factor.DRIVE, "fast exit", "km/h", "exit", _LEFT, costs=-1, of_the_line=True),
    Cause(Kind.SLOW_STRAIGHT, Factor.DRIVE, "slow straight", "km/h", "exit", _GAINED, costs=-1, of_the_line=True),
    Cause(Kind.FAST_STRAIGHT, Factor.DRIVE, "fast straight", "km/h", "exit", _GAINED, costs=-1, of_the_line=True),
)  # fmt: skip
CAUSES: Final[dict[Kind, Cause]] = {c.kind: c for c in _RECORDS}
