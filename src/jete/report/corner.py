"""One corner as a table: mark, reference, lap, difference, cost; and its findings as sentences."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Final

from jete.core.causes.kinds import Kind
from jete.core.driving.reasons import braking_reason, coasting_reason, early_reason, exit_reason, middle_reason
from jete.core.driving.technique import technique_of
from jete.report.read_off import apart, apart_m, as_read
from jete.report.seat import from_landmark_short, place_words
from jete.report.sentences import both_ways_words, sentence, told_at_exit, trade_sentence
from jete.report.units import KMH, Units, plain, signed
from jete.report.words import COARSE, SURE, difference, not_logged

if TYPE_CHECKING:
    from jete.core.causes.findings import Finding
    from jete.core.causes.result import CornerLoss
    from jete.core.circuit.landmarks import FromLandmark
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.passage import Passage

NONE: Final = "–"
# The marks that are places, in the order in which they are driven.
PLACES: Final = (
    ("lift_m", "lift"), ("brake_on_m", "brake"), ("turn_in_m", "turn-in"), ("brake_off_m", "release"),
    ("slow_point_m", "slowest"), ("throttle_on_m", "pick-up"), ("full_throttle_m", "flat out"),
)  # fmt: skip
# What each mark costs when it lies elsewhere.
COSTS: Final[dict[str, tuple[Kind, ...]]] = {
    "lift_m": (Kind.COASTING,),
    "brake_on_m": (Kind.EARLY_BRAKING, Kind.LATE_BRAKING),
    "slow_point_m": (Kind.OVERSHOT,),
    "brake_peak": (Kind.SOFT_BRAKING, Kind.HARD_BRAKING),
    "brake_off_m": (Kind.SLOWED_EARLY, Kind.SLOWED_LATE),
    "min_speed_kmh": (Kind.OVERSLOWING, Kind.MORE_SPEED),
    "throttle_on_m": (Kind.LATE_THROTTLE, Kind.EARLY_THROTTLE),
    "full_throttle_m": (Kind.THROTTLE_HESITATION,),
    "end_kmh": (Kind.SLOW_EXIT, Kind.FAST_EXIT, Kind.SLOW_STRAIGHT, Kind.FAST_STRAIGHT),
}


@dataclass(frozen=True)
class MarkRow:
    """One row as text; places carry their metres on a second line where a landmark tells them."""

    title: str
    reference: str
    lap: str
    difference: str
    cost: str
    cost_s: float = 0.0


def shown_marks(loss: CornerLoss, passages: tuple[Passage, Passage]) -> CornerLoss:
    """A corner without the places of a lap whose samples lie too far apart to tell them: what is no mark is not shown as one."""
    bare: dict[str, Any] = {name: None for name, _ in PLACES if name != "slow_point_m"} | {
        "brake_peak": None,
        "brake_unit": None,
    }
    marks = [
        replace(m, **bare) if p.coarse else m
        for p, m in zip(passages, (loss.reference_marks, loss.lap_marks), strict=True)
    ]
    return replace(loss, reference_marks=marks[0], lap_marks=marks[1])


def mark_rows(loss: CornerLoss, circuit: CircuitOnAxis | None, units: Units) -> list[MarkRow]:
    """The marks of a corner in the order in which they are driven, with what each cost.

    Args:
        loss: of the corner.
        circuit: on the reference's axis; None for metres only.
        units: that it is told in.
    """
    reference, lap = loss.reference_marks, loss.lap_marks
    rows: list[MarkRow] = []
    for name, title in PLACES:
        places = getattr(reference, name), getattr(lap, name)
        if places != (None, None):
            rows.append(_place_row(title, places, circuit, units, _cost(loss, name)))
        if name == "brake_on_m":
            rows += _peak_row(loss, units)
        if name == "slow_point_m":
            speeds = reference.min_speed_kmh, lap.min_speed_kmh
            rows.append(_speed_row("lowest speed", speeds, units, _cost(loss, "min_speed_kmh")))
    cost_s = _cost(loss, "end_kmh")
    at_exit = any(f.kind in COSTS["end_kmh"] and told_at_exit(f.measure, loss.marks) for f in loss.findings)
    exits = reference.exit_speed_kmh, lap.exit_speed_kmh
    rows.append(_speed_row("exit speed", exits, units, cost_s if at_exit else 0.0))
    rows.append(_speed_row("straight's end", loss.end_kmh, units, 0.0 if at_exit else cost_s))
    if reference.gear is not None or lap.gear is not None:
        rows.append(_number_row("gear", (reference.gear, lap.gear), 0, ""))
    return rows


def _cost(loss: CornerLoss, name: str) -> float:
    return sum(f.loss_s for f in loss.findings if f.kind in COSTS.get(name, ()))


def _costs(seconds: float) -> tuple[str, float]:
    return (difference(seconds) if seconds else "", seconds)


def _place_row(
    title: str, places: tuple[float | None, float | None], circuit: CircuitOnAxis | None, units: Units, cost_s: float
) -> MarkRow:
    reference, lap = places
    if circuit is not None and reference is not None and lap is not None:
        both = zip(circuit.both_told((reference, lap)), (reference, lap), strict=True)
        texts = [_from(told, place, units) for told, place in both]
    else:
        texts = [
            NONE if p is None else _from(circuit.told(p) if circuit is not None else None, p, units) for p in places
        ]
    between = NONE
    if reference is not None and lap is not None:
        off = apart_m(reference, lap, units)
        between = f"{signed(units.length_of(off), 0)} {units.length}" if off else "="
    return MarkRow(title, texts[0], texts[1], between, *_costs(cost_s))


def _from(told: FromLandmark | None, place_m: float, units: Units) -> str:
    metres = units.length_text(place_m)
    return f"{from_landmark_short(told, units)}\n{metres}" if told is not None else metres


def _peak_row(loss: CornerLoss, units: Units) -> list[MarkRow]:
    peaks = loss.reference_marks.brake_peak, loss.lap_marks.brake_peak
    if peaks == (None, None):
        return []
    logged = (loss.reference_marks.brake_unit, loss.lap_marks.brake_unit)
    if peaks[0] is not None and peaks[1] is not None and logged[0] != logged[1]:
        # A pressure and a deceleration that a pedal was inferred from can't be held against each other.
        peaks = (peaks[0], None)
    shown = [None if p is None else units.pressure_of(p, u or "bar") for p, u in zip(peaks, logged, strict=True)]
    unit = next((s[1] for s in shown if s is not None), "")
    values = (None if shown[0] is None else shown[0][0], None if shown[1] is None else shown[1][0])
    return [_number_row("hardest press", values, 0 if unit in ("%", "psi") else 1, unit, _cost(loss, "brake_peak"))]


def _speed_row(title: str, kmh: tuple[float, float], units: Units, cost_s: float) -> MarkRow:
    values = (units.speed_of(kmh[0] / KMH), units.speed_of(kmh[1] / KMH))
    return _number_row(title, values, 1, units.speed, cost_s)


def _number_row(
    title: str, values: tuple[float | None, float | None], digits: int, unit: str, cost_s: float = 0.0
) -> MarkRow:
    reference, lap = values
    texts = [NONE if v is None else f"{plain(v, digits)} {unit}".rstrip() for v in values]
    between = NONE
    if reference is not None and lap is not None:
        off = apart(reference, lap, digits)
        between = signed(off, digits) if off else "="
    return MarkRow(title, texts[0], texts[1], between, *_costs(cost_s))


@dataclass(frozen=True)
class Told:
    """A finding as a sentence, with its seconds; None for what is said besides."""

    text: str
    seconds: float | None


def told_findings(
    loss: CornerLoss, passages: tuple[Passage, Passage], circuit: CircuitOnAxis | None, units: Units
) -> list[Told]:
    """The findings of a corner as sentences: where, what, why; then what is unexplained.

    Args:
        loss: of the corner.
        passages: of the reference and the lap.
        circuit: on the reference's axis; None for metres only.
        units: that it is told in.
    """
    loss = as_read(loss, units)
    out = [Told(_told(f, loss, passages, circuit, units), f.loss_s) for f in loss.findings]
    if loss.trade is not None:
        out.insert(0, Told(trade_sentence(loss.trade, units, loss.marks), loss.trade.balance_s))
    if abs(loss.unexplained_s) >= 0.0005:
        out.append(Told("Unexplained.", loss.unexplained_s))
    return out


def doubts_of(passages: tuple[Passage, Passage]) -> str:
    """What was not logged, or too seldom: in a sentence; empty where all was."""
    if any(p.coarse for p in passages):
        return COARSE
    inferred = {name for p in passages for name in p.inferred}
    return not_logged([n for n in ("speed", "throttle", "brake") if n in inferred])


def _told(
    finding: Finding, loss: CornerLoss, passages: tuple[Passage, Passage], circuit: CircuitOnAxis | None, units: Units
) -> str:
    what = sentence(finding.kind, finding.measure, units, loss.marks).rstrip(".")
    seen = place_words(finding.at_m, circuit, units) if finding.kind is not Kind.CARRIED_SPEED else ""
    reason = reason_of(finding, loss, passages)
    parts = [what, f"({reason})" if reason else "", f"– {seen}" if seen else ""]
    doubt, both = "Possibly: " if finding.confidence < SURE else "", both_ways_words(finding)
    return f"{doubt}{' '.join(p for p in parts if p)}{f': {both}' if both else ''}."


def reason_of(finding: Finding, loss: CornerLoss, passages: tuple[Passage, Passage]) -> str | None:
    """Why a braking, a roll, the middle of a corner or an exit was slow or fast, where a channel shows it; None for all else."""
    marks = (loss.reference_marks, loss.lap_marks)
    if finding.kind in (Kind.SOFT_BRAKING, Kind.HARD_BRAKING):
        return braking_reason(marks)
    if finding.kind is Kind.EARLY_BRAKING:
        return early_reason(marks) if all(f.kind is not Kind.COASTING for f in loss.findings) else None
    if finding.kind is Kind.COASTING:
        return coasting_reason(marks) if finding.measure > 0.0 else None
    if finding.kind in (Kind.OVERSLOWING, Kind.MORE_SPEED):
        return middle_reason(passages, loss.corner, marks, slow=finding.kind is Kind.OVERSLOWING)
    if finding.kind not in COSTS["end_kmh"]:
        return None
    how = (technique_of(passages[0], loss.corner, marks[0]), technique_of(passages[1], loss.corner, marks[1]))
    return exit_reason(passages, loss.corner, marks, how, slow=finding.kind in (Kind.SLOW_EXIT, Kind.SLOW_STRAIGHT))
