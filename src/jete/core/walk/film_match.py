"""Where a film belongs in a log, by how both turn: the picture moves sideways as the vehicle yaws.

A camera that turns to the left sees everything move to the right, whichever way it looks.  So the sideways motion of
the picture is the yaw rate up to a factor, and the lag at which both go together best is where the film begins:
the normalised cross-correlation over their overlap (Lewis 1995, Fast normalized cross-correlation, Vision Interface),
with every lag that leaves enough of an overlap.  How sure that is follows from how well the best lag fits, and from how
much better than the next one.  On a circuit every lap looks like the one before: a film that is no longer than a lap
or so is sought where its middle lies in the lap that a person says it is of.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.even import even_times
from jete.core.walk.film import Tie

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray

STEP_S = 0.1
# Less than this in common says nothing: two bends would do.
LEAST_OVERLAP_S = 25.0
# A lag nearer to the best one is the same place.
APART_S = 4.0
# A fit this good, so much better than the next, is sure.
GOOD_FIT, BETTER_BY = 0.6, 0.08


@dataclass(frozen=True)
class Match:
    """Where a film was found: the tie, how well it fits there (correlation, at most 1), and how well at the next best place."""

    tie: Tie
    fit: float
    next_fit: float

    @property
    def sure(self) -> bool:
        """Whether it may be taken without a look."""
        return self.fit >= GOOD_FIT and self.fit - self.next_fit >= BETTER_BY


def matched(
    film: tuple[FloatArray, FloatArray], log: tuple[FloatArray, FloatArray], within_s: tuple[float, float] | None = None
) -> Match | None:
    """Where a film belongs in a log; None where they have too little in common.

    Args:
        film: seconds from its beginning (n,), and the sideways motion of some bands of it (b, n), to the right positive.
        log: seconds of its clock (m,), and its yaw rate (m,), to the left positive, in any unit.
        within_s: where the middle of the film is sought, on the log's clock; None for anywhere.

    >>> rng = np.random.default_rng(1)
    >>> yaw = np.convolve(rng.normal(size=3000), np.ones(15), "same")
    >>> clock, seen = 0.1 * np.arange(3000) + 500.0, 0.1 * np.arange(900)
    >>> found = matched((seen, np.stack([np.ones(900), 3.0 * yaw[1200:2100]])), (clock, yaw))
    >>> round(found.tie.log_s - found.tie.film_s, 1), found.sure
    (620.0, True)
    """
    found = [_matched((film[0], band), log, within_s) for band in film[1]]
    return max((m for m in found if m is not None), key=lambda m: m.fit, default=None)


def _matched(
    film: tuple[FloatArray, FloatArray], log: tuple[FloatArray, FloatArray], within_s: tuple[float, float] | None
) -> Match | None:
    if min(len(film[0]), len(log[0])) < 2:
        return None
    f, y = _even(*film), _even(*log)
    least = round(LEAST_OVERLAP_S / STEP_S)
    if min(len(f), len(y)) < least:
        return None
    fits = _fits(f, y)
    lags = np.arange(len(fits)) - (len(f) - 1)
    able = np.minimum(lags + len(f), len(y)) - np.maximum(lags, 0) >= least
    if within_s is not None:
        middle = float(log[0][0]) + STEP_S * (lags + 0.5 * len(f))
        able &= (middle >= within_s[0]) & (middle <= within_s[1])
    if not able.any():
        return None
    fits = np.where(able, fits, -1.0)
    best = int(np.argmax(fits))
    away = np.abs(np.arange(len(fits)) - best) * STEP_S >= APART_S
    other = float(fits[away].max()) if away.any() else -1.0
    begins_s = float(log[0][0]) + STEP_S * (float(lags[best]) + _peak(fits, best)) - float(film[0][0])
    # Tied in the middle of what both have, where an error of the film's clock counts least.
    at_s = 0.5 * (max(begins_s, float(log[0][0])) + min(begins_s + float(film[0][-1]), float(log[0][-1])))
    return Match(Tie(at_s - begins_s, at_s), float(fits[best]), other)


def _even(time_s: FloatArray, values: FloatArray) -> FloatArray:
    """Values at even steps from the first time on, (k,); none where a gap makes up nearly all of the time."""
    return np.interp(even_times(time_s, STEP_S), time_s, values)


def _fits(f: FloatArray, y: FloatArray) -> FloatArray:
    """Correlation of both over their overlap at every lag of ``f`` against ``y``, (len(f) + len(y) − 1,)."""
    size = len(f) + len(y) - 1
    many = 1 << (size - 1).bit_length()
    transform = {name: np.fft.rfft(v, many) for name, v in {"y": y, "yy": y * y, "1y": np.ones_like(y)}.items()}
    turned = {name: np.fft.rfft(v[::-1], many) for name, v in {"f": f, "ff": f * f, "1f": np.ones_like(f)}.items()}

    def sums(a: str, b: str) -> FloatArray:
        return np.asarray(np.fft.irfft(turned[a] * transform[b], many)[:size])

    count = np.maximum(np.round(sums("1f", "1y")), 1.0)
    sf, sy = sums("f", "1y"), sums("1f", "y")
    spread_f, spread_y = sums("ff", "1y") - sf**2 / count, sums("1f", "yy") - sy**2 / count
    least = 1e-9 * max(float(np.sum(f * f)) * float(np.sum(y * y)), 1e-12)
    return np.asarray((sums("f", "y") - sf * sy / count) / np.sqrt(np.maximum(spread_f * spread_y, least)))


def _peak(fits: FloatArray, k: int) -> float:
    """How far beside a sample the top lies, by a parabola through three, −0.5 to 0.5."""
    if not 0 < k < len(fits) - 1:
        return 0.0
    a, b, c = (float(v) for v in fits[k - 1 : k + 2])
    bend = a - 2.0 * b + c
    return float(np.clip(0.5 * (a - c) / bend, -0.5, 0.5)) if bend < 0.0 and min(a, c) > -1.0 else 0.0
