"""How far marks have moved, and what that is worth as evidence."""

from __future__ import annotations

from dataclasses import replace
from math import inf

import numpy as np
import pytest

from jete.core.causes.hybrids.driven import Driven
from jete.core.causes.kinds import Factor, Kind
from jete.core.causes.profiles.anchors import Anchors
from jete.core.causes.verdict import moved
from jete.core.causes.verdict.doubt import Doubt
from jete.core.causes.verdict.findings import Along, Finding, findings_of
from jete.core.causes.verdict.moved import MOVED, together
from jete.core.causes.verdict.pair import LineSeen, Pair
from jete.core.driving.marks import Marks

SURE = Doubt(
    brake_m=0.5,
    pickup_m=0.5,
    braking=0.01,
    pace=0.002,
    ends_mps=(0.0, 0.0),
    coast_s=0.0,
    gap_s=0.004,
    cost_s=dict.fromkeys(MOVED, 0.004),
)
MARKS = Marks(
    brake_on_m=200.0, brake_peak=60.0, brake_unit="bar", brake_off_m=280.0, lift_m=195.0, turn_in_m=260.0,
    slow_point_m=300.0, min_speed_kmh=72.0, throttle_on_m=320.0, full_throttle_m=350.0, exit_speed_kmh=90.0,
    coast_s=0.2, throttle_dips=0, gear=2,
)  # fmt: skip
ANCHORS = Anchors(
    lift_m=195.0, brake_m=200.0, released_m=280.0, slowed_m=295.0, pickup_m=320.0, fed_m=350.0, least=200.0,
    braking_mps2=9.0, rolls_in=False, logged_mps=20.0,
)  # fmt: skip
DRIVEN = Driven(
    arrival_mps=(60.0, 60.0), leaving_mps=(50.0, 50.0), before_mps=(60.0, 60.0), slowing_mps=(60.0, 60.0), drive_kmh=0.0, coast_s=(0.2, 0.2),
    rolled_off=(0.0, 0.0), shift_made_m=(0.0, 0.0), at_slow_mps=20.0,
)  # fmt: skip
SAME = Pair(
    marks=(MARKS, MARKS), anchors=(ANCHORS, ANCHORS), brake_shift_m=0.0, down_shift_m=0.0, driven=DRIVEN, start_m=100.0, end_m=600.0, doubt=SURE, misfit_s=np.zeros(1),
)  # fmt: skip


def lap(pair: Pair = SAME, **marks: object) -> Pair:
    """A pair whose lap has other marks."""
    return replace(pair, marks=(MARKS, replace(MARKS, **marks)))  # type: ignore[arg-type]


def anchored(**anchors: float) -> Pair:
    return replace(SAME, anchors=(ANCHORS, replace(ANCHORS, **anchors)))  # type: ignore[arg-type]


def slower(least: float, **anchors: float) -> Pair:
    """A pair whose lap slows to another E, as its marks show."""
    marks = lap(min_speed_kmh=3.6 * (2.0 * least) ** 0.5).marks
    return replace(anchored(least=least, **anchors), marks=marks)


def found(pair: Pair, gap_s: float, **shares: float) -> list[Finding]:
    """What is found where all shares, and the gap, lie on the exit alone."""
    each = {Factor(name): np.array([s]) for name, s in shares.items()}
    along = Along(np.array([gap_s]), np.array([[pair.doubt.gap_s**2]]), ["exit"])
    return findings_of(pair, {f: MOVED[f](pair) for f in Factor}, each, along)


@pytest.mark.parametrize("factor", MOVED)
def test_equal_laps_have_moved_nothing(factor: str) -> None:
    assert not MOVED[factor](SAME).beyond_scatter


def test_a_mark_without_doubt_is_beyond_all_sigmas() -> None:
    assert moved.coasting(replace(SAME, driven=replace(DRIVEN, coast_s=(0.1, 0.6)))).sigmas == inf


@pytest.mark.parametrize(("metres", "kind"), [(14.0, "late_throttle"), (-6.0, "early_throttle")])
def test_a_pick_up_has_its_side_and_its_doubt(metres: float, kind: str) -> None:
    mark = moved.pickup(lap(throttle_on_m=320.0 + metres))
    assert (mark.kind, mark.measure, mark.beyond_scatter) == (kind, metres, True)
    assert mark.sigmas == pytest.approx(abs(metres) / 0.5)


def test_a_brake_point_counts_only_where_the_whole_slowing_has_moved_with_it() -> None:
    early = lap(brake_on_m=190.0)
    assert moved.brake_point(replace(early, brake_shift_m=-8.0)).beyond_scatter
    assert not moved.brake_point(replace(early, brake_shift_m=8.0)).beyond_scatter
    assert not moved.brake_point(early).beyond_scatter


