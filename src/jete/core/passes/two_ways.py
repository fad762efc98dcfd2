"""Which of two ways through a corner is faster, here and for this driver; or that nobody can tell yet.

Means without the outermost tenth on either side, so that one spoilt pass decides nothing, and
their difference with the interval of Yuen (1974, Biometrika 61:165) for unequal scatter.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.numeric.student import quantile, two_sided

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.passes.passes import Pass

TRIMMED = 0.1
SURE = 0.95
# Of fewer passes a way has no scatter.
FEWEST = 4
# Two ways that differ by less than this are alike for anybody's purposes.
ALIKE_S = 0.03
# z of 95 % sure and of four in five found (Cohen 1988, Statistical Power Analysis, table 2.3).
POWER_Z = 1.96 + 0.84
# From so many laps on the fall of a run's times can be told.
FADE_LAPS = 5

Verdict = Literal["told", "alike", "open"]


@dataclass(frozen=True, kw_only=True)
class TwoWays:
    """B less A in seconds with the straight; negative: B is faster.

    Attributes:
        verdict: ``told`` where the interval leaves zero out, ``alike`` where it stays within 0.03 s of it, else ``open``.
        more: passes of each that it would take about to tell; 0 unless open.
    """

    passes: tuple[int, int]
    means_s: tuple[float, float]
    difference_s: float
    low_s: float
    high_s: float
    verdict: Verdict
    more: int


def two_ways(times_s: tuple[Sequence[float], Sequence[float]]) -> TwoWays | None:
    """Compare the times of two ways; None of fewer than four passes each.

    >>> slow, fast = [40.0, 40.05, 39.95, 40.02], [39.8, 39.85, 39.75, 39.82]
    >>> found = two_ways((slow, fast))
    >>> found.verdict, round(found.difference_s, 2)
    ('told', -0.2)
    """
    a, b = (np.sort(np.asarray(t, dtype=float)) for t in times_s)
    if min(len(a), len(b)) < FEWEST:
        return None
    means, errors, freedoms = zip(*(_trimmed(x) for x in (a, b)), strict=True)
    error2 = errors[0] + errors[1]
    freedom = error2**2 / max(sum(e**2 / f for e, f in zip(errors, freedoms, strict=True)), 1e-18)
    difference = means[1] - means[0]
    reach = quantile(SURE, freedom) * float(np.sqrt(error2))
    chance = two_sided(difference / max(float(np.sqrt(error2)), 1e-12), freedom)
    verdict: Verdict = "told" if chance < 1.0 - SURE else "alike" if abs(difference) + reach <= ALIKE_S else "open"
    more = _more(a, b, difference) if verdict == "open" else 0
    return TwoWays(
        passes=(len(a), len(b)),
        means_s=(means[0], means[1]),
        difference_s=difference,
        low_s=difference - reach,
        high_s=difference + reach,
        verdict=verdict,
        more=more,
    )


def _trimmed(values: FloatArray) -> tuple[float, float, float]:
    """Trimmed mean of sorted values, its error squared from their Winsorised variance, and freedom."""
    count, cut = len(values), int(TRIMMED * len(values))
    kept = count - 2 * cut
    held = np.clip(values, values[cut], values[count - cut - 1])
    squares = float(np.sum((held - held.mean()) ** 2))
    return float(values[cut : count - cut].mean()), squares / (kept * (kept - 1.0)), kept - 1.0


def _more(a: FloatArray, b: FloatArray, difference_s: float) -> int:
    """How many more passes of each would tell a difference such as this, or of 0.03 s where it is smaller."""
    scatter2 = 0.5 * (float(np.var(a, ddof=1)) + float(np.var(b, ddof=1)))
    needed = 2.0 * scatter2 * (POWER_Z / max(abs(difference_s), ALIKE_S)) ** 2
    return max(ceil(needed) - min(len(a), len(b)), 1)


def levelled(passes: Sequence[Pass], runs: Sequence[int], laps: Sequence[int], in_b: Sequence[bool]) -> FloatArray:
    """Times with the straight, with the fall over a run and, where both ways were driven in them, the runs' levels taken off, (n,).

    Args:
        passes: of one corner.
        runs: of each.
        laps: number of each in its run.
        in_b: whether each was driven the second way.
    """
    time = np.array([p.whole_s for p in passes], dtype=float)
    run, lap, way = np.asarray(runs), np.asarray(laps, dtype=float), np.asarray(in_b, dtype=bool)
    both = [n for n in np.unique(run) if way[run == n].any() and (~way[run == n]).any()]
    mixed = np.isin(run, both)
    for number in both:
        mine = run == number
        time[mine] -= _fall(time[mine], lap[mine], way[mine])
    if not both:
        return time
    level = {n: 0.5 * (time[(run == n) & way].mean() + time[(run == n) & ~way].mean()) for n in both}
    whole = float(np.mean(list(level.values())))
    shift = np.array([whole - level[n] if n in level else np.nan for n in run.tolist()])
    return np.where(mixed, time + shift, np.nan)


def _fall(time_s: FloatArray, lap: FloatArray, way: FloatArray) -> FloatArray:
    """How a run's times change from lap to lap whichever way is driven, about zero, (n,)."""
    if len(time_s) < FADE_LAPS or np.ptp(lap) < 1.0:
        return np.zeros_like(time_s)
    table = np.stack([lap - lap.mean(), way - np.mean(way), np.ones_like(time_s)], axis=1)
    slope = np.linalg.lstsq(table, time_s, rcond=None)[0][0]
    return np.asarray(slope * (lap - lap.mean()))
