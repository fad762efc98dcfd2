"""What the program may call a fault: its kind, and what a kind is called where no mark shows it.

Who keeps more speed and then waits is down to the reference's lowest speed later, and no faster at the slowest: that
is told as slowed late, or as late braking where the brake point shows it.
"""

from __future__ import annotations

from typing import Final

from jete.core.causes.kinds import Kind

_CALLED: Final = {"waiting_foot": Kind.LATE_THROTTLE, "early_rolling": Kind.EARLY_BRAKING}
_ALSO: Final[dict[Kind, tuple[Kind, ...]]] = {
    Kind.EARLY_BRAKING: (Kind.SLOWED_EARLY,),
    Kind.LATE_BRAKING: (Kind.SLOWED_LATE,),
    Kind.HARD_BRAKING: (Kind.SLOWED_EARLY,),
    Kind.SOFT_BRAKING: (Kind.SLOWED_LATE,),
    Kind.OVERSLOWING: (Kind.SLOWED_EARLY, Kind.EARLY_BRAKING),
    Kind.MORE_SPEED: (Kind.SLOWED_LATE, Kind.LATE_BRAKING),
    Kind.SLOW_EXIT: (Kind.SLOW_STRAIGHT,),
    Kind.FAST_EXIT: (Kind.FAST_STRAIGHT,),
}


def names_of(fault: str) -> tuple[Kind, ...]:
    """What a fault of the simulator's drivers may be called, its own kind first.

    >>> names_of("waiting_foot"), names_of("late_braking")
    ((<Kind.LATE_THROTTLE: 'late_throttle'>,), (<Kind.LATE_BRAKING: 'late_braking'>, <Kind.SLOWED_LATE: 'slowed_late'>))
    """
    own = _CALLED.get(fault) or Kind(fault)
    return (own, *_ALSO.get(own, ()))
