"""What came of a plan: its aims judged on the laps of the runs before and since, beside the plan's reference."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from jete.core.aims.aim import RUN_TO_RUN, Measure, value_of
from jete.core.aims.judged import AimJudged, Interval, difference_of, judged, state_of
from jete.core.circuit.numbering import corners_on
from jete.core.compare import held_of
from jete.core.run import passes_s, run_of, went_wrong_at
from jete.core.whatif.asked_for import AskedChange, SetTo
from jete.core.whatif.worked_out import changed
from jete.desk.beside import compare_beside
from jete.desk.changes import vehicle_of_run
from jete.desk.plans import change_of, keep_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.aims.judged import LapState, Runs
    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.causes.verdict.result import Comparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.compare import Each
    from jete.core.log.lap import Lap
    from jete.core.whatif.worked_out import KnownVehicle
    from jete.desk.planned import PlannedAim

# What else of a corner is told beside an aim's own mark.
BESIDE: tuple[Measure, ...] = ("brake_on_m", "min_speed_kmh", "throttle_on_m")
NOTHING = AimJudged(
    states=(), moved=None, gap=None, outcome="not_told", gained=None, runs_more=None, proposal="wait"
)  # fmt: skip


@dataclass(frozen=True, eq=False, kw_only=True)
class AimReviewed:
    """What came of one aim.

    Attributes:
        aim: as the plan tells it.
        corner: where it is by now; None where it is no more, and nothing is told.
        came: what is told of it.
        values: the mark on each lap after that counts; None where it has none.
        states: what each of these laps did of it.
        beside: the other marks of the corner, and how they moved.
        next_gap_s: how the next corner's time changed.
        modelled_gap_s: what the model gives for the mark as it moved; no gain that was seen.
        went_wrong: laps after, by number, that lost far more there than the others.
    """

    aim: PlannedAim
    corner: Corner | None
    came: AimJudged
    values: tuple[float | None, ...] = ()
    states: tuple[LapState, ...] = ()
    beside: tuple[tuple[Measure, Interval], ...] = ()
    next_gap_s: float | None = None
    modelled_gap_s: float | None = None
    went_wrong: tuple[int, ...] = ()


@dataclass(frozen=True, eq=False, kw_only=True)
class PlanReviewed:
    """What came of a plan: the laps of all runs against its reference, which of them count, and each aim.

    ``chosen_on``, ``before`` and ``after`` are runs: the places of their laps in the comparison.  ``others`` is how the
    corners without an aim changed: the mean, its standard deviation, and how many they are.
    """

    comparison: Comparison
    chosen_on: tuple[range, ...]
    before: tuple[range, ...]
    after: tuple[range, ...]
    why: tuple[str | None, ...]
    aims: tuple[AimReviewed, ...]
    others: tuple[float, float, int]

    def laps_after(self) -> list[Lap]:
        """The laps since that count, in order."""
        return [self.comparison.laps[i].passage.lap for run in self.after for i in run if self.why[i] is None]


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
    corners = [aim.corner_in(comparison.corners) for aim in aims]
    ends = np.cumsum([0, *(len(run) for run in groups)]).tolist()
    spans = [range(a, b) for a, b in itertools.pairwise(ends)]
    why = tuple(
        w for span in spans for w in run_of(replace(comparison, laps=tuple(comparison.laps[i] for i in span))).why
    )
    read = _Read(comparison, why, _parts(spans, [len(part) for part in runs]))
    return PlanReviewed(
        comparison=comparison,
        chosen_on=tuple(read.parts[0]),
        before=tuple(read.parts[1]),
        after=tuple(read.parts[2]),
        why=why,
        aims=tuple(read.review(aim, corner) for aim, corner in zip(aims, corners, strict=True)),
        others=read.others({c.number for c in corners if c is not None}),
    )


Parts = tuple[list[range], list[range], list[range]]


def _parts(spans: Sequence[range], counts: Sequence[int]) -> Parts:
    first, second = counts[0], counts[0] + counts[1]
    return list(spans[:first]), list(spans[first:second]), list(spans[second:])


@dataclass(frozen=True, eq=False)
class _Read:
    """Marks and times of the laps that count, by run: those that the aims were chosen on, others before, those since."""

    comparison: Comparison
    why: tuple[str | None, ...]
    parts: Parts

    def review(self, aim: PlannedAim, corner: Corner | None) -> AimReviewed:
        """What came of an aim at a corner."""
        if corner is None:
            return AimReviewed(aim=aim, corner=None, came=NOTHING)
        if aim.judge is None:
            return self._experiment(aim, corner)
        chosen, before, after = self.parts
        k, measure = corner.number, aim.judge.measure
        marks = (self._marks(measure, k, chosen + before), self._marks(measure, k, after))
        times = (self._times(k, chosen + before), self._times(k, after))
        came = judged(aim.judge, *marks, times, (self._times(k, before), times[1]))
        values = tuple(self._value(measure, k, i) for i in self._counting(after))
        wrong = self._went_wrong(k)
        return AimReviewed(
            aim=aim,
            corner=corner,
            came=replace(came, proposal="drop") if wrong else came,
            values=values,
            states=tuple(state_of(aim.judge, v) for v in values),
            beside=self._beside(measure, k),
            next_gap_s=self._change_s(k % len(self.comparison.corners) + 1),
            modelled_gap_s=self._modelled(aim, corner, came.moved),
            went_wrong=wrong,
        )

    def others(self, aimed: set[int]) -> tuple[float, float, int]:
        """How the corners without an aim changed, in the mean, its standard deviation, and how many they are."""
        numbers = [c.number for c in self.comparison.corners if c.number not in aimed]
        changes = [x for n in numbers if (x := self._change_s(n)) is not None]
        if not changes:
            return 0.0, 0.0, 0
        return float(np.mean(changes)), float(np.std(changes) / len(changes) ** 0.5), len(changes)

    def _experiment(self, aim: PlannedAim, corner: Corner) -> AimReviewed:
        """One way on odd laps, another on even ones: how their times differ, where there are laps enough."""
        counting = self._counting(self.parts[2])
        odd, even = (
            [self._took_s[i, corner.number - 1] for i in counting if self._number(i) % 2 == rest] for rest in (1, 0)
        )
        gap = difference_of([even], [odd], 0.0)
        return AimReviewed(
            aim=aim,
            corner=corner,
            came=replace(NOTHING, gap=gap, runs_more=1 if gap is None or not gap.sure else None),
            values=tuple(None for _ in counting),
            states=tuple("unknown" for _ in counting),
            next_gap_s=None,
        )

    def _number(self, lap: int) -> int:
        return self.comparison.laps[lap].passage.lap.span.number

    def _counting(self, spans: Sequence[range]) -> list[int]:
        return [i for span in spans for i in span if self.why[i] is None]

    def _value(self, measure: Measure, corner: int, lap: int) -> float | None:
        return value_of(self.comparison.laps[lap].corners[corner - 1].lap_marks, measure)

    def _marks(self, measure: Measure, corner: int, spans: Sequence[range]) -> Runs:
        return [
            [v for i in span if self.why[i] is None and (v := self._value(measure, corner, i)) is not None]
            for span in spans
        ]

    def _times(self, corner: int, spans: Sequence[range]) -> Runs:
        took = self._took_s[:, corner - 1]
        return [[float(took[i]) for i in span if self.why[i] is None] for span in spans]

    @cached_property
    def _took_s(self) -> FloatArray:
        return passes_s(self.comparison)

    @cached_property
    def _vehicle(self) -> KnownVehicle:
        return vehicle_of_run([self.comparison.laps[i].passage.lap for i in self._counting(self.parts[0])])

    def _beside(self, measure: Measure, corner: int) -> tuple[tuple[Measure, Interval], ...]:
        """How the other marks of the corner moved."""
        chosen, before, after = self.parts
        told = (
            (m, difference_of(self._marks(m, corner, chosen + before), self._marks(m, corner, after), RUN_TO_RUN[m]))
            for m in BESIDE
            if m != measure
        )
        return tuple((m, moved) for m, moved in told if moved is not None)

    def _change_s(self, corner: int) -> float | None:
        chosen, before, after = self.parts
        sides = [[t for run in self._times(corner, spans) for t in run] for spans in (chosen + before, after)]
        return float(np.mean(sides[1]) - np.mean(sides[0])) if all(sides) else None

    def _modelled(self, aim: PlannedAim, corner: Corner, moved: Interval | None) -> float | None:
        """What the model gives for the mark as it moved, on the middle one of the laps that the aims were chosen on."""
        what = change_of(aim.judge.measure) if aim.judge is not None else None
        laps = sorted(self._counting(self.parts[0]), key=lambda i: self.comparison.laps[i].passage.lap.span.time_s)
        if what is None or moved is None or not laps or self._vehicle.why is not None:
            return None
        lap, reference = self.comparison.laps[laps[len(laps) // 2]].passage.lap, self.comparison.reference.lap
        held = held_of(lap, corners_on(self.comparison.corners, reference, lap), ())
        return changed(
            held, self._vehicle, AskedChange(corner.number, (SetTo(what, moved.value, keep_of(what, aim.kind)),))
        ).gap_s

    def _went_wrong(self, corner: int) -> tuple[int, ...]:
        """Numbers of the laps since that lost far more at a corner than the others of their run."""
        found: list[int] = []
        for span in self.parts[2]:
            at = went_wrong_at(self._took_s[span.start : span.stop])
            found += [self._number(i) for i, k in zip(span, at, strict=True) if k == corner - 1]
        return tuple(found)
