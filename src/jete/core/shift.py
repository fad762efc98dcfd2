"""The difference between place and own distance over a lap, from noisy projected positions.

With u the scaled own distance, place = u + e(u), and the lap's path lies n(u) to the left
of the reference's.  Both are splines found together, since they are tied by geometry: on
the inside of a bend (κ n > 0) a metre driven is more than a metre of axis,
e' = κ n + c to first order, c common to the lap (an odometer that reads short).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.banded import BandedLeastSquares
from jete.core.spline import Curve, Knots, products

if TYPE_CHECKING:
    from jete.core.lap import FloatArray, IntArray
    from jete.core.project import Seen
    from jete.core.road import Road

KNOT_M = 7.0
PIN_M = 0.02
SLOWEST_MPS = 6.0
# How far the own distance may stray from the path, m² per m (wheel slip, wind-up of a smoothed speed).
SLIP_DENSITIES = (1e-5, 1e-4, 1e-3)
# How sharply two lines may part: n'''² times its reach, 1/m³, and never more than a vehicle's jerk.
OFFSET_DENSITIES = (1e-8, 2e-7, 4e-6)
OFFSET_JERK = 20.0


@dataclass(frozen=True, eq=False)
class Shift:
    """The found e and n, the rate c, and the equations they were found by (coefficients by turns)."""

    shift: Curve
    offset: Curve
    rate: float
    system: BandedLeastSquares


def most_likely_shift(seen: Seen, road: Road, speed_mps: FloatArray, speed_at_m: FloatArray) -> Shift:
    """The solution with the most likely stiffness: first of the offset, then of the slip.

    Args:
        seen: projected positions of the lap.
        road: of the reference.
        speed_mps: of the lap, (n,).
        speed_at_m: scaled own distance of those speeds, (n,), increasing.
    """
    problem = _Problem.of(seen, road, speed_mps, speed_at_m)
    offsets = [problem.solve(SLIP_DENSITIES[1], q) for q in OFFSET_DENSITIES]
    best = max(range(len(offsets)), key=lambda i: offsets[i].score)
    others = [problem.solve(q, OFFSET_DENSITIES[best]) for q in SLIP_DENSITIES if q != SLIP_DENSITIES[1]]
    solution = max([offsets[best], *others], key=lambda s: s.score)
    shift, offset = (Curve(problem.knots, solution.unknowns[side::2]) for side in (0, 1))
    return Shift(shift, offset, solution.rate, solution.system)


@dataclass(frozen=True, eq=False)
class _Solution:
    unknowns: FloatArray
    rate: float
    system: BandedLeastSquares
    score: float


@dataclass(frozen=True, eq=False)
class Rows:
    """Rows (m, k) of equations, and the first unknown of each, (m,)."""

    first: IntArray
    rows: FloatArray


@dataclass(frozen=True, eq=False)
class _Problem:
    """The equations but for their stiffnesses; unknowns are the coefficients of e and n by turns."""

    seen: Seen
    knots: Knots
    at: Rows
    tie: Rows
    bend: Rows
    sharpest: FloatArray
    data: BandedLeastSquares
    tied: BandedLeastSquares

    @classmethod
    def of(cls, seen: Seen, road: Road, speed_mps: FloatArray, speed_at_m: FloatArray) -> _Problem:
        knots = Knots.over(0.0, road.length_m, KNOT_M)
        middles = knots.middles()
        at, bend = Rows(*knots.basis(seen.u)), Rows(*knots.basis(middles, 3))
        tie = tie_rows(knots, road.curvature_at(middles))
        data, tied = (BandedLeastSquares(2 * knots.size, 8) for _ in range(2))
        for side, values in enumerate((seen.shift, seen.offset)):
            data.add(2 * at.first + side, at.rows, seen.noise_m**-2, values, stride=2)
        ends = Rows(*knots.basis(np.array([0.0, road.length_m])))
        data.add(2 * ends.first, ends.rows, PIN_M**-2, 0.0, stride=2)
        tied.add(tie.first, tie.rows, 1.0, 0.0)
        v = np.maximum(np.interp(middles, speed_at_m, speed_mps), SLOWEST_MPS)
        return cls(seen, knots, at, tie, bend, OFFSET_JERK / v**5, data, tied)

    def solve(self, slip: float, sharpness: float) -> _Solution:
        """Least squares for one density of the slip and one of the offset's sharpness."""
        weight = self.knots.step / slip
        stiff = self.knots.step / np.minimum(self.sharpest, sharpness)
        system = self.data.plus(self.tied, weight)
        system.add(2 * self.bend.first + 1, self.bend.rows, stiff, 0.0, stride=2)
        unknowns, rate = solve_with_rate(system, self.tie, weight)
        score = -0.5 * (
            self._misfit(unknowns)
            + weight * float(np.sum((products(self.tie.rows, self.tie.first, unknowns[:, None])[:, 0] - rate) ** 2))
            + float(stiff @ products(self.bend.rows, self.bend.first, unknowns[1::2, None])[:, 0] ** 2)
            + system.log_determinant()
            - self.knots.cells * np.log(weight)
            - float(np.log(stiff).sum())
        )
        return _Solution(unknowns, rate, system, score)

    def _misfit(self, unknowns: FloatArray) -> float:
        """Σ (residual / noise)² of the positions."""
        fitted = products(self.at.rows, self.at.first, unknowns.reshape(-1, 2))
        wanted = np.stack([self.seen.shift, self.seen.offset], axis=1)
        return float(np.sum((fitted - wanted) ** 2)) / self.seen.noise_m**2


def solve_with_rate(system: BandedLeastSquares, tie: Rows, weight: float) -> tuple[FloatArray, float]:
    """Solve with the common rate c of the tie's rows as one more unknown (bordered system, Schur complement)."""
    columns = tie.first[:, None] + np.arange(tie.rows.shape[1])
    pull = np.asarray(weight * np.bincount(columns.ravel(), tie.rows.ravel(), system.size), float)
    plain, by_rate = system.solve(np.column_stack([system.right, pull])).T
    total = weight * len(tie.first)
    rate = float(pull @ plain / (total - pull @ by_rate))
    return plain + rate * by_rate, rate


def tie_rows(knots: Knots, curvature: FloatArray) -> Rows:
    """Rows of e' − κ n at the middles of the cells, (cells, 8)."""
    first, slopes = knots.basis(knots.middles(), 1)
    _, values = knots.basis(knots.middles())
    rows = np.empty((len(first), 8))
    rows[:, 0::2] = slopes
    rows[:, 1::2] = -curvature[:, None] * values
    return Rows(2 * first, rows)
