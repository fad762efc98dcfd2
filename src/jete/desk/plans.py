"""A plan for the next run, worked out of a run beside its reference; and what came of one."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from jete.core.aims.aim import value_of
from jete.core.aims.judged import AimSet, judged
from jete.core.aims.proposed import PassedOver, proposed
from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.to_be_had import to_be_had
from jete.core.circuit.numbering import corners_on
from jete.core.compare import held_of
from jete.core.errors import InputError
from jete.core.run import borders_m, run_of
from jete.core.whatif.asked_for import STAYS, AskedChange, SetTo
from jete.core.whatif.worked_out import changed
from jete.desk.beside import compare_beside
from jete.desk.changes import vehicle_of_run

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.aims.aim import Aim, Measure
    from jete.core.aims.judged import AimJudged, Runs
    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import CornerNumber
    from jete.core.causes.verdict.losses import Held
    from jete.core.causes.verdict.result import Comparison, LapComparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.compare import Each
    from jete.core.log.lap import Lap
    from jete.core.run import RunSummary
    from jete.core.whatif.asked_for import Keep, What
    from jete.core.whatif.worked_out import ChangedCorner, KnownVehicle

# What stays when an aim is asked as a change: the whole slowing moves, but for a brake that was too soft.
HARDER = (Kind.SOFT_BRAKING, Kind.HARD_BRAKING)
# Where a whole step is past the grip that was shown, half of it is asked, and half of that.
HALVES = 3
# What a run's worst corners lose is not all theirs: no more of a gain is left out.
LEAST_SHARE = 0.3
# A head holds no more than this for a run.
MOST_AIMS = 3
NOT_SHOWN = "a step there asks for more grip than was shown"


@dataclass(frozen=True, eq=False)
class AimWithGain:
    """An aim, and what the model says of it: the change (None where none can be asked) and the share of its gain that is promised."""

    aim: Aim
    change: ChangedCorner | None
    share: float


@dataclass(frozen=True, eq=False, kw_only=True)
class RunPlan:
    """The aims of a run, the corners that were passed over, and what both were read off."""

    comparison: Comparison
    summary: RunSummary
    circuit: CircuitOnAxis | None
    aims: tuple[AimWithGain, ...]
    passed_over: tuple[PassedOver, ...]


def plan_of(
    reference: Lap,
    laps: Sequence[Lap],
    circuit: CircuitOnAxis | None,
    *,
    most: int = MOST_AIMS,
    rider: bool = False,
    each: Each = map,
) -> RunPlan:
    """Propose aims for the next run.

    Args:
        reference: the lap that gives the axis.
        laps: of the runs that the aims are read off.
        circuit: on the reference's axis; None: the reference decides.
        most: no more aims than this.
        rider: smaller steps.
        each: as of :func:`jete.core.compare.compare`.

    Raises:
        InputError: laps that do not belong to the reference.
    """
    return plan_from(compare_beside(reference, laps, circuit, each), circuit, most=most, rider=rider)


def plan_from(
    comparison: Comparison,
    circuit: CircuitOnAxis | None,
    summary: RunSummary | None = None,
    *,
    most: int = MOST_AIMS,
    rider: bool = False,
) -> RunPlan:
    """The same of laps that were compared already; without a summary all laps count that do not stray."""
    summary, reference = summary or run_of(comparison), comparison.reference.lap
    counted = [lap for lap, why in zip(comparison.laps, summary.why, strict=True) if why is None]
    middle = sorted(counted, key=lambda c: c.passage.lap.span.time_s)[len(counted) // 2]
    found, over = proposed(to_be_had(middle.corners, _often(summary)), counted, rider=rider)
    vehicle, held = vehicle_of_run([c.passage.lap for c in counted]), _held_like(reference, comparison, middle)
    aims: list[AimWithGain] = []
    for aim in found:
        told = _with_gain(aim, vehicle, held, summary) if len(aims) < most else "others come first"
        if isinstance(told, AimWithGain):
            aims.append(told)
        else:
            over.append(PassedOver(aim.corner, aim.kind, told))
    return RunPlan(comparison=comparison, summary=summary, circuit=circuit, aims=tuple(aims), passed_over=tuple(over))


def _often(summary: RunSummary) -> Mapping[tuple[CornerNumber, Kind], float]:
    return {(c.corner.number, x.kind): x.laps / max(summary.counted, 1) for c in summary.corners for x in c.causes}


def _held_like(reference: Lap, comparison: Comparison, lap: LapComparison) -> Held:
    """A lap on its own axis with the comparison's corners."""
    own = lap.passage.lap
    return held_of(own, corners_on(comparison.corners, reference, own), ())


