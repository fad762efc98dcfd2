"""What the laps of a run have in common: how much each corner costs, by what, and how often.

Medians and robust spreads (1.4826 times the median absolute deviation), since a run has
few laps and one of them may be hampered.  A lap that was hampered by something else than
its driver is set aside by the modified z-score of Iglewicz and Hoaglin (1993, How to
detect and handle outliers), on its time and on each of its corners, and only upwards: a
fast lap is never an outlier.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.statistics import robust_sigma, robust_sigmas

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.causes.kinds import Kind
    from jete.core.causes.verdict.result import Comparison, CornerLoss, LapComparison

# Of fewer laps none can be told to stray.
LEAST_LAPS = 4
# Beyond 3.5 robust deviations a value is an outlier (Iglewicz & Hoaglin 1993, How to Detect and Handle Outliers, ch. 3).
OUTLYING = 3.5
# What a lap must stray by at the least, whatever the spread: laps differ.
STRAY_LAP_S = 1.0
# A corner is strayed in from this loss on: traffic or a mistake, not a scatter.
STRAY_CORNER_S = 0.6


@dataclass(frozen=True)
class CauseInRun:
    """One cause at one corner: its median cost where it occurs, and on how many laps that is.

    ``mean_s`` is over all laps that count, those without it among them.
    """

    kind: Kind
    median_s: float
    mean_s: float
    laps: int


@dataclass(frozen=True, kw_only=True)
class CornerInRun:
    """One corner over the laps that count; ``best`` is the place of its best pass in ``Comparison.laps``.

    Σ of the causes' means + ``unexplained_s`` = ``mean_s``; Σ of the corners' means is the
    mean gap of the laps.
    """

    corner: Corner
    median_s: float
    spread_s: float
    mean_s: float
    unexplained_s: float
    causes: tuple[CauseInRun, ...]
    best: int
    best_s: float


@dataclass(frozen=True)
class RunSummary:
    """A run of laps against one reference.

    ``why`` says for each lap why it is set aside, None where it counts.  ``best_sum_s`` is
    the time of a lap joined from the best passes, ``best_lap`` the fastest lap's place.
    """

    why: tuple[str | None, ...]
    corners: tuple[CornerInRun, ...]
    best_lap: int
    best_sum_s: float

    @property
    def counted(self) -> int:
        """How many laps count."""
        return sum(w is None for w in self.why)

    def counting(self, laps: Sequence[LapComparison]) -> list[LapComparison]:
        """Those of the run's laps that count."""
        return [lap for lap, why in zip(laps, self.why, strict=True) if why is None]


def run_of(comparison: Comparison, kept: Collection[int] = ()) -> RunSummary:
    """Sum up the laps of a comparison.

    Args:
        comparison: of one or more laps.
        kept: places in ``comparison.laps`` of laps that count whatever the test says.
    """
    passes = passes_s(comparison)
    gaps = passes - np.diff(comparison.reference.time_at(borders_m(comparison)))
    why = [None if i in kept else w for i, w in enumerate(set_aside(gaps, comparison.corners))]
    counted = [i for i, w in enumerate(why) if w is None]
    best = np.asarray(counted)[np.argmin(passes[counted], axis=0)]
    corners = tuple(
        _corner(corner, [comparison.laps[i].corners[k] for i in counted], int(best[k]), float(gaps[best[k], k]))
        for k, corner in enumerate(comparison.corners)
    )
    fastest = min(counted, key=lambda i: comparison.laps[i].passage.lap.span.time_s)
    return RunSummary(tuple(why), corners, fastest, float(passes[best, np.arange(len(best))].sum()))


def passes_s(comparison: Comparison) -> FloatArray:
    """Seconds of every lap in every corner and on the straight after it, between the same places for all, (laps, c)."""
    borders = borders_m(comparison)
    return np.array([np.diff(lap.passage.time_at(borders)) for lap in comparison.laps])


def borders_m(comparison: Comparison) -> FloatArray:
    """Where one corner's pass ends and the next begins, the same for all laps, metres of the axis, (c + 1,)."""
    starts = np.array([[c.window.start_m for c in lap.corners] for lap in comparison.laps]).min(axis=0)
    starts[0] = 0.0
    return np.append(starts, comparison.road.length_m)


def set_aside(gaps_s: FloatArray, corners: Sequence[Corner]) -> list[str | None]:
    """Why each lap is no lap of its driver's, or None; gaps of the passes (laps, c).

    Fewer than four laps tell nothing of each other.
    """
    if len(gaps_s) < LEAST_LAPS:
        return [None] * len(gaps_s)
    whole = _strays(gaps_s.sum(axis=1)[:, None], STRAY_LAP_S)[:, 0]
    parts = _strays(gaps_s, STRAY_CORNER_S)
    out: list[str | None] = []
    for lap, (stray, worst) in enumerate(zip(whole, _worst_of(parts), strict=True)):
        if worst is not None:
            out.append(f"{parts[lap, worst]:.1f} s over the run's median at corner {corners[worst].shown}")
        else:
            out.append(f"{stray:.1f} s over the run's median" if stray > 0.0 else None)
    return out


def went_wrong_at(gaps_s: FloatArray) -> list[int | None]:
    """The place of the corner in which each lap lost far more than the others, None where it did in none; gaps (laps, c)."""
    if len(gaps_s) < LEAST_LAPS:
        return [None] * len(gaps_s)
    return _worst_of(_strays(gaps_s, STRAY_CORNER_S))


def _worst_of(parts: FloatArray) -> list[int | None]:
    worst = np.argmax(parts, axis=1).tolist()
    return [k if parts[lap, k] > 0.0 else None for lap, k in enumerate(worst)]


def _strays(values: FloatArray, least: float) -> FloatArray:
    """What values lie over their column's median by, where that is out of the common, else 0, (laps, k)."""
    over = values - np.median(values, axis=0)
    spread = robust_sigmas(over)
    return np.where(over > np.maximum(OUTLYING * spread, least), over, 0.0)


def _corner(corner: Corner, losses: Sequence[CornerLoss], best: int, best_s: float) -> CornerInRun:
    gaps = np.array([c.gap_s for c in losses])
    by_kind: dict[Kind, list[float]] = defaultdict(list)
    for c in losses:
        for f in c.findings:
            by_kind[f.kind].append(f.loss_s)
    causes = [
        CauseInRun(kind, float(np.median(costs)), float(np.sum(costs)) / len(losses), len(costs))
        for kind, costs in by_kind.items()
    ]
    median = float(np.median(gaps))
    return CornerInRun(
        corner=corner,
        median_s=median,
        spread_s=robust_sigma(gaps - median),
        mean_s=float(gaps.mean()),
        unexplained_s=float(gaps.mean()) - sum(c.mean_s for c in causes),
        causes=tuple(sorted(causes, key=lambda c: -abs(c.mean_s))),
        best=best,
        best_s=best_s,
    )
