"""Least squares whose unknowns touch only their neighbours: normal equations in a band.

Rows are added in blocks; the solution, its log-determinant and the diagonal of the
inverse come from the banded Cholesky factor (LAPACK ``dpbtrf``/``dpbtrs``).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.numeric.lapack import lapack


@dataclass(frozen=True, eq=False)
class Rows:
    """Rows of equations over neighbouring unknowns.

    ``first`` (m,) the first unknown of each, ``values`` (m, k) the coefficients of every
    ``stride``-th unknown from there on.
    """

    first: IntArray
    values: FloatArray
    stride: int = 1

    def by_turns(self, side: int) -> Rows:
        """The same rows where two sets of unknowns stand by turns, over one of them (0 or 1)."""
        return Rows(2 * self.first + side, self.values, 2)

    def times(self, unknowns: FloatArray) -> FloatArray:
        """The rows times unknowns (size, sides), (m, sides)."""
        out = self.values[:, :1] * unknowns.take(self.first, axis=0)
        for k in range(1, self.values.shape[1]):
            out += self.values[:, k : k + 1] * unknowns.take(self.first + k * self.stride, axis=0)
        return np.asarray(out)

    def pulled(self, size: int, weight: FloatArray | float) -> FloatArray:
        """Transposed rows times weights (m,) or one number, (size,)."""
        pulls = self.values * np.reshape(weight, (-1, 1))
        return np.asarray(np.bincount(self.unknowns.ravel(), pulls.ravel(), size), float)

    @property
    def unknowns(self) -> IntArray:
        """The unknown of each coefficient, (m, k)."""
        return self.first[:, None] + self.stride * np.arange(self.values.shape[1])

    @cached_property
    def squares(self) -> FloatArray:
        """The products of each row's coefficients, two by two, (k (k + 1) / 2, m): long columns are picked quickest side by side."""
        left, right = _pairs(self.values.shape[1])
        columns = np.ascontiguousarray(self.values.T)
        return np.asarray(columns[left] * columns[right])

    def band(self, size: int, weight: FloatArray | float) -> FloatArray:
        """The normal matrix of the rows in lower band storage, flat: weights (m,) or one number."""
        left, right = _pairs(self.values.shape[1])
        at = self.first + (self.stride * (left + (right - left) * size))[:, None]
        return np.asarray(np.bincount(at.ravel(), (self.squares * weight).ravel()), float)


@cache
def _pairs(k: int) -> tuple[IntArray, IntArray]:
    """The pairs of k coefficients, first and second of each; building them takes longer than using them."""
    left, right = np.triu_indices(k)
    return left, right


class BandedLeastSquares:
    """Minimise Σ w (row · u − b)² over ``size`` unknowns; each row spans ≤ ``width`` of them."""

    def __init__(self, size: int, width: int, sides: int = 1) -> None:
        self._band = np.zeros((width, size))
        self._right = np.zeros((size, sides))
        self._factor: FloatArray | None = None

    def add(self, rows: Rows, weight: FloatArray | float, target: FloatArray | float = 0.0) -> None:
        """Add rows.

        Args:
            rows: that span no more than ``width`` unknowns.
            weight: of each row, (m,) or one number.
            target: right side, (m,), (m, sides) or one number.
        """
        width, size = self._band.shape
        band = rows.band(size, weight)
        self._band.ravel()[: min(len(band), width * size)] += band[: width * size]
        goal = np.asarray(target, dtype=float)
        if goal.any():
            goal = np.broadcast_to(goal.reshape(len(goal), -1) if goal.ndim else goal, (len(rows.first), self._sides))
            for side in range(self._sides):
                self._right[:, side] += rows.pulled(size, weight * goal[:, side])
        self._factor = None

    @property
    def _sides(self) -> int:
        return int(self._right.shape[1])

    @property
    def size(self) -> int:
        """Number of unknowns."""
        return int(self._band.shape[1])

    @property
    def right(self) -> FloatArray:
        """The accumulated right side, (size, sides)."""
        return self._right

    def plus(self, other: BandedLeastSquares, factor: float = 1.0) -> BandedLeastSquares:
        """The sum of two systems over the same unknowns, the other's weights times a factor."""
        total = BandedLeastSquares(self._band.shape[1], self._band.shape[0], self._sides)
        total._band = self._band + factor * other._band
        total._right = self._right + factor * other._right
        return total

    def solve(self, right: FloatArray | None = None) -> FloatArray:
        """The unknowns, (size,) or (size, sides); ``right`` replaces the accumulated right side.

        Raises:
            ArithmeticError: equations that leave an unknown open.
        """
        goal = self._right if right is None else right
        solution, info = lapack().dpbtrs(self._cholesky(), goal, lower=1)
        if info != 0:
            message = f"banded solve failed ({info})"
            raise ArithmeticError(message)
        answer: FloatArray = np.asarray(solution)
        return answer[:, 0] if right is None and answer.ndim == 2 and answer.shape[1] == 1 else answer

    def variance(self, wanted: FloatArray) -> FloatArray:
        """Variance of linear forms of the unknowns, the columns of ``wanted`` (size, k), (k,).

        That is wᵀ A⁻¹ w = |L⁻¹ w|², half of the work of a solution.

        Raises:
            ArithmeticError: equations that leave an unknown open.
        """
        half = self.half(wanted)
        return np.asarray(np.einsum("ij,ij->j", half, half))

    def half(self, wanted: FloatArray) -> FloatArray:
        """L⁻¹ w of the columns of ``wanted`` (size, k), (size, k): their products are covariances.

        Raises:
            ArithmeticError: equations that leave an unknown open.
        """
        # dpbtrf's band is LAPACK's lower triangular band, so dtbtrs goes forward only.
        half, info = lapack().dtbtrs(self._cholesky(), wanted, uplo="L")
        if info != 0:
            message = f"banded solve failed ({info})"
            raise ArithmeticError(message)
        return np.asarray(half)

    def log_determinant(self) -> float:
        """Natural logarithm of the determinant of the normal matrix."""
        return 2.0 * float(np.log(self._cholesky()[0]).sum())

    def _cholesky(self) -> FloatArray:
        if self._factor is None:
            band = self._band.copy()
            band[0] += 1e-12 * band[0].max()
            factor, info = lapack().dpbtrf(band, lower=1)
            if info != 0:
                message = f"the normal matrix is not positive definite ({info})"
                raise ArithmeticError(message)
            self._factor = np.asarray(factor)
        return self._factor
