"""What came of an aim: how far the mark moved from run to run, on how many laps it was done, and what that is worth.

    moved = mean after − mean before,   σ² = s² (1/n + 1/m) + r² (1/R + 1/S)

with s the scatter from lap to lap, n and m the laps and R and S the runs before and after, and r what a mark's mean differs by
from run to run for nobody's doing: without it one aim in eight "works" when nothing was changed.  A move is told one-sided at 5 %;
a slower corner is told at 20 %, since that nothing was lost can seldom be proved.  Gains are told only from runs that did not
choose the aim: the worst three of twelve get better by themselves (regression to the mean: Galton 1886; Barnett et al. 2005,
Int. J. Epidemiology 34:215).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, sqrt
from typing import TYPE_CHECKING, Final, Literal

import numpy as np

from jete.core.aims.aim import LAPS_NEEDED, RUN_TO_RUN, AimSet
from jete.core.numeric.student import quantile

if TYPE_CHECKING:
    from collections.abc import Sequence

LapState = Literal["done", "short", "over", "not", "unknown"]
Outcome = Literal["worked", "done_slower", "overdone", "short", "not_done", "not_told"]
Proposal = Literal["keep", "step_on", "step_back", "drop", "wait"]

# Fewer clean laps tell nothing.
FEWEST = LAPS_NEEDED
# One-sided 5 %, nine of ten to both sides; and one-sided 20 %.
SURE, SLOWER = 1.645, 0.842
# A lap has begun to do it from this share of the step on, and done it from this.
BEGUN, DONE = 0.35, 0.5
UNDONE: Final = frozenset({"not_done", "not_told"})
# What was to stay as it is did so on more than this share of the laps.
KEPT = 0.5
# A corner's time differs by this from run to run for nobody's doing, one standard deviation, where it was never measured.
RUN_S = 0.03
# What is taken of it counts as much as so many runs more would.
PRIOR_FREEDOM = 2
# No more runs are ever asked for.
MOST_RUNS = 9


@dataclass(frozen=True)
class Interval:
    """A difference with what holds the truth in nine of ten cases."""

    value: float
    low: float
    high: float

    @property
    def sure(self) -> bool:
        """Whether it is surely not nought."""
        return self.low > 0.0 or self.high < 0.0


@dataclass(frozen=True, kw_only=True)
class AimJudged:
    """What came of one aim.

    ``states`` of the laps after, in order; ``moved`` the mark's, ``gap`` the corner's time's difference to the runs before, None where nothing can be told;
    ``gained`` None where it is not told yet, about ``runs_more`` runs from now.
    """

    states: tuple[LapState, ...]
    moved: Interval | None
    gap: Interval | None
    outcome: Outcome
    gained: bool | None
    runs_more: int | None
    proposal: Proposal

    @property
    def done(self) -> int:
        """On how many laps it was done."""
        return self.states.count("done")


# Values by run: one array of laps each.
Runs = list[list[float]]


def state_of(aim: AimSet, value: float | None) -> LapState:
    """What a lap did of an aim.

    >>> aim = AimSet(measure="brake_on_m", start=100.0, target=105.0, tolerance=2.0)
    >>> [state_of(aim, v) for v in (100.0, 102.2, 104.0, 106.5, 108.0, None)]
    ['not', 'short', 'done', 'done', 'over', 'unknown']
    """
    if value is None:
        return "unknown"
    if aim.step == 0.0:
        return "done" if abs(value - aim.start) <= aim.tolerance else "not"
    went, share = (value - aim.start) * (1.0 if aim.step > 0.0 else -1.0), abs(aim.step)
    if went > share + aim.tolerance:
        return "over"
    if went >= max(DONE * share, share - aim.tolerance):
        return "done"
    return "short" if went >= BEGUN * share else "not"


def judged(aim: AimSet, before: Runs, after: Runs, times: tuple[Runs, Runs], apart: tuple[Runs, Runs]) -> AimJudged:
    """What came of an aim.

    Args:
        aim: what was to be done.
        before: the mark on the clean laps of each run before.
        after: of each run since; None values are left out by the caller but for ``states``.
        times: of the corner, seconds, of the same laps.
        apart: times of the corner on runs that did not choose the aim, before and after.
    """
    states = tuple(state_of(aim, v) for run in after for v in run)
    moved = difference_of(before, after, RUN_TO_RUN[aim.measure])
    gap = difference_of(*times, RUN_S)
    outcome = _outcome(aim, states, moved, gap)
    # What was not done gained nothing, whatever the corner's time.
    gained, more = gained_of(*apart) if outcome not in UNDONE else (None, None)
    proposal = _proposal(aim, outcome, states)
    return AimJudged(
        states=states, moved=moved, gap=gap, outcome=outcome, gained=gained, runs_more=more, proposal=proposal
    )


def difference_of(before: Runs, after: Runs, run_to_run: float) -> Interval | None:
    """Of the means of two groups of runs, with its doubt; None with too few laps on either side.

    ``run_to_run`` is what the mean differs by from run to run where it was never measured, one standard deviation.
    """
    sides = [np.array([v for run in runs for v in run]) for runs in (before, after)]
    if min(len(s) for s in sides) < FEWEST:
        return None
    within = sum(float(np.sum((np.array(run) - np.mean(run)) ** 2)) for runs in (before, after) for run in runs if run)
    freedom = sum(len(s) for s in sides) - sum(1 for runs in (before, after) for run in runs if run)
    lap = sqrt(within / max(freedom, 1))
    counts = [sum(1 for run in runs if run) for runs in (before, after)]
    run_to_run = _learnt(before, lap, run_to_run)
    sigma = sqrt(lap**2 * sum(1.0 / len(s) for s in sides) + run_to_run**2 * sum(1.0 / max(c, 1) for c in counts))
    value = float(np.mean(sides[1]) - np.mean(sides[0]))
    return Interval(value, value - SURE * sigma, value + SURE * sigma)


def _learnt(before: Runs, lap: float, taken: float) -> float:
    """What a mark's mean differs by from run to run: what is taken, and what several runs before show of it, by their degrees of freedom."""
    means = [(float(np.mean(run)), len(run)) for run in before if len(run) >= FEWEST]
    freedom = len(means) - 1
    if freedom < 1:
        return taken
    seen = float(np.var([m for m, _ in means], ddof=1)) - lap**2 * float(np.mean([1.0 / n for _, n in means]))
    return sqrt((PRIOR_FREEDOM * taken**2 + freedom * max(seen, 0.0)) / (PRIOR_FREEDOM + freedom))


