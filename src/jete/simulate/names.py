"""What the program may call a fault of the simulator's drivers: its kind, and what that is called where no mark shows it."""

from __future__ import annotations

from typing import Final

from jete.core.causes.kinds import CAUSES, Kind

_CALLED: Final = {"waiting_foot": Kind.LATE_THROTTLE, "early_rolling": Kind.EARLY_BRAKING}


def names_of(fault: str) -> tuple[Kind, ...]:
    """What a fault of the simulator's drivers may be called, its own kind first.

    >>> names_of("waiting_foot"), names_of("late_braking")
    ((<Kind.LATE_THROTTLE: 'late_throttle'>,), (<Kind.LATE_BRAKING: 'late_braking'>, <Kind.SLOWED_LATE: 'slowed_late'>))
    """
    own = _CALLED.get(fault) or Kind(fault)
    return (own, *CAUSES[own].also)
