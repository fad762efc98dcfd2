"""How sure the places of an aligned lap are, and the gaps that follow from them.

An error of place that stays the same makes no gap between two places; so what counts for
a window is the spread of a difference, and it is taken from the whole covariance of the
solution, not from that of each end alone.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.numeric.banded import BandedLeastSquares
    from jete.core.numeric.border import Loose
    from jete.core.numeric.spline import Knots


class Drifting(NamedTuple):
    """An error of positions, one standard deviation on each axis, and the metres of road over which it stays alike, ∞ for the whole lap."""

    size_m: float
    memory_m: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Spread:
    """Standard deviations of places on the axis and of differences between them.

    ``system`` holds the normal equations of the shift e and the offset n over ``knots``,
    their coefficients by turns, ``extra`` what a step of the map and the wander of a sensor leave open of them; None where nothing was solved for.  ``own_m`` is the part
    of each place that has nothing to do with its neighbours, ``ends_m`` that of both ends
    of the lap; ``drifts`` are parts of every position that stay alike over some road;
    ``headings`` are places on the axis and the road's direction there, radians, (n,) both.
    """

    length_m: float
    own_m: float = 0.0
    ends_m: tuple[float, float] = (0.0, 0.0)
    drifts: tuple[Drifting, ...] = ()
    headings: tuple[FloatArray, FloatArray] | None = None
    knots: Knots | None = None
    system: BandedLeastSquares | None = None
    extra: Loose | None = None

    def change(self, from_m: FloatArray, to_m: FloatArray, from_mps: FloatArray, to_mps: FloatArray) -> FloatArray:
        """Standard deviation of e(to) / v(to) − e(from) / v(from), (k,): of a gap, in seconds.

        With speeds of 1 it is that of a length, in metres.
        """
        own = sum((self._own(at) / v) ** 2 for at, v in ((from_m, from_mps), (to_m, to_mps)))
        own = own + self._drifted(np.stack([from_m, to_m], axis=1), np.stack([from_mps, to_mps], axis=1))[:, 0, 0]
        if self.knots is None or self.system is None:
            return np.asarray(np.sqrt(own))
        wanted = np.zeros((2 * self.knots.size, len(from_m)), order="F")
        column = np.arange(len(from_m))
        for at, per in ((from_m, -1.0 / from_mps), (to_m, 1.0 / to_mps)):
            rows = self.knots.basis(at).by_turns(0)
            for k in range(4):
                wanted[rows.first + k * rows.stride, column] += rows.values[:, k] * per
        half = self._half(self.system, wanted)
        return np.asarray(np.sqrt(own + np.einsum("ij,ij->j", half, half)))

    def gap_covariance(self, ends_m: FloatArray, speed_mps: FloatArray) -> FloatArray:
        """Covariance of the gaps of S stretches in a row, seconds², (c, S, S), in each of c windows.

        Args:
            ends_m: of the stretches, (c, S + 1).
            speed_mps: there, (c, S + 1).
        """
        own = (self._own(ends_m) / speed_mps) ** 2
        size = ends_m.shape[1] - 1
        out = np.zeros((len(ends_m), size, size))
        k = np.arange(size)
        out[:, k, k] = own[:, :-1] + own[:, 1:]
        out[:, k[1:], k[:-1]] = out[:, k[:-1], k[1:]] = -own[:, 1:-1]
        out += self._drifted(ends_m, speed_mps)
        if self.knots is None or self.system is None:
            return out
        wanted = np.zeros((2 * self.knots.size, ends_m.size), order="F")
        rows, column = self.knots.basis(ends_m.ravel()).by_turns(0), np.arange(ends_m.size)
        for j in range(4):
            wanted[rows.first + j * rows.stride, column] += rows.values[:, j] / speed_mps.ravel()
        half = self._half(self.system, wanted)
        half = np.diff(half.reshape(len(half), *ends_m.shape), axis=2)
        by_window = np.ascontiguousarray(half.transpose(1, 2, 0))
        return out + by_window @ by_window.transpose(0, 2, 1)

    def _half(self, system: BandedLeastSquares, wanted: FloatArray) -> FloatArray:
        """Columns whose products are the covariances of the forms ``wanted`` (size, k), what a step of the map leaves open among them."""
        half = system.half(wanted)
        return half if self._left_open is None else np.vstack([half, self._left_open.T @ half])

    @cached_property
    def _left_open(self) -> FloatArray | None:
        return None if self.extra is None or self.system is None else self.extra.half(self.system)

    def _drifted(self, ends_m: FloatArray, speed_mps: FloatArray) -> FloatArray:
        """Covariance of the gaps of stretches by the drift, seconds², (c, S, S): that of an Ornstein-Uhlenbeck process.

        What a position is off by to the north is ahead on one straight and behind on the way back.
        """
        apart = np.abs(_differences(ends_m))
        alike = np.zeros_like(apart)
        for drift in self.drifts:
            alike += drift.size_m**2 * np.exp(-apart / drift.memory_m)
        if self.headings is not None:
            alike *= np.cos(_differences(np.interp(ends_m, *self.headings)))
        alike /= speed_mps[:, :, None] * speed_mps[:, None, :]
        return np.asarray(np.diff(np.diff(alike, axis=1), axis=2))

    def _own(self, at_m: FloatArray) -> FloatArray:
        start, end = self.ends_m
        return np.where(at_m <= 0.0, start, np.where(at_m >= self.length_m, end, self.own_m))


def _differences(values: FloatArray) -> FloatArray:
    """The difference of each value and each other, (c, n) to (c, n, n)."""
    return np.asarray(values[:, :, None] - values[:, None, :])
