"""A drift against white noise: errors drawn on a plane, seen along a road that winds."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.axis.positions.drift import LONG_WAVE_RADPS, Drift, drift_of

STEP_S, LAP_S = 0.1, 95.0
TIME_S = np.arange(0.0, LAP_S, STEP_S)


def seen(seed: int, white_m: float, drift_m: float = 0.0, drift_s: float = 1.0, *, told: bool = False) -> Drift:
    """What one lap shows of errors that are drawn on both axes of its plane."""
    rng, n = np.random.default_rng(seed), len(TIME_S)
    turns_radps = np.interp(TIME_S, np.arange(0.0, LAP_S + 4.0, 4.0), rng.normal(0.0, 0.4, 25))
    heading = np.cumsum(turns_radps) * STEP_S
    direction = np.stack([np.cos(heading), np.sin(heading)], axis=1)
    keeps = np.exp(-STEP_S / drift_s)
    walk = rng.normal(0.0, drift_m, (n, 2))
    for k in range(1, n):
        walk[k] = keeps * walk[k - 1] + (1.0 - keeps**2) ** 0.5 * walk[k]
    error = walk + rng.normal(0.0, white_m, (n, 2))
    steps = np.sum(0.5 * (direction[1:] + direction[:-1]) * np.diff(error, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    known = np.stack([np.ones(n), TIME_S], axis=1)
    off = along - known @ np.linalg.lstsq(known, along, rcond=None)[0]
    return drift_of(TIME_S, off, known, direction, white_m**2 * STEP_S if told else 0.0)


def density(drift_m: float, drift_s: float) -> float:
    """Of an Ornstein-Uhlenbeck process at waves of four minutes, m²s."""
    return 2.0 * drift_m**2 * drift_s / (1.0 + (LONG_WAVE_RADPS * drift_s) ** 2)


@pytest.mark.parametrize("told", [True, False])
def test_white_noise_hides_no_drift(*, told: bool) -> None:
    found = [seen(seed, 0.4, told=told) for seed in range(12)]
    assert sum(d.likely > 0.5 for d in found) <= 1
    assert 0.8 < np.median([d.density_m2s for d in found]) / (0.4**2 * STEP_S) < 2.5


@pytest.mark.parametrize(("white_m", "drift_m", "drift_s"), [(0.4, 0.3, 20.0), (0.3, 1.0, 60.0), (0.1, 0.8, 8.0)])
def test_a_drift_is_seen_however_slow_it_is(white_m: float, drift_m: float, drift_s: float) -> None:
    found = [seen(seed, white_m, drift_m, drift_s) for seed in range(12)]
    assert sum(d.likely > 0.5 for d in found) >= 8
    told = float(np.median([d.density_m2s for d in found]))
    # Over four minutes a drift of one lap is known to a factor of three or so.
    assert 0.25 < told / density(drift_m, drift_s) < 4.0


def test_how_far_it_strays_within_the_lap_is_told_whatever_lies_behind() -> None:
    """A drift of minutes strays by less than it is off by."""
    slow = np.median([seen(seed, 0.3, 1.0, 60.0).within_m for seed in range(12)])
    quick = np.median([seen(seed, 0.1, 0.8, 8.0).within_m for seed in range(12)])
    assert 0.3 < slow < 0.8
    assert 0.55 < quick < 1.1


def test_what_cannot_be_told_lies_between_white_and_drifting() -> None:
    found = [seen(seed, 1.0, 0.15, 20.0, told=True) for seed in range(12)]
    unsure = [d for d in found if 0.1 < d.likely < 0.9]
    assert unsure
    assert all(d.density_m2s > 1.0**2 * STEP_S for d in unsure)


def test_a_log_of_a_few_scattered_positions_tells_nothing() -> None:
    time_s = np.concatenate([np.arange(0.0, 15.0, 1.0), np.arange(2000.0, 2015.0, 1.0)])
    off = np.random.default_rng(1).normal(0.0, 0.5, len(time_s))
    direction = np.tile([[1.0, 0.0]], (len(time_s), 1))
    found = drift_of(time_s, off, np.ones((len(time_s), 1)), direction, 0.0)
    assert found.likely == 0.0
    assert found.density_m2s > 0.0


def test_a_vehicle_that_stands_breaks_nothing() -> None:
    rng = np.random.default_rng(2)
    angle = rng.uniform(0.0, 2.0 * np.pi, len(TIME_S))
    direction = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    found = drift_of(TIME_S, rng.normal(0.0, 0.3, len(TIME_S)), np.ones((len(TIME_S), 1)), 1e-9 * direction, 0.0)
    assert np.isfinite([found.likely, found.density_m2s, found.within_m]).all()


@pytest.mark.parametrize("white_m", [0.001, 0.02])
def test_a_drift_beyond_any_doubt_has_a_density_all_the_same(white_m: float) -> None:
    found = seen(1, white_m, 1.5, 30.0, told=True)
    assert found.likely > 0.99
    assert 1.0 < found.density_m2s < 1000.0
