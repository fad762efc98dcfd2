"""How far the sensor that felt a lap's bends is off against the road, otherwise here than there.

A gyro's offset wanders, roll takes part in an acceleration, a banked road pulls aside.  Beside a bend

    κ_lap(u) = κ(u + e) + κ² n + n'' + b(u)

with b constant over some road and a random walk from one such piece to the next.  How far it walks
is the most likely of a few densities: with a steady sensor b stays zero, and what a wandering one
is off by is no other line (Kalman smoothing of a random walk: Durbin & Koopman 2012, Time Series
Analysis by State Space Methods, § 2.3; its density by the marginal likelihood, § 2.10).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.numeric.border import Border, Reduced

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.numeric.banded import Rows

# Shorter pieces could pass for a line; a long lap is cut into no more than so many.
PIECE_M, MOST_PIECES = 100.0, 40
# What a sensor's offset may walk, (1/m)² per m: 1e-10 is 0.3 °/s at 40 m/s within half a minute.
WALKS = (1e-13, 1e-11, 1e-10, 1e-9, 1e-8)
# One standard deviation of it as a whole: what a lap that closes leaves of it.
LEVEL_1PM = 1e-3


class Bent(NamedTuple):
    """The equations of bends, (n,): rows over the unknowns, weights, and what is wanted."""

    rows: Rows
    weight: FloatArray
    wanted: FloatArray


@dataclass(frozen=True, eq=False)
class Wander:
    """The equations of the m offsets beside those of places and lines, and how long each piece is."""

    border: Border
    piece_m: float

    @classmethod
    def beside(cls, bent: Bent, at_m: FloatArray, length_m: float, size: int) -> Wander:
        """The equations of a sensor's offsets beside the bends at places (n,) of a lap so long, over ``size`` unknowns."""
        count = min(max(round(length_m / PIECE_M), 2), MOST_PIECES)
        piece = np.minimum((at_m / length_m * count).astype(np.intp), count - 1)
        rows, weight = bent.rows, bent.weight
        at, pulls = rows.unknowns * count + piece[:, None], rows.values * weight[:, None]
        columns = np.asarray(np.bincount(at.ravel(), pulls.ravel(), size * count), float).reshape(size, count)
        own, right = (np.asarray(np.bincount(piece, v, count), float) for v in (weight, weight * bent.wanted))
        return cls(Border(columns, np.asarray(np.diag(own), float), right), length_m / count)

    def likeliest(self, reduced: Reduced) -> FloatArray:
        """The precision (m, m) of a random walk of the most likely density; the m stand last in ``reduced``."""
        priors = _walking(len(self.border.right), self.piece_m)
        return max(priors, key=lambda prior: _evidence(reduced, prior)).precision


class _Prior(NamedTuple):
    """The precision of m offsets beforehand, (m, m), and the logarithm of its determinant."""

    precision: FloatArray
    log_determinant: float


@lru_cache(maxsize=4)
def _walking(count: int, piece_m: float) -> tuple[_Prior, ...]:
    """Random walks of each density over so many pieces; kept, since all laps on one road ask for them."""
    steps = np.diff(np.eye(count), axis=0)
    precisions = [steps.T @ steps / (density * piece_m) + np.eye(count) / LEVEL_1PM**2 for density in WALKS]
    return tuple(_Prior(each, float(np.linalg.slogdet(each)[1])) for each in precisions)


def _evidence(reduced: Reduced, prior: _Prior) -> float:
    """Logarithm of the marginal likelihood under a prior of the last unknowns, up to a constant."""
    m = len(prior.precision)
    precision = reduced.precision.copy()
    precision[-m:, -m:] += prior.precision
    shown = float(reduced.right @ np.linalg.solve(precision, reduced.right))
    return 0.5 * (shown - float(np.linalg.slogdet(precision)[1]) + prior.log_determinant)
