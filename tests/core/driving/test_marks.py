"""The marks of known laps, at several sampling rates."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.causes.verdict.result import CornerLoss
from jete.core.driving.braking import begun_like
from jete.core.driving.pedals import Spell
from jete.simulate.driver import Fault, TrueCorner
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial
from jete.simulate.vehicle import CAR, MOTORCYCLE
from known_laps import compare_trial, drawn, passed, with_feet

SEEDS = (41, 42, 43)


@lru_cache(maxsize=12)
def measured(
    seed: int, speed_noise_mps: float = 0.03, rate_hz: float = 100.0
) -> list[tuple[Trial, CornerLoss, TrueCorner]]:
    trial = drawn(seed).logged(replace(LoggerSettings(), speed_noise_mps=speed_noise_mps, rate_hz=rate_hz))
    truth = [c for c in trial.corners("lap") if not c.flat]
    out = []
    for loss in compare_trial(trial).laps[0].corners:
        station = float(trial.station_m(loss.corner.apex_m))
        road = min(trial.circuit.corners, key=lambda r: abs(r.apex_m - station))
        out += [(trial, loss, t) for t in truth if t.corner == road.number]
    return out


def errors(seed: int, mark: str, true: str, speed_noise_mps: float = 0.03, rate_hz: float = 100.0) -> np.ndarray:
    out = []
    for trial, loss, t in measured(seed, speed_noise_mps, rate_hz):
        place, found = getattr(t, true), getattr(loss.lap_marks, mark)
        if place is not None and found is not None:
            out.append(abs(found - float(trial.axis_m(place))))
    return np.array(out)


@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize(
    ("mark", "true", "within"),
    [("brake_on_m", "brake_on_m", 1.0), ("slow_point_m", "slow_point_m", 3.0), ("throttle_on_m", "throttle_on_m", 2.0)],
)
def test_marks_are_where_the_driver_made_them(seed: int, mark: str, true: str, within: float) -> None:
    assert np.median(errors(seed, mark, true)) < within


@pytest.mark.parametrize("noise_mps", [0.1, 0.2])
@pytest.mark.parametrize(
    ("mark", "true", "within"), [("slow_point_m", "slow_point_m", 3.0), ("throttle_on_m", "throttle_on_m", 2.0)]
)
def test_a_noisy_speed_hardly_moves_the_marks(noise_mps: float, mark: str, true: str, within: float) -> None:
    assert np.median(errors(SEEDS[0], mark, true, noise_mps)) < within


@pytest.mark.parametrize("rate_hz", [10.0, 20.0])
@pytest.mark.parametrize(("mark", "within"), [("brake_on_m", 2.0), ("throttle_on_m", 2.0)])
def test_few_samples_hardly_move_the_marks(rate_hz: float, mark: str, within: float) -> None:
    far = np.concatenate([errors(seed, mark, mark, rate_hz=rate_hz) for seed in SEEDS])
    assert np.percentile(far, 90.0) < within


@pytest.mark.parametrize("seed", SEEDS)
def test_marks_come_in_the_order_of_the_road(seed: int) -> None:
    for _, loss, _ in measured(seed):
        m = loss.lap_marks
        order = [p for p in (m.lift_m, m.brake_on_m, m.brake_off_m) if p is not None]
        assert order == sorted(order)
        if m.full_throttle_m is not None and m.throttle_on_m is not None:
            assert m.full_throttle_m > m.throttle_on_m


def test_hesitation_is_counted_once_for_each_dip() -> None:
    loss = passed(Fault("throttle_hesitation", 2, 0.5))
    assert loss.lap_marks.throttle_dips == loss.reference_marks.throttle_dips + 1


def test_coasting_is_measured_in_seconds() -> None:
    loss = passed(Fault("coasting", 2, 0.8))
    assert loss.lap_marks.coast_s - loss.reference_marks.coast_s == pytest.approx(0.8, abs=0.15)


def test_the_slow_point_of_a_slower_corner_is_slower() -> None:
    loss = passed(Fault("overslowing", 2, 6.0))
    assert loss.reference_marks.min_speed_kmh - loss.lap_marks.min_speed_kmh == pytest.approx(6.0, abs=0.7)


def test_a_balancing_throttle_is_no_pick_up() -> None:
    loss = passed(Fault("late_throttle", 2, 20.0))
    ours, theirs = loss.reference_marks.throttle_on_m, loss.lap_marks.throttle_on_m
    assert ours is not None
    assert theirs is not None
    assert theirs - ours == pytest.approx(20.0, abs=2.0)
    assert loss.lap_marks.throttle_dips == 0


def test_the_gear_is_that_at_the_slow_point() -> None:
    marks = passed(None).lap_marks
    assert marks.gear == CAR.gear(np.array([marks.min_speed_kmh / 3.6]))[0]


def test_the_brake_unit_is_the_logged_one() -> None:
    marks = passed(None).lap_marks
    assert marks.brake_unit == "bar"
    assert 20.0 < (marks.brake_peak or 0.0) < 80.0


def test_a_motorcycle_with_two_brakes_and_lean_has_all_marks() -> None:
    channels = ("lap", "distance", "speed", "throttle", "brake_front", "brake_rear", "lean", "gear", "x", "y")
    marks = passed(None, MOTORCYCLE, channels).lap_marks
    assert None not in (marks.brake_on_m, marks.throttle_on_m, marks.turn_in_m, marks.full_throttle_m)


def test_without_pedals_the_brake_point_is_inferred_nearby() -> None:
    channels = ("lap", "distance", "speed", "yaw_rate", "x", "y")
    with_pedals, without = passed(None).lap_marks, passed(None, channels=channels).lap_marks
    assert without.brake_on_m is not None
    assert without.brake_on_m == pytest.approx(with_pedals.brake_on_m, abs=12.0)
    assert without.brake_unit == "m/s2"


def test_a_brake_for_what_comes_next_does_not_take_the_pick_up_before_it_away() -> None:
    trial = with_feet(3056, "faults")
    picked = [c.lap_marks.throttle_on_m for c in compare_trial(trial).laps[0].corners]
    true = trial.axis_m(next(c.throttle_on_m for c in trial.lap_trace.corners if (c.lap, c.corner) == (1, 2)))
    assert min(abs(p - float(true)) for p in picked if p is not None) < 2.0


@pytest.mark.parametrize(("like_m", "first"), [(300.0, 1), (110.0, 0), (200.0, 0), (None, 0)])
def test_both_laps_are_held_to_the_same_press_of_the_brake(like_m: float | None, first: int) -> None:
    """Presses at 100 m and at 290 m; the other lap begins at neither, or at one of them."""
    time = np.arange(0.0, 20.0, 0.1)
    passage = SimpleNamespace(brake=SimpleNamespace(time_s=time), place_at=lambda t: 20.0 * t)
    chain = [Spell(50, 60, 55), Spell(145, 160, 150)]
    assert begun_like(passage, chain, like_m) == chain[first:]  # type: ignore[arg-type]
