"""What a person reads off: differences are those of the numbers that stand there, so that they can be checked by eye.

A mark lies at 1684.4 m and at 1669.6 m: what is read is 1684, 1670 and 14 m, in every table and sentence alike.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Final

from jete.core.causes.kinds import Kind
from jete.report.units import KMH, Units

if TYPE_CHECKING:
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.driving.marks import Marks

# How far a measure may lie from the difference of the marks as logged and still be that: odometers agree to 1.5 %.
SAME_M, SAME_SHARE = 0.6, 0.015
BRAKED: Final = (Kind.EARLY_BRAKING, Kind.LATE_BRAKING)
PICKED_UP: Final = (Kind.LATE_THROTTLE, Kind.EARLY_THROTTLE)
SLOWED: Final = (Kind.OVERSLOWING, Kind.MORE_SPEED)
SPEEDS: Final = (*SLOWED, Kind.SLOW_EXIT, Kind.FAST_EXIT, Kind.SLOW_STRAIGHT, Kind.FAST_STRAIGHT)


def apart(reference: float, lap: float, digits: int) -> float:
    """By how much a lap's number lies over the reference's, as both are shown."""
    return round(lap, digits) - round(reference, digits)


def apart_m(reference_m: float, lap_m: float, units: Units) -> float:
    """How far a lap's place lies past the reference's, by the whole units that are shown of both, metres.

    >>> from jete.report.units import METRIC
    >>> apart_m(1684.4, 1669.6, METRIC)
    -14.0
    """
    return apart(units.length_of(reference_m), units.length_of(lap_m), 0) / units.length_of(1.0)


def apart_kmh(reference_kmh: float, lap_kmh: float, units: Units) -> float:
    """By how much a lap is faster than the reference, by the tenths that are shown of both, km/h."""
    return apart(units.speed_of(reference_kmh / KMH), units.speed_of(lap_kmh / KMH), 1) / units.speed_of(1.0 / KMH)


def as_read(loss: CornerLoss, units: Units) -> CornerLoss:
    """A corner whose findings measure what is read off its marks, where they measure these."""
    return replace(loss, findings=tuple(_as_read(f, loss, units) for f in loss.findings))


def _as_read(finding: Finding, loss: CornerLoss, units: Units) -> Finding:
    marks = loss.reference_marks, loss.lap_marks
    if finding.kind in SPEEDS:
        speeds = _speeds_kmh(loss, finding)
        near = abs(speeds[1] - speeds[0] - finding.measure) <= SAME_SHARE * speeds[0]
        read = apart_kmh(speeds[0], speeds[1], units)
    else:
        places = [_place_m(m, finding.kind) for m in marks]
        if places[0] is None or places[1] is None:
            return finding
        near = abs(places[1] - places[0] - finding.measure) <= SAME_M
        read = apart_m(places[0], places[1], units)
    return replace(finding, measure=read) if near and read * finding.measure > 0.0 else finding


def _speeds_kmh(loss: CornerLoss, finding: Finding) -> tuple[float, float]:
    """The speeds that a cause is told by, of the reference and the lap."""
    if finding.kind in SLOWED:
        return loss.reference_marks.min_speed_kmh, loss.lap_marks.min_speed_kmh
    exits = loss.reference_marks.exit_speed_kmh, loss.lap_marks.exit_speed_kmh
    return min((loss.end_kmh, exits), key=lambda pair: abs(pair[1] - pair[0] - finding.measure))


def _place_m(marks: Marks, kind: Kind) -> float | None:
    """The place that a cause of this kind is measured at."""
    if kind in BRAKED:
        return marks.onset_m
    return marks.throttle_on_m if kind in PICKED_UP else None
