"""A finding as a sentence, made once and with its units: the core gives kind and measure, the words stand here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.report.units import METRIC, Units

if TYPE_CHECKING:
    from jete.core.causes.moved import Kind


def sentence(kind: Kind, measure: float, units: Units = METRIC) -> str:
    """One sentence on what the lap did, for people; sizes without sign.

    Args:
        kind: of the finding.
        measure: in the unit of its kind (m, km/h, g, s, times).
        units: that it is told in.

    >>> sentence("early_braking", -9.04), sentence("early_braking", -9.04, Units("mph", "ft", "psi"))
    ('Braked 9 m before the reference.', 'Braked 30 ft before the reference.')
    """
    size = abs(measure)
    more = measure > 0.0
    length, speed = units.length_text(size), units.speed_text(size)
    return {
        "carried_speed": f"Arrived {speed} {'faster' if more else 'slower'} from the exit before.",
        "early_braking": f"Braked {length} before the reference.",
        "late_braking": f"Braked {length} past the reference.",
        "soft_braking": f"Braked softer by {size:.2f} g over the braking.",
        "hard_braking": f"Braked harder by {size:.2f} g over the braking.",
        "overslowing": f"Slowed {speed} more than the reference.",
        "more_speed": f"Kept {speed} more at the slow point.",
        "coasting": f"On neither pedal {size:.2f} s {'longer' if more else 'less'}.",
        "late_throttle": f"Picked up the throttle {length} later.",
        "early_throttle": f"Picked up the throttle {length} earlier.",
        "throttle_hesitation": _dips_sentence(measure),
        "slow_exit": f"Left {speed} slower, for another cause than the pick-up.",
        "fast_exit": f"Left {speed} faster, for another cause than the pick-up.",
    }[kind]


def _dips_sentence(measure: float) -> str:
    count = round(abs(measure))
    times = "once" if count == 1 else f"{count} times"
    return (
        f"Came off the throttle again {times}."
        if measure > 0
        else f"Fed the throttle without {count} of the reference's lifts."
    )
