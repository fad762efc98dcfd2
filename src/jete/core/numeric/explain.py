"""Which causes explain a curve of lost time: the fewest that do, and what each of them cost where.

The running gap over a window is measured on S stretches of road, g (S,); the hybrid laps say
what each cause did on each of them, its share x_i (S,).  Most causes are zero.  Of all sets
of causes the one is taken that is least in

    ρ(rᵀ V⁻¹ r) + Σ price_i,    r = g − Σ x_i over the set,

a likelihood with a price for each cause (risk inflation: Foster & George 1994, Ann. Statist.
22:1947).  V is the covariance of the measured gap and of what shares may be wrong by.  Beyond
three standard deviations a rest counts linearly (ρ: Huber 1964, Ann. Math. Statist. 35:73),
since it is something that no cause stands for.  Two causes that cancel over the window, one
lost on the way in and the other gained on the way out, leave a curve that neither explains:
both are named.  Two that cancel place by place leave none, and neither is.

The costs: what the set leaves of the gap on a stretch goes to the causes that act there, each
by the square of its share against the noise; so what no cause does stays unexplained where it
arises.

How sure a cause is follows from all sets at once, each weighted by exp(−½ what it is least in)
(Bayesian model averaging: Hoeting et al. 1999, Statist. Sci. 14:382): the weight of those in
which it carries at least 0.6 of the cost that is told, taken
stretch by stretch: what it won and lost again counts as done.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray

NEVER = float("inf")
# What a cause must bring more whose cost has the sign that it seldom has: two standard deviations.
ODD_PRICE = 4.0
# A rest beyond this many standard deviations is something else, and is left unexplained.
MOST_SIGMAS = 3.0
# A share may lack so much of its cause's cost on a stretch: what hybrids gave to causes that are zero.
LACKING = 0.33
# A claim is right that carries this share of its cost.
CARRIES = 0.6


@dataclass(frozen=True, eq=False)
class Share:
    """One factor's share of the gap on each stretch, seconds, (S,).

    ``price`` is what the cause costs in the choice, ``NEVER`` where it is out of the question;
    ``must`` is +1 where it can but lose, −1 where it can but gain, else 0; ``mostly`` the
    sign it has as a rule, else 0.
    """

    seconds: FloatArray
    price: float
    must: float = 0.0
    mostly: float = 0.0


@dataclass(frozen=True, eq=False)
class Cost:
    """What a cause cost on each stretch, seconds, (S,), and how sure it is, 0 to 1."""

    seconds: FloatArray
    sure: float

    @property
    def loss_s(self) -> float:
        """Over the whole window."""
        return float(self.seconds.sum())


def explain(shares: Sequence[Share], gap_s: FloatArray, covariance: FloatArray, least_s: float) -> dict[int, Cost]:
    """The causes that explain a gap best, by their index; none where noise would do.

    Args:
        shares: of all factors.
        gap_s: on each stretch, (S,).
        covariance: of it, seconds², (S, S), positive definite.
        least_s: no cause costs less than this in all its stretches together.

    A lap loses 0.30 s on the way in and gains 0.28 s on the way out: two causes, not none.

    >>> way_in, way_out = np.array([0.3, 0.0]), np.array([0.0, -0.28])
    >>> found = explain([Share(way_in, 9.0), Share(way_out, 9.0)], way_in + way_out, 1e-4 * np.eye(2), 0.006)
    >>> {i: (round(c.loss_s, 2), c.sure > 0.99) for i, c in found.items()}
    {0: (0.3, True), 1: (-0.28, True)}
    """
    able = [i for i, s in enumerate(shares) if s.price < NEVER]
    if not able:
        return {}
    given = [shares[i] for i in able]
    x = np.array([s.seconds for s in given])
    price, must, mostly = (np.array([getattr(s, name) for s in given]) for name in ("price", "must", "mostly"))
    sets = _sets(len(able))
    rest = gap_s - sets @ x
    cost = _costs(x, sets, rest, np.diag(covariance))
    whole = cost.sum(axis=2)
    badness = _huber(rest, covariance) + sets @ price + ODD_PRICE * np.sum(sets * (whole * mostly < 0.0), axis=1)
    small = np.abs(cost).max(axis=2) < least_s
    badness[np.any((sets > 0.0) & ((whole * must < 0.0) | small), axis=1)] = NEVER
    best = int(badness.argmin())
    weight = np.exp(-0.5 * (badness - badness[best]))
    carries = (sets > 0.0) & ((cost * cost[best]).sum(axis=2) >= CARRIES * (cost[best] ** 2).sum(axis=1))
    sure = weight @ carries / weight.sum()
    return {able[k]: Cost(cost[best, k], float(sure[k])) for k in sets[best].nonzero()[0]}


def _huber(rest: FloatArray, covariance: FloatArray) -> FloatArray:
    """ρ of rests (n, S): square up to three standard deviations, linear beyond, (n,)."""
    white = np.linalg.solve(np.linalg.cholesky(covariance), rest.T)
    size = np.abs(white)
    square = np.minimum(size, MOST_SIGMAS)
    return np.asarray(np.sum(square * (2.0 * size - square), axis=0))


def _costs(x: FloatArray, sets: FloatArray, rest: FloatArray, variance: FloatArray) -> FloatArray:
    """Costs (n, k, S) of the causes in n sets (n, k), by their shares x (k, S) and the rests (n, S)."""
    lacks = sets[:, :, None] * (LACKING * x) ** 2
    given = rest[:, None, :] * lacks / (lacks.sum(axis=1, keepdims=True) + variance)
    # No share more than doubles by what it is given.
    most = np.abs(x)
    return np.asarray(sets[:, :, None] * (x + np.clip(given, -most, most)))


@cache
def _sets(size: int) -> FloatArray:
    """All sets of so many causes, one a row, 1 where a cause is in it; the empty one first, (2^size, size)."""
    return np.array(np.arange(2**size)[:, None] >> np.arange(size) & 1, dtype=float)
