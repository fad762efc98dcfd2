"""The difference between place and own distance over a lap, from the curvature of its path.

Without positions two laps still share their bends.  With u the scaled own distance,
place = u + e(u), and n(u) how far the lap's path lies to the left of the reference's,

    κ_lap(u) = κ(u + e) + κ² n + n'' + b    a path beside another one bends with it
    e' = κ n + c                            on the inside a metre driven is more of the axis

so that what the sensor shows of another line is told from what it shows of another place, and
from what it is off by itself (b, :mod:`jete.core.axis.place.sensor_offset`).
All are found together by Gauss–Newton, each step a banded solve.  The level and the slow
part of n are not in the data; there it is held to what lines on one road differ by.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.place.from_positions import PIN_M, Shift, rate_beside, tie_rows
from jete.core.axis.place.map_offset import LINE_M, LINE_REACH_M, MapStep
from jete.core.axis.place.sensor_offset import Bent, Wander
from jete.core.axis.place.solving import solved
from jete.core.axis.road.sensor_curvature import SMOOTH_S, Between
from jete.core.motion.motion import smooth_box
from jete.core.numeric.banded import BandedLeastSquares, Rows
from jete.core.numeric.spline import Curve, Knots
from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.place.project import Seen
    from jete.core.axis.road.road import Road
    from jete.core.numeric.border import Border

# Lines change over tens of metres; finer knots only cost time.
KNOT_M = 10.0
# Means over three metres keep every bend and make the equations few.
CELL_M = 3.0
# Gauss-Newton has settled to a centimetre after three or four, and the last one.
STEPS = 4
# Positions leave less to be found.
STEPS_SEEN = 2
# Gauss–Newton has settled when no place moves by more than this.
SETTLED_M = 0.05
# How far an own distance may stray, m² per m: 0.17 m in a kilometre. Larger lets the shift follow the sensor's noise.
SLIP_DENSITY = 3e-5
# All lines touch the apex: in a bend of this radius they differ by half as much.
TIGHT_M = 40.0
# The road's slope is taken over so much to either side.
SLOPE_M = 1.5
# And tells little where it is less than so many standard deviations of the noise.
STANDS_OUT = 4.0
# No gyro is quieter on a vehicle (vibration).
LEAST_NOISE_RADPS = 1e-3
# Noise is looked for at shorter waves than these: longer ones are a sensor's wander.
SHORT_CELLS = 61


SAME = Between()


def shift_from_bends(
    curvature_1pm: FloatArray, own_m: FloatArray, road: Road, seen: Seen | None = None, between: Between = SAME
) -> Shift:
    """Find e and n.

    Args:
        curvature_1pm: of the lap's path, (n,), left positive.
        own_m: scaled own distance of each, (n,), increasing.
        road: of the reference.
        seen: projected positions; where they drift, they tell the level over long stretches, the bends the rest.
        between: how the sensors of both laps differ.
    """
    ground = _Ground.of(road)
    knots, prior, map_step = ground.knots, ground.prior, None
    if seen is not None:
        data, map_step = _by_positions(knots, seen)
        prior = prior.plus(data)
    timed = _Felt.over(knots, *_means(own_m, curvature_1pm), road, between)
    shift = Curve(knots, np.zeros((knots.size, 2)))
    for _ in range(STEPS if seen is None else STEPS_SEEN):
        system, rate, bent = _about(shift, timed, road, prior)
        # Without positions nothing else holds the places meanwhile.
        wander = None if seen is not None else Wander.beside(bent, timed.at, road.length_m, system.size)
        found = solved(system, rate, map_step, wander)
        step = float(np.abs(found.unknowns[0::2] - shift.coefficients[:, 0]).max())
        shift = Curve(knots, found.unknowns.reshape(-1, 2))
        if step < SETTLED_M:
            break
    # By a sensor that wanders a place is off by metres, not by bends: one step more takes that out.
    system, rate, bent = _about(shift, timed, road, prior, settled=True)
    found = solved(system, rate, map_step, Wander.beside(bent, timed.at, road.length_m, system.size))
    e, n = (Curve(knots, found.unknowns[side::2].copy()) for side in (0, 1))
    return Shift(e, n, found.rate, system, found.extra, found.step_m)


def _about(
    shift: Curve, timed: _Felt, road: Road, prior: BandedLeastSquares, *, settled: bool = False
) -> tuple[BandedLeastSquares, Border, Bent]:
    """The equations about a shift, those of the odometer's rate beside them, and of the bends those among them."""
    ground, bent = _Ground.of(road), timed.linearised(road, shift, settled=settled)
    curvature = road.curvature_at(ground.middles_m + ground.middles.times(shift.coefficients)[:, 0])
    tie, weight = tie_rows(ground.knots, curvature), ground.knots.step / SLIP_DENSITY
    system = BandedLeastSquares(prior.size, 8)
    system.add(bent.rows, bent.weight, bent.wanted)
    system.add(tie, weight)
    return system.plus(prior), rate_beside(tie, prior.size, weight), bent


def _by_positions(knots: Knots, seen: Seen) -> tuple[BandedLeastSquares, MapStep | None]:
    """The equations of projected positions, and of the step of their map where they may have one."""
    rows, data = knots.basis(seen.u), BandedLeastSquares(2 * knots.size, 8)
    sides = rows.by_turns(0), rows.by_turns(1)
    for side, off in zip(sides, (seen.shift, seen.offset), strict=True):
        data.add(side, seen.noise_m**-2, off)
    return data, MapStep.beside(sides, seen, data.size) if seen.step_m > 0.0 else None


