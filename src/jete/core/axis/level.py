"""By how much the positions of two laps lie apart on the map all along: a receiver is off by a metre or two for minutes.

One lap alone does not show it.  Two do: aside of the reference's path by n, to the north on one
straight and to the south on the way back, is a map's; lines differ to no side of the map.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.project import Seen

# What lines on one road differ by, and over what length they keep to it.
LINE_M, LINE_REACH_M = 0.9, 150.0


# Before two laps are looked at, a receiver with corrections, which has no such step, is as likely as a plain one.
ODDS = 1.0


@dataclass(frozen=True, eq=False)
class Level:
    """The step from the reference's map to a lap's, (2,) metres to the east and to the north, and its standard deviation on each axis."""

    step_m: FloatArray
    sigma_m: float


def level_of(seen: Seen) -> Level:
    """The mean step: none, or one of the size that plain receivers have, by how likely each is (Kass & Raftery 1995, J. Am. Statist. Assoc. 90:773).

    ``seen.step_m`` is what the positions of two laps of plain receivers differ by for a whole lap.
    """
    (x, y), prior_m = seen.direction, seen.step_m
    cell = np.unique((seen.u / LINE_REACH_M).astype(np.intp), return_inverse=True)[1]
    count = np.bincount(cell)
    east, north, aside = (np.bincount(cell, v) / count for v in (-y, x, seen.offset))
    sides, weight = np.stack([east, north], axis=1), 1.0 / (LINE_M**2 + seen.noise_m**2 / count)
    precision = (sides.T * weight) @ sides + np.eye(2) / prior_m**2
    pulled = sides.T @ (weight * aside)
    step = np.linalg.solve(precision, pulled)
    # The evidence of a linear model against nought (Bishop 2006, Pattern Recognition, § 3.5.1).
    odds = ODDS * float(np.exp(0.5 * pulled @ step)) / (prior_m**2 * float(np.linalg.det(precision)) ** 0.5)
    likely = odds / (1.0 + odds)
    variance = likely * 0.5 * float(np.trace(np.linalg.inv(precision))) + likely * (1.0 - likely) * 0.5 * float(
        step @ step
    )
    return Level(likely * step, variance**0.5)


def without_level(seen: Seen, level: Level) -> Seen:
    """Positions brought on the reference's map."""
    (x, y), (east, north) = seen.direction, level.step_m
    return replace(seen, shift=seen.shift - x * east - y * north, offset=seen.offset - x * north + y * east, step_m=0.0)
