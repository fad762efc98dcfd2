"""Times at even steps over samples, where the samples are dense enough to say anything there."""

from __future__ import annotations

import numpy as np

from jete.core.arrays import FloatArray

# More steps than this for each sample lie in a gap: a clock that was set in between, or one wild stamp.
MOST_STEPS = 60.0


def even_times(time_s: FloatArray, step_s: float) -> FloatArray:
    """Times a step apart from the first sample to the last, (k,); none where gaps make up nearly all of them.

    Args:
        time_s: of the samples, (n,), n > 0, rising.
        step_s: between two of the times.

    >>> even_times(np.array([0.0, 0.4, 1.0]), 0.25).tolist()
    [0.0, 0.25, 0.5, 0.75]
    >>> len(even_times(np.array([0.0, 1.0, 1e12]), 0.25))
    0
    """
    if float(time_s[-1] - time_s[0]) > MOST_STEPS * step_s * len(time_s):
        return np.empty(0)
    return np.arange(time_s[0], time_s[-1], step_s)
