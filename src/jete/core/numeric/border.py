"""A few unknowns that stand in many rows, beside a banded system: full columns, a Schur complement (Golub & Van Loan 2013, Matrix Computations, § 3.2.11)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

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

    def reduced(self, system: BandedLeastSquares) -> Reduced:
        """What is left of them without the unknowns of the band."""
        plain, *by_each = system.solve(np.column_stack([system.right, self.columns])).T
        through = np.array(by_each)
        left = self.own - self.columns.T @ through.T
        return Reduced(left, self.right - self.columns.T @ plain, plain, through)


@dataclass(frozen=True, eq=False)
class Reduced:
    """Equations of the k alone: precision (k, k) and right side (k,); and the band's unknowns (size,) without them, and by each (k, size)."""

    precision: FloatArray
    right: FloatArray
    plain: FloatArray
    through: FloatArray

    def found(self) -> FloatArray:
        """The likeliest, (k,)."""
        return np.asarray(np.linalg.solve(self.precision, self.right))

    def without_first(self) -> tuple[FloatArray, FloatArray]:
        """The equations of all but the first alone: precision (k − 1, k − 1) and right side (k − 1,)."""
        to_first = self.precision[1:, 0] / self.precision[0, 0]
        precision = self.precision[1:, 1:] - np.outer(to_first, self.precision[0, 1:])
        return precision, self.right[1:] - to_first * self.right[0]

    def without_last(self, prior: FloatArray) -> tuple[Reduced, FloatArray]:
        """The equations of all but the last m alone, whose precision beforehand is (m, m); and the covariance of those, (m, m)."""
        m = len(prior)
        covariance = np.linalg.inv(self.precision[-m:, -m:] + prior)
        across = self.precision[:-m, -m:] @ covariance
        rest = Reduced(
            self.precision[:-m, :-m] - across @ self.precision[-m:, :-m],
            self.right[:-m] - across @ self.right[-m:],
            self.plain - (covariance @ self.right[-m:]) @ self.through[-m:],
            self.through[:-m] - across @ self.through[-m:],
        )
        return rest, np.asarray(covariance)

    def first(self, others: FloatArray | None = None) -> float:
        """The likeliest first, where the others (k − 1,), if any, are known."""
        known = 0.0 if others is None else float(self.precision[0, 1:] @ others)
        return float(self.right[0] - known) / float(self.precision[0, 0])

    def at(self, values: FloatArray) -> FloatArray:
        """The unknowns of the band, (size,), where these have values (k,)."""
        return np.asarray(self.plain - values @ self.through)


@dataclass(frozen=True, eq=False)
class Loose:
    """What such unknowns, known with a covariance (k, k), leave open of the band by their columns (size, k)."""

    columns: FloatArray
    covariance: FloatArray

    @classmethod
    def all_of(cls, parts: Sequence[Loose]) -> Loose | None:
        """What several leave open that are independent of each other; None of none."""
        if not parts:
            return None
        covariance = np.zeros((sum(len(p.covariance) for p in parts),) * 2)
        at = 0
        for part in parts:
            k = len(part.covariance)
            covariance[at : at + k, at : at + k] = part.covariance
            at += k
        return cls(np.hstack([p.columns for p in parts]), covariance)

    def half(self, system: BandedLeastSquares) -> FloatArray:
        """(size, k): with h = L⁻¹ w of a linear form, |h · half|² comes to its variance."""
        return np.asarray(system.half(np.asfortranarray(self.columns)) @ np.linalg.cholesky(self.covariance))