def _with_gain(aim: Aim, vehicle: KnownVehicle, held: Held, summary: RunSummary) -> AimWithGain | str:
    """The aim with what the model says of it, its step halved until it is within the grip shown; or why it can't be."""
    what = _what(aim.measure)
    if what is None or vehicle.why is not None:
        return AimWithGain(aim, None, 1.0)
    corner, step = summary.corners[aim.corner - 1], aim.step
    share = 1.0 - (corner.spread_s**2 / max(summary.counted, 1)) / max(corner.mean_s**2, 1e-6)
    for _ in range(HALVES):
        smaller = replace(aim, target=aim.start + step)
        change = changed(held, vehicle, AskedChange(aim.corner, (SetTo(what, step, _keep(aim)),)))
        if change.offered:
            return AimWithGain(smaller, change, min(max(share, LEAST_SHARE), 1.0))
        step *= 0.5
    # Grip that was not shown forbids it; what else can't be asked has no seconds.
    return NOT_SHOWN if change.grip_used is not None else AimWithGain(aim, None, 1.0)


def _what(measure: Measure) -> What | None:
    """The change that moves a mark; None for one that no change is asked of."""
    return next((what for what in STAYS if what == measure), None)


def _keep(aim: Aim) -> Keep:
    if aim.measure == "brake_on_m":
        return "slow_point_m" if aim.kind in HARDER else "braking"
    return "braking" if aim.measure == "min_speed_kmh" else "feed"


@dataclass(frozen=True, kw_only=True)
class PlannedAim:
    """An aim as a plan's file tells it."""

    number: int
    corner: int
    judge: AimSet


@dataclass(frozen=True, eq=False, kw_only=True)
class PlanReviewed:
    """What came of a plan: the laps of all runs against its reference, which of them count, and each aim.

    ``chosen_on``, ``before`` and ``after`` are runs: the places of their laps in the comparison.
    """

    comparison: Comparison
    chosen_on: tuple[range, ...]
    before: tuple[range, ...]
    after: tuple[range, ...]
    why: tuple[str | None, ...]
    aims: tuple[tuple[PlannedAim, AimJudged, AimBeside], ...]
    others: tuple[float, float, int]


@dataclass(frozen=True, eq=False, kw_only=True)
class AimBeside:
    """What stands beside an aim: the mark's value on each lap after, and how the next corner's time changed, seconds."""

    values: tuple[float | None, ...]
    next_gap_s: float | None


