"""The driver with feet does what it was told to, and what it was told costs what physics makes of it."""

from __future__ import annotations

import numpy as np
import pytest

from jete.simulate.circuit import draw
from jete.simulate.driver import Fault, Trace
from jete.simulate.feet import drive_with_feet
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from jete.simulate.vehicle import draw_vehicle

SEED = 4
CORNER = 3


def driven(*faults: Fault) -> Trace:
    return drive_with_feet(draw(SEED), draw_vehicle(SEED), SEED, faults)


def cost_s(kind: str, size: float) -> float:
    return driven(Fault(kind, CORNER, size)).lap_time_s(1) - driven().lap_time_s(1)


def test_the_same_plan_is_the_same_lap() -> None:
    assert driven().speed_mps.tolist() == driven().speed_mps.tolist()


def test_pedals_are_within_their_travel_and_never_hard_on_both() -> None:
    lap = driven()
    assert lap.throttle.min() >= 0.0
    assert lap.throttle.max() <= 1.0
    assert np.all((lap.brake_mps2 < 2.0) | (lap.throttle < 0.3))


@pytest.mark.many
@pytest.mark.parametrize("kind", ["early_braking", "overslowing", "late_throttle", "waiting_foot", "slow_exit"])
def test_a_mistake_costs_time(kind: str) -> None:
    size = {"overslowing": 6.0, "slow_exit": 0.2}.get(kind, 12.0)
    assert cost_s(kind, size) > 0.03


@pytest.mark.many
@pytest.mark.parametrize("kind", ["late_braking", "more_speed", "early_throttle", "fast_exit"])
def test_a_gain_gains(kind: str) -> None:
    size = {"more_speed": 3.0, "fast_exit": 0.1}.get(kind, 8.0)
    assert cost_s(kind, size) < -0.03


def test_a_foot_that_waits_loses_more_than_one_that_balances() -> None:
    assert cost_s("waiting_foot", 12.0) > cost_s("late_throttle", 12.0)


def test_what_is_planned_at_one_corner_changes_nothing_before_it() -> None:
    brake_m = next(c.brake_on_m for c in driven().corners if c.corner == CORNER)
    assert brake_m is not None
    before = np.linspace(10.0, brake_m - 60.0, 40)
    late = driven(Fault("late_throttle", CORNER, 12.0))
    assert late.time_at_s(1, before) == pytest.approx(driven().time_at_s(1, before), abs=1e-6)


@pytest.mark.long
def test_a_trade_has_both_sides_at_one_corner() -> None:
    faults = draw_feet_trial(7, made="trades", count=2).faults
    corners = [f.fault.corner for f in faults]
    assert corners
    assert all(corners.count(c) == 2 for c in corners)


def test_the_shares_of_a_trade_add_up_to_what_both_cost() -> None:
    faults = draw_feet_trial(7, made="trades", count=1).faults
    assert len(faults) == 2
    length = draw(100_007).length_m
    other = faults[0].other
    assert other is not None
    both = faults[0].lap.lap_time_s(1) - other[1].lap_time_s(1)
    assert sum(f.share_between_s(0.0, length) for f in faults) == pytest.approx(both, abs=2e-3)
    assert sum(f.cost_s for f in faults) != pytest.approx(both, abs=2e-3)


@pytest.mark.long
def test_a_harder_braking_that_the_grip_did_not_give_is_no_truth() -> None:
    """Drawn to brake 10 m later and be slow where the reference is; slow 38 m later, he braked later."""
    trial = draw_feet_trial(4016)
    assert "hard_braking" not in {f.fault.kind for f in trial.faults}
    there = next(c for c in trial.circuit.corners if c.number == 2)
    places = np.linspace(there.start_m - 60.0, there.end_m, 20)
    times = [np.diff(t.time_at_s(1, places)) for t in (trial.reference_trace, trial.lap_trace)]
    assert times[0] == pytest.approx(times[1], abs=1e-6)


@pytest.mark.long
def test_a_braking_that_was_not_needed_from_its_later_place_is_no_truth() -> None:
    """Drawn to brake so late that the vehicle is through the bend and driven on before it."""
    assert all(f.fault.corner != 13 for f in draw_feet_trial(2164).faults)


def test_laps_logged_again_are_those_that_were_drawn_for_that_logger() -> None:
    settings = LoggerSettings(rate_hz=20.0)
    again, drawn = draw_feet_trial(7, made="equal").logged(settings), draw_feet_trial(7, settings, "equal")
    assert again.lap.channels["speed"].value.tolist() == drawn.lap.channels["speed"].value.tolist()
    assert again.reference.channels["x"].value.tolist() == drawn.reference.channels["x"].value.tolist()
