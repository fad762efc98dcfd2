"""The distance between the positions of two laps that stays the same all along, metres: a plain receiver is off by a metre or two for minutes.

One lap alone does not show it.  Two do: where a lap is aside of the other's path to the north on one
straight and on the way back, or ahead to the east and behind to the west, that is a map's; lines
differ to no side of the map.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import log
from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.border import Border
from jete.core.numeric.statistics import likely

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.place.project import Seen
    from jete.core.numeric.banded import Rows

# What lines on one road differ by, and over what length they keep to it: one is given up for another over about two corners' length.
LINE_M, LINE_REACH_M = 0.9, 150.0
# What is left of one stretch goes on into the next by no more than this.
MOST_ALIKE = 0.8
# Before two laps are looked at, a receiver with corrections, which has no such step, is as likely as a plain one.
ODDS = 1.0


@dataclass(frozen=True, eq=False)
class Step:
    """The step from the reference's map to a lap's, (2,) metres to the east and to the north, and its covariance, (2, 2)."""

    step_m: FloatArray
    covariance_m2: FloatArray

    @property
    def by_m(self) -> tuple[float, float]:
        """It, to the east and to the north."""
        east, north = self.step_m.tolist()
        return east, north

    @property
    def sigma_m(self) -> float:
        """Standard deviation on each axis."""
        return float(np.sqrt(0.5 * np.trace(self.covariance_m2)))


def weighed(precision: FloatArray, right: FloatArray, prior_m: float) -> Step:
    """The mean of no step and of one of the size that plain receivers have, by how likely each is (Kass & Raftery 1995, J. Am. Statist. Assoc. 90:773).

    Args:
        precision: of the step by what was seen and by its prior, (2, 2).
        right: the right side of its equations, (2,).
        prior_m: standard deviation of the step on each axis, where there is one.
    """
    step = np.linalg.solve(precision, right)
    # The evidence of a linear model against zero (Bishop 2006, Pattern Recognition, § 3.5.1).
    evidence = 0.5 * float(right @ step) - log(prior_m**2 * float(np.linalg.det(precision)) ** 0.5)
    there = likely(ODDS, evidence)
    spread = np.linalg.inv(precision) + (1.0 - there) * np.outer(step, step)
    return Step(np.asarray(there * step), np.asarray(there * spread))


def step_by_sides(seen: Seen) -> Step:
    """The step by how far aside a lap is, where nothing else shows where it is along the road."""
    cell = np.unique((seen.u / LINE_REACH_M).astype(np.intp), return_inverse=True)[1]
    count = np.bincount(cell)
    x, y = seen.direction
    east, north, aside = (np.bincount(cell, v) / count for v in (-y, x, seen.offset))
    sides, weight = np.stack([east, north], axis=1), 1.0 / (LINE_M**2 + seen.noise_m**2 / count)
    weight /= _wilder_by(sides, aside, weight)
    precision = (sides.T * weight) @ sides + np.eye(2) / seen.step_m**2
    return weighed(precision, sides.T @ (weight * aside), seen.step_m)


def _wilder_by(sides: FloatArray, aside: FloatArray, weight: FloatArray) -> float:
    """How many times the variance that lines are taken to have the lines of two drivers differ by, or for longer; 1 for no more.

    Two who keep three metres apart make a step of a metre by chance: what no step explains shows how wild they are
    (the scale of a weighted regression: Seber & Lee 2003, Linear Regression Analysis, § 3.3), and how far what is
    left of one stretch goes on into the next, of how many stretches it is (Bartlett 1946, J. R. Statist. Soc. B 8:27).

    Args:
        sides: to the left of the road in each cell, east and north, (k, 2).
        aside: how far the lap is to that side, (k,).
        weight: of each, by how lines differ as a rule, (k,).
    """
    if len(aside) <= sides.shape[1]:
        return 1.0
    root = np.sqrt(weight)
    fitted = np.linalg.lstsq(sides * root[:, None], aside * root, rcond=None)[0]
    rest: FloatArray = root * (aside - sides @ fitted)
    left = len(aside) - int(sides.shape[1])
    square = float(rest @ rest)
    goes_on = min(max(float(rest @ np.roll(rest, 1)) / max(square, 1e-9), 0.0), MOST_ALIKE)
    return max(square / left * (1.0 + goes_on) / (1.0 - goes_on), 1.0)


@dataclass(frozen=True, eq=False)
class MapStep:
    """The step's equations beside those of places and offsets, and what it may be, one standard deviation on each axis."""

    border: Border
    prior_m: float

    @classmethod
    def beside(cls, sides: tuple[Rows, Rows], seen: Seen, size: int) -> MapStep:
        """The equations of positions whose places and offsets are rows over ``size`` unknowns."""
        weight, (x, y) = seen.noise_m**-2, seen.direction
        by_axis = np.array([[x, -y], [y, x]])
        columns = [sum(rows.pulled(size, weight * f) for rows, f in zip(sides, axis, strict=True)) for axis in by_axis]
        right = weight * np.einsum("asm,sm->a", by_axis, np.array([seen.shift, seen.offset]))
        own = (weight * len(seen.u) + seen.step_m**-2) * np.eye(2)
        return cls(Border(np.stack(columns, axis=1), own, right), seen.step_m)


def without_step(seen: Seen, step: Step) -> Seen:
    """Positions brought on the reference's map."""
    (x, y), (east, north) = seen.direction, step.step_m
    return replace(seen, shift=seen.shift - x * east - y * north, offset=seen.offset - x * north + y * east, step_m=0.0)
