"""The lateness of signals behind what they go with, seconds, where all rise and fall together.

    seen(t) = Σ kᵢⱼ sᵢⱼ(t + τᵢ) + Σ cₗ bₗ(t)

with the signals s of several instruments i, the delay τ of each, what else there is beside them b,
and the scales k and c, by Gauss–Newton.  Errors may last; so the doubt of τ is taken from pieces of
time and not from single samples (Liang & Zeger 1986, Biometrika 73:13).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import inf
from typing import NamedTuple

import numpy as np

from jete.core.arrays import BoolArray, FloatArray
from jete.core.numeric.interpolate import integral
from jete.core.numeric.statistics import robust_sigma

# Errors in pieces of time so long have little to do with each other's.
PIECE_S = 5.0
# And of fewer pieces than this no doubt is told.
FEWEST_PIECES = 6
# And more than this tell no more.
MOST_LOOKED_AT = 4000
# Fewer samples than this tell nothing.
FEWEST = 100
# Instruments are late by tenths of a second, a phone that smooths its places by one; more is a mistake elsewhere.
LONGEST_S = 1.2
# What is farther off than this is something else.
FAR_SIGMAS = 4.0
# What is less than this share of the rest is zero: no two signals are so much alike.
SINGULAR, TINY = 1e-11, 1e-30
# Instruments go with what was seen that leave no more than this share of it.
UNEXPLAINED = 0.5
# Gauss–Newton has settled when it moves by less.
SETTLED_S, STEPS = 0.004, 6

# Gives the signals of an instrument at times (m,), (m, j), and their rates of change there, (m, j).
Signals = Callable[[FloatArray], tuple[FloatArray, FloatArray]]


class Lateness(NamedTuple):
    """How much later one thing tells of something than another does, seconds, below 0 earlier; one standard deviation, ∞ where nothing tells."""

    seconds: float
    sigma_s: float

    def sure(self, least_s: float, sigmas: float) -> bool:
        """Whether it is beyond doubt, and of a size that an instrument has."""
        return max(least_s, sigmas * self.sigma_s) < abs(self.seconds) < LONGEST_S


UNKNOWN = Lateness(0.0, inf)


def latenesses_of(
    seen: FloatArray, at_s: FloatArray, usual: BoolArray, instruments: Sequence[Signals], beside: FloatArray
) -> tuple[Lateness, ...]:
    """How much later than what was seen each of several instruments is.

    Args:
        seen: (m,).
        at_s: when, (m,), increasing.
        usual: which of them count, (m,).
        instruments: of either sign and any scale.
        beside: what else there is, (m, l): a constant.
    """
    unknown = tuple(UNKNOWN for _ in instruments)
    tau, use, count = np.zeros(len(instruments)), usual, len(instruments)
    scales = np.empty(0)
    for _ in range(STEPS):
        if np.count_nonzero(use) < FEWEST:
            return unknown
        pairs = [signals(at_s + late) for signals, late in zip(instruments, tau, strict=True)]
        columns = np.column_stack([*(values for values, _ in pairs), beside])
        scales = scales if scales.size else _least_squares(columns[use], seen[use])
        rows = np.column_stack([_changes(pairs, scales), columns])
        found = _least_squares(rows[use], seen[use])
        rest = seen - rows @ found
        tau, scales = tau + found[:count], found[count:]
        use = usual & (np.abs(rest) <= FAR_SIGMAS * robust_sigma(rest[use]))
        most = float(np.abs(found[:count]).max())
        if most < SETTLED_S or float(np.abs(tau).max()) > LONGEST_S:
            break
    if not _goes_with(seen[use], rest[use], beside[use]):
        return unknown
    sigmas = _sigmas(rows[use], rest[use], at_s[use])
    return tuple(Lateness(float(t), float(s)) for t, s in zip(tau, sigmas[:count], strict=True))


def lateness_of(seen: FloatArray, at_s: FloatArray, usual: BoolArray, signals: Signals) -> Lateness:
    """:func:`latenesses_of` one instrument beside a constant."""
    return latenesses_of(seen, at_s, usual, [signals], np.ones((len(seen), 1)))[0]


def every(step_s: float, first_s: float, last_s: float) -> FloatArray:
    """Times from one to another at which a log is looked at, (m,): so often, and less often in one of hours."""
    count = min((last_s - first_s) / step_s, MOST_LOOKED_AT)
    return np.linspace(first_s, last_s, max(int(count), 0))


def change_over(reach_s: float, time_s: FloatArray, values: FloatArray, at_s: FloatArray) -> FloatArray:
    """How much values (n,) change within so long after times (m,), (m,)."""
    after, now = (np.interp(at_s + by, time_s, values) for by in (reach_s, 0.0))
    return np.asarray(after - now)


def summed_over(reach_s: float, time_s: FloatArray, *rates: FloatArray) -> Signals:
    """What rates (n,) each add up to within so long."""
    curves = np.stack([*(integral(time_s, rate) for rate in rates), *rates], axis=1)

    def signals(at_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        change = _all_at(at_s + reach_s, time_s, curves) - _all_at(at_s, time_s, curves)
        return change[:, : len(rates)], change[:, len(rates) :]

    return signals


def _all_at(at_s: FloatArray, time_s: FloatArray, curves: FloatArray) -> FloatArray:
    """Curves (n, j) over one clock (n,) at times (m,), (m, j): each as by ``np.interp``, the place of a time sought once for all."""
    after = np.clip(np.searchsorted(time_s, at_s, side="right"), 1, len(time_s) - 1)
    before = after - 1
    share = np.clip((at_s - time_s[before]) / (time_s[after] - time_s[before]), 0.0, 1.0)[:, None]
    return np.asarray(curves[before] + share * (curves[after] - curves[before]))


def _changes(pairs: Sequence[tuple[FloatArray, FloatArray]], scales: FloatArray) -> FloatArray:
    """What each instrument's signals together change by in a second, (m, instruments)."""
    out, at = [], 0
    for _, rates in pairs:
        out.append(rates @ scales[at : at + rates.shape[1]])
        at += rates.shape[1]
    return np.stack(out, axis=1)


