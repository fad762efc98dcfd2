"""The slow point: valleys of speed whose middle and depth are known."""

from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.driving.slow import parabola, valley

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
