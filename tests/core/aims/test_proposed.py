"""Aims: small steps towards the reference, with the run's own scatter as tolerance, and reasons where there is none."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, cast

import pytest

from jete.core.aims.aim import STEPS, AimSet
from jete.core.aims.circumstances import Circumstances, Tried
from jete.core.aims.proposed import hangs_on, kept, proposed
from jete.core.axis.road.corners import CornerNumber
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
    assert (aim.judge.measure, aim.judge.step, aim.judge.capped, over) == ("brake_on_m", STEPS["brake_on_m"], True, [])
    assert aim.judge.start == pytest.approx(brake(lap) - 12.0)


def test_a_rider_is_asked_for_less(lap: LapComparison) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    ((aim,), _) = proposed([had(Kind.EARLY_BRAKING)], laps, Circumstances(rider=True))
    assert aim.judge.step == pytest.approx(3.0)


def test_no_step_goes_past_the_reference_and_no_tolerance_is_narrower_than_the_scatter(lap: LapComparison) -> None:
    laps = run(lap, [-3.0, -1.5, 0.0, 1.5, 3.0], brake_on_m=brake(lap) - 4.0)
    ((aim,), _) = proposed([had(Kind.EARLY_BRAKING)], laps)
    assert aim.judge.target == pytest.approx(brake(lap))
    assert not aim.judge.capped
    assert aim.judge.tolerance == pytest.approx(1.4826 * 1.5)


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
    assert AimSet(measure="throttle_on_m", start=50.0, target=46.0, tolerance=2.0).step == -4.0


def test_a_race_asks_for_less_and_counts_more(lap: LapComparison) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    ((one,), _), ((all_of_them,), _) = (
        proposed([had(Kind.EARLY_BRAKING)], laps, Circumstances(race=r)) for r in (False, True)
    )
    assert all_of_them.judge.step == pytest.approx(0.6 * one.judge.step)
    assert all_of_them.judge.tolerance == pytest.approx(1.5 * one.judge.tolerance)


FIRST = CornerNumber(1)
DONE = Tried(corner=FIRST, measure="brake_on_m", outcome="worked", done=8)


def test_a_step_that_was_not_done_cleanly_is_not_followed_by_a_whole_one(lap: LapComparison) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    steps = []
    for done in (8, 4):
        ((aim,), _) = proposed([had(Kind.EARLY_BRAKING)], laps, Circumstances(tried=[replace(DONE, done=done)]))
        steps.append(aim.judge.step)
    assert steps == [STEPS["brake_on_m"], 0.5 * STEPS["brake_on_m"]]


def test_after_two_runs_in_vain_another_way_is_looked_for(lap: LapComparison) -> None:
    laps = [
        replace(
            x,
            corners=(
                replace(
                    x.corners[0],
                    findings=(cast("Finding", type("F", (), {"kind": Kind.LATE_THROTTLE, "loss_s": 0.1})()),),
                    lap_marks=replace(x.corners[0].lap_marks, throttle_on_m=(x.corners[0].reference_marks.throttle_on_m or 0.0) + 9.0),
                ),
                *x.corners[1:],
            ),
        )
        for x in run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    ]  # fmt: skip
    vain = replace(DONE, outcome="not_done", done=0)
    ((once,), _) = proposed([had(Kind.EARLY_BRAKING)], laps, Circumstances(tried=[vain]))
    ((twice,), _) = proposed([had(Kind.EARLY_BRAKING)], laps, Circumstances(tried=[vain, vain]))
    assert (once.judge.measure, twice.judge.measure) == ("brake_on_m", "throttle_on_m")
    _, (over,) = proposed([had(Kind.EARLY_BRAKING)], [lap] * 4, Circumstances(tried=[vain, vain]))
    assert over.why == "tried on two runs in vain"


@pytest.mark.parametrize(
    ("given", "why"),
    [
        (Circumstances(withdrawn={FIRST: "a lap went wrong there"}), "a lap went wrong there"),
        (Circumstances(wet_after_dry=True), "the road is wet, and the reference was driven in the dry"),
        (Circumstances(tried=[replace(DONE, outcome="done_slower")]), "it was slower there when it was done"),
    ],
)
def test_nothing_is_asked_for_where_that_would_be_unwise(lap: LapComparison, given: Circumstances, why: str) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    aims, (over,) = proposed([had(Kind.EARLY_BRAKING)], laps, given)
    assert (aims, over.why) == ([], why)


def test_where_as_much_is_to_be_had_the_exit_before_a_straight_comes_first(lap: LapComparison) -> None:
    laps = run(lap, [0.0] * 4, brake_on_m=brake(lap) - 12.0)
    equal = [replace(had(None, 0.105), corner=CornerNumber(2)), had(None, 0.1)]
    _, over = proposed(equal, laps)
    _, exits = proposed(equal, laps, Circumstances(exits=frozenset({FIRST})))
    assert ([x.corner for x in over], [x.corner for x in exits]) == ([2, 1], [1, 2])


def test_of_two_corners_that_hang_together_one_has_an_aim() -> None:
    given = Circumstances(follows=frozenset({CornerNumber(2)}))
    assert hangs_on(CornerNumber(2), {1}, given) == "it hangs on the corner before it, which has an aim"
    assert hangs_on(FIRST, {2}, given) == "the corner after it hangs on it, and has an aim"
    assert hangs_on(CornerNumber(3), {2}, given) == ""


def test_what_is_to_stay_counts_within_its_own_scatter(lap: LapComparison) -> None:
    judge = kept(FIRST, run(lap, [-1.0, 0.0, 1.0], min_speed_kmh=80.0))
    assert judge is not None
    assert (judge.start, judge.target, judge.measure) == (80.0, 80.0, "min_speed_kmh")
    assert judge.tolerance == pytest.approx(2.0 * 1.4826)