def test_softer_braking_is_told_where_both_slow_and_one_brakes() -> None:
    soft = anchored(braking_mps2=7.5)
    assert moved.braking(soft).kind == "soft_braking"
    assert moved.braking(soft).beyond_scatter
    rolls, drives = replace(MARKS, brake_on_m=None), replace(MARKS, brake_on_m=None, lift_m=None)
    assert moved.braking(replace(soft, marks=(MARKS, rolls))).beyond_scatter
    assert not moved.braking(replace(soft, marks=(MARKS, drives))).beyond_scatter
    assert not moved.braking(replace(soft, marks=(rolls, rolls))).beyond_scatter


def test_who_rolled_off_speed_before_the_brake_needs_less_of_it() -> None:
    soft = anchored(braking_mps2=7.5)
    rolled = replace(soft, driven=replace(DRIVEN, coast_s=(0.2, 0.8), rolled_off=(0.0, 150.0)))
    assert not moved.braking(rolled).beyond_scatter
    assert together({f: MOVED[f](rolled) for f in Factor}) == {
        Factor.COASTING: (Factor.COASTING, Factor.BRAKE_POINT, Factor.BRAKING, Factor.SLOWEST)
    }
    little = replace(soft, driven=replace(DRIVEN, coast_s=(0.2, 0.8), rolled_off=(0.0, 30.0)))
    assert moved.braking(little).beyond_scatter
    assert moved.braking(replace(rolled, driven=replace(rolled.driven, coast_s=(0.2, 0.2)))).beyond_scatter


def test_who_brakes_before_the_corner_ahead_ends_has_carried_no_speed_there() -> None:
    braked = replace(
        anchored(braking_mps2=6.0), driven=replace(DRIVEN, arrival_mps=(60.0, 53.0), before_mps=(61.0, 60.9))
    )
    assert not moved.arrival(braked).beyond_scatter
    assert moved.braking(braked).beyond_scatter
    assert Factor.ARRIVAL in together({f: MOVED[f](braked) for f in Factor})[Factor.BRAKING]


def test_a_roll_before_the_pick_up_is_the_coasting_s() -> None:
    rolls = replace(anchored(rolls_below=True), driven=replace(DRIVEN, coast_s=(0.2, 1.0)))
    assert Factor.PICKUP in together({f: MOVED[f](rolls) for f in Factor})[Factor.COASTING]


@pytest.mark.parametrize("line", ["unseen", "doubtful"])
def test_a_lower_speed_that_was_not_logged_as_lower_is_the_line_s(line: LineSeen) -> None:
    assert moved.slowest(replace(slower(180.0, logged_mps=18.97), line=line)).beyond_scatter
    elsewhere = replace(slower(180.0, logged_mps=19.94), line=line)
    assert not moved.slowest(elsewhere).beyond_scatter
    assert moved.slowest(replace(elsewhere, line="seen")).beyond_scatter


def test_what_a_waiting_foot_loses_later_is_not_held_against_a_higher_speed_before() -> None:
    waits = replace(anchored(least=215.0, logged_mps=20.7), line="unseen", marks=lap(min_speed_kmh=70.0).marks)
    assert not moved.slowest(waits).beyond_scatter
    later = moved.slowest(replace(waits, down_shift_m=6.0))
    assert (later.kind, later.measure, later.beyond_scatter) == (Kind.SLOWED_LATE, 6.0, True)


def test_more_speed_that_the_marks_show_by_a_later_brake_point_is_told_as_that() -> None:
    waits = replace(anchored(least=215.0), marks=lap(brake_on_m=205.0).marks, down_shift_m=6.0)
    assert (moved.slowest(waits).kind, moved.slowest(waits).measure) == (Kind.LATE_BRAKING, 5.0)


@pytest.mark.parametrize("scale", [1.0, 0.99])
def test_a_lowest_speed_is_told_as_it_stands_in_the_table(scale: float) -> None:
    assert moved.slowest(replace(slower(180.0), scale=scale)).measure == pytest.approx(68.305 - 72.0, abs=0.01)


def test_who_is_slow_too_early_is_so_once() -> None:
    pair = replace(anchored(least=190.0), brake_shift_m=-9.0, down_shift_m=-9.0)
    told = [m.kind for m in moved.moved_of(pair).values() if m.beyond_scatter]
    assert told == [Kind.SLOWED_EARLY]


def test_a_slowing_that_begins_before_the_window_is_told_by_its_shift() -> None:
    across = replace(lap(brake_on_m=0.1), start_m=0.0, brake_shift_m=6.0)
    mark = moved.brake_point(replace(across, marks=(replace(MARKS, brake_on_m=0.0), across.marks[1])))
    assert (mark.kind, mark.measure, mark.beyond_scatter) == ("slowed_late", 6.0, True)


