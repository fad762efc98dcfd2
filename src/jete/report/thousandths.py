"""Figures to the thousandth that add up as they stand: what people read is what they can check with a pencil.

The sums of a comparison are exact, but each of its figures rounded by itself is not: +0.2554
and +0.2113 are +0.4667, and told as +0.255 + 0.211 = +0.467.  Here a comparison is told with
every figure a whole number of thousandths: the corners add up to the gap, the causes and what
is unexplained to their corner, and the phases to theirs.  Each is rounded up or down, those with
the largest remainders up (Hare's method, as seats are given to votes); what is part of a part may
be off by two thousandths, since its whole was rounded before it.
The documents of the command line keep what was measured.
"""

from __future__ import annotations

from dataclasses import replace
from math import floor
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import Comparison, CornerLoss, LapComparison
    from jete.core.passes.team import TeamRow
    from jete.core.run import CornerInRun, RunSummary

# Figures are told to this part of a second.
PART = 1000


def adding_up(parts: Sequence[float], whole_s: float) -> list[float]:
    """Seconds rounded to thousandths so that they add up to the whole, rounded likewise.

    Where they don't add up to it to begin with, each is rounded by itself.

    >>> adding_up([0.2554, 0.2113], 0.4667)
    [0.256, 0.211]
    >>> adding_up([0.1, 0.2], 5.0)
    [0.1, 0.2]
    """
    down = [floor(p * PART) for p in parts]
    missing = round(whole_s * PART) - sum(down)
    if not 0 <= missing <= len(parts):
        return [round(p * PART) / PART for p in parts]
    nearest_above = sorted(range(len(parts)), key=lambda i: down[i] - parts[i] * PART)
    up = set(nearest_above[:missing])
    return [(n + (i in up)) / PART for i, n in enumerate(down)]


def in_thousandths(comparison: Comparison) -> Comparison:
    """A comparison whose figures of time add up as they are told."""
    return replace(comparison, laps=tuple(_lap(lap) for lap in comparison.laps))


def run_in_thousandths(run: RunSummary) -> RunSummary:
    """What a run's laps have in common, its means told so that they add up."""
    means = adding_up([c.mean_s for c in run.corners], sum(c.mean_s for c in run.corners))
    return replace(run, corners=tuple(_in_run(c, m) for c, m in zip(run.corners, means, strict=True)))


def rows_in_thousandths(rows: Sequence[TeamRow]) -> tuple[TeamRow, ...]:
    """The rows of a team, what is lost at the corners told so that it adds up to what is lost in all."""
    return tuple(_in_team(row) for row in rows)


def _in_team(row: TeamRow) -> TeamRow:
    costs = iter(adding_up([c.lost_s for c in row.cells if c is not None], row.lost_s))
    cells = tuple(None if c is None else replace(c, lost_s=next(costs)) for c in row.cells)
    return replace(row, cells=cells, lost_s=round(row.lost_s * PART) / PART)


def _lap(lap: LapComparison) -> LapComparison:
    gaps = adding_up([c.gap_s for c in lap.corners], lap.gap_s)
    corners = tuple(_corner(c, gap) for c, gap in zip(lap.corners, gaps, strict=True))
    return replace(lap, gap_s=round(lap.gap_s * PART) / PART, corners=corners)


def _corner(loss: CornerLoss, gap_s: float) -> CornerLoss:
    *costs, rest = adding_up([*(f.loss_s for f in loss.findings), loss.unexplained_s], gap_s)
    phases = adding_up([p.gap_s for p in loss.phases], gap_s)
    return replace(
        loss,
        gap_s=gap_s,
        phases=tuple(replace(p, gap_s=s) for p, s in zip(loss.phases, phases, strict=True)),
        findings=tuple(_finding(f, s) for f, s in zip(loss.findings, costs, strict=True)),
        unexplained_s=rest,
    )


def _finding(finding: Finding, loss_s: float) -> Finding:
    by_phase = adding_up([s for _, s in finding.phases], loss_s)
    phases = tuple((name, s) for (name, _), s in zip(finding.phases, by_phase, strict=True))
    return replace(finding, loss_s=loss_s, phases=phases)


def _in_run(corner: CornerInRun, mean_s: float) -> CornerInRun:
    *costs, rest = adding_up([*(c.mean_s for c in corner.causes), corner.unexplained_s], mean_s)
    causes = tuple(replace(c, mean_s=s) for c, s in zip(corner.causes, costs, strict=True))
    return replace(corner, mean_s=mean_s, unexplained_s=rest, causes=causes)
