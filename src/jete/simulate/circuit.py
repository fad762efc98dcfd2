"""Made-up circuits: the road as curvature over station, drawn by hand or from a seed.

A circuit is a closed list of pieces (straights, and bends with a ramp in, an arc and a
ramp out).  The lengths of the straights are adjusted so that the road closes.  Nothing
here knows vehicles or drivers.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

STEP_M = 1.0
MIN_STRAIGHT_M = 25.0


@dataclass(frozen=True)
class Bend:
    """One bend: ``angle_deg`` (left positive), tightest ``radius_m``, share of ramps."""

    angle_deg: float
    radius_m: float
    ramp: float = 0.35
    joins_previous: bool = False

    @property
    def length_m(self) -> float:
        """Length over ground: a trapezoid of curvature with two ramps turns the angle."""
        return float(abs(np.deg2rad(self.angle_deg))) * self.radius_m / (1.0 - self.ramp)


@dataclass(frozen=True)
class RoadCorner:
    """A corner as built: true start, apex (tightest point) and end, in metres of road."""

    number: int
    direction: str
    start_m: float
    apex_m: float
    end_m: float


@dataclass(frozen=True, eq=False)
class Circuit:
    """The centre line on an even grid of ``STEP_M``; arrays have shape (n,), closed."""

    name: str
    length_m: float
    station_m: FloatArray
    curvature_1pm: FloatArray
    x_m: FloatArray
    y_m: FloatArray
    heading_rad: FloatArray
    corners: tuple[RoadCorner, ...]
    height_m: FloatArray

    @property
    def slope(self) -> FloatArray:
        """Metres up per metre of road, (n,)."""
        step = self.length_m / len(self.height_m)
        return (np.roll(self.height_m, -1) - np.roll(self.height_m, 1)) / (2.0 * step)


@dataclass(frozen=True)
class Hill:
    """A rise (or a dip) of the road: where its top is, how high, and how long it is to either side, metres."""

    top_m: float
    height_m: float
    reach_m: float


def build(name: str, bends: list[Bend], straights_m: list[float], hills: tuple[Hill, ...] = ()) -> Circuit:
    """Lay the road: before bend ``i`` goes a straight of ``straights_m[i]``.

    The straights are changed as little as possible (least squares) so that the road
    closes; the last entry of ``straights_m`` follows the last bend.

    Raises:
        ValueError: where no set of straights of at least 25 m closes the road.
    """
    lengths = _close(bends, np.asarray(straights_m, dtype=float))
    knots, kappas, spans = _knots(bends, lengths)
    length = float(knots[-1])
    count = round(length / STEP_M)
    station = np.asarray(np.arange(count) * (length / count), dtype=np.float64)
    kappa = np.interp(station, knots, kappas)
    x, y, heading = _integrate(station, kappa, length)
    height = sum((_hill(h, station, length) for h in hills), np.zeros(count))
    return Circuit(name, length, station, kappa, x, y, heading, _corners(bends, spans), height)


def away_m(station_m: FloatArray, place_m: float, length_m: float) -> FloatArray:
    """How far stations of a closed road lie past a place, the shorter way round, negative before it, (n,)."""
    return np.asarray(np.mod(station_m - place_m + 0.5 * length_m, length_m) - 0.5 * length_m)


def _hill(hill: Hill, station_m: FloatArray, length_m: float) -> FloatArray:
    """A bell over the closed road, (n,)."""
    away = away_m(station_m, hill.top_m, length_m)
    return np.asarray(hill.height_m * np.exp(-((away / hill.reach_m) ** 2)))


def draw(seed: int) -> Circuit:
    """Draw a circuit of 8 to 13 corners and about 2.5 to 5 km from a seed."""
    rng = np.random.default_rng(seed)
    for _ in range(400):
        bends, straights = _draw_pieces(rng)
        try:
            circuit = build(f"Circuit {seed}", bends, straights)
        except ValueError:
            continue
        if 2200.0 < circuit.length_m < 5600.0:
            return circuit
    message = f"no circuit found for seed {seed}"
    raise ValueError(message)


def _draw_pieces(rng: np.random.Generator) -> tuple[list[Bend], list[float]]:
    """Angles that sum to one turn; a hairpin, a chicane or esses and a double apex mixed in."""
    count = int(rng.integers(8, 14))
    angles = rng.uniform(35.0, 120.0, count) * np.where(rng.random(count) < 0.3, -1.0, 1.0)
    angles[rng.integers(count)] = rng.uniform(150.0, 185.0)
    angles *= 1.0 if angles.sum() > 0 else -1.0
    angles += (360.0 - angles.sum()) / count
    bends, straights = [], []
    for i, angle in enumerate(angles):
        radius = float(np.clip(rng.uniform(900.0, 6500.0) / abs(angle), 16.0, 160.0))
        if abs(angle) > 80.0 and rng.random() < 0.3:
            bends += [Bend(angle * 0.55, radius), Bend(angle * 0.45, radius * 1.1, joins_previous=True)]
            straights += [0.0, 12.0]
        else:
            bends.append(Bend(float(angle), radius, float(rng.uniform(0.25, 0.5))))
            straights.append(0.0)
        near = i > 0 and angles[i - 1] * angle < 0 and rng.random() < 0.5
        straights[-1 if not bends[-1].joins_previous else -2] = float(
            rng.uniform(30.0, 70.0) if near else rng.uniform(90.0, 420.0)
        )
    straights.append(float(rng.uniform(150.0, 400.0)))
    straights[0] = max(straights[0], 180.0)
    return [b for b in bends if abs(b.angle_deg) > 14.0], _kept(straights, bends)


def _kept(straights: list[float], bends: list[Bend]) -> list[float]:
    """The straights of the bends that stay, plus the last one."""
    kept = [s for s, b in zip(straights, bends, strict=False) if abs(b.angle_deg) > 14.0]
    return [*kept, straights[-1]]


def _close(bends: list[Bend], straights: FloatArray) -> FloatArray:
    """Least change of the straights that closes the road (active set on the lower bound)."""
    turned = np.concatenate([[0.0], np.cumsum([np.deg2rad(b.angle_deg) for b in bends])])
    if abs(abs(turned[-1]) - 2 * pi) > 1e-6:
        message = "the bends must turn through one full turn"
        raise ValueError(message)
    directions = np.stack([np.cos(turned), np.sin(turned)])
    free = np.array([not b.joins_previous for b in bends] + [True])
    fixed_sum = sum((_chord(b, a) for b, a in zip(bends, turned[:-1], strict=True)), np.zeros(2))
    low = np.where(free, MIN_STRAIGHT_M, straights)
    length = straights.copy()
    for _ in range(len(length)):
        residual = directions @ length + fixed_sum
        if np.hypot(*residual) < 1e-9 and np.all(length >= low - 1e-9):
            return length
        a = directions[:, free]
        gram = a @ a.T
        if free.sum() < 2 or np.linalg.cond(gram) > 1e6:
            break
        length[free] -= a.T @ np.linalg.solve(gram, residual)
        short = free & (length < low)
        length[short] = low[short]
        free &= ~short
    message = "these pieces do not close"
    raise ValueError(message)


def _chord(bend: Bend, heading: float) -> FloatArray:
    """Displacement (2,) through a bend that is entered on ``heading``."""
    u = (np.arange(400) + 0.5) / 400
    shape = np.minimum(1.0, np.minimum(u, 1 - u) / max(bend.ramp, 1e-6))
    turned = np.cumsum(shape) / shape.sum() * np.deg2rad(bend.angle_deg)
    psi = heading + turned - 0.5 * turned[0]
    return np.array([np.cos(psi).mean(), np.sin(psi).mean()]) * bend.length_m


def _knots(bends: list[Bend], straights: FloatArray) -> tuple[FloatArray, FloatArray, list[tuple[float, float]]]:
    """Corner points of the curvature trapezoids, and each bend's span of road."""
    at, stations, kappas, spans = 0.0, [0.0], [0.0], []
    for bend, straight in zip(bends, straights[:-1], strict=True):
        start = at + straight
        end = start + bend.length_m
        peak = np.sign(bend.angle_deg) / bend.radius_m
        ramp = bend.ramp * bend.length_m
        stations += [start, start + ramp, end - ramp, end]
        kappas += [0.0, peak, peak, 0.0]
        spans.append((start, end))
        at = end
    at += straights[-1]
    stations.append(at)
    kappas.append(0.0)
    return np.array(stations), np.array(kappas), spans


