"""Aims: small steps towards the reference, with the run's own scatter as tolerance, and reasons where there is none."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, cast

import pytest

from jete.core.aims.aim import STEPS, Aim
from jete.core.aims.proposed import proposed
from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.to_be_had import ToBeHad
from known_laps import compare_trial, drawn

if TYPE_CHECKING:
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import LapComparison


@pytest.fixture(scope="module")
def lap() -> LapComparison:
    return compare_trial(drawn(5)).laps[0]


def run(lap: LapComparison, shifts: list[float], **marks: float) -> list[LapComparison]:
    """A run of laps whose first corner's marks are as given, ``shifts`` apart from each other."""
    first = lap.corners[0]
    return [
        replace(lap, corners=(replace(first, lap_marks=replace(first.lap_marks, **{n: v + s for n, v in marks.items()})), *lap.corners[1:]))
        for s in shifts
    ]  # fmt: skip


def had(kind: Kind | None, seconds: float = 0.2) -> ToBeHad:
    finding = None if kind is None else cast("Finding", type("F", (), {"kind": kind})())
    return ToBeHad(1, seconds, seconds, 0.0, finding, ())  # type: ignore[arg-type]


def brake(lap: LapComparison) -> float:
    return lap.corners[0].reference_marks.brake_on_m or 0.0


def test_an_early_brake_goes_a_capped_step_later(lap: LapComparison) -> None:
    laps = run(lap, [-1.0, 0.0, 1.0, 0.0], brake_on_m=brake(lap) - 12.0)
    (aim,), over = proposed([had(Kind.EARLY_BRAKING)], laps)
    assert (aim.measure, aim.step, aim.capped, over) == ("brake_on_m", STEPS["brake_on_m"], True, [])
    assert aim.start == pytest.approx(brake(lap) - 12.0)


def test_a_rider_is_asked_for_less(lap: LapComparison) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    ((aim,), _) = proposed([had(Kind.EARLY_BRAKING)], laps, rider=True)
    assert aim.step == pytest.approx(3.0)


def test_no_step_goes_past_the_reference_and_no_tolerance_is_narrower_than_the_scatter(lap: LapComparison) -> None:
    laps = run(lap, [-3.0, -1.5, 0.0, 1.5, 3.0], brake_on_m=brake(lap) - 4.0)
    ((aim,), _) = proposed([had(Kind.EARLY_BRAKING)], laps)
    assert aim.target == pytest.approx(brake(lap))
    assert not aim.capped
    assert aim.tolerance == pytest.approx(1.4826 * 1.5)


@pytest.mark.parametrize(
    ("kind", "away_m", "why"),
    [
        (Kind.EARLY_BRAKING, 0.2, "the mark lies where the reference's does"),
        (Kind.EARLY_BRAKING, 8.0, "the mark lies where the reference's does"),
        (Kind.SLOW_EXIT, -8.0, "no mark of the driver's shows it"),
        (None, -8.0, "what it costs began in a corner before it"),
    ],
)
def test_what_has_no_mark_to_move_is_passed_over(
    lap: LapComparison, kind: Kind | None, away_m: float, why: str
) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) + away_m)
    aims, (over,) = proposed([had(kind)], laps)
    assert aims == []
    assert over.why == why


def test_what_is_within_anybody_s_laps_is_no_word(lap: LapComparison) -> None:
    assert proposed([had(Kind.EARLY_BRAKING, seconds=0.01)], [lap] * 4) == ([], [])


def test_an_aim_tells_its_step_with_its_sign() -> None:
    aim = Aim(
        corner=1, kind=Kind.LATE_THROTTLE, measure="throttle_on_m", start=50.0, scatter=1.0, target=46.0, tolerance=2.0, capped=False
    )  # fmt: skip
    assert aim.step == -4.0