def test_who_brakes_later_and_is_slow_too_early_has_slowed_early() -> None:
    harder = replace(anchored(braking_mps2=12.0), brake_shift_m=-9.0, down_shift_m=-20.0)
    mark = moved.brake_point(replace(harder, marks=lap(brake_on_m=210.0).marks))
    assert (mark.kind, mark.measure, mark.beyond_scatter) == ("slowed_early", -20.0, True)


def test_a_brake_point_within_its_own_doubt_is_neither_early_nor_late() -> None:
    early = replace(lap(brake_on_m=197.0), brake_shift_m=-12.0, down_shift_m=-12.0, doubt=replace(SURE, brake_m=4.0))
    assert moved.brake_point(early).kind == "slowed_early"
    assert moved.brake_point(replace(early, doubt=SURE)).kind == "early_braking"


def test_where_one_brakes_and_the_other_lifts_no_brake_point_is_told() -> None:
    lifts = replace(lap(brake_on_m=None, brake_peak=None, lift_m=230.0), brake_shift_m=8.0, down_shift_m=8.0)
    assert moved.brake_point(lifts).kind == "slowed_late"


def drives_out(end_kmh: float, exit_kmh: float, drive_kmh: float) -> tuple[str, float, bool]:
    driven = replace(DRIVEN, leaving_mps=(50.0, 50.0 + end_kmh / 3.6), drive_kmh=drive_kmh)
    mark = moved.drive(replace(lap(exit_speed_kmh=90.0 + exit_kmh), driven=driven))
    return mark.kind, round(mark.measure, 6), mark.beyond_scatter


def test_an_exit_is_told_by_the_speed_at_the_straight_s_end() -> None:
    assert drives_out(-15.2, -0.2, -9.0) == ("slow_exit", -15.2, True)


def test_who_is_faster_at_the_exit_and_slower_at_the_straight_s_end_lost_it_on_the_straight() -> None:
    assert drives_out(-6.0, 2.3, -5.0) == ("slow_straight", -6.0, True)
    assert drives_out(5.0, -2.7, 4.0) == ("fast_straight", 5.0, True)


def test_speeds_that_have_met_again_are_told_by_the_exit_speed() -> None:
    assert drives_out(0.1, -4.0, -4.0) == ("slow_exit", -4.0, True)
    assert not drives_out(0.1, 0.0, -4.0)[2]


def test_an_inferred_speed_has_its_doubt() -> None:
    driven = replace(DRIVEN, leaving_mps=(50.0, 50.0 - 4.0 / 3.6), drive_kmh=-4.0)
    inferred = replace(SAME, doubt=replace(SURE, ends_mps=(0.4, 0.4)), driven=driven)
    assert moved.drive(inferred).sigmas == pytest.approx(4.0 / (0.02 * 72.0))


def test_the_cause_whose_mark_has_moved_takes_the_gap() -> None:
    late = lap(throttle_on_m=334.0)
    (only,) = found(late, 0.12, pickup=0.1, drive=0.01, slowest=0.008)
    assert only.kind == "late_throttle"
    assert only.loss_s == pytest.approx(0.12, abs=0.01)
    assert only.confidence > 0.9


def test_a_doubtful_mark_must_cost_more() -> None:
    unsure = replace(SURE, cost_s=dict.fromkeys(MOVED, 0.02), gap_s=0.02)
    late = replace(lap(throttle_on_m=334.0), doubt=unsure)
    doubtful = replace(late, doubt=replace(unsure, pickup_m=10.0))
    assert found(late, 0.12, pickup=0.12)
    assert not found(doubtful, 0.12, pickup=0.12)
    assert found(doubtful, 0.2, pickup=0.2)


def test_a_cost_against_its_measure_is_no_cause() -> None:
    assert not found(anchored(least=150.0), -0.2, slowest=-0.2)


def test_large_shares_that_cancel_are_a_mark_misread() -> None:
    late = lap(throttle_on_m=334.0, slow_point_m=310.0)
    both = replace(late, anchors=(ANCHORS, replace(ANCHORS, least=150.0)))
    assert not found(both, 0.006, pickup=-0.497, slowest=0.503)


def test_where_the_line_was_not_seen_a_speed_must_cost_more() -> None:
    lower = replace(slower(185.0), doubt=replace(SURE, cost_s=dict.fromkeys(MOVED, 0.02), gap_s=0.02))
    assert found(lower, 0.12, slowest=0.12)
    logged = replace(lower, anchors=(lower.anchors[0], replace(lower.anchors[1], logged_mps=19.25)))
    assert found(replace(logged, line="doubtful"), 0.12, slowest=0.12)
    assert not found(replace(logged, line="unseen"), 0.12, slowest=0.12)


