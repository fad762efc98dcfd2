"""From shares of time to findings: a cause, its cost, its mark, and how sure it is."""

from __future__ import annotations

from dataclasses import dataclass
from math import erf, hypot, sqrt
from typing import TYPE_CHECKING

from jete.core.causes.kinds import CAUSES, Factor, Kind
from jete.core.causes.moved import MOVED, Moved, Pair
from jete.core.numeric.explain import NEVER, Share, explain

if TYPE_CHECKING:
    from collections.abc import Mapping

# Six thousandths a corner are below what anybody can change.
LEAST_S = 0.006
# A cause is named when its cost stands a little over three (√10) of its standard deviations from nought;
PRICE = 10.0
# a mark that moved by less than this many of its own (a brake point by 2 m, known to 2 m) asks for a larger cost.
MARK_SIGMAS = 2.5
# What each standard deviation short of that costs, squared. Higher loses small faults, lower claims unmoved marks.
LACK_PRICE = 3.0
# Where no position shows the line, a speed and what it costs come from the same guess of it: no evidence of its own.
UNSEEN_PRICE = 7.0
# Errors of the model: of every share, of a share among others that cancel, and of the whole.
SHARE_ERROR = 0.1
# 1.0: of shares that cancel entirely, each may be wrong by its whole size.
CANCELLED_ERROR = 1.0
# Cells and table ends make this of every share,
SHARE_SIGMA_S = 0.003
# And this of a window's gap.
GAP_SIGMA_S = 0.002


@dataclass(frozen=True)
class Finding:
    """One cause at one corner; ``loss_s`` positive where the lap lost by it.

    ``measure`` in ``unit`` is how far the lap's mark lies from the reference's;
    ``confidence`` how likely it is that noise alone would have shown less.
    """

    kind: Kind
    loss_s: float
    at_m: float
    measure: float
    unit: str
    confidence: float


def findings_of(pair: Pair, shares: Mapping[Factor, float], gap_s: float) -> list[Finding]:
    """The causes that explain the gap, dearest first.

    Args:
        pair: both laps at the corner.
        shares: seconds by factor.
        gap_s: of the window.
    """
    moved = [MOVED[factor](pair) for factor in shares]
    doubts = [pair.doubt.cost_s[factor] for factor in shares]
    measured = _measured(moved, list(shares.values()), doubts, unseen=pair.logged_kmh is not None)
    costs = explain(measured, gap_s, hypot(pair.doubt.gap_s, GAP_SIGMA_S), max(LEAST_S, pair.misfit_s))
    found = [_finding(moved[i], c.loss_s, c.sigma_s) for i, c in costs.items()]
    return sorted(found, key=lambda f: -abs(f.loss_s))


def _measured(moved: list[Moved], shares: list[float], doubts: list[float], *, unseen: bool) -> list[Share]:
    """The shares as measurements.  Large shares that cancel tell little: one mark was read at two places."""
    total = sum(abs(s) for s in shares)
    cancelled = 1.0 - abs(sum(shares)) / total if total > 0.0 else 0.0
    return [
        Share(
            s,
            hypot(doubt, SHARE_SIGMA_S, SHARE_ERROR * s, CANCELLED_ERROR * cancelled * s),
            _price(m, unseen=unseen),
            CAUSES[m.kind].costs * m.measure,
            CAUSES[m.kind].mostly,
        )
        for m, s, doubt in zip(moved, shares, doubts, strict=True)
    ]


def _price(moved: Moved, *, unseen: bool) -> float:
    """How much evidence a cause must bring to be named: more where its mark has hardly moved for how well it is known.

    A mark that moved by 2.5 of its standard deviations or more: 10, as for a cost of √10 = 3.2
    of its own.  By 1.5: 13, a cost of 3.6.
    """
    if not moved.any:
        return NEVER
    lacking = max(MARK_SIGMAS - moved.sigmas, 0.0)
    return PRICE + LACK_PRICE * lacking**2 + (UNSEEN_PRICE if unseen and CAUSES[moved.kind].of_the_line else 0.0)


def _finding(m: Moved, loss_s: float, sigma_s: float) -> Finding:
    return Finding(m.kind, loss_s, m.at_m, m.measure, CAUSES[m.kind].unit, confidence(loss_s, sigma_s))


def confidence(loss_s: float, sigma_s: float) -> float:
    """Share of a normal error with a standard deviation that lies within a loss, 0 to 1.

    >>> round(confidence(0.02, 0.01), 3)
    0.954
    """
    return erf(abs(loss_s) / (sigma_s * sqrt(2.0)))
