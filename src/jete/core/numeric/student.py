"""Student's t: how often a difference so many of its own errors wide comes about by chance."""

from __future__ import annotations

from math import atan, lgamma, pi, sqrt

import numpy as np

# Simpson's rule on this many pieces is exact to 1e-9 here.
PIECES = 400
# From so many degrees of freedom on the curve is the normal one to three digits.
LARGE = 1e6


def two_sided(t: float, freedom: float) -> float:
    """Probability that |t| or more comes about by chance, 0 to 1.

    The density is integrated over the angle θ = atan(t / √ν), in which it is cos(θ) to the
    power ν − 1 (Abramowitz & Stegun 1972, 26.7.3–4).

    Args:
        t: the difference over its standard error.
        freedom: degrees of freedom ν, 1 or more.

    >>> round(two_sided(2.228, 10.0), 3), two_sided(0.0, 5.0)
    (0.05, 1.0)
    """
    nu = min(max(freedom, 1.0), LARGE)
    angle = np.linspace(0.0, atan(abs(t) / sqrt(nu)), PIECES + 1)
    density = np.cos(angle) ** (nu - 1.0)
    weight = np.full(PIECES + 1, 2.0)
    weight[1::2], weight[0], weight[-1] = 4.0, 1.0, 1.0
    inside = float(weight @ density) * float(angle[1] - angle[0]) / 3.0
    whole = np.exp(0.5 * np.log(pi) + lgamma(0.5 * nu) - lgamma(0.5 * nu + 0.5))
    return float(min(max(1.0 - 2.0 * inside / whole, 0.0), 1.0))


def quantile(confidence: float, freedom: float) -> float:
    """How many standard errors to either side hold a share of all cases, by halving.

    >>> round(quantile(0.95, 10.0), 3)
    2.228
    """
    low, high = 0.0, 1000.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if two_sided(middle, freedom) > 1.0 - confidence else (low, middle)
    return 0.5 * (low + high)
