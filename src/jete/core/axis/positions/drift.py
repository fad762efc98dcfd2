r"""How much of what positions are off by is a drift, told from white noise by the long waves of one lap.

With d(t) the error of the positions on both axes and t̂ the direction of travel, metres along the
path by the positions are ahead of metres driven by

    r(t) = ∫ t̂ · d' dt

not by t̂ · d alone: who is seen too far out through a bend is seen on a longer road, and stays ahead.
d is taken as white noise of one density and an Ornstein–Uhlenbeck process σ² e^(−|l|/τ), alike on
both axes.  r is looked at in waves that run beside all that is not known of the lap anyway, so that
what a mean and a scale swallow of a slow drift is not missed (restricted likelihood: Patterson &
Thompson 1971, Biometrika 58:545).  Whether there is a drift, how large and for how long, is weighed
over all that could be (Kass & Raftery 1995, J. Am. Statist. Assoc. 90:773).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import log, pi
from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.statistics import likely

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray

# Means over half a second keep all that a drift is made of; a long lap is cut into no more than so many.
CELL_S, MOST_CELLS = 0.5, 120
# So many of the longest waves: of a lap of 90 s those of 5 s and more; a drift is lost in noise at shorter ones.
WAVES = 36
# Fewer means than this beside what is known otherwise tell nothing.
FEWEST = 8
# A vehicle that stands has no direction; its waves are still worth something.
TINY = 1e-9
# What a drift may be, metres and seconds; shorter is a filter's, longer than this is a level in any lap.
SIZES_M = np.geomspace(0.03, 5.0, 11)
LASTS_S = np.array([4.0, 12.0, 40.0])
# A white density is looked for from here to there, as shares of what the shortest waves show.
WHITE_SHARES = np.geomspace(0.025, 2.5, 11)
# Before a lap is looked at, a drift that shows is half as likely as none: receivers with corrections, or filtered, have none.
ODDS = 0.5
# At waves of four minutes: longer than a lap, since what is rougher than it was taken for is so at long waves.
LONG_WAVE_RADPS = 2.0 * pi / 240.0


@dataclass(frozen=True)
class Drift:
    """A drift, one standard deviation on each axis, and what it makes of long waves.

    ``likely`` is its probability, 0 to 1; ``size_m`` and ``lasts_s`` are its σ and τ, ``within_m`` how far it strays from its mean over the lap;
    ``density_m2s`` that of all errors at waves of four minutes, between what it is with the drift and without.
    """

    likely: float
    size_m: float
    lasts_s: float
    within_m: float
    density_m2s: float


def drift_of(
    time_s: FloatArray, off_m: FloatArray, known: FloatArray, direction: FloatArray, white_m2s: float
) -> Drift:
    """Weigh what metres along the path show.

    Args:
        time_s: of the positions, (n,), increasing, 30 s or more.
        off_m: metres along the path by the positions less metres driven, (n,).
        known: what else could make them, (n, k): a constant, a scale.
        direction: of travel, unit vectors, (n, 2).
        white_m2s: density of the white part where neighbours tell it, 0 where they do not.
    """
    mean = _Means.over(time_s)
    if len(mean.count) < known.shape[1] + FEWEST:
        return Drift(0.0, 0.0, 0.0, 0.0, white_m2s or mean.cell_s * float(np.var(off_m)))
    at_s, off, beside, along = (mean.of(v) for v in (time_s, off_m, known, direction))
    waves = _waves(at_s, beside)
    pulls = _pulls(waves, 0.5 * (along[1:] + along[:-1]))
    # On a scale on which white noise is as large in all waves.
    both = sum(pull @ pull.T for pull in pulls)
    half = np.linalg.cholesky(both + TINY * np.trace(both) * np.eye(len(both)))
    seen = np.asarray(np.linalg.solve(half, waves.T @ off), float)
    shortest = mean.cell_s * float(np.mean(seen[-len(seen) // 3 :] ** 2))
    white = shortest * WHITE_SHARES if white_m2s == 0.0 else np.array([white_m2s])
    known_by = _log_likelihoods(at_s, seen, np.asarray(np.linalg.solve(half, pulls), float), white / mean.cell_s)
    return _weighed(white, *known_by, float(time_s[-1] - time_s[0]))


@dataclass(frozen=True, eq=False)
class _Means:
    """Means over cells of equal length; empty ones are left out."""

    cell_s: float
    index: np.ndarray
    count: FloatArray

    @classmethod
    def over(cls, time_s: FloatArray) -> _Means:
        whole, step = float(time_s[-1] - time_s[0]), float(np.median(np.diff(time_s)))
        cell = max(CELL_S, 1.01 * step, whole / MOST_CELLS)
        index = np.unique(((time_s - time_s[0]) / cell).astype(np.intp), return_inverse=True)[1]
        return cls(cell, index, np.bincount(index).astype(float))

    def of(self, values: FloatArray) -> FloatArray:
        """Means of values (n,) or (n, k)."""
        sums = [np.bincount(self.index, column) / self.count for column in np.atleast_2d(values.T)]
        return np.array(sums).T if values.ndim == 2 else sums[0]


def _waves(at_s: FloatArray, known: FloatArray) -> FloatArray:
    """Orthonormal long waves beside what is known otherwise, (n, m): what of cosines a constant and scales leave."""
    count = min(WAVES, len(at_s) - known.shape[1] - 2)
    along = (np.arange(len(at_s)) + 0.5) / len(at_s)
    cosines = np.cos(pi * along[:, None] * np.arange(1, count + 1))
    return np.asarray(np.linalg.qr(np.hstack([known, cosines]))[0][:, known.shape[1] :])


def _pulls(waves: FloatArray, direction: FloatArray) -> FloatArray:
    """What an error of the positions, on each axis and at each place, makes of the waves of r, (2, m, n).

    r is the sum of ``direction`` (n − 1, 2) times the steps of the error so far.
    """
    later = np.cumsum(waves[:0:-1], axis=0)[::-1]
    step = direction.T[:, None, :] * later.T
    pulls = np.zeros((2, waves.shape[1], len(waves)))
    pulls[:, :, 1:] += step
    pulls[:, :, :-1] -= step
    return pulls


def _log_likelihoods(
    at_s: FloatArray, seen: FloatArray, pulls: FloatArray, white_m2: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Log-likelihoods of each drift (lasts, sizes, w) and of none, (w,), with variances (w,) of the white part; ``seen`` (m,) are the waves."""
    apart_s = np.abs(at_s[:, None] - at_s)
    alike = (sum(pull @ np.exp(-apart_s / lasts) @ pull.T for pull in pulls) for lasts in LASTS_S)
    found = [np.linalg.eigh(each) for each in alike]
    drifts = [_log_likelihood(white_m2, SIZES_M**2, values, seen @ vectors) for values, vectors in found]
    none = _log_likelihood(white_m2, np.zeros(1), np.zeros_like(seen), seen)
    return np.array(drifts), none[0]


