"""Where on the reference's distance axis each sample of a lap lies.

With positions the smooth own distance carries the detail and the noisy projection the
level: place = u + e(u), u the scaled own distance.  e and the lateral offset n from the
reference's path are found together, since they are tied by geometry: on the inside of a
bend (κ n > 0) a metre driven is more than a metre of axis, e' = κ n / (1 − κ n) + c.
Without positions e follows from the curvature that both laps share; slow points and
brake points are never used, since they are what is to be measured.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jete.core.banded import BandedLeastSquares
from jete.core.errors import InputError
from jete.core.lap import BoolArray, FloatArray, IntArray
from jete.core.motion import Motion
from jete.core.path import SLOWEST_MPS, Fixes
from jete.core.road import Road
from jete.core.spline import Curve, Knots

Method = Literal["position", "curvature", "distance"]

KNOT_M = 7.0
SEARCH_M = 40.0
FAR_ASIDE_M = 30.0
LONGEST_MISMATCH = 0.06
PIN_M = 0.02
# How far the own distance may stray from the path, m² per m (wheel slip, wind-up of a smoothed speed).
SLIP_DENSITIES = (1e-5, 1e-4, 1e-3)
# How sharply two lines may part: n'''² times its reach, 1/m³, and never more than a vehicle's jerk.
OFFSET_DENSITIES = (1e-8, 2e-7, 4e-6)
OFFSET_JERK = 20.0
SIGMA_PLACES = 24
# Where position is all there is, it makes both the detail and the level: so much of its noise stays.
SHARED_NOISE = 0.55


@dataclass(frozen=True, eq=False)
class Alignment:
    """Places of a lap's motion samples on the reference's axis.

    ``place_m`` (n,) strictly increasing from 0 to the reference's length; ``residual_m``
    is the scatter that was averaged away, ``sigma_m`` one standard deviation of the
    places themselves; ``offset_m`` (n,) metres to the left of the reference's path.
    """

    method: Method
    scale: float
    residual_m: float
    sigma_m: float
    place_m: FloatArray
    offset_m: FloatArray | None = None
    offset_sigma_m: float = 0.0


def identity(motion: Motion) -> Alignment:
    """The reference on its own axis."""
    return Alignment("distance", 1.0, 0.0, 0.0, motion.distance_m, np.zeros_like(motion.distance_m))


def align(name: str, motion: Motion, fixes: Fixes | None, curvature_1pm: FloatArray | None, road: Road) -> Alignment:
    """Align a lap with the reference's road.

    Args:
        name: of the lap, for messages.
        motion: of the lap.
        fixes: its positions on the road's plane, or None.
        curvature_1pm: of its path at the motion's samples from yaw, lateral acceleration
            or steering, (n,), or None.
        road: of the reference.

    Raises:
        InputError: laps of different circuits, layouts or directions.
    """
    scale = road.length_m / motion.length_m
    if fixes is not None and road.path is not None:
        return _by_position(name, motion, fixes, road, road.path, scale)
    if abs(scale - 1.0) > LONGEST_MISMATCH:
        raise _different(name, f"its length is {motion.length_m:.0f} m, the reference's {road.length_m:.0f} m")
    _refuse_other_speeds(name, motion, road, scale)
    if curvature_1pm is not None and road.measured:
        return _by_curvature(name, motion, curvature_1pm, road, scale)
    place = _monotone(motion.distance_m * scale, road.length_m)
    return Alignment("distance", scale, 0.0, 0.003 * road.length_m**0.5 * 5.0, place)


def _different(name: str, why: str) -> InputError:
    return InputError(
        name,
        f"it does not belong to the reference's circuit, layout or direction: {why}.",
        "Choose laps of one circuit, driven the same way round.",
    )


def _refuse_other_speeds(name: str, motion: Motion, road: Road, scale: float) -> None:
    """Two laps of one circuit have speeds that rise and fall together."""
    v = np.interp(road.grid_m, motion.distance_m * scale, motion.speed_mps)
    if float(np.std(v)) < 0.5 or float(np.std(road.speed_mps)) < 0.5:
        return
    alike = float(np.corrcoef(v, road.speed_mps)[0, 1])
    if alike < 0.6:
        raise _different(name, f"its speeds over distance do not go with the reference's (correlation {alike:.2f})")


@dataclass(frozen=True, eq=False)
class _Seen:
    """Projected positions: scaled own distance u, shift e = place − u and offset n, (m,)."""

    u: FloatArray
    shift: FloatArray
    offset: FloatArray
    noise_m: float


def _by_position(name: str, motion: Motion, fixes: Fixes, road: Road, path: Curve, scale: float) -> Alignment:
    seen = _project(name, fixes, road, path, scale)
    solution = _most_likely(motion, seen, road, scale)
    place = _monotone(motion.distance_m * scale + solution.shift(motion.distance_m * scale), road.length_m)
    sigma, offset_sigma = _sigma(solution.system, solution.shift.knots)
    if motion.inferred:
        sigma = max(sigma, SHARED_NOISE * seen.noise_m)
    left = seen.shift - solution.shift(seen.u)
    residual = float(1.4826 * np.median(np.abs(left)))
    return Alignment(
        "position",
        scale * (1.0 + solution.rate),
        residual,
        sigma,
        place,
        solution.offset(motion.distance_m * scale),
        offset_sigma,
    )


def _most_likely(motion: Motion, seen: _Seen, road: Road, scale: float) -> _Solution:
    """The solution with the most likely stiffness: first of the offset, then of the slip."""
    offsets = [_solve(motion, seen, road, scale, (SLIP_DENSITIES[1], q)) for q in OFFSET_DENSITIES]
    best = int(np.argmax([s.score for s in offsets]))
    slips = [
        offsets[best] if q == SLIP_DENSITIES[1] else _solve(motion, seen, road, scale, (q, OFFSET_DENSITIES[best]))
        for q in SLIP_DENSITIES
    ]
    return max(slips, key=lambda s: s.score)


def _project(name: str, fixes: Fixes, road: Road, path: Curve, scale: float) -> _Seen:
    """Nearest place on the reference's path within 40 m of where the scaled distance says."""
    u = fixes.distance_m * scale
    place = _nearest(fixes, u, path, road.length_m)
    for _ in range(3):
        aside, along, bend = _beside(fixes, place, path)
        place = place + along / np.clip(1.0 - bend * aside, 0.5, 2.0)
    aside, along, _ = _beside(fixes, place, path)
    _refuse_other_road(name, fixes, place, aside, path)
    near = (np.abs(aside) < FAR_ASIDE_M) & (np.abs(along) < 5.0) & (np.abs(place - u) < SEARCH_M + 5.0)
    near &= _consistent(place - u, aside, fixes.noise_m)
    return _Seen(u[near], (place - u)[near], aside[near], float(np.hypot(fixes.noise_m, 0.4 * road.noise_m)))


