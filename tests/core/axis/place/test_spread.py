"""How sure gaps are whose positions drift: against drifts that are drawn on a plane."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.axis.place.spread import Drifting, Spread

DRIFT_M, MEMORY_M, SPEED_MPS = 0.9, 1500.0, 30.0
PLACES_M = np.array([[0.0, 150.0, 400.0]])


def spread(turned_rad: float) -> Spread:
    """A road that goes straight, turns by so much from 100 to 200 m, and goes straight on."""
    headings = np.array([0.0, 100.0, 200.0, 1000.0]), np.array([0.0, 0.0, turned_rad, turned_rad])
    return Spread(length_m=1000.0, drifts=(Drifting(DRIFT_M, MEMORY_M),), headings=headings)


def drawn(turned_rad: float) -> np.ndarray:
    """Covariance of the two stretches' gaps when each axis of a position wanders by itself, (2, 2)."""
    rng, at = np.random.default_rng(3), PLACES_M[0]
    alike = DRIFT_M**2 * np.exp(-np.abs(at[:, None] - at) / MEMORY_M)
    x, y = (rng.multivariate_normal(np.zeros(3), alike, 40_000) for _ in range(2))
    heading = np.interp(at, [100.0, 200.0], [0.0, turned_rad])
    ahead = x * np.cos(heading) + y * np.sin(heading)
    return np.cov(np.diff(ahead / SPEED_MPS, axis=1).T)


@pytest.mark.parametrize("turned_rad", [0.0, 0.5 * np.pi, np.pi])
def test_a_drift_counts_by_how_far_the_road_has_turned(turned_rad: float) -> None:
    found = spread(turned_rad).gap_covariance(PLACES_M, np.full_like(PLACES_M, SPEED_MPS))[0]
    assert found == pytest.approx(drawn(turned_rad), rel=0.04, abs=3e-6)


def test_what_is_ahead_on_the_way_out_is_behind_on_the_way_back() -> None:
    ends = np.array([0.0]), np.array([400.0]), np.array([SPEED_MPS]), np.array([SPEED_MPS])
    out, back = (float(spread(turned).change(*ends)[0]) for turned in (0.0, np.pi))
    assert back > 2.5 * out
