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

    def add(self, first: IntArray, rows: FloatArray, weight: FloatArray | float, target: FloatArray | float) -> None:
        """Add rows.

        Args:
            first: index of the first unknown of each row, (m,).
            rows: coefficients of the unknowns from ``first`` on, (m, k), k ≤ width.
            weight: of each row, (m,) or one number.
            target: right side, (m,), (m, sides) or one number.
        """
        weighted = rows * np.broadcast_to(np.asarray(weight, dtype=float), first.shape)[:, None]
        size, k = self._band.shape[1], rows.shape[1]
        goal = np.asarray(target, dtype=float)
        goal = np.broadcast_to(goal.reshape(len(first), -1) if goal.ndim else goal, (len(first), self._right.shape[1]))
        for i in range(k):
            for side in range(goal.shape[1]):
                self._right[:, side] += np.bincount(first + i, weighted[:, i] * goal[:, side], size)[:size]
            for j in range(i, k):
                self._band[j - i] += np.bincount(first + i, weighted[:, i] * rows[:, j], size)[:size]
        self._factor = None

    def solve(self, right: FloatArray | None = None) -> FloatArray:
        """The unknowns, (size,) or (size, sides); ``right`` replaces the accumulated right side."""
        goal = self._right if right is None else right
        solution, info = lapack().dpbtrs(self._cholesky(), goal, lower=1)
        if info != 0:
            message = f"banded solve failed ({info})"
            raise ArithmeticError(message)
        answer: FloatArray = np.asarray(solution)
        return answer[:, 0] if right is None and answer.ndim == 2 and answer.shape[1] == 1 else answer

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
