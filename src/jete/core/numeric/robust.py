"""How far values scatter, told so that a few wild ones among them do not matter."""

from __future__ import annotations

import numpy as np

from jete.core.arrays import FloatArray

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
    """As :func:`robust_sigma` for each column of deviations (n, k), (k,)."""
    return np.asarray(MEDIAN_TO_SIGMA * np.median(np.abs(off), axis=0))
