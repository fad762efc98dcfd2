"""What is told of a corner agrees with its marks: on pairs of both simulators, both ways round, and on the demo."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.findings import Finding
from jete.core.causes.verdict.result import Comparison
from jete.core.compare import compare
from jete.core.log.lap import Lap
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.formats.reader import read_log
from jete.simulate.agreement import contradictions
from jete.simulate.trials import Trial
from known_laps import DEMO_PAIR, drawn, lap_of, with_feet

TOLD_S = 0.03


def against_marks(result: Comparison) -> list[str]:
    """What is told against the marks, of claims that are worth telling."""
    out: list[str] = []
    for corner in (c for lap in result.laps for c in lap.corners):
        out += contradictions(replace(corner, findings=tuple(f for f in corner.findings if abs(f.loss_s) >= TOLD_S)))
    return out


def both_ways(trial: Trial) -> list[str]:
    logs = trial.reference, trial.lap
    pairs = [(ours, theirs) for ours, theirs in (logs, logs[::-1])]
    return [w for a, b in pairs for w in against_marks(compare(lap_of(a), [lap_of(b, line_of(a))]))]


@pytest.mark.many
@pytest.mark.parametrize("made", ["faults", "trades", "overshoots"])
@pytest.mark.parametrize("seed", [70001])
def test_nothing_is_told_against_the_marks_of_a_driver_with_feet(seed: int, made: str) -> None:
    assert both_ways(with_feet(seed, made)) == []  # type: ignore[arg-type]


@pytest.mark.parametrize("seed", [70001])
def test_nothing_is_told_against_the_marks_of_our_driver(seed: int) -> None:
    assert both_ways(drawn(seed)) == []


def demo() -> Comparison:
    ours, theirs = (read_log(path) for path in DEMO_PAIR)
    reference = next(s for s in split(ours) if s.number == 4)
    laps = [Lap(theirs, s) for s in split(theirs, line_of(ours)) if s.complete]
    return compare(Lap(ours, reference), laps)


def test_the_demo_says_of_its_first_corner_what_its_marks_say() -> None:
    """His brake point is 10 m past hers, on all laps but one; and on all he is slow too soon."""
    result = demo()
    assert against_marks(result) == []
    first = [lap.corners[0] for lap in result.laps]
    later = [c.lap_marks.brake_on_m > c.reference_marks.brake_on_m for c in first]  # type: ignore[operator]
    assert sum(later) == len(first) - 1
    kinds = [Kind.SLOWED_EARLY if past else Kind.EARLY_BRAKING for past in later]
    assert [c.findings[0].kind for c in first] == kinds


def test_a_kind_against_its_mark_is_seen() -> None:
    corner = demo().laps[0].corners[0]
    wrong = Finding(kind=Kind.EARLY_BRAKING, loss_s=0.4, at_m=424.0, measure=-10.0, unit="m", confidence=0.9)
    assert contradictions(replace(corner, findings=(wrong,)))


@pytest.mark.parametrize("seed", [50006])
def test_who_runs_on_past_the_apex_is_told_so_before_any_balance(seed: int) -> None:
    trial = with_feet(seed, "overshoots")
    lap = compare(lap_of(trial.reference), [lap_of(trial.lap, line_of(trial.reference))]).laps[0]
    ran_on = [c for c in lap.corners if any(f.kind is Kind.OVERSHOT for f in c.findings)]
    assert ran_on
    assert all(c.trade is None and c.findings[0].measure > 15.0 for c in ran_on)
