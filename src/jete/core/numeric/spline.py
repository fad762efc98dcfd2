"""Penalised cubic B-splines on even knots (Eilers & Marx 1996, Statistical Science 11:89).

The penalty is on a derivative of the curve itself, integrated by the midpoint rule with
a weight that may vary along the axis; its stiffness is given or found by the marginal
likelihood (the curve as a Gaussian process with an improper prior; Wahba 1990, ch. 4).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.numeric.banded import BandedLeastSquares, Rows
from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Iterable


@dataclass(frozen=True)
class Knots:
    """Even knots: ``cells`` cells of ``step`` from ``start``; ``cells + 3`` coefficients."""

    start: float
    step: float
    cells: int

    @classmethod
    def over(cls, start: float, end: float, step: float) -> Knots:
        """Knots that cover an interval with cells of about ``step``."""
        cells = max(4, int(np.ceil((end - start) / step)))
        return cls(start, (end - start) / cells, cells)

    @property
    def size(self) -> int:
        """Number of coefficients."""
        return self.cells + 3

    def middles(self) -> FloatArray:
        """Middles of the cells, (cells,)."""
        return np.asarray(self.start + (np.arange(self.cells) + 0.5) * self.step, dtype=np.float64)

    def edges(self) -> FloatArray:
        """Where the cells meet, and both ends, (cells + 1,)."""
        return np.asarray(self.start + np.arange(self.cells + 1) * self.step, dtype=np.float64)

    def basis(self, at: FloatArray, derivative: int = 0) -> Rows:
        """The four basis values, or a derivative of them, at places (m,): rows over the coefficients.

        Beyond the ends the outer polynomials run on.
        """
        cell, share = self.cell(at)
        return Rows(cell, self.pieces(share, derivative))

    def cell(self, at: FloatArray) -> tuple[IntArray, FloatArray]:
        """Cell of each place (m,), and the share of the cell that lies before it, (m,)."""
        place = (np.asarray(at, dtype=float) - self.start) / self.step
        cell = np.minimum(np.maximum(place.astype(np.intp), 0), self.cells - 1)
        return cell, place - cell

    def pieces(self, share: FloatArray, derivative: int) -> FloatArray:
        """The four basis polynomials, or a derivative of them, at shares of a cell, (m, 4)."""
        rows = _PIECES[derivative](share)
        return rows / self.step**derivative if derivative else rows


def _values(u: FloatArray) -> FloatArray:
    # Products: NumPy raises to the third power by logarithms.
    w = 1.0 - u
    uu, ww = u * u, w * w
    return _rows(w * ww / 6.0, (0.5 * u - 1.0) * uu + 2.0 / 3.0, (0.5 * w - 1.0) * ww + 2.0 / 3.0, u * uu / 6.0)


def _slopes(u: FloatArray) -> FloatArray:
    w = 1.0 - u
    return _rows(-0.5 * w * w, (1.5 * u - 2.0) * u, (2.0 - 1.5 * w) * w, 0.5 * u * u)


def _bends(u: FloatArray) -> FloatArray:
    w = 1.0 - u
    return _rows(w, 3.0 * u - 2.0, 3.0 * w - 2.0, u)


def _thirds(u: FloatArray) -> FloatArray:
    one = np.ones_like(u)
    return _rows(-one, 3.0 * one, -3.0 * one, one)


def _rows(*columns: FloatArray) -> FloatArray:
    """Columns (m,) side by side, (m, 4)."""
    out = np.empty((len(columns[0]), len(columns)))
    for k, column in enumerate(columns):
        out[:, k] = column
    return out


_PIECES = (_values, _slopes, _bends, _thirds)


@dataclass(frozen=True, eq=False)
class Curve:
    """A spline with coefficients (size,) or (size, sides)."""

    knots: Knots
    coefficients: FloatArray

    def __call__(self, at: FloatArray, derivative: int = 0) -> FloatArray:
        """Values (m,) or (m, sides) of the curve or a derivative (0 to 3)."""
        table = self.coefficients.reshape(self.knots.size, -1)
        return self.knots.basis(at, derivative).times(table).reshape(len(at), *self.coefficients.shape[1:])

    def with_slope_and_bend(self, at: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Values, first and second derivatives at places (m,), each (m,) or (m, sides)."""
        first, share = self.knots.cell(at)
        near = self.coefficients[first[:, None] + np.arange(4)]
        rows = (self.knots.pieces(share, k) for k in range(3))
        value, slope, bend = (np.asarray(np.einsum("mk,mk...->m...", r, near)) for r in rows)
        return value, slope, bend


