"""Whether what is told of a corner agrees with the marks that stand beside it: the check that tests and benchmarks share.

It knows the contract only, and nothing of how causes are found: a kind has a side, a measure has a sign, and both
marks are there to be read.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from jete.core.causes.kinds import Kind

if TYPE_CHECKING:
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss

# A mark, the side that the lap's lies on for a kind, and how far it may lie on the other side for its own doubt.
_SIDES: Final[dict[Kind, tuple[str, float, float]]] = {
    Kind.OVERSLOWING: ("min_speed_kmh", -1.0, 0.0),
    Kind.MORE_SPEED: ("min_speed_kmh", 1.0, 0.0),
    Kind.LATE_THROTTLE: ("throttle_on_m", 1.0, 0.0),
    Kind.EARLY_THROTTLE: ("throttle_on_m", -1.0, 0.0),
    Kind.OVERSHOT: ("slow_point_m", 1.0, 0.0),
    Kind.SLOW_EXIT: ("exit_speed_kmh", -1.0, 1.0),
    Kind.FAST_EXIT: ("exit_speed_kmh", 1.0, 1.0),
}
_BRAKED: Final = {Kind.EARLY_BRAKING: -1.0, Kind.LATE_BRAKING: 1.0}
_SLOWED: Final = {Kind.SLOWED_EARLY: -1.0, Kind.SLOWED_LATE: 1.0}
_SIGNS: Final = _BRAKED | _SLOWED | {
    Kind.OVERSLOWING: -1.0, Kind.MORE_SPEED: 1.0, Kind.SLOW_EXIT: -1.0, Kind.FAST_EXIT: 1.0, Kind.SLOW_STRAIGHT: -1.0,
    Kind.FAST_STRAIGHT: 1.0, Kind.SOFT_BRAKING: -1.0, Kind.HARD_BRAKING: 1.0, Kind.LATE_THROTTLE: 1.0, Kind.EARLY_THROTTLE: -1.0,
}  # fmt: skip
# What a mark may lie on the other side by and still be the same.
SAME_M = 2.0
# A measure that is read off two marks, and how far it may lie from their difference: odometers and rounding.
_READ_OFF: Final[dict[Kind, tuple[str, float]]] = {
    Kind.OVERSLOWING: ("min_speed_kmh", 0.5),
    Kind.MORE_SPEED: ("min_speed_kmh", 0.5),
    Kind.LATE_THROTTLE: ("throttle_on_m", 0.5),
    Kind.EARLY_THROTTLE: ("throttle_on_m", 0.5),
    Kind.OVERSHOT: ("slow_point_m", 0.5),
}
# Of two odometers of which one reads farther, that much of the speed.
ODOMETERS = 0.02


def contradictions(loss: CornerLoss) -> list[str]:
    """What is told of a corner against its own marks, in words; empty where all agrees."""
    return [f"{f.kind}: {why}" for f in loss.findings if (why := _against(f, loss))]


def _against(finding: Finding, loss: CornerLoss) -> str:
    kind, measure = finding.kind, finding.measure
    if measure * _SIGNS.get(kind, measure) < 0.0:
        return f"measure {measure:+.2f}"
    if kind in _BRAKED:
        return _braked(loss, measure, _BRAKED[kind])
    if kind in _SLOWED:
        moved = _apart(loss, "brake_on_m")
        return f"brake {moved:+.1f} m" if moved is not None and moved * _SLOWED[kind] > SAME_M else ""
    if kind is Kind.COASTING:
        moved = loss.lap_marks.coast_s - loss.reference_marks.coast_s
        return f"coast {moved:+.2f} s for {measure:+.2f}" if moved * measure < -0.05 * abs(measure) else ""
    if kind is Kind.THROTTLE_HESITATION:
        marks = loss.lap_marks if measure > 0.0 else loss.reference_marks
        return "" if marks.throttle_dips else "no dip"
    return _aside(finding, loss)


def _braked(loss: CornerLoss, measure: float, side: float) -> str:
    name = "brake_on_m" if loss.lap_marks.brake_on_m is not None else "lift_m"
    moved = _apart(loss, name)
    if moved is None:
        return f"no {name} in both laps"
    return f"{name} {moved:+.1f}" if moved * side <= 0.0 or abs(moved - measure) > 0.5 else ""


def _aside(finding: Finding, loss: CornerLoss) -> str:
    """A mark on the other side of its kind, or another size than the one that is told."""
    for name, side, within in [_SIDES[finding.kind]] if finding.kind in _SIDES else []:
        moved = _apart(loss, name)
        if moved is None or moved * side < -within or (within == 0.0 and moved == 0.0):
            return f"{name} {moved}"
    for name, within in [_READ_OFF[finding.kind]] if finding.kind in _READ_OFF else []:
        moved = _apart(loss, name)
        odometers = ODOMETERS * loss.reference_marks.min_speed_kmh if name.endswith("kmh") else 0.0
        if moved is not None and abs(moved - finding.measure) > within + odometers:
            return f"{name} {moved:+.2f} for {finding.measure:+.2f}"
    return ""


def _apart(loss: CornerLoss, name: str) -> float | None:
    reference, lap = (getattr(m, name) for m in loss.marks)
    return None if reference is None or lap is None else float(lap - reference)