def test_what_the_profiles_miss_is_doubted_where_they_miss_it() -> None:
    late = replace(lap(throttle_on_m=334.0), misfit_s=np.array([0.2, 0.0]))
    moves = {f: MOVED[f](late) for f in Factor}

    def told(*shares: float) -> list[Kind]:
        seconds = np.array(shares)
        along = Along(seconds, late.doubt.gap_s**2 * np.eye(2), ["braking", "exit"])
        return [f.kind for f in findings_of(late, moves, {Factor.PICKUP: seconds}, along)]

    assert told(0.12, 0.0) == []
    assert told(0.0, 0.12) == [Kind.LATE_THROTTLE]


def test_who_arrives_slower_and_brakes_where_always_needs_less() -> None:
    arrives = replace(
        anchored(braking_mps2=7.9),
        driven=replace(DRIVEN, arrival_mps=(60.0, 58.0), before_mps=(60.0, 58.0), slowing_mps=(60.0, 58.0)),
    )
    assert not moved.braking(arrives).beyond_scatter
    assert moved.braking(replace(arrives, driven=DRIVEN)).beyond_scatter


def test_a_quicker_roll_over_the_same_metres_is_no_shorter_one() -> None:
    rolled = replace(anchored(least=250.0), driven=replace(DRIVEN, coast_s=(1.8, 1.6)))
    assert not moved.coasting(rolled).beyond_scatter
    assert moved.coasting(replace(rolled, anchors=SAME.anchors)).beyond_scatter


def test_a_factor_that_has_not_moved_goes_with_the_one_that_has() -> None:
    faster = {f: MOVED[f](slower(250.0)) for f in Factor}
    (group,) = together(faster).items()
    assert group[0] == Factor.SLOWEST
    assert {Factor.COASTING, Factor.BRAKING, Factor.BRAKE_POINT} < set(group[1])


def test_where_no_mark_has_moved_nothing_goes_along() -> None:
    assert together({f: MOVED[f](SAME) for f in Factor}) == {}


def shifted_by(shift_m: float, **driven: tuple[float, float]) -> Factor:
    """With which factor a slowing goes that is over elsewhere, its brake point where it always is."""
    pair = replace(SAME, brake_shift_m=shift_m, driven=replace(DRIVEN, **driven))  # type: ignore[arg-type]
    groups = together({f: MOVED[f](pair) for f in Factor})
    return next(leader for leader, factors in groups.items() if Factor.BRAKE_POINT in factors)


def test_who_rolls_to_the_brake_and_is_slow_too_early_for_it_coasted() -> None:
    assert shifted_by(-10.0, shift_made_m=(-6.0, 0.0), coast_s=(0.2, 0.7)) is Factor.COASTING


def test_who_comes_to_the_brake_slower_and_is_slow_too_early_for_it_carried_that() -> None:
    slower = (60.0, 58.0)
    assert shifted_by(-12.0, arrival_mps=slower, before_mps=slower, shift_made_m=(0.0, -9.0)) is Factor.ARRIVAL


def test_a_roll_comes_before_the_arrival_where_both_made_a_slowing_end_early() -> None:
    slower = (60.0, 58.0)
    both = {"arrival_mps": slower, "before_mps": slower, "shift_made_m": (-3.0, -6.0), "coast_s": (0.2, 0.7)}
    assert shifted_by(-12.0, **both) is Factor.COASTING


def test_a_slowing_that_is_over_early_for_no_other_reason_slowed_early() -> None:
    early = moved.brake_point(replace(SAME, brake_shift_m=-6.0, down_shift_m=-7.0))
    assert (early.kind, early.beyond_scatter, early.measure, early.size) == (Kind.SLOWED_EARLY, True, -7.0, 6.0)


def test_a_slowing_that_a_roll_moved_was_not_braked_for_early() -> None:
    rolled = replace(DRIVEN, shift_made_m=(-3.0, 0.0))
    assert not moved.brake_point(replace(SAME, brake_shift_m=-6.0, driven=rolled)).beyond_scatter


def test_a_brake_point_that_a_softer_braking_needs_is_no_early_braking() -> None:
    softer = replace(anchored(braking_mps2=8.1), brake_shift_m=-4.0)
    marks = (MARKS, replace(MARKS, brake_on_m=189.5))
    assert not moved.brake_point(replace(softer, marks=marks)).beyond_scatter
    assert moved.brake_point(replace(softer, marks=(MARKS, replace(MARKS, brake_on_m=180.0)))).beyond_scatter
