"""A circuit drawn from its bends alone, for laps without positions: right in turns and lengths, not in where it lies."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray

TURN_RAD = 2.0 * np.pi


def schematic(place_m: FloatArray, curvature_1pm: FloatArray) -> FloatArray:
    """X and y of a road that bends as given, closed as well as it can be, (n, 2) metres.

    The heading is made to turn through whole turns by bending everything by the same share
    where it nearly does, else evenly; what is then left between end and start is spread over
    the lap.

    Args:
        place_m: places of the lap, (n,), rising.
        curvature_1pm: there, (n,), left positive.

    >>> s = np.linspace(0.0, 628.3185, 400)
    >>> xy = schematic(s, np.full(400, 0.0101))
    >>> bool(np.hypot(*(xy[-1] - xy[0])) < 0.01), round(float(np.ptp(xy[:, 0])))
    (True, 200)
    """
    steps = np.diff(place_m)
    turned = np.concatenate([[0.0], np.cumsum(0.5 * (curvature_1pm[1:] + curvature_1pm[:-1]) * steps)])
    whole = TURN_RAD * round(float(turned[-1]) / TURN_RAD)
    if whole and abs(turned[-1] / whole - 1.0) < 0.2:
        heading = turned * (whole / turned[-1])
    else:
        heading = turned + (whole - turned[-1]) * (place_m - place_m[0]) / max(float(np.ptp(place_m)), 1e-9)
    middle = 0.5 * (heading[1:] + heading[:-1])
    xy = np.concatenate(
        [[[0.0, 0.0]], np.cumsum(np.stack([np.cos(middle), np.sin(middle)], axis=1) * steps[:, None], axis=0)]
    )
    share = (place_m - place_m[0]) / max(float(np.ptp(place_m)), 1e-9)
    return np.asarray(xy - share[:, None] * xy[-1])
