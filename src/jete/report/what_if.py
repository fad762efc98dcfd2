"""What changes of corners would do, as JSON and for people: always with what stays, with its interval and with the cautions."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Final

import numpy as np

from jete.core.whatif.asked_for import UNITS
from jete.core.whatif.worked_out import LEVEL, within
from jete.report.contract import lap_json
from jete.report.sentences import EVEN_S
from jete.report.units import METRIC, Units
from jete.report.words import MINUS, difference

if TYPE_CHECKING:
    from jete.core.whatif.asked_for import Keep, SetTo, What
    from jete.core.whatif.grip_shown import GripShown
    from jete.core.whatif.worked_out import ChangedCorner, KnownVehicle
    from jete.desk.changes import WhatIf

DIGITS, PLACE_DIGITS = 6, 3
# The grip is told at speeds so far apart.
GRIP_STEP_KMH = 20
CAUTIONS: Final = (
    "Closed circuits only; the circuit's rules and its marshals come first.",
    "Small steps, one at a time; a qualified instructor decides.",
    "Walls, run-off, tyres and weather are not in the data.",
)
THING_WORDS: Final[dict[What, str]] = {
    "brake_on_m": "brake point",
    "min_speed_kmh": "lowest speed",
    "throttle_on_m": "pick-up",
    "feed": "feeding",
}
# What stays, as the ends of a switch.
KEEP_WORDS: Final[dict[Keep, str]] = {
    "slow_point_m": "same slow point",
    "braking": "as hard",
    "brake_on_m": "same brake point",
    "feed": "fed as before",
    "throttle_on_m": "picked up there",
}


def what_if_document(found: WhatIf) -> dict[str, Any]:
    """The document of ``jete what-if --json``."""
    return {
        "schema": "jete.what-if/1",
        "level": LEVEL,
        "lap": {
            **lap_json(found.held.passage.lap),
            "length_m": round(found.held.passage.motion.length_m, PLACE_DIGITS),
        },
        "vehicle": _vehicle(found.vehicle),
        "changes": [_change(found, change) for change in found.changes],
        "together": _seconds(found.together),
        "cautions": list(CAUTIONS),
    }


def _vehicle(known: KnownVehicle) -> dict[str, Any]:
    return {
        "laps": known.laps,
        "offered": known.why is None,
        "why": known.why,
        "fit": {
            "speed_rms_kmh": round(known.error.speed_rms_kmh, PLACE_DIGITS),
            "piece_rms_s": round(known.error.piece_rms_s, DIGITS),
        },
        "grip": [_grip_at(known.grip, kmh) for kmh in _speeds_kmh(known)],
    }


def _speeds_kmh(known: KnownVehicle) -> list[int]:
    low, high = (round(v * 3.6 / GRIP_STEP_KMH) * GRIP_STEP_KMH for v in known.speeds_mps)
    return list(range(max(low, GRIP_STEP_KMH), high + 1, GRIP_STEP_KMH))


def _grip_at(grip: GripShown, kmh: int) -> dict[str, float]:
    whole = grip.lateral_mps2(kmh / 3.6)
    return {
        "speed_kmh": kmh,
        "braking_mps2": round(grip.braking.share * whole, PLACE_DIGITS),
        "driving_mps2": round(grip.driving.share * whole, PLACE_DIGITS),
        "lateral_mps2": round(whole, PLACE_DIGITS),
        "sigma_mps2": round(grip.sigma * whole, PLACE_DIGITS),
    }


def _change(found: WhatIf, change: ChangedCorner) -> dict[str, Any]:
    corner = found.corner(change)
    told = (change.gap_s, change.sigma_s) if change.gap_s is not None else None
    start, end = change.window_m
    return {
        "corner": change.asked.corner,
        "id": corner.id,
        "number": corner.shown,
        "sets": [
            {"what": one.what, "from": _place(old), "to": _place(new), "unit": UNITS[one.what]}
            for one, (old, new) in zip(change.asked.sets, change.values, strict=True)
        ],
        "keeps": [one.keep for one in change.asked.sets],
        "offered": change.offered,
        "why": change.why,
        **_seconds(told),
        "carried_s": None if change.carried_s is None else round(change.carried_s, DIGITS),
        "grip_used": None if change.grip_used is None else round(change.grip_used, 4),
        "window_start_m": round(start, PLACE_DIGITS),
        "window_end_m": round(end, PLACE_DIGITS),
        "trace": {
            name: np.round(values, digits).tolist() if change.offered else []
            for name, values, digits in (
                ("distance_m", change.trace.place_m, PLACE_DIGITS),
                ("speed_kmh", change.trace.speed_kmh, PLACE_DIGITS),
                ("gap_s", change.trace.gap_s, DIGITS),
            )
        },
    }


def _place(value: float | None) -> float | None:
    return None if value is None else round(value, PLACE_DIGITS)


def _seconds(told: tuple[float, float] | None) -> dict[str, float | None]:
    """A gap with its interval; null where none is told."""
    if told is None:
        return {"gap_s": None, "gap_low_s": None, "gap_high_s": None}
    low, high = within(*told)
    return {"gap_s": round(told[0], DIGITS), "gap_low_s": round(low, DIGITS), "gap_high_s": round(high, DIGITS)}


def set_words(one: SetTo, units: Units = METRIC) -> str:
    """A change with what stays, in words.

    >>> from jete.core.whatif.asked_for import asked_change
    >>> set_words(asked_change(1, ["brake_on_m=+5"]).sets[0])
    'brake 5 m later and harder, same slow point'
    >>> set_words(asked_change(1, ["min_speed_kmh=-2"], ["brake_on_m"]).sets[0])
    '2 km/h less at the slow point, braked there, harder'
    """
    size, more = size_words(one.what, abs(one.delta), units), one.delta > 0.0
    if not one.delta:
        return f"{THING_WORDS[one.what]} as it was"
    if one.what == "brake_on_m":
        harder = "harder" if more else "softer"
        stays = (
            f"and {harder}, same slow point" if one.keep == "slow_point_m" else "the whole slowing, as hard as before"
        )
        return f"brake {size} {'later' if more else 'earlier'}{' ' if stays.startswith('and') else ', '}{stays}"
    if one.what == "min_speed_kmh":
        stays = "as hard as before" if one.keep == "braking" else f"braked there, {'softer' if more else 'harder'}"
        return f"{size} {'more' if more else 'less'} at the slow point, {stays}"
    if one.what == "throttle_on_m":
        return f"pick up {size} {'later' if more else 'earlier'}, fed as before"
    return f"feed {size} {'quicker' if more else 'slower'}, picked up there"


def size_words(what: What, size: float, units: Units = METRIC) -> str:
    """How much of something is changed, with its unit.

    >>> size_words("brake_on_m", 5.0), size_words("min_speed_kmh", 1.5), size_words("feed", 0.3)
    ('5 m', '1.5 km/h', '30 %')
    """
    if what == "feed":
        return f"{100.0 * size:.0f} %"
    if what == "min_speed_kmh":
        return f"{units.speed_of(size / 3.6):.3g} {units.speed}"
    return f"{units.length_of(size):.3g} {units.length}"


def seconds_words(told: tuple[float, float] | None) -> str:
    """A gap with its interval, in words: −0.041 s (−0.060 to −0.020)."""
    if told is None:
        return "no seconds"
    low, high = within(*told)
    return f"{difference(told[0])} s ({difference(low)} to {difference(high)})"


def carried_words(change: ChangedCorner) -> str:
    """What of a change's seconds reaches the next corner; empty for nothing to speak of."""
    carried = change.carried_s or 0.0
    return f"of it {difference(carried)} s is carried to the next corner" if abs(carried) >= EVEN_S else ""


