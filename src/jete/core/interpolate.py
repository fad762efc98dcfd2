"""Interpolation of time over distance that keeps its shape."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jete.core.lap import FloatArray


@dataclass(frozen=True, eq=False)
class MonotoneCubic:
    """A cubic Hermite curve through (x, y) that rises wherever y rises; arrays (n,)."""

    x: FloatArray
    y: FloatArray
    slope: FloatArray

    @classmethod
    def through(cls, x: FloatArray, y: FloatArray, slope: FloatArray) -> MonotoneCubic:
        """A curve from wanted slopes, cut to three times the neighbouring secants.

        That is Fritsch & Carlson's sufficient condition (1980, SIAM J. Numer. Anal.
        17:238).

        Args:
            x: strictly increasing, (n,).
            y: non-decreasing, (n,).
            slope: wanted dy/dx at ``x``, (n,).
        """
        secant = np.diff(y) / np.diff(x)
        bound = 3.0 * np.minimum(np.concatenate([secant, secant[-1:]]), np.concatenate([secant[:1], secant]))
        return cls(x, y, np.minimum(np.maximum(slope, 0.0), bound))

    def __call__(self, at: FloatArray) -> FloatArray:
        """Values at places (any shape); beyond the ends the end values hold."""
        x, y, m = self.x, self.y, self.slope
        place = np.minimum(np.maximum(at, x[0]), x[-1])
        i = np.minimum(np.maximum(np.searchsorted(x, place, side="right") - 1, 0), len(x) - 2)
        h = x[i + 1] - x[i]
        u = (place - x[i]) / h
        w = 1.0 - u
        low, high = y[i] * (1 + 2 * u) + m[i] * h * u, y[i + 1] * (3 - 2 * u) - m[i + 1] * h * w
        return np.asarray(low * w * w + high * u * u)
