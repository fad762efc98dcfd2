"""Comparisons and laps as the JSON of the contract (field names in docs/json.md)."""

from __future__ import annotations

from dataclasses import dataclass, fields
from math import hypot
from typing import TYPE_CHECKING, Any

from jete.core.compare import stakes_in
from jete.core.driving.technique import technique_of
from jete.report.corner import reason_of
from jete.report.seat import landmark_words, place_words
from jete.report.sentences import finding_sentence, trade_sentence

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import Comparison, CornerLoss, LapComparison, PhaseLoss
    from jete.core.causes.verdict.trades import Trade
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.circuit.stakes import Stakes
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.technique import Technique
    from jete.core.log.lap import Lap, LapSpan, Log
    from jete.core.run import CornerInRun, RunSummary

DIGITS = 6
PLACE_DIGITS = 3


def laps_document(log: Log, spans: tuple[LapSpan, ...]) -> dict[str, Any]:
    """The document of ``jete laps --json``."""
    return {
        "schema": "jete.laps/1",
        "source": log.source,
        "channels": list(log.channels),
        "laps": [
            {
                "lap": s.number,
                "time_s": round(s.time_s, DIGITS),
                "length_m": round(s.length_m, PLACE_DIGITS),
                "complete": s.complete,
                "why": s.why,
            }
            for s in spans
        ],
        "repairs": [{"channel": r.channel, "what": r.what, "count": r.count} for r in log.repairs],
    }


@dataclass(frozen=True, eq=False)
class _Told:
    """What every lap's corners are told by: the circuit, where it is known, and what each corner is worth."""

    circuit: CircuitOnAxis | None
    stakes: list[Stakes]

    def place(self, name: str, place_m: float | None) -> dict[str, float]:
        """The place on the circuit's axis under a name; nothing where no circuit is known."""
        if self.circuit is None or place_m is None:
            return {}
        return {name: round(self.circuit.to_circuit(place_m), PLACE_DIGITS)}

    def seen(self, place_m: float) -> dict[str, Any]:
        """A finding's place on the circuit's axis, and as it is seen from the seat."""
        if self.circuit is None:
            return {}
        return {**self.place("circuit_m", place_m), "seen": place_words(place_m, self.circuit) or None}


def comparison_document(
    comparison: Comparison, runs: Sequence[tuple[Comparison, RunSummary]] = (), circuit: CircuitOnAxis | None = None
) -> dict[str, Any]:
    """The document of ``jete compare --json``; with the ``run``, or the ``runs``, where several laps were compared."""
    reference = comparison.reference
    told = _Told(circuit, stakes_in(comparison))
    document: dict[str, Any] = {
        "schema": "jete.comparison/1",
        "reference": {**lap_json(reference.lap), "length_m": round(reference.motion.length_m, PLACE_DIGITS)},
        **({"circuit": _circuit(circuit)} if circuit is not None else {}),
        "laps": [_lap_comparison(c, reference, told) for c in comparison.laps],
    }
    if len(runs) == 1:
        return {**document, "run": _run(*runs[0])}
    return {**document, "runs": [_run(*r) for r in runs]} if runs else document


def _circuit(circuit: CircuitOnAxis) -> dict[str, Any]:
    """The circuit, with what people have noted of it on its own axis."""
    return {
        "name": circuit.name,
        "length_m": round(circuit.road.length_m, PLACE_DIGITS),
        "laps": circuit.road.laps,
        "schematic": circuit.road.schematic,
        "landmarks": [
            {
                "id": x.id,
                "kind": x.kind,
                "text": landmark_words(x),
                "at_m": round(x.circuit_m, PLACE_DIGITS),
                "circuit_m": round(circuit.to_circuit(x.circuit_m), PLACE_DIGITS),
            }
            for x in circuit.book.landmarks
        ],
    }


def _run(comparison: Comparison, run: RunSummary) -> dict[str, Any]:
    """What the laps have in common."""
    laps = [lap_json(c.passage.lap) for c in comparison.laps]
    return {
        "laps": [
            {"source": lap["source"], "lap": lap["lap"], "counted": why is None, "why": why}
            for lap, why in zip(laps, run.why, strict=True)
        ],
        "counted": run.counted,
        "best_lap": laps[run.best_lap],
        "best_sum_s": round(run.best_sum_s, DIGITS),
        "best_sum_gap_s": round(run.best_sum_s - comparison.reference.lap.span.time_s, DIGITS),
        "corners": [_corner_in_run(c, laps) for c in run.corners],
    }


