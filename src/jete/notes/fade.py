"""How lap times change over a run: a robust line, and the laps that stray from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Sequence

FEWEST = 4
STRAYS_SIGMAS = 3.5
LEAST_S = 0.15


@dataclass(frozen=True)
class Fade:
    """Seconds gained each lap, the line's value at lap 0, the scatter about it, and the laps beyond it."""

    per_lap_s: float
    at_zero_s: float
    spread_s: float
    strays: tuple[int, ...]


def fade_of(numbers: Sequence[int], times_s: Sequence[float]) -> Fade | None:
    """The median of all slopes between two laps (Theil 1950; Sen 1968, JASA 63:1379); None below four laps.

    Args:
        numbers: of the laps, (n,).
        times_s: their times, (n,).

    >>> fade_of([1, 2, 3, 4, 5], [90.0, 90.1, 90.2, 95.0, 90.4]).strays
    (4,)
    """
    if len(numbers) < FEWEST:
        return None
    x, y = np.asarray(numbers, dtype=float), np.asarray(times_s, dtype=float)
    i, j = np.triu_indices(len(x), 1)
    slope = float(np.median((y[j] - y[i]) / (x[j] - x[i])))
    rest = y - slope * x
    level = float(np.median(rest))
    spread = robust_sigma(rest - level)
    far = np.abs(rest - level) > max(STRAYS_SIGMAS * spread, LEAST_S)
    return Fade(slope, level, spread, tuple(int(n) for n in x[far]))