def _integrate(station: FloatArray, kappa: FloatArray, length: float) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Heading and place by the trapezoid rule; the small closing error is spread evenly."""
    step = length / len(station)
    heading = np.concatenate([[0.0], np.cumsum(0.5 * (kappa[1:] + kappa[:-1]) * step)])
    mid = heading + 0.5 * kappa * step
    x = np.concatenate([[0.0], np.cumsum(np.cos(mid) * step)])
    y = np.concatenate([[0.0], np.cumsum(np.sin(mid) * step)])
    share = np.arange(len(station)) / len(station)
    return x[:-1] - x[-1] * share, y[:-1] - y[-1] * share, heading


def _corners(bends: list[Bend], spans: list[tuple[float, float]]) -> tuple[RoadCorner, ...]:
    """Number the corners; bends that join make one corner with its apex at the tightest."""
    groups: list[list[int]] = []
    for i, bend in enumerate(bends):
        if bend.joins_previous and groups:
            groups[-1].append(i)
        else:
            groups.append([i])
    return tuple(_corner(k + 1, [bends[i] for i in g], [spans[i] for i in g]) for k, g in enumerate(groups))


def _corner(number: int, bends: list[Bend], spans: list[tuple[float, float]]) -> RoadCorner:
    tight = int(np.argmin([b.radius_m for b in bends]))
    direction = "left" if bends[0].angle_deg > 0 else "right"
    return RoadCorner(number, direction, spans[0][0], float(np.mean(spans[tight])), spans[-1][1])
