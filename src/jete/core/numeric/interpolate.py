"""Interpolation of time over distance that keeps its shape."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from jete.core.arrays import FloatArray

Number = TypeVar("Number", float, FloatArray)


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
        i = np.minimum(np.maximum(x.searchsorted(place, side="right") - 1, 0), len(x) - 2)
        return np.asarray(_cubic(place, *(a for c in (x, y, m) for a in (c[i], c[i + 1]))))

    def one(self, at: float) -> float:
        """The value at one place, without the cost of arrays."""
        x, y, m = self.x, self.y, self.slope
        i = min(max(int(x.searchsorted(at, side="right")) - 1, 0), len(x) - 2)
        ends = [a for c in (x, y, m) for a in c[i : i + 2].tolist()]
        return float(_cubic(min(max(at, ends[0]), ends[1]), *ends))


def _cubic(place: Number, x0: Number, x1: Number, y0: Number, y1: Number, m0: Number, m1: Number) -> Number:
    """Hermite's cubic between two points; numbers or arrays alike."""
    h = x1 - x0
    u = (place - x0) / h
    w = 1.0 - u
    return (y0 * (1.0 + 2.0 * u) + m0 * h * u) * w * w + (y1 * (3.0 - 2.0 * u) - m1 * h * w) * u * u


def linear(at: float, x: FloatArray, y: FloatArray) -> float:
    """``np.interp`` of one number, without the cost of arrays; x and y (n,), n ≥ 2."""
    i = min(max(int(x.searchsorted(at)) - 1, 0), len(x) - 2)
    x0, x1 = x[i : i + 2].tolist()
    y0, y1 = y[i : i + 2].tolist()
    if at <= x0 or x1 <= x0:
        return float(y0)
    return float(y1 if at >= x1 else y0 + (at - x0) / (x1 - x0) * (y1 - y0))


def integral(time: FloatArray, rate: FloatArray) -> FloatArray:
    """Trapezoid integral of a rate (n,) over time (n,) from the first sample, (n,)."""
    return np.concatenate([[0.0], np.cumsum(0.5 * (rate[1:] + rate[:-1]) * np.diff(time))])


def slopes(y: FloatArray, x: FloatArray) -> FloatArray:
    """dy/dx between the neighbours of each sample, (n,), n ≥ 2; at both ends to the only neighbour.

    ``np.gradient`` also weighs uneven steps, at five times the cost.
    """
    out = np.empty(len(y))
    out[1:-1] = (y[2:] - y[:-2]) / (x[2:] - x[:-2])
    out[0], out[-1] = (y[1] - y[0]) / (x[1] - x[0]), (y[-1] - y[-2]) / (x[-1] - x[-2])
    return out