def _consistent(shift: FloatArray, aside: FloatArray, noise_m: float) -> BoolArray:
    """Leave out positions that jump away from their neighbours (five times the noise)."""
    good = np.ones(len(shift), dtype=bool)
    for values in (shift, aside):
        windows = np.lib.stride_tricks.sliding_window_view(np.pad(values, 4, mode="edge"), 9)
        good &= np.abs(values - np.median(windows, axis=1)) < max(5.0 * noise_m, 1.0) + 0.5
    return good


def _nearest(fixes: Fixes, u: FloatArray, path: Curve, length: float) -> FloatArray:
    """Coarse search on a grid of 2 m around each guess."""
    grid = np.arange(0.0, length + 2.0, 2.0)
    points = path(grid)
    steps = np.arange(-int(SEARCH_M / 2), int(SEARCH_M / 2) + 1)
    index = np.clip(np.round(u / 2.0).astype(int)[:, None] + steps, 0, len(grid) - 1)
    away = (points[index, 0] - fixes.x_m[:, None]) ** 2 + (points[index, 1] - fixes.y_m[:, None]) ** 2
    away += (0.15 * 2.0 * steps) ** 2
    return np.asarray(grid[index[np.arange(len(u)), np.argmin(away, axis=1)]])


def _beside(fixes: Fixes, place: FloatArray, path: Curve) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Offset to the left, distance ahead of the foot point, and curvature there, (m,) each."""
    at, d1, d2 = path(place), path(place, 1), path(place, 2)
    rate = np.maximum(np.hypot(d1[:, 0], d1[:, 1]), 1e-3)
    dx, dy = fixes.x_m - at[:, 0], fixes.y_m - at[:, 1]
    along = (dx * d1[:, 0] + dy * d1[:, 1]) / rate
    aside = (dy * d1[:, 0] - dx * d1[:, 1]) / rate
    bend = (d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]) / rate**3
    return aside, along, bend


def _refuse_other_road(name: str, fixes: Fixes, place: FloatArray, aside: FloatArray, path: Curve) -> None:
    """Refuse another direction or another road.

    Raises:
        InputError: more than a fifth of the lap is off the reference's road.
    """
    d1 = path(place, 1)
    heading = np.gradient(fixes.x_m) * d1[:, 0] + np.gradient(fixes.y_m) * d1[:, 1]
    off = float(np.mean(np.abs(aside) > FAR_ASIDE_M))
    if float(np.mean(heading < 0.0)) > 0.6:
        raise _different(name, "it is driven in the other direction")
    if off > 0.2:
        raise _different(name, f"{off:.0%} of it is more than {FAR_ASIDE_M:.0f} m from the reference's path")


@dataclass(frozen=True, eq=False)
class _Solution:
    shift: Curve
    offset: Curve
    rate: float
    system: BandedLeastSquares
    score: float


def _solve(motion: Motion, seen: _Seen, road: Road, scale: float, densities: tuple[float, float]) -> _Solution:
    """e(u) and n(u) by penalised least squares; the rate c is common to the lap."""
    knots = Knots.over(0.0, road.length_m, KNOT_M)
    system = BandedLeastSquares(2 * knots.size, 8)
    first, rows = knots.basis(seen.u)
    system.add(2 * first, _spread(rows, 0), seen.noise_m**-2, seen.shift)
    system.add(2 * first, _spread(rows, 1), seen.noise_m**-2, seen.offset)
    middles = knots.middles()
    mid_first, tie = _tie(knots, road.curvature_at(middles))
    weight = knots.step / densities[0]
    system.add(2 * mid_first, tie, weight, 0.0)
    v = np.maximum(np.interp(middles, motion.distance_m * scale, motion.speed_mps), SLOWEST_MPS)
    stiff = knots.step / np.minimum(OFFSET_JERK / v**5, densities[1])
    third_first, thirds = knots.basis(middles, 3)
    system.add(2 * third_first, _spread(thirds, 1), stiff, 0.0)
    ends_first, ends = knots.basis(np.array([0.0, road.length_m]))
    system.add(2 * ends_first, _spread(ends, 0), PIN_M**-2, 0.0)
    u, rate = _with_rate(system, mid_first, tie, weight, 2 * knots.size)
    shift, offset = Curve(knots, u[0::2]), Curve(knots, u[1::2])
    bent = np.einsum("mk,mk->m", tie, u[2 * mid_first[:, None] + np.arange(8)]) - rate
    misfit = np.sum((shift(seen.u) - seen.shift) ** 2 + (offset(seen.u) - seen.offset) ** 2) / seen.noise_m**2
    parted = np.einsum("mk,mk->m", thirds, u[1::2][third_first[:, None] + np.arange(4)])
    misfit = misfit + float(stiff @ parted**2)
    score = -0.5 * (
        float(misfit)
        + weight * float(bent @ bent)
        + system.log_determinant()
        - knots.cells * np.log(weight)
        - np.log(stiff).sum()
    )
    return _Solution(shift, offset, rate, system, score)


def _spread(rows: FloatArray, side: int) -> FloatArray:
    """Rows (m, 4) over one of the two interleaved unknowns, (m, 8)."""
    out = np.zeros((len(rows), 8))
    out[:, side::2] = rows
    return out


def _tie(knots: Knots, curvature: FloatArray) -> tuple[IntArray, FloatArray]:
    """Rows of e' − κ n at the middles of the cells, (cells, 8)."""
    first, slopes = knots.basis(knots.middles(), 1)
    _, values = knots.basis(knots.middles())
    rows = _spread(slopes, 0)
    rows[:, 1::2] = -curvature[:, None] * values
    return first, rows