def change_words(found: WhatIf, change: ChangedCorner) -> str:
    """One line on a change."""
    sets = "; ".join(set_words(one) for one in change.asked.sets)
    head = f"corner {found.corner(change).shown}: {sets}"
    if change.gap_s is None:
        return f"{head}: not offered: {change.why}."
    carried = carried_words(change)
    later = f", {carried}" if carried else ""
    return f"{head}: {seconds_words((change.gap_s, change.sigma_s))}{later}; grip used {100.0 * (change.grip_used or 0.0):.0f} %."


def what_if_table(found: WhatIf) -> str:
    """The changes for people on a terminal."""
    known, lap = found.vehicle, found.held.passage.lap
    lines = [
        f"{lap.label}: what changes of it would do to the lap time ({MINUS} is quicker), true in nine of ten cases"
    ]
    if known.why is not None:
        lines.append(f"Nothing is offered: {known.why}.")
    else:
        fit = f"{known.error.speed_rms_kmh:.1f} km/h and {known.error.piece_rms_s:.3f} s a drive out"
        lines.append(
            f"Vehicle and grip learnt from {known.laps} {'lap' if known.laps == 1 else 'laps'}; the model misses {fit}."
        )
    lines += [change_words(found, change) for change in found.changes]
    if len(found.changes) > 1:
        lines.append(f"together: {seconds_words(found.together)}.")
    return "\n".join([*lines, "", *CAUTIONS]) + "\n"
