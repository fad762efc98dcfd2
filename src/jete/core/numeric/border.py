"""A few unknowns that stand in many rows, beside a banded system: full columns, a Schur complement (Golub & Van Loan 2013, Matrix Computations, § 3.2.11)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.numeric.banded import BandedLeastSquares


@dataclass(frozen=True, eq=False)
class Border:
    """The normal equations of k such unknowns: with the banded ones (size, k), with one another (k, k), and their right side (k,)."""

    columns: FloatArray
    own: FloatArray
    right: FloatArray

    def beside(self, other: Border) -> Border:
        """These and others, which have no row in common."""
        k, size = len(self.right), len(self.right) + len(other.right)
        own = np.zeros((size, size))
        own[:k, :k], own[k:, k:] = self.own, other.own
        columns = np.hstack([self.columns, other.columns])
        return Border(columns, own, np.concatenate([self.right, other.right]))

    def solve(self, system: BandedLeastSquares) -> tuple[FloatArray, FloatArray]:
        """The unknowns of the band, (size,), and these, (k,)."""
        plain, *by_each = system.solve(np.column_stack([system.right, self.columns])).T
        through = np.array(by_each)
        left = self.own - self.columns.T @ through.T
        found = np.linalg.solve(left, self.right - self.columns.T @ plain)
        return plain - found @ through, found

    def half(self, system: BandedLeastSquares) -> FloatArray:
        """What these leave open, (size, k): with h = L⁻¹ w of a linear form, |h · half|² comes to its variance."""
        half = system.half(np.asfortranarray(self.columns))
        left = self.own - half.T @ half
        return np.asarray(np.linalg.solve(np.linalg.cholesky(left), half.T).T)
