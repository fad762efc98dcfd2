"""How alike two curves run."""

from __future__ import annotations

import numpy as np

from jete.core.arrays import FloatArray

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
