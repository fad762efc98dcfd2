"""One corner as a table: mark, reference, lap, difference, cost; and its findings as sentences."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Final

from jete.core.causes.kinds import Kind
from jete.core.driving.reasons import braking_reason, coasting_reason, early_reason, exit_reason, middle_reason
from jete.core.driving.technique import technique_of
from jete.report.marks import NONE, PLACES, MarkRead, marks_read
from jete.report.read_off import as_read
from jete.report.seat import both_told, from_landmark_short, place_words
from jete.report.sentences import both_ways_words, sentence, told_at_exit, trade_sentence
from jete.report.units import KMH, Units, plain
from jete.report.words import COARSE, SURE, difference, not_logged

if TYPE_CHECKING:
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.passage import Passage

# What is made up again by less than this needs no words.
LEAST_REST_S = 0.02
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
    cost_s = _costs(loss)
    rows = []
    for mark in marks_read(loss, units):
        if not mark.nobody:
            seconds = cost_s.get(mark.name, 0.0)
            texts = _texts(mark, circuit, units)
            unit = f" {mark.unit}" if mark.at_m is not None and mark.apart else ""
            rows.append(
                MarkRow(mark.title, *texts, mark.difference + unit, difference(seconds) if seconds else "", seconds)
            )
    return rows


def _costs(loss: CornerLoss) -> dict[str, float]:
    """What the findings at each mark cost, by its name; an exit's at the exit, or at the straight's end, wherever its speed is told."""
    out = {name: sum(f.loss_s for f in loss.findings if f.kind in kinds) for name, kinds in COSTS.items()}
    ends = [f for f in loss.findings if f.kind in COSTS["end_kmh"]]
    if any(told_at_exit(f.measure, loss.marks) for f in ends):
        out["exit_speed_kmh"] = out.pop("end_kmh")
    return out


def _texts(mark: MarkRead, circuit: CircuitOnAxis | None, units: Units) -> tuple[str, str]:
    """The reference's and the lap's number with its unit; a place from a landmark, where one is near."""
    texts = [t if t == NONE else f"{t} {mark.unit}".rstrip() for t in map(mark.text, (mark.reference, mark.lap))]
    if mark.at_m is not None and circuit is not None:
        told = (None if t is None else from_landmark_short(t, units) for t in both_told(circuit, mark.at_m, units))
        texts = [text if words is None else f"{words}\n{text}" for words, text in zip(told, texts, strict=True)]
    return texts[0], texts[1]


@dataclass(frozen=True)
class Told:
    """A finding as a sentence, with its seconds; None for what is said besides, which is as quiet as what is unexplained."""

    text: str
    seconds: float | None
    unexplained: bool = False

    @property
    def quiet(self) -> bool:
        """Whether it is no finding."""
        return self.seconds is None or self.unexplained


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
        out.append(Told("unexplained.", loss.unexplained_s, unexplained=True))
    return out


def rest_words(loss: CornerLoss, slow_kmh_worth_s: float, units: Units) -> str:
    """Why a lower speed cost less than its km/h times what one is worth: the rest was made up again; empty where it adds up.

    Args:
        loss: of the corner.
        slow_kmh_worth_s: what 1 km/h more at the slow point gains if it is kept, seconds.
        units: that it is told in.
    """
    found = next((f for f in loss.findings if f.kind is Kind.OVERSLOWING), None)
    if found is None or found.loss_s <= 0.0:
        return ""
    slower_kmh, exit_kmh = (
        getattr(loss.reference_marks, n) - getattr(loss.lap_marks, n) for n in ("min_speed_kmh", "exit_speed_kmh")
    )
    # As they stand on the page: who multiplies them by hand gets the same.
    slower = round(units.speed_of(slower_kmh / KMH), 1)
    kept_s = round(slower * round(slow_kmh_worth_s / units.speed_of(1.0 / KMH), 3), 3)
    rest_s = kept_s - round(found.loss_s, 3)
    if rest_s < LEAST_REST_S or exit_kmh >= slower_kmh:
        return ""
    less = f"{plain(slower, 1)} {units.speed} less"
    return f"{less}, kept, would cost {kept_s:.3f} s: {rest_s:.3f} s of it was made up again by the exit"


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