def review_of(
    reference: Lap,
    runs: tuple[Sequence[Sequence[Lap]], Sequence[Sequence[Lap]], Sequence[Sequence[Lap]]],
    aims: Sequence[PlannedAim],
    circuit: CircuitOnAxis | None,
    each: Each = map,
) -> PlanReviewed:
    """Judge the aims of a plan.

    Args:
        reference: of the plan.
        runs: those that the aims were chosen on, other ones from before, and those since; each a sequence of laps.
        aims: of the plan.
        circuit: on the reference's axis; None: the reference decides.
        each: as of :func:`jete.core.compare.compare`.

    Raises:
        InputError: laps that do not belong to the reference, or a corner that it does not have.
    """
    groups = [list(run) for part in runs for run in part]
    comparison = compare_beside(reference, [lap for run in groups for lap in run], circuit, each)
    for aim in aims:
        if not 1 <= aim.corner <= len(comparison.corners):
            count = len(comparison.corners)
            raise InputError(f"corner {aim.corner}", "the plan's reference has none such.", f"It has 1 to {count}.")
    ends = np.cumsum([0, *(len(run) for run in groups)]).tolist()
    spans = [range(a, b) for a, b in itertools.pairwise(ends)]
    why = tuple(
        w for span in spans for w in run_of(replace(comparison, laps=tuple(comparison.laps[i] for i in span))).why
    )
    parts = _parts(spans, [len(part) for part in runs])
    read = _Read(comparison, why)
    return PlanReviewed(
        comparison=comparison,
        chosen_on=tuple(parts[0]),
        before=tuple(parts[1]),
        after=tuple(parts[2]),
        why=why,
        aims=tuple((aim, *read.judge(aim, parts)) for aim in aims),
        others=read.others(parts, {aim.corner for aim in aims}),
    )


Parts = tuple[list[range], list[range], list[range]]


def _parts(spans: Sequence[range], counts: Sequence[int]) -> Parts:
    first, second = counts[0], counts[0] + counts[1]
    return list(spans[:first]), list(spans[first:second]), list(spans[second:])


@dataclass(frozen=True, eq=False)
class _Read:
    """Marks and times of the laps that count, by run."""

    comparison: Comparison
    why: tuple[str | None, ...]

    def judge(self, aim: PlannedAim, parts: Parts) -> tuple[AimJudged, AimBeside]:
        """An aim, and what stands beside it."""
        chosen, before, after = parts
        marks = [self._marks(aim, spans) for spans in (chosen + before, after)]
        times = [self._times(aim.corner, spans) for spans in (chosen + before, after)]
        apart = (self._times(aim.corner, before), times[1])
        found = judged(aim.judge, marks[0], marks[1], (times[0], times[1]), apart)
        values = tuple(self._value(aim, i) for span in after for i in span if self.why[i] is None)
        following = aim.corner % len(self.comparison.corners) + 1
        return found, AimBeside(values=values, next_gap_s=self._change_s(following, chosen + before, after))

    def others(self, parts: Parts, aimed: set[int]) -> tuple[float, float, int]:
        """How the corners without an aim changed, in the mean, its standard deviation, and how many they are."""
        chosen, before, after = parts
        numbers = [c.number for c in self.comparison.corners if c.number not in aimed]
        changes = [x for n in numbers if (x := self._change_s(n, chosen + before, after)) is not None]
        if not changes:
            return 0.0, 0.0, 0
        return float(np.mean(changes)), float(np.std(changes) / len(changes) ** 0.5), len(changes)

    def _value(self, aim: PlannedAim, lap: int) -> float | None:
        return value_of(self.comparison.laps[lap].corners[aim.corner - 1].lap_marks, aim.judge.measure)

    def _marks(self, aim: PlannedAim, spans: Sequence[range]) -> Runs:
        return [[v for i in span if self.why[i] is None and (v := self._value(aim, i)) is not None] for span in spans]

    def _times(self, corner: int, spans: Sequence[range]) -> Runs:
        took = self._took_s[:, corner - 1]
        return [[float(took[i]) for i in span if self.why[i] is None] for span in spans]

    @cached_property
    def _took_s(self) -> FloatArray:
        """Seconds of every lap in every corner, (laps, c), between the same places for all."""
        borders = borders_m(self.comparison)
        return np.array([np.diff(lap.passage.time_at(borders)) for lap in self.comparison.laps])

    def _change_s(self, corner: int, before: Sequence[range], after: Sequence[range]) -> float | None:
        sides = [[t for run in self._times(corner, spans) for t in run] for spans in (before, after)]
        return float(np.mean(sides[1]) - np.mean(sides[0])) if all(sides) else None