def _least_squares(rows: FloatArray, seen: FloatArray) -> FloatArray:
    """The unknowns of rows (m, k), few and many, (k,): by normal equations on one scale, quicker than by the rows."""
    size = np.maximum(np.sqrt(np.einsum("mk,mk->k", rows, rows)), TINY)
    gram = (rows.T @ rows) / size[:, None] / size
    return np.asarray(np.linalg.pinv(gram, rcond=SINGULAR, hermitian=True) @ (rows.T @ seen / size) / size)


def _goes_with(seen: FloatArray, rest: FloatArray, beside: FloatArray) -> bool:
    """Whether the instruments explain most of what was seen (m,): a chance likeness may lie at any delay."""
    alone = seen - beside @ _least_squares(beside, seen)
    return float(rest @ rest) < UNEXPLAINED * float(alone @ alone)


def _sigmas(rows: FloatArray, rest: FloatArray, at_s: FloatArray) -> FloatArray:
    """Standard deviations of the unknowns of rows (m, k) that leave a rest (m,), (k,)."""
    # Pieces without samples, up to a wild time stamp say, are left out.
    piece = np.unique((at_s - at_s[0]) // PIECE_S, return_inverse=True)[1]
    if piece[-1] < FEWEST_PIECES:
        return np.full(rows.shape[1], inf)
    pulls = np.stack([np.bincount(piece, rest * column) for column in rows.T], axis=1)
    inverse = np.linalg.pinv(rows.T @ rows)
    return np.asarray(np.sqrt(np.maximum(np.diag(inverse @ (pulls.T @ pulls) @ inverse), 0.0)))