def _corner_in_run(c: CornerInRun, laps: list[dict[str, Any]]) -> dict[str, Any]:
    best = laps[c.best]
    return {
        "corner": c.corner.number,
        "id": c.corner.id,
        "number": c.corner.shown,
        "gap_median_s": round(c.median_s, DIGITS),
        "gap_spread_s": round(c.spread_s, DIGITS),
        "gap_mean_s": round(c.mean_s, DIGITS),
        "unexplained_mean_s": round(c.unexplained_s, DIGITS),
        "best": {"source": best["source"], "lap": best["lap"], "gap_s": round(c.best_s, DIGITS)},
        "causes": [
            {
                "kind": x.kind,
                "median_s": round(x.median_s, DIGITS),
                "mean_s": round(x.mean_s, DIGITS),
                "laps": x.laps,
            }
            for x in c.causes
        ],
    }


def lap_json(lap: Lap) -> dict[str, Any]:
    """A lap by its source, number and time; with its driver where that is known."""
    out = {"source": lap.log.source, "lap": lap.span.number, "time_s": round(lap.span.time_s, DIGITS)}
    return {**out, "driver": lap.driver} if lap.driver else out


def _lap_comparison(c: LapComparison, reference: Passage, told: _Told) -> dict[str, Any]:
    return {
        **lap_json(c.passage.lap),
        "gap_s": round(c.gap_s, DIGITS),
        "gap_sigma_s": round(c.sigma_s, DIGITS),
        "alignment": {
            "method": c.alignment.method,
            "residual_m": round(c.alignment.residual_m, PLACE_DIGITS),
            "scale": round(c.alignment.scale, DIGITS),
            "position": _positions(c),
            "sensor_late_s": round(c.alignment.sensor_late_s, 3),
        },
        "inferred": list(c.passage.inferred),
        "repairs": [{"channel": r.channel, "what": r.what, "count": r.count} for r in c.passage.lap.log.repairs],
        "gap_trace": {
            "distance_m": [round(d, PLACE_DIGITS) for d in c.trace_m.tolist()],
            "gap_s": [round(g, DIGITS) for g in c.trace_s.tolist()],
        },
        "sectors": [
            {
                "sector": s.number,
                "start_m": round(s.span.start_m, PLACE_DIGITS),
                "end_m": round(s.span.end_m, PLACE_DIGITS),
                "reference_s": round(s.reference_s, DIGITS),
                "lap_s": round(s.lap_s, DIGITS),
                "gap_s": round(s.gap_s, DIGITS),
            }
            for s in c.sectors
        ],
        "corners": [_corner(loss, (reference, c.passage), told) for loss in c.corners],
    }


def _positions(c: LapComparison) -> dict[str, Any] | None:
    """How the lap's positions were made, and what they are worth; null without any."""
    errors = c.alignment.errors
    if errors is None:
        return None
    made = c.passage.lap.log.positions
    return {
        "fix_hz": round(errors.fix_hz, 2),
        "filled": made.filled,
        "filter_s": round(errors.filter_s, 2),
        "lag_s": round(made.lag_s, 3),
        "white_m": round(errors.white_m, 2),
        "drift_m": round(errors.drift_m, 2),
        "drift_s": round(errors.drift_s, 1),
        "map_step_m": round(hypot(*c.alignment.map_step_m), 2),
    }


