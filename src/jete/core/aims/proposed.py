"""Aims from a run against a reference: the corners where most is to be had, one change each, in small steps."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import TYPE_CHECKING

import numpy as np

from jete.core.aims.aim import ASKS, RIDERS_SHARE, STEPS, TOLERANCES, Aim, Measure, value_of
from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.kinds import Kind
    from jete.core.causes.verdict.result import LapComparison
    from jete.core.causes.verdict.to_be_had import ToBeHad

# Less than this a lap is what anybody drives differently from lap to lap.
LEAST_S = 0.03
# Fewer laps show no mark's middle.
FEWEST = 3


@dataclass(frozen=True)
class PassedOver:
    """A corner with time to be had that no aim is proposed for, and why."""

    corner: int
    kind: Kind | None
    why: str


def proposed(
    had: Sequence[ToBeHad], laps: Sequence[LapComparison], *, rider: bool = False
) -> tuple[list[Aim], list[PassedOver]]:
    """Aims in the order of what may be had; corners that are passed over with the reason.

    Args:
        had: by corner, the most first, of one lap of the run weighed by how often it occurs.
        laps: of the run that count, against the reference.
        rider: smaller steps.
    """
    aims: list[Aim] = []
    over: list[PassedOver] = []
    for one in had:
        if one.seconds < LEAST_S:
            continue
        found = _aim(one, laps, RIDERS_SHARE if rider else 1.0)
        if isinstance(found, Aim):
            aims.append(found)
        else:
            over.append(PassedOver(one.corner, one.dearest.kind if one.dearest is not None else None, found))
    return aims, over


def _aim(had: ToBeHad, laps: Sequence[LapComparison], share: float) -> Aim | str:
    """The aim of a corner, or why there is none."""
    if had.dearest is None:
        return "what it costs began in a corner before it"
    if had.dearest.kind not in ASKS:
        return "no mark of the driver's shows it"
    measure, side = ASKS[had.dearest.kind]
    corners = [lap.corners[had.corner - 1] for lap in laps]
    values = [v for c in corners if (v := value_of(c.lap_marks, measure)) is not None]
    wanted = value_of(corners[0].reference_marks, measure)
    if len(values) < FEWEST or wanted is None:
        return f"fewer than {FEWEST} laps show the mark"
    start = float(np.median(values))
    scatter = robust_sigma(np.array(values) - start)
    away, cap = (wanted - start) * side, STEPS[measure] * share
    if away < _least(measure, scatter, len(values)):
        return "the mark lies where the reference's does"
    return Aim(
        corner=had.corner,
        kind=had.dearest.kind,
        measure=measure,
        start=start,
        scatter=scatter,
        target=start + side * min(away, cap),
        tolerance=max(scatter, TOLERANCES[measure]),
        capped=away > cap,
    )


def _least(measure: Measure, scatter: float, count: int) -> float:
    """How far from the reference's a mark's middle must lie to be elsewhere: beyond its doubt, and worth a word."""
    return max(0.5 * TOLERANCES[measure], 2.0 * scatter / sqrt(count))