def _log_likelihood(white_m2: FloatArray, drift_m2: FloatArray, share: FloatArray, seen: FloatArray) -> FloatArray:
    """The log-likelihood of independent normal values (m,) with variances white + share · drift, (drifts, whites)."""
    variance = drift_m2[:, None, None] * np.maximum(share, 0.0) + white_m2[:, None]
    return np.asarray(-0.5 * np.sum(np.log(variance) + seen**2 / variance, axis=2))


def _weighed(white_m2s: FloatArray, drifts: FloatArray, none: FloatArray, lap_s: float) -> Drift:
    """The means over all drifts, weighted by how likely each is; ``white_m2s`` (w,) are the densities of the white part."""
    tops = float(drifts.max()), float(none.max())
    with_it, without = np.exp(drifts - tops[0]), np.exp(none - tops[1])
    there = likely(ODDS, log(float(with_it.mean() / without.mean())) + tops[0] - tops[1])
    weight, alone = with_it / with_it.sum(), without / without.sum()
    variance, lasts = SIZES_M[:, None] ** 2, LASTS_S[:, None, None]
    slow = 2.0 * variance * lasts / (1.0 + (LONG_WAVE_RADPS * lasts) ** 2)
    densities = float(alone @ white_m2s), float(np.sum(weight * (white_m2s + slow)))
    return Drift(
        there,
        float(np.exp(0.5 * np.sum(weight * np.log(variance)))),
        float(np.exp(np.sum(weight * np.log(lasts)))),
        float(np.sum(weight * variance * _strays(lasts / lap_s))) ** 0.5,
        densities[0] ** (1.0 - there) * densities[1] ** there,
    )


def _strays(lasts: FloatArray) -> FloatArray:
    """The share of its variance by which such a drift strays from its mean over a lap, for what it lasts as a share of the lap."""
    return np.asarray(1.0 - 2.0 * lasts * (1.0 - lasts * (1.0 - np.exp(-1.0 / lasts))))
