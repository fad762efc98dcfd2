"""Penalised splines and banded systems against dense algebra."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.numeric.banded import BandedLeastSquares, Rows
from jete.core.numeric.interpolate import MonotoneCubic
from jete.core.numeric.spline import Curve, Knots, Samples, noise_of

RNG = np.random.default_rng(3)


def test_banded_solution_is_the_dense_one() -> None:
    rows, first = RNG.normal(size=(60, 3)), RNG.integers(0, 18, 60)
    system = BandedLeastSquares(20, 3)
    target = RNG.normal(size=60)
    system.add(Rows(first, rows), 2.0, target)
    system.add(Rows(np.arange(20), np.ones((20, 1))), 1e-3)
    dense = np.zeros((60, 20))
    dense[np.arange(60)[:, None], first[:, None] + np.arange(3)] = rows
    expected = np.linalg.solve(2.0 * dense.T @ dense + 1e-3 * np.eye(20), 2.0 * dense.T @ target)
    assert system.solve() == pytest.approx(expected, rel=1e-6, abs=1e-9)


def test_log_determinant_is_the_dense_one() -> None:
    system = BandedLeastSquares(5, 2)
    system.add(Rows(np.arange(4), np.tile([1.0, -1.0], (4, 1))), 3.0)
    system.add(Rows(np.arange(5), np.ones((5, 1))), 1.0)
    difference = np.diff(np.eye(5), axis=0)
    expected = np.linalg.slogdet(3.0 * difference.T @ difference + np.eye(5))[1]
    assert system.log_determinant() == pytest.approx(expected, rel=1e-9)


def test_a_matrix_that_is_not_positive_is_refused() -> None:
    system = BandedLeastSquares(3, 1)
    system.add(Rows(np.arange(3), np.ones((3, 1))), np.array([1.0, 1.0, -1.0]))
    with pytest.raises(ArithmeticError):
        system.solve()


@pytest.mark.parametrize("derivative", [0, 1, 2, 3])
def test_a_spline_holds_a_cubic_with_all_its_derivatives(derivative: int) -> None:
    x = np.linspace(0.0, 10.0, 200)
    cubic = np.polynomial.Polynomial([1.0, -2.0, 0.5, 0.1])
    curve, _ = Samples.of(x, cubic(x), 1e-3, Knots.over(0.0, 10.0, 1.0)).fit(3, 1e6)
    expected = cubic.deriv(derivative)(x) if derivative else cubic(x)
    assert curve(x, derivative) == pytest.approx(expected, abs=1e-3)


def test_smoothing_removes_noise() -> None:
    x = np.linspace(0.0, 10.0, 400)
    noisy = np.sin(x) + RNG.normal(0.0, 0.2, 400)
    curve, _ = Samples.of(x, noisy, 0.2, Knots.over(0.0, 10.0, 0.25)).fit(2, 0.5)
    assert np.std(curve(x) - np.sin(x)) < 0.06


def test_the_likelihood_prefers_the_true_stiffness() -> None:
    x = np.linspace(0.0, 10.0, 400)
    noisy = np.sin(3.0 * x) + RNG.normal(0.0, 0.1, 400)
    scores = [Samples.of(x, noisy, 0.1, Knots.over(0.0, 10.0, 0.2)).fit(2, q)[1] for q in (1e-6, 30.0, 1e9)]
    assert np.argmax(scores) == 1


def test_two_sides_are_fitted_at_once() -> None:
    x = np.linspace(0.0, 1.0, 50)
    curve, _ = Samples.of(x, np.stack([x, 2 * x], axis=1), 0.01, Knots.over(0.0, 1.0, 0.1)).fit(2, 1.0)
    assert curve(np.array([0.5])) == pytest.approx(np.array([[0.5, 1.0]]), abs=1e-3)


def test_a_curve_runs_on_beyond_its_knots() -> None:
    curve = Curve(Knots(0.0, 1.0, 4), np.arange(7.0))
    assert curve(np.array([5.0]))[0] == pytest.approx(curve(np.array([4.0]))[0] + 1.0)


@pytest.mark.parametrize("sigma", [0.05, 0.5, 2.0])
def test_noise_is_found_on_a_smooth_series(sigma: float) -> None:
    smooth = 20.0 * np.sin(np.linspace(0.0, 12.0, 2000))
    assert noise_of(smooth + RNG.normal(0.0, sigma, 2000)) == pytest.approx(sigma, rel=0.12)


def test_noise_of_a_few_samples_is_not_guessed() -> None:
    assert noise_of(np.arange(5.0)) == 0.0


def test_a_monotone_cubic_stays_monotone() -> None:
    x = np.array([0.0, 1.0, 1.1, 5.0])
    curve = MonotoneCubic.through(x, np.array([0.0, 0.1, 2.0, 2.1]), np.full(4, 50.0))
    assert np.all(np.diff(curve(np.linspace(0.0, 5.0, 500))) >= -1e-12)


def test_a_monotone_cubic_hits_its_points_and_holds_its_ends() -> None:
    x, y = np.array([0.0, 2.0, 3.0]), np.array([1.0, 2.0, 4.0])
    curve = MonotoneCubic.through(x, y, np.ones(3))
    assert curve(np.array([-1.0, 0.0, 2.0, 3.0, 9.0])) == pytest.approx([1.0, 1.0, 2.0, 4.0, 4.0])


def test_a_parabola_is_met_by_its_slopes() -> None:
    x = np.linspace(1.0, 4.0, 7)
    curve = MonotoneCubic.through(x, x**2, 2.0 * x)
    assert curve(np.array([2.2])) == pytest.approx([4.84], abs=1e-9)
