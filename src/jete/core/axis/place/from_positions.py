"""The difference between place and own distance over a lap, from noisy projected positions.

With u the scaled own distance, place = u + e(u), and the lap's path lies n(u) to the left
of the reference's.  Both are splines found together, since they are tied by geometry: on
the inside of a bend (κ n > 0) a metre driven is more than a metre of axis,
e' = κ n + c to first order, c common to the lap (an odometer that reads short).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from jete.core.motion.pace import SLOWEST_MPS
from jete.core.numeric.banded import BandedLeastSquares, Rows
from jete.core.numeric.border import Border, Loose
from jete.core.numeric.spline import Curve, Knots

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.place.project import Seen
    from jete.core.axis.road.road import Road

# As close as 10 Hz positions lie at 250 km/h; finer knots follow their noise.
KNOT_M = 7.0
# Both ends lie on the line to two centimetres.
PIN_M = 0.02
# How far the own distance may stray from the path, m² per m (wheel slip, wind-up of a smoothed speed).
SLIP_DENSITIES = (1e-5, 1e-4, 1e-3)
# How sharply two lines may part: n'''² times its reach, 1/m³, and never more than a vehicle's jerk.
OFFSET_DENSITIES = (1e-8, 2e-7, 4e-6)
# Lateral jerk squared times its duration, m²/s⁵, that a vehicle reaches on a line of its own.
OFFSET_JERK = 20.0


@dataclass(frozen=True, eq=False)
class Shift:
    """The found e and n, the rate c, and the equations they were found by (coefficients by turns); ``step_m`` is a step of the map, ``extra`` what it and a sensor's wander leave open."""

    shift: Curve
    offset: Curve
    rate: float
    system: BandedLeastSquares
    extra: Loose | None = None
    step_m: tuple[float, float] = (0.0, 0.0)


def most_likely_shift(seen: Seen, road: Road, speed_mps: FloatArray, speed_at_m: FloatArray) -> Shift:
    """The solution with the most likely stiffness: first of the offset, then of the slip.

    Args:
        seen: projected positions of the lap.
        road: of the reference.
        speed_mps: of the lap, (n,).
        speed_at_m: scaled own distance of those speeds, (n,), increasing.
    """
    problem = _Problem.of(seen, _PathGround.of(road), speed_mps, speed_at_m)
    offsets = [problem.solve(SLIP_DENSITIES[1], q) for q in OFFSET_DENSITIES]
    best = max(range(len(offsets)), key=lambda i: offsets[i].score)
    others = [problem.solve(q, OFFSET_DENSITIES[best]) for q in SLIP_DENSITIES if q != SLIP_DENSITIES[1]]
    solution = max([offsets[best], *others], key=lambda s: s.score)
    shift, offset = (Curve(problem.ground.knots, solution.unknowns[side::2]) for side in (0, 1))
    return Shift(shift, offset, solution.rate, solution.system)


@dataclass(frozen=True, eq=False)
class _Solution:
    unknowns: FloatArray
    rate: float
    system: BandedLeastSquares
    score: float


@dataclass(frozen=True, eq=False)
class _PathGround:
    """What the equations of all laps on one road share; unknowns are the coefficients of e and n by turns."""

    knots: Knots
    tie: Rows
    bend: Rows
    tied: BandedLeastSquares
    pinned: BandedLeastSquares

    @classmethod
    @lru_cache(maxsize=1)
    def of(cls, road: Road) -> _PathGround:
        """The equations of a road; kept, since laps come one after the other against one road."""
        knots = Knots.over(0.0, road.length_m, KNOT_M)
        middles = knots.middles()
        tie, bend = tie_rows(knots, road.curvature_at(middles)), knots.basis(middles, 3).by_turns(1)
        tied, pinned = (BandedLeastSquares(2 * knots.size, 8) for _ in range(2))
        tied.add(tie, 1.0)
        pinned.add(knots.basis(np.array([0.0, road.length_m])).by_turns(0), PIN_M**-2)
        return cls(knots, tie, bend, tied, pinned)


@dataclass(frozen=True, eq=False)
class _Problem:
    """The equations of a lap but for their stiffnesses; ``squares`` is Σ (wanted / noise)² of its positions."""

    ground: _PathGround
    sharpest: FloatArray
    data: BandedLeastSquares
    squares: float

    @classmethod
    def of(cls, seen: Seen, ground: _PathGround, speed_mps: FloatArray, speed_at_m: FloatArray) -> _Problem:
        at = ground.knots.basis(seen.u)
        data = BandedLeastSquares(2 * ground.knots.size, 8)
        for side, values in enumerate((seen.shift, seen.offset)):
            data.add(at.by_turns(side), seen.noise_m**-2, values)
        v = np.maximum(np.interp(ground.knots.middles(), speed_at_m, speed_mps), SLOWEST_MPS)
        squares = float(seen.shift @ seen.shift + seen.offset @ seen.offset) / seen.noise_m**2
        return cls(ground, OFFSET_JERK / v**5, data.plus(ground.pinned), squares)

    def solve(self, slip: float, sharpness: float) -> _Solution:
        """Least squares for one density of the slip and one of the offset's sharpness."""
        ground, step = self.ground, self.ground.knots.step
        weight = step / slip
        stiff = step / np.minimum(self.sharpest, sharpness)
        system = self.data.plus(ground.tied, weight)
        system.add(ground.bend, stiff)
        reduced = rate_beside(ground.tie, system.size, weight).reduced(system)
        unknowns, rate = reduced.at(reduced.found()), reduced.first()
        # The least of a sum of squares is Σ (wanted / noise)² less the right side times the unknowns.
        score = -0.5 * (
            self.squares
            - float(system.right[:, 0] @ unknowns)
            + system.log_determinant()
            - ground.knots.cells * np.log(weight)
            - float(np.log(stiff).sum())
        )
        return _Solution(unknowns, rate, system, score)


def rate_beside(tie: Rows, size: int, weight: float) -> Border:
    """The rate c by which an odometer reads short: it stands in all rows of the tie."""
    return Border(-tie.pulled(size, weight)[:, None], np.array([[weight * len(tie.first)]]), np.zeros(1))


def tie_rows(knots: Knots, curvature: FloatArray) -> Rows:
    """Rows of e' − κ n at the middles of the cells, (cells, 8)."""
    values, slopes = (knots.basis(knots.middles(), derivative) for derivative in (0, 1))
    rows = np.empty((len(values.first), 8))
    rows[:, 0::2] = slopes.values
    rows[:, 1::2] = -curvature[:, None] * values.values
    return Rows(2 * values.first, rows)