def _means(own_m: FloatArray, curvature: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means over cells of about 3 m, (k,) places and curvatures; empty cells left out."""
    cell = (own_m / CELL_M).astype(np.intp)
    count = np.bincount(cell)
    full = count > 0
    return tuple(np.bincount(cell, values)[full] / count[full] for values in (own_m, curvature))  # type: ignore[return-value]


def _prior(knots: Knots, road: Road) -> BandedLeastSquares:
    """Ends that meet the line, and an offset that stays within what lines differ by.

    A Gaussian process whose values have the spread that lines have there and whose second
    derivative follows from the length over which it keeps to them.
    """
    prior = BandedLeastSquares(2 * knots.size, 8)
    ends = knots.basis(np.array([0.0, knots.start + knots.step * knots.cells]))
    prior.add(ends.by_turns(0), PIN_M**-2)
    values, bends = (knots.basis(knots.middles(), derivative).by_turns(1) for derivative in (0, 2))
    tight = np.abs(road.curvature_at(knots.middles()))
    share = knots.step / (2.0 * LINE_REACH_M) * ((1.0 + TIGHT_M * tight) / LINE_M) ** 2
    prior.add(values, share)
    prior.add(bends, share * (LINE_REACH_M / 4.0) ** 4)
    return prior


@dataclass(frozen=True, eq=False)
class _Ground:
    """What all laps on one road share: the knots, their middles (cells,) with the basis there, and the prior."""

    knots: Knots
    middles_m: FloatArray
    middles: Rows
    prior: BandedLeastSquares

    @classmethod
    @lru_cache(maxsize=1)
    def of(cls, road: Road) -> _Ground:
        """The knots and prior of a road; kept, since laps come one after the other against one road."""
        knots = Knots.over(0.0, road.length_m, KNOT_M)
        middles = knots.middles()
        return cls(knots, middles, knots.basis(middles), _prior(knots, road))


@dataclass(frozen=True, eq=False, kw_only=True)
class _Felt:
    """The bends that a lap's sensor felt: places (k,), curvatures, the road's pace there, and the basis there with its second derivative.

    ``quieter`` (k,) times a curvature has the same noise everywhere, m/s: the pace for a gyro, as its square for an acceleration.
    """

    knots: Knots
    at: FloatArray
    own: FloatArray
    speed: FloatArray
    quieter: FloatArray
    unlike: float
    values: Rows
    bends: Rows

    @classmethod
    def over(cls, knots: Knots, at: FloatArray, own: FloatArray, road: Road, between: Between) -> _Felt:
        """The equations of curvatures that a sensor has at places (k,)."""
        pace = road.pace_at(at)
        usual = float(pace.mean())
        quieter = usual * (pace / usual) ** between.noise_power
        return cls(
            knots=knots,
            at=at,
            own=own,
            speed=pace,
            quieter=quieter,
            unlike=between.unlike,
            values=knots.basis(at),
            bends=knots.basis(at, 2),
        )

    def linearised(self, road: Road, shift: Curve, *, settled: bool) -> Bent:
        """The curvature's equations about a shift, that nearly is the one looked for or not.

        A sensor has the same noise everywhere in its own unit, and its running mean makes
        what lies within its reach count as one.
        """
        values, bends = self.values.values, self.bends.values
        now = self.values.times(shift.coefficients)
        place = self.at + now[:, 0]
        kappa = road.curvature_at(place)
        miss = self.own - kappa - self.bends.times(shift.coefficients)[:, 1] - kappa**2 * now[:, 1]
        short = miss - smooth_box(miss, SHORT_CELLS)
        noise_radps = max(robust_sigma(short * self.quieter), LEAST_NOISE_RADPS)
        timed = noise_radps / self.quieter
        slope = _slope(road, place)
        if settled:
            # Before that, a miss is a place and no noise.
            slope = _standing_out(slope, timed)
        rows = np.empty((len(self.at), 8))
        rows[:, 0::2] = slope[:, None] * values
        rows[:, 1::2] = bends + (kappa**2)[:, None] * values
        alike = np.maximum(SMOOTH_S * self.speed / CELL_M, 1.0)
        weight = 1.0 / ((timed**2 + (self.unlike * kappa) ** 2) * alike)
        return Bent(Rows(2 * self.values.first, rows), weight, self.own - kappa + slope * now[:, 0])


def _slope(road: Road, place_m: FloatArray) -> FloatArray:
    """How much the road's curvature changes in a metre at places (k,), 1/m²."""
    return (road.curvature_at(place_m + SLOPE_M) - road.curvature_at(place_m - SLOPE_M)) / (2.0 * SLOPE_M)


def _standing_out(slope: FloatArray, noise_1pm: FloatArray) -> FloatArray:
    """What of slopes (k,) stands out of the noise of the curvatures, (k,).

    Noise of a rough sensor changes too, and passes for bends that tell a place.  So a slope counts
    by its square against that (as a filter of Wiener 1949 weighs a signal).
    """
    noise = STANDS_OUT * noise_1pm / (2.0 * SLOPE_M)
    return np.asarray(slope**3 / np.maximum(slope**2 + noise**2, 1e-30))
