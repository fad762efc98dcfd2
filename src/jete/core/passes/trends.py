"""What goes with time over many passes of a corner, and how surely.

Within runs: what differs from run to run (grip, fuel, who drives) is taken off first, so that
a dry day does not look like a later brake point.  One looks at several marks at once; Holm's
rule (1979, Scandinavian Journal of Statistics 6:65) keeps the chance of one false claim among
all of them at one in twenty.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.numeric.student import quantile, two_sided

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.passes.passes import Pass

# Of fewer passes nothing is said.
LEAST_PASSES = 8
SURE = 0.95
# What is looked at, and the step that it is told by.
LOOKED_AT: Final = {
    "brake_on_m": 5.0, "brake_peak": 5.0, "turn_in_m": 5.0, "slow_point_m": 5.0, "min_speed_kmh": 1.0,
    "throttle_on_m": 5.0, "full_throttle_m": 5.0, "exit_speed_kmh": 1.0,
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Trend:
    """What a step more of one mark goes with, seconds with the straight; the interval holds it 19 times in 20.

    ``told`` is whether it is told from chance, all marks that were looked at allowed for.
    """

    mark: str
    step: float
    passes: int
    seconds: float
    low_s: float
    high_s: float
    told: bool


def trends_of(passes: Sequence[Pass], runs: Sequence[int]) -> list[Trend]:
    """What goes with the time with the straight, by mark.

    Args:
        passes: of one corner.
        runs: the run that each belongs to.
    """
    fits = [(m, s, f) for m, s in LOOKED_AT.items() if (f := _fit(passes, runs, m)) is not None]
    told = _holm([f[2] for _, _, f in fits])
    out = []
    for (mark, step, (slope, error, _, freedom, count)), sure in zip(fits, told, strict=True):
        reach = quantile(SURE, freedom) * error
        out.append(
            Trend(
                mark=mark,
                step=step,
                passes=count,
                seconds=slope * step,
                low_s=(slope - reach) * step,
                high_s=(slope + reach) * step,
                told=sure,
            )
        )
    return out


def _fit(passes: Sequence[Pass], runs: Sequence[int], mark: str) -> tuple[float, float, float, float, int] | None:
    """Slope, its error, probability by chance, freedom and passes; None of too few."""
    known = [
        (getattr(p, mark), p.whole_s, r) for p, r in zip(passes, runs, strict=True) if getattr(p, mark) is not None
    ]
    if len(known) < LEAST_PASSES:
        return None
    x, y, run = (np.array(v, dtype=float) for v in zip(*known, strict=True))
    x, y, groups = _within(x, run), _within(y, run), len(set(run.tolist()))
    freedom, squares = len(x) - groups - 1.0, float(x @ x)
    if freedom < 3.0 or squares < 1e-9:
        return None
    slope = float(x @ y) / squares
    error = float(np.sqrt(np.sum((y - slope * x) ** 2) / freedom / squares))
    return slope, error, two_sided(slope / max(error, 1e-12), freedom), freedom, len(x)


def _within(values: FloatArray, run: FloatArray) -> FloatArray:
    """Values less the mean of their run, (n,)."""
    out = values.copy()
    for number in np.unique(run):
        out[run == number] -= values[run == number].mean()
    return out


def _holm(chances: Sequence[float]) -> list[bool]:
    """Which of several claims hold when all of them are looked at.

    >>> _holm([0.001, 0.04, 0.03])
    [True, False, False]
    """
    told = [False] * len(chances)
    for rank, k in enumerate(np.argsort(chances).tolist()):
        if chances[k] > (1.0 - SURE) / (len(chances) - rank):
            break
        told[k] = True
    return told
