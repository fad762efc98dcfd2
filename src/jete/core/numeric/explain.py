"""Which causes explain a gap: the fewest that do, and what each of them cost.

The hybrid laps give every factor a share of the gap, the noise of the data included, so that
eight small shares may say what one cause does.  Here the shares are read as measurements:

    share_i = cost_i + error_i, error_i of the standard deviation σ_i; gap = Σ cost_i ± σ_gap

with most costs nought.  Of all sets S of causes the one is taken that is least in

    Σ (share_i / σ_i)² over the others + (gap − Σ_S share)² / (σ_gap² + Σ_S σ²) + Σ_S price,

a likelihood with a price for each cause (risk inflation: Foster & George 1994, Ann. Statist.
22:1947).  The costs of S are then the least squares of all that is known: what the shares of
S leave of the gap is divided among them, and the less sure of a share, the more it takes
(cost_i = share_i + rest σ_i² / (σ_gap² + Σ_S σ²)).  Of a gap of 0.30 s, known to the
thousandth, let early braking have a share of 0.20 ± 0.02 s and a late throttle one of
0.04 ± 0.01 s: 0.06 s are left, of which the braking takes four fifths.  It cost 0.248 s, the
throttle 0.052 s.  A price of n² lets a cause in that stands n standard deviations from nought.  What is left of the gap beyond three standard
deviations is something that no cause stands for; it counts linearly (Huber 1964, Ann. Math.
Statist. 35:73) and nothing takes of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray

NEVER = float("inf")
# What a cause must bring more whose cost has the sign that it seldom has: two standard deviations.
ODD_PRICE = 4.0
# A rest beyond this many standard deviations is something else, and is left unexplained.
MOST_SIGMAS = 3.0


class Share(NamedTuple):
    """One factor's share of the gap and its standard deviation, seconds.

    ``price`` is what the cause costs in the choice, ``NEVER`` where it is out of the question;
    ``must`` is +1 where it can but lose, −1 where it can but gain, else 0; ``mostly`` the
    sign it has as a rule, else 0.
    """

    share_s: float
    sigma_s: float
    price: float
    must: float = 0.0
    mostly: float = 0.0


@dataclass(frozen=True)
class Cost:
    """What a cause cost, and its standard deviation, seconds."""

    loss_s: float
    sigma_s: float


def explain(shares: Sequence[Share], gap_s: float, gap_sigma_s: float, least_s: float) -> dict[int, Cost]:
    """The causes that explain a gap best, by their index; none where noise would do.

    Args:
        shares: of all factors, with standard deviations above 0.
        gap_s: of the window.
        gap_sigma_s: its standard deviation, above 0.
        least_s: no cause costs less than this.

    >>> noise = [Share(0.01, 0.03, 9.0), Share(-0.02, 0.03, 9.0)]
    >>> {i: round(c.loss_s, 3) for i, c in explain([Share(0.06, 0.03, 9.0), *noise], 0.09, 0.01, 0.006).items()}
    {0: 0.087}
    >>> both = [Share(0.2, 0.02, 9.0), Share(0.04, 0.01, 9.0)]
    >>> {i: round(c.loss_s, 3) for i, c in explain(both, 0.3, 0.001, 0.006).items()}
    {0: 0.248, 1: 0.052}
    """
    able = [i for i, s in enumerate(shares) if s.price < NEVER]
    if not able:
        return {}
    share, sigma, price, must, mostly = np.array([shares[i] for i in able]).T
    sets = _sets(len(able))
    variance = sets @ sigma**2 + gap_sigma_s**2
    rest = (gap_s - sets @ share) / np.sqrt(variance)
    taken = np.minimum(np.maximum(rest, -MOST_SIGMAS), MOST_SIGMAS)
    cost = share + sigma**2 * (taken / np.sqrt(variance))[:, None]
    gained = sets @ ((share / sigma) ** 2 - price) - taken * (2.0 * rest - taken)
    gained -= ODD_PRICE * np.sum(sets * (cost * mostly < 0.0), axis=1)
    gained[np.any((sets > 0.0) & ((cost * must < 0.0) | (np.abs(cost) < least_s)), axis=1)] = -NEVER
    best = int(gained.argmax())
    chosen = sets[best].nonzero()[0]
    left = sigma[chosen] * np.sqrt(1.0 - sigma[chosen] ** 2 / variance[best])
    return {able[k]: Cost(float(cost[best, k]), float(sd)) for k, sd in zip(chosen, left, strict=True)}


@cache
def _sets(size: int) -> FloatArray:
    """All sets of so many causes, one a row, 1 where a cause is in it; the empty one first, (2^size, size)."""
    return np.array(np.arange(2**size)[:, None] >> np.arange(size) & 1, dtype=float)
