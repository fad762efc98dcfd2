"""One corner over runs: where a mark and the time of its passes lay in each, and how far they scattered."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Sequence

# Of fewer passes no spread is told.
LEAST_PASSES = 3


@dataclass(frozen=True)
class Middle:
    """The middle of some values and how far they scatter (robust standard deviation); None of too few."""

    middle: float
    spread: float | None


@dataclass(frozen=True, kw_only=True)
class RunPasses:
    """The passes of one run: a number and the time of each, in their order, with the middle of both.

    ``at`` says where each stands in the list that was handed in; passes without the number are left out.
    """

    run: int
    at: tuple[int, ...]
    values: tuple[float, ...]
    value: Middle
    time_s: Middle


def by_run(runs: Sequence[int], values: Sequence[float | None], times_s: Sequence[float]) -> list[RunPasses]:
    """Passes put together by run, runs in the order in which they come first.

    Args:
        runs: the run of each pass.
        values: a number of each, None where it has none.
        times_s: the time of each, seconds.

    >>> [(r.run, r.value.middle, r.at) for r in by_run([7, 7, 9], [1.0, 3.0, None], [5.0, 5.2, 5.1])]
    [(7, 2.0, (0, 1))]
    """
    groups: dict[int, list[int]] = {}
    for k, run in enumerate(runs):
        if values[k] is not None:
            groups.setdefault(run, []).append(k)
    out = []
    for run, at in groups.items():
        known = [float(v) for k in at if (v := values[k]) is not None]
        times = [times_s[k] for k in at]
        out.append(
            RunPasses(run=run, at=tuple(at), values=tuple(known), value=middle_of(known), time_s=middle_of(times))
        )
    return out


def middle_of(values: Sequence[float]) -> Middle:
    """The middle of at least one value, and the scatter about it."""
    middle = float(np.median(values))
    off = np.asarray(values) - middle
    return Middle(middle, robust_sigma(off) if len(values) >= LEAST_PASSES else None)
