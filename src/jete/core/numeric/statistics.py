"""Small statistics that many subjects need: scatter without its wild ones, how alike curves run, odds, runs of flags."""

from __future__ import annotations

from math import exp

import numpy as np

from jete.core.arrays import BoolArray, FloatArray, IntArray

# Half of all normal errors are smaller than 0.6745 standard deviations, and this is one over it
# (Rousseeuw & Croux 1993, J. Am. Stat. Assoc. 88:1273).
MEDIAN_TO_SIGMA = 1.4826


def robust_sigma(off: FloatArray) -> float:
    """The standard deviation of most of the deviations (n,), from the size of the middle one.

    One in four may be as wrong as it likes:

    >>> round(robust_sigma(np.array([0.1, -0.1, 0.1, 60.0])), 3)
    0.148
    """
    return MEDIAN_TO_SIGMA * float(np.median(np.abs(off)))


def robust_sigmas(off: FloatArray) -> FloatArray:
    """The same as :func:`robust_sigma` for each column of deviations (n, k), (k,)."""
    return np.asarray(MEDIAN_TO_SIGMA * np.median(np.abs(off), axis=0))


# A curve that moves by no more than this share of its size stands still.
STILL = 1e-9


def likeness(a: FloatArray, b: FloatArray) -> float:
    """Pearson's correlation of two curves (n,) each, −1 to 1; 0 where one of them stands still.

    >>> likeness(np.array([1.0, 2.0, 3.0]), np.array([2.0, 4.0, 6.0])), likeness(np.ones(3), np.arange(3.0))
    (1.0, 0.0)
    """
    x, y = a - a.mean(), b - b.mean()
    size = float(np.sqrt((x @ x) * (y @ y)))
    floor = STILL * len(a) * max(float(np.abs(a).max()), 1.0) * max(float(np.abs(b).max()), 1.0) * STILL
    return float(x @ y) / size if size > floor else 0.0


# Evidence beyond e⁵⁰ is as good as any.
SUREST = 50.0


def likely(before: float, evidence: float) -> float:
    """Probability of the one, 0 to 1 (Kass & Raftery 1995, J. Am. Statist. Assoc. 90:773).

    Args:
        before: its odds before anything was seen.
        evidence: natural logarithm of the Bayes factor, that is of its marginal likelihood over the other's.

    >>> likely(1.0, 0.0), round(likely(0.5, 2.0), 3)
    (0.5, 0.787)
    """
    odds = before * exp(min(evidence, SUREST))
    return odds / (1.0 + odds)


def true_runs(mask: BoolArray) -> tuple[IntArray, IntArray]:
    """First and last indices of the runs of True in a mask (n,)."""
    steps = (mask[1:] != mask[:-1]).nonzero()[0]
    first = steps[~mask[steps]] + 1
    last = steps[mask[steps]]
    if len(mask) and mask[0]:
        first = np.concatenate([[0], first])
    if len(mask) and mask[-1]:
        last = np.append(last, len(mask) - 1)
    return first, last


def longest_run(mask: BoolArray) -> int:
    """How many flags the longest run of True in a mask (n,) has.

    >>> longest_run(np.array([True, False, True, True]))
    2
    """
    first, last = true_runs(mask)
    return int(np.max(last - first + 1, initial=0))