@dataclass(frozen=True, eq=False)
class Samples:
    """Samples to fit curves to: values (n, sides), the noise of all, the knots and the equations.

    ``shape`` is that of a coefficient: () where values came as (n,), else (sides,).
    """

    values: FloatArray
    shape: tuple[int, ...]
    noise: float
    knots: Knots
    rows: Rows
    system: BandedLeastSquares

    @classmethod
    def of(cls, at: FloatArray, values: FloatArray, noise: float, knots: Knots) -> Samples:
        """Samples (n,) or (n, sides) with standard deviation ``noise`` at places (n,)."""
        data = values.reshape(len(at), -1)
        system = BandedLeastSquares(knots.size, 4, data.shape[1])
        rows = knots.basis(at)
        system.add(rows, 1.0 / noise**2, data)
        return cls(data, values.shape[1:], noise, knots, rows, system)

    def fit(self, derivative: int, roughness: FloatArray | float) -> tuple[Curve, float]:
        """Fit a curve and return it with its log marginal likelihood (up to a constant).

        Args:
            derivative: which derivative is held small (1, 2 or 3).
            roughness: spectral density of that derivative, per unit of the axis, (cells,) or
                one number: what it may do, squared, times how far it keeps doing it.
        """
        knots = self.knots
        penalty = BandedLeastSquares(knots.size, 4, self.values.shape[1])
        weight = np.broadcast_to(knots.step / np.asarray(roughness, dtype=float), (knots.cells,))
        bends = knots.basis(knots.middles(), derivative)
        penalty.add(bends, weight)
        system = self.system.plus(penalty)
        coefficients = np.asarray(system.solve()).reshape(knots.size, -1)
        misfit = float(np.sum((self.rows.times(coefficients) - self.values) ** 2)) / self.noise**2
        held = float(np.sum(weight[:, None] * bends.times(coefficients) ** 2))
        sides = self.values.shape[1]
        score = -0.5 * (misfit + held + sides * (system.log_determinant() - np.log(weight).sum()))
        return Curve(knots, coefficients.reshape(knots.size, *self.shape)), score

    def likeliest(self, derivative: int, roughnesses: Iterable[FloatArray | float]) -> Curve:
        """The fit with the most likely of a few roughnesses, as in :meth:`fit`; the first where several are alike."""
        return max((self.fit(derivative, q) for q in roughnesses), key=lambda f: f[1])[0]


def likeliest(
    at: FloatArray,
    values: FloatArray,
    noise: float,
    knots: Knots,
    *,
    derivative: int,
    roughnesses: Iterable[FloatArray | float],
) -> Curve:
    """The fit with the most likely of a few roughnesses; the first where several are alike.

    Args:
        at: places of the samples, (n,).
        values: samples, (n,) or (n, sides), all with standard deviation ``noise``.
        noise: of one sample, in the unit of ``values``.
        knots: of the curve.
        derivative: which derivative is held small (1, 2 or 3).
        roughnesses: the candidates, as in :meth:`Samples.fit`.
    """
    return Samples.of(at, values, noise, knots).likeliest(derivative, roughnesses)


def noise_of(values: FloatArray) -> float:
    """Standard deviation of white noise on a smooth series (n,): robust, from 3rd differences.

    The third difference of white noise has 20 times its variance; what is smooth on the
    scale of four samples drops out.
    """
    if len(values) < 8:
        return 0.0
    third = np.diff(values, 3)
    return float(robust_sigma(third) / np.sqrt(20.0))
