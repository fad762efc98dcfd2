"""Least squares whose unknowns touch only their neighbours: normal equations in a band.

Rows are added in blocks; the solution, its log-determinant and the diagonal of the
inverse come from the banded Cholesky factor (LAPACK ``dpbtrf``/``dpbtrs``).
"""

from __future__ import annotations

import numpy as np

from jete.core.lap import FloatArray, IntArray
from jete.core.lapack import lapack


class BandedLeastSquares:
    """Minimise Σ w (row · u − b)² over ``size`` unknowns; each row spans ≤ ``width`` of them."""

    def __init__(self, size: int, width: int, sides: int = 1) -> None:
        self._band = np.zeros((width, size))
        self._right = np.zeros((size, sides))
        self._factor: FloatArray | None = None

    def add(
        self,
        first: IntArray,
        rows: FloatArray,
        weight: FloatArray | float,
        target: FloatArray | float,
        *,
        stride: int = 1,
    ) -> None:
        """Add rows.

        Args:
            first: index of the first unknown of each row, (m,).
            rows: coefficients of the unknowns from ``first`` on, (m, k), (k − 1) stride < width.
            weight: of each row, (m,) or one number.
            target: right side, (m,), (m, sides) or one number.
            stride: a row's k coefficients are of every ``stride``-th unknown.
        """
        size, k = self._band.shape[1], rows.shape[1]
        weighted = rows * np.broadcast_to(np.asarray(weight, dtype=float), first.shape)[:, None]
        left, right = np.triu_indices(k)
        at = first[:, None] + stride * (left + (right - left) * size)
        band = np.bincount(at.ravel(), (weighted[:, left] * rows[:, right]).ravel(), self._band.size)
        self._band += band[: self._band.size].reshape(self._band.shape)
        goal = np.asarray(target, dtype=float)
        if goal.any():
            goal = goal.reshape(len(first), -1) if goal.ndim else goal.reshape(1, 1)
            columns = (first[:, None] + stride * np.arange(k)).ravel()
            for side in range(self._right.shape[1]):
                pulled = weighted * goal[:, side if goal.shape[1] > 1 else 0, None]
                self._right[:, side] += np.bincount(columns, pulled.ravel(), size)
        self._factor = None

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
        total = BandedLeastSquares(self._band.shape[1], self._band.shape[0], self._right.shape[1])
        total._band = self._band + factor * other._band
        total._right = self._right + factor * other._right
        return total

    def solve(self, right: FloatArray | None = None) -> FloatArray:
        """The unknowns, (size,) or (size, sides); ``right`` replaces the accumulated right side."""
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
        """
        # dpbtrf's band is LAPACK's lower triangular band, so dtbtrs goes forward only.
        half, info = lapack().dtbtrs(self._cholesky(), wanted, uplo="L")
        if info != 0:
            message = f"banded solve failed ({info})"
            raise ArithmeticError(message)
        return np.asarray(np.einsum("ij,ij->j", half, half))

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
