"""The answer of a comparison: the corners that matter, with the same numbers as their rows and their marks."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import pytest

from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.to_be_had import to_be_had
from jete.core.run import CauseInRun, CornerInRun, RunSummary
from jete.report.answer import answers_of, answers_of_run, reference_words
from jete.report.three import Often
from jete.report.units import METRIC
from jete.views.ledger.answers import words_of
from known_laps import compare_trial, drawn

if TYPE_CHECKING:
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss, LapComparison


@pytest.fixture(scope="module")
def lap() -> LapComparison:
    return compare_trial(drawn(5)).laps[0]


def finding(lap: LapComparison, kind: Kind, measure: float = 1.0) -> Finding:
    one = next(f for c in lap.corners for f in c.findings)
    return replace(one, kind=kind, measure=measure)


def marked(lap: LapComparison, **lap_marks: float) -> CornerLoss:
    """The first corner with the reference at 400 m, 80 km/h and 450 m, and the lap's marks as given."""
    marks = {"brake_on_m": 400.0, "min_speed_kmh": 80.0, "throttle_on_m": 450.0, "coast_s": 0.2, "throttle_dips": 0}
    first = lap.corners[0]
    reference = replace(first.reference_marks, **marks)
    return replace(first, reference_marks=reference, lap_marks=replace(reference, **lap_marks))


def test_each_answer_has_the_seconds_of_its_row(lap: LapComparison) -> None:
    told = answers_of(to_be_had(lap.corners), lap.corners, Often(0, {}), None)
    assert told
    for answer in told:
        assert answer.seconds == lap.corners[answer.corner - 1].gap_s
        assert answer.done
    assert [a.seconds for a in told] == sorted((a.seconds for a in told), reverse=True)


@pytest.mark.parametrize(
    ("kind", "marks", "words"),
    [
        (Kind.EARLY_BRAKING, {"brake_on_m": 386.0}, "brakes 14 m later"),
        (Kind.LATE_BRAKING, {"brake_on_m": 409.0}, "brakes 9 m earlier"),
        (Kind.SOFT_BRAKING, {"brake_on_m": 400.2}, "brakes there too"),
        (Kind.OVERSLOWING, {"min_speed_kmh": 76.4}, "keeps 3.6 km/h more"),
        (Kind.OVERSLOWING, {"min_speed_kmh": 79.9}, ""),
        (Kind.LATE_THROTTLE, {"throttle_on_m": 458.0}, "picks up 8 m earlier"),
        (Kind.COASTING, {"coast_s": 0.7}, "coasts 0.5 s less"),
        (Kind.THROTTLE_HESITATION, {"throttle_dips": 1}, "keeps the throttle once it is picked up"),
        (Kind.SLOW_EXIT, {}, ""),
    ],
)
def test_what_the_reference_does_agrees_with_the_marks(
    lap: LapComparison, kind: Kind, marks: dict[str, float], words: str
) -> None:
    assert reference_words(finding(lap, kind), marked(lap, **marks), None, METRIC) == words


@pytest.mark.parametrize(
    ("marks", "words"),
    [
        ({"brake_on_m": 424.6, "brake_off_m": 610.0}, "trails the brake 40 m farther"),
        ({"brake_on_m": 414.6}, "brakes there too, then slows for longer"),
        ({"brake_on_m": 390.0}, "slows 41 m later"),
    ],
)
def test_slowed_too_soon_says_what_keeps_the_reference_fast_for_longer(
    lap: LapComparison, marks: dict[str, float], words: str
) -> None:
    alike = {"brake_on_m": 414.6, "brake_off_m": 650.0, "turn_in_m": 587.0}
    told = replace(marked(lap, **{**alike, **marks}), reference_marks=replace(lap.corners[0].reference_marks, **alike))
    assert reference_words(finding(lap, Kind.SLOWED_EARLY, -41.0), told, None, METRIC) == words


def test_a_run_s_answer_is_by_its_means(lap: LapComparison) -> None:
    from jete.core.run import run_of

    comparison = compare_trial(drawn(5))
    run = run_of(comparison)
    told = answers_of_run(run, comparison.laps)
    assert [a.seconds for a in told] == sorted((c.mean_s for c in run.corners if c.causes), reverse=True)[:3]
    assert told[0].often == "on 1 of 1 laps"
    assert words_of(told[0]).startswith(f"{told[0].title} +")


def test_a_run_s_answer_says_what_the_reference_does_otherwise_than_its_middle_lap(lap: LapComparison) -> None:
    def driven(slow_kmh: float, cost_s: float) -> LapComparison:
        found = replace(finding(lap, Kind.OVERSLOWING, slow_kmh - 80.0), loss_s=cost_s)
        loss = replace(marked(lap, min_speed_kmh=slow_kmh), findings=(found,), gap_s=cost_s)
        return replace(lap, corners=(loss,))

    laps = [driven(79.0, 0.05), driven(76.4, 0.2), driven(70.0, 0.4)]
    corner = CornerInRun(
        corner=lap.corners[0].corner, median_s=0.2, spread_s=0.1, mean_s=0.2, unexplained_s=0.0,
        causes=(CauseInRun(Kind.OVERSLOWING, 0.2, 0.2, 3),), best=0, best_s=0.05,
    )  # fmt: skip
    (told,) = answers_of_run(RunSummary((None, None, None), (corner,), 0, 80.0), laps)
    assert (told.otherwise, told.often) == ("keeps 3.6 km/h more", "on 3 of 3 laps")
