"""Findings from the shares of a curve of time: a cause, its cost by phase, its mark, and how sure it is."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log
from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.kinds import CAUSES, Factor, Kind
from jete.core.causes.verdict.pair import Moved, Pair
from jete.core.numeric.explain import NEVER, Cost, Share, explain

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.driving.windows import PhaseName

# Six thousandths a corner are below what anybody can change.
LEAST_S = 0.006
# A cause is named when its curve stands a little over three (√10) of its standard deviations from zero;
PRICE = 10.0
# a mark that moved by less than this many of its own (a brake point by 2 m, known to 2 m) asks for a larger cost.
MARK_SIGMAS = 2.5
# What each standard deviation short of that costs, squared. Higher loses small faults, lower claims unmoved marks.
LACK_PRICE = 3.0
# Where no position shows the line, a speed and what it costs come from the same guess of it: no evidence of its own.
UNSEEN_PRICE = 7.0
# Errors of the model: of every share on a stretch, and of the gap there.
SHARE_ERROR = 0.15
# Cells and table ends make this of a stretch.
STRETCH_SIGMA_S = 0.002
# A claim less sure than this is none.
POSSIBLE = 0.5
# Of 4,287 claims on simulated laps of a driver with feet, in six kinds of data (`make accuracy` counts on others):
# weight of the method's own sureness (as log odds), of the claim's share of its corner, and level.
CALIBRATION = (0.305, 2.75, -2.25)
# The method is never surer of itself than this.
SUREST = 0.9999


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One cause at one corner; ``loss_s`` positive where the lap lost by it.

    ``measure`` in ``unit`` is how far the lap's mark lies from the reference's;
    ``confidence`` the probability that the kind is right and carries at least 0.6 of its cost;
    ``phases`` are its seconds by phase, which add up to ``loss_s``.
    """

    kind: Kind
    loss_s: float
    at_m: float
    measure: float
    unit: str
    confidence: float
    phases: tuple[tuple[PhaseName, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Along:
    """The measured gap along a window: seconds on each stretch (S,), their covariance (S, S), and the phase of each (S)."""

    gap_s: FloatArray
    covariance: FloatArray
    phases: Sequence[PhaseName]


def findings_of(
    pair: Pair, moved: Mapping[Factor, Moved], shares: Mapping[Factor, FloatArray], along: Along
) -> list[Finding]:
    """The causes that explain the gap along the window, dearest first.

    Args:
        pair: both laps at the corner.
        moved: how far each factor's mark has moved.
        shares: seconds by factor on each stretch, (S,) each.
        along: the gap.
    """
    unseen = pair.line == "unseen"
    measured = [_share(moved[f], s, unseen=unseen) for f, s in shares.items()]
    noise = along.covariance + np.diag(_model_variance(pair, shares, len(along.gap_s)))
    costs = explain(measured, along.gap_s, noise, LEAST_S)
    factors, sizes = list(shares), {i: float(np.abs(c.seconds).sum()) for i, c in costs.items()}
    whole = sum(sizes.values())
    sure = {i: confidence(c.sure, sizes[i] / whole if whole else 0.0) for i, c in costs.items()}
    found = [_finding(moved[factors[i]], c, sure[i], along.phases) for i, c in costs.items() if sure[i] >= POSSIBLE]
    return sorted(found, key=lambda f: -abs(f.loss_s))


def confidence(sure: float, share: float) -> float:
    """How often such a claim is right: kind, and at least 0.6 of its cost, 0 to 1.

    The method's own sureness knows its noise, not what drivers do that no hybrid can; so it is
    held against laps of another making (logistic calibration: Platt 1999, Advances in Large
    Margin Classifiers, p. 61).

    Args:
        sure: by the method itself, 0 to 1.
        share: of all that is claimed at the corner, 0 to 1.

    >>> round(confidence(1.0, 1.0), 2), round(confidence(0.9, 0.2), 2)
    (0.96, 0.26)
    """
    inside = min(max(sure, 1.0 - SUREST), SUREST)
    by_method, by_share, level = CALIBRATION
    return 1.0 / (1.0 + exp(-(by_method * log(inside / (1.0 - inside)) + by_share * share + level)))


def _model_variance(pair: Pair, shares: Mapping[Factor, FloatArray], stretches: int) -> FloatArray:
    """What shares may be wrong by on each stretch, seconds², (S,).

    A part of each share, what its mark's doubt is worth, and what the profiles of both laps miss of the gap right there.
    """
    total = STRETCH_SIGMA_S**2 + np.broadcast_to(pair.misfit_s, stretches) ** 2
    for factor, share in shares.items():
        part = np.abs(share) / max(float(np.abs(share).sum()), 1e-9)
        total = total + (SHARE_ERROR * share) ** 2 + (pair.doubt.cost_s[factor] * part) ** 2
    return total


def _share(moved: Moved, seconds: FloatArray, *, unseen: bool) -> Share:
    return Share(seconds, _price(moved, unseen=unseen), moved.costs, moved.record.mostly)


def _price(moved: Moved, *, unseen: bool) -> float:
    """How much evidence a cause must bring to be named: more where its mark has hardly moved for how well it is known.

    A mark that moved by 2.5 of its standard deviations or more: 10, as for a cost of √10 = 3.2
    of its own.  By 1.5: 13, a cost of 3.6.
    """
    if not moved.beyond_scatter:
        return NEVER
    lacking = max(MARK_SIGMAS - moved.sigmas, 0.0)
    return PRICE + LACK_PRICE * lacking**2 + (UNSEEN_PRICE if unseen and moved.record.of_the_line else 0.0)


def _finding(moved: Moved, cost: Cost, sure: float, phases: Sequence[PhaseName]) -> Finding:
    by_phase: dict[PhaseName, float] = {}
    for phase, seconds in zip(phases, cost.seconds.tolist(), strict=True):
        by_phase[phase] = by_phase.get(phase, 0.0) + seconds
    told = tuple((p, s) for p, s in by_phase.items() if s)
    unit = CAUSES[moved.kind].unit
    return Finding(
        kind=moved.kind,
        loss_s=cost.loss_s,
        at_m=moved.at_m,
        measure=moved.measure,
        unit=unit,
        confidence=sure,
        phases=told,
    )
