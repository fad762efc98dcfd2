"""The slow point: valleys of speed whose middle and depth are known."""

from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.axis.road.corners import Corner
from jete.core.driving.pedals import Pedal
from jete.core.driving.slow import parabola, valley, zones_of

TIME = np.arange(0.0, 20.0, 0.02)


def lap(speed: np.ndarray) -> SimpleNamespace:
    return SimpleNamespace(motion=SimpleNamespace(time_s=TIME, speed_mps=speed, quiet_mps=speed))


def test_a_parabola_is_found_from_its_samples() -> None:
    t = np.array([0.0, 0.4, 1.1, 1.7, 3.0])
    assert parabola(t, 2.0 * t**2 - 3.0 * t + 0.5) == pytest.approx((2.0, -3.0, 0.5))


def test_a_round_valley_is_as_deep_as_its_parabola() -> None:
    start, end, lowest = valley(lap(20.0 + 2.0 * (TIME - 8.013) ** 2), 8.02)  # type: ignore[arg-type]
    assert lowest == pytest.approx(20.0, abs=1e-6)
    assert 0.5 * (start + end) == pytest.approx(8.013, abs=0.02)


def test_a_flat_valley_has_its_middle_in_the_middle_wherever_its_least_sample_lies() -> None:
    speed = 20.0 + 5.0 * np.maximum(np.abs(TIME - 8.0) - 1.0, 0.0)
    speed[420] -= 0.01
    start, end, _ = valley(lap(speed), 8.4)  # type: ignore[arg-type]
    assert 0.5 * (start + end) == pytest.approx(8.0, abs=0.02)
    assert end - start == pytest.approx(2.0, abs=0.1)


def test_noise_does_not_make_a_valley_deeper() -> None:
    noise = np.random.default_rng(3).normal(0.0, 0.1, len(TIME))
    _, _, lowest = valley(lap(20.0 + 2.0 * (TIME - 8.0) ** 2 + noise), 8.0)  # type: ignore[arg-type]
    assert lowest == pytest.approx(20.0, abs=0.06)


PLACE = 40.0 * TIME


def slow_at_s(speed: np.ndarray, fed: np.ndarray) -> float:
    """When a lap of such a speed and throttle is slowest in a corner from 100 m to 700 m, whose apex lies at 500 m."""
    throttle = Pedal(time_s=TIME, value=fed, rest=0.0, full=1.0, noise=0.0, unit="ratio")
    passage = SimpleNamespace(alignment=SimpleNamespace(place_m=PLACE), throttle=throttle, **vars(lap(speed)))
    passage.time_at = lambda places_m: np.asarray(places_m) / 40.0
    (zone,) = zones_of(passage, [Corner(number=1, direction="left", start_m=100.0, apex_m=500.0, end_m=700.0)], None)  # type: ignore[arg-type]
    return zone.slow_s


def test_a_lap_that_comes_in_slower_than_it_leaves_is_slowest_where_it_dips() -> None:
    """Out of a hairpin, up to 60 m/s, down to 50 m/s at 9 s, and away: the hairpin's exit is not this corner's slow point."""
    speed = np.interp(TIME, [2.0, 6.0, 9.0, 16.0, 20.0], [30.0, 60.0, 50.0, 80.0, 90.0])
    assert slow_at_s(speed, np.ones_like(TIME)) == pytest.approx(9.0, abs=0.05)


def test_who_lifts_and_still_gains_speed_is_slowest_where_the_foot_is_off() -> None:
    speed = np.interp(TIME, [2.0, 8.0, 10.0, 20.0], [30.0, 60.0, 60.5, 90.0])
    lifted = np.interp(TIME, [7.9, 8.0, 10.0, 10.1], [1.0, 0.2, 0.2, 1.0])
    assert slow_at_s(speed, lifted) == pytest.approx(9.0, abs=0.3)


def test_a_lift_on_the_way_out_of_another_corner_has_its_own_valley() -> None:
    speed = np.interp(TIME, [0.0, 7.0, 9.0, 20.0], [10.0, 30.0, 30.0, 50.0])
    start, end, lowest = valley(lap(speed), 8.6)  # type: ignore[arg-type]
    assert 6.9 < start < 7.1
    assert 9.0 < end < 9.2
    assert lowest == pytest.approx(30.0, abs=0.05)