def _corner(loss: CornerLoss, passages: tuple[Passage, Passage], told: _Told) -> dict[str, Any]:
    """One corner; ``passages`` of the reference and of the lap."""
    marks = (loss.reference_marks, loss.lap_marks)
    how = (technique_of(passages[0], loss.corner, marks[0]), technique_of(passages[1], loss.corner, marks[1]))
    return {
        "corner": loss.corner.number,
        "id": loss.corner.id,
        "number": loss.corner.shown,
        **_known(loss, told),
        "direction": loss.corner.direction,
        "start_m": round(loss.corner.start_m, PLACE_DIGITS),
        "apex_m": round(loss.corner.apex_m, PLACE_DIGITS),
        "end_m": round(loss.corner.end_m, PLACE_DIGITS),
        "window_start_m": round(loss.window.start_m, PLACE_DIGITS),
        "window_end_m": round(loss.window.end_m, PLACE_DIGITS),
        "gap_s": round(loss.gap_s, DIGITS),
        "gap_sigma_s": round(loss.sigma_s, DIGITS),
        "phases": [_phase(p) for p in loss.phases],
        "reference_marks": {**values_object(loss.reference_marks), **values_object(how[0])},
        "lap_marks": {**values_object(loss.lap_marks), **values_object(how[1])},
        "end_speed_kmh": dict(zip(("reference", "lap"), (round(v, PLACE_DIGITS) for v in loss.end_kmh), strict=True)),
        "findings": [_finding(f, loss, passages, told) for f in loss.findings],
        "trades": [_trade(loss.trade, marks)] if loss.trade is not None else [],
        "unexplained_s": round(loss.unexplained_s, DIGITS),
        "unexplained_phases": _by_phase(loss.unexplained_phases),
    }


def _phase(phase: PhaseLoss) -> dict[str, Any]:
    return {
        "phase": phase.span.phase,
        "start_m": round(phase.span.start_m, PLACE_DIGITS),
        "end_m": round(phase.span.end_m, PLACE_DIGITS),
        "gap_s": round(phase.gap_s, DIGITS),
    }


def _finding(finding: Finding, loss: CornerLoss, passages: tuple[Passage, Passage], told: _Told) -> dict[str, Any]:
    return {
        "kind": finding.kind,
        "loss_s": round(finding.loss_s, DIGITS),
        "at_m": round(finding.at_m, PLACE_DIGITS),
        **told.seen(finding.at_m),
        "measure": round(finding.measure, PLACE_DIGITS),
        "unit": finding.unit,
        "text": finding_sentence(finding, marks=loss.marks),
        "confidence": round(finding.confidence, 4),
        "phases": _by_phase(finding.phases),
        "reason": reason_of(finding, loss, passages),
    }


def _known(loss: CornerLoss, told: _Told) -> dict[str, Any]:
    """What the circuit and the reference tell of a corner: name, kind, worth, places on the circuit's axis."""
    stakes, corner = told.stakes[loss.corner.number - 1], loss.corner
    return {
        "name": corner.name or None,
        "kind": stakes.kind,
        "straight_m": round(stakes.straight_m, PLACE_DIGITS),
        "exit_kmh_worth_s": round(stakes.exit_kmh_worth_s, DIGITS),
        "slow_kmh_worth_s": round(stakes.slow_kmh_worth_s, DIGITS),
        "brake_m_worth_s": round(stakes.brake_m_worth_s, DIGITS),
        **told.place("circuit_m", corner.apex_m),
        **told.place("start_circuit_m", corner.start_m),
        **told.place("end_circuit_m", corner.end_m),
    }


def _by_phase(phases: Sequence[tuple[str, float]]) -> list[dict[str, Any]]:
    return [{"phase": phase, "loss_s": round(seconds, DIGITS)} for phase, seconds in phases]


def _trade(trade: Trade, marks: tuple[Marks, Marks]) -> dict[str, Any]:
    return {
        "lost": trade.lost.kind,
        "lost_s": round(trade.lost.loss_s, DIGITS),
        "gained": trade.gained.kind,
        "gained_s": round(trade.gained.loss_s, DIGITS),
        "balance_s": round(trade.balance_s, DIGITS),
        "text": trade_sentence(trade, marks=marks),
    }


def values_object(marks: Marks | Technique) -> dict[str, Any]:
    """The fields by name, null where there is none."""
    out: dict[str, Any] = {}
    for f in fields(marks):
        value = getattr(marks, f.name)
        if isinstance(value, tuple):
            out[f.name] = [round(v, PLACE_DIGITS) for v in value]
        else:
            out[f.name] = round(value, PLACE_DIGITS) if isinstance(value, float) else value
    return out