def _outcome(aim: AimSet, states: Sequence[LapState], moved: Interval | None, gap: Interval | None) -> Outcome:
    if moved is None:
        return "not_told"
    if aim.step == 0.0:
        return "worked" if states.count("done") > KEPT * len(states) else "not_done"
    side = 1.0 if aim.step > 0.0 else -1.0
    surely = moved.low if side > 0.0 else -moved.high
    if surely <= 0.0:
        return "not_done"
    # Seen against where the runs before had it: the target moves along with them.
    went = moved.value * side
    if went > abs(aim.step) + aim.tolerance or states.count("over") > 0.5 * len(states):
        return "overdone"
    if went < DONE * abs(aim.step):
        return "short"
    slower = gap is not None and gap.value - SLOWER / SURE * (gap.value - gap.low) > 0.0
    return "done_slower" if slower else "worked"


def _proposal(aim: AimSet, outcome: Outcome, states: Sequence[LapState]) -> Proposal:
    if outcome == "worked":
        return "step_on" if aim.capped and states.count("done") >= aim.laps_needed else "keep"
    by_outcome: dict[Outcome, Proposal] = {"done_slower": "drop", "overdone": "step_back", "short": "keep"}
    return by_outcome.get(outcome, "wait")


def gained_of(before: Runs, after: Runs) -> tuple[bool | None, int | None]:
    """Whether a corner is quicker on runs that did not choose the aim, and about how many runs more would tell.

    By the means of runs: their scatter is learnt from the runs, no less than 0.03 s, with Student's t for few of them.
    """
    means = [np.array([float(np.mean(run)) for run in runs if len(run) >= FEWEST]) for runs in (before, after)]
    if min(len(m) for m in means) == 0:
        return None, 3
    freedom = sum(len(m) - 1 for m in means)
    learnt = sqrt(sum(float(np.sum((m - m.mean()) ** 2)) for m in means) / freedom) if freedom else 0.0
    run = max(learnt, RUN_S)
    # With the least scatter taken, what few runs show adds nothing to its doubt.
    sure = SURE if run > learnt else quantile(0.9, float(freedom))
    sigma = run * sqrt(sum(1.0 / len(m) for m in means))
    change = float(means[1].mean() - means[0].mean())
    if abs(change) > sure * sigma:
        return change < 0.0, None
    needed = ceil((sure * run / max(abs(change), 0.02)) ** 2 * 2.0)
    return None, min(max(needed - min(len(m) for m in means), 1), MOST_RUNS)
