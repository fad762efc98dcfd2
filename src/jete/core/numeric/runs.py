"""Runs of true flags in a row."""

from __future__ import annotations

import numpy as np

from jete.core.arrays import BoolArray, IntArray


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