def _with_rate(
    system: BandedLeastSquares, first: IntArray, tie: FloatArray, weight: float, size: int
) -> tuple[FloatArray, float]:
    """Solve with the common rate c as one more unknown (bordered system, Schur complement)."""
    pull = np.zeros(size)
    np.add.at(pull, 2 * first[:, None] + np.arange(8), weight * tie)
    plain = system.solve()
    by_rate = system.solve(pull[:, None])[:, 0]
    total = weight * len(first)
    rate = float(pull @ plain / (total - pull @ by_rate))
    return plain + rate * by_rate, rate


def _sigma(system: BandedLeastSquares, knots: Knots) -> tuple[float, float]:
    """Median standard deviations of e and of n over the lap, metres."""
    at = knots.start + knots.step * knots.cells * np.linspace(0.04, 0.96, SIGMA_PLACES)
    first, rows = knots.basis(at)
    out = []
    for side in (0, 1):
        units = np.zeros((2 * knots.size, SIGMA_PLACES))
        for k in range(4):
            units[2 * (first + k) + side, np.arange(SIGMA_PLACES)] = rows[:, k]
        out.append(float(np.sqrt(np.median(np.einsum("ij,ij->j", units, system.solve(units))))))
    return out[0], out[1]


def _by_curvature(name: str, motion: Motion, curvature: FloatArray, road: Road, scale: float) -> Alignment:
    """Gauss–Newton on κ_lap(u) = κ_ref(u + e(u)); stiff, since lines differ."""
    knots = Knots.over(0.0, road.length_m, 25.0)
    at = np.arange(0.0, road.length_m, 2.0)
    own = np.interp(at, motion.distance_m * scale, curvature)
    alike = float(np.corrcoef(own, road.curvature_at(at))[0, 1])
    if alike < 0.4:
        raise _different(name, f"its bends do not go with the reference's (correlation {alike:.2f})")
    gain = float(own @ road.curvature_at(at) / (own @ own))
    shift = Curve(knots, np.zeros(knots.size))
    scatter, sigma = 0.0, 0.0
    for _ in range(5):
        place = at + shift(at)
        slope = (road.curvature_at(place + 1.0) - road.curvature_at(place - 1.0)) / 2.0
        miss = gain * own - road.curvature_at(place)
        scatter = max(float(1.4826 * np.median(np.abs(miss))), 0.05 * float(np.percentile(np.abs(own), 90)))
        # Lines differ over about 20 m, so ten neighbouring samples count as one.
        system = BandedLeastSquares(knots.size, 4)
        first, rows = knots.basis(at)
        system.add(first, rows * slope[:, None], 0.1 / scatter**2, miss + slope * shift(at))
        mid_first, tie = knots.basis(knots.middles(), 1)
        system.add(mid_first, tie, knots.step / 2e-3, 0.0)
        ends_first, ends = knots.basis(np.array([0.0, road.length_m]))
        system.add(ends_first, ends, PIN_M**-2, 0.0)
        shift = Curve(knots, system.solve())
        units = np.zeros((knots.size, 1))
        units[knots.size // 2] = 1.0
        sigma = float(np.sqrt(system.solve(units)[knots.size // 2, 0]))
    u = motion.distance_m * scale
    place = _monotone(u + shift(u), road.length_m)
    return Alignment("curvature", scale, float(np.sqrt(np.mean(shift(at) ** 2))), sigma, place)


def _monotone(place: FloatArray, length: float) -> FloatArray:
    """Strictly increasing from exactly 0 to exactly ``length``."""
    inner = np.clip(place, 0.0, length)
    inner[0], inner[-1] = 0.0, length
    tiny = 1e-7 * np.arange(len(inner))
    rising = np.maximum.accumulate(inner - 0.0) + tiny
    rising *= length / rising[-1]
    rising[0] = 0.0
    return np.asarray(rising)
