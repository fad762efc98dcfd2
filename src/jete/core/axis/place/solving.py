"""Places and lines of a lap solved for with what stands in many rows: an odometer's rate, a map's step, a sensor's wander."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.axis.place.map_offset import weighed
from jete.core.numeric.border import Loose

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.place.map_offset import MapStep
    from jete.core.axis.place.sensor_offset import Wander
    from jete.core.numeric.banded import BandedLeastSquares
    from jete.core.numeric.border import Border


class Solved(NamedTuple):
    """The unknowns of a band, the rate of an odometer beside it, a step of the map to the east and to the north, metres, and what is left open of the band."""

    unknowns: FloatArray
    rate: float
    step_m: tuple[float, float] = (0.0, 0.0)
    extra: Loose | None = None


def solved(
    system: BandedLeastSquares, rate: Border, map_step: MapStep | None = None, wander: Wander | None = None
) -> Solved:
    """Solve a band with the rate of an odometer and, where there are, the step of a map and the wander of a sensor beside it."""
    sides = rate if map_step is None else rate.beside(map_step.border)
    reduced = (sides if wander is None else sides.beside(wander.border)).reduced(system)
    extra: list[Loose] = []
    if wander is not None:
        reduced, covariance = reduced.without_last(wander.likeliest(reduced))
        extra.append(Loose(wander.border.columns, covariance))
    if map_step is None:
        return Solved(reduced.at(reduced.found()), reduced.first(), extra=Loose.all_of(extra))
    step = weighed(*reduced.without_first(), map_step.prior_m)
    reads = reduced.first(step.step_m)
    extra.append(Loose(map_step.border.columns, step.covariance_m2))
    return Solved(reduced.at(np.array([reads, *step.step_m])), reads, step.by_m, Loose.all_of(extra))
