"""A plan for the next run, worked out of a run beside its reference."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from jete.core.aims.aim import TOLERANCES
from jete.core.aims.circumstances import Circumstances
from jete.core.aims.proposed import ANYWHERE, PassedOver, hangs_on, proposed
from jete.core.axis.road.corners import CornerNumber
from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.to_be_had import to_be_had
from jete.core.circuit.numbering import corners_on
from jete.core.compare import held_of, stakes_in
from jete.core.run import passes_s, run_of, went_wrong_at
from jete.core.whatif.asked_for import STAYS, AskedChange, SetTo
from jete.core.whatif.worked_out import changed
from jete.desk.beside import compare_beside
from jete.desk.changes import vehicle_of_run

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.aims.aim import Aim, Measure
    from jete.core.causes.verdict.losses import Held
    from jete.core.causes.verdict.result import Comparison, LapComparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.compare import Each
    from jete.core.log.lap import Lap
    from jete.core.run import RunSummary
    from jete.core.whatif.asked_for import Keep, What
    from jete.core.whatif.worked_out import ChangedCorner, KnownVehicle

# What stays when an aim is asked as a change: the whole slowing moves, but for a brake that was too soft.
HARDER = frozenset({Kind.SOFT_BRAKING, Kind.HARD_BRAKING})
# Where a whole step is past the grip that was shown, half of it is asked, and half of that, if that is worth a word.
HALVES = 3
# What a run's worst corners lose is not all theirs: no more of a gain is left out.
LEAST_SHARE = 0.3
# A head holds no more than this for a run; so many are worked out for people to choose from.
MOST_AIMS, TO_CHOOSE_FROM = 3, 6
# A straight from this on is a long one; with none of this between two corners the second hangs on the first.
LONG_M, NONE_M = 300.0, 40.0
# What happens on a smaller share of the laps is no habit.
HABIT = 0.3
NOT_SHOWN = "a step there asks for more grip than was shown"
WENT_WRONG = "a lap went wrong there in this run"


@dataclass(frozen=True, eq=False)
class AimWithGain:
    """An aim, and what the model says of it: the change (None where none can be asked) and the share of its gain that is promised."""

    aim: Aim
    change: ChangedCorner | None
    share: float


@dataclass(frozen=True, eq=False, kw_only=True)
class RunPlan:
    """The aims of a run, others to choose from instead, the corners that were passed over, and what all were read off."""

    comparison: Comparison
    summary: RunSummary
    circuit: CircuitOnAxis | None
    aims: tuple[AimWithGain, ...]
    others: tuple[AimWithGain, ...]
    passed_over: tuple[PassedOver, ...]
    given: Circumstances

    @property
    def counted(self) -> list[LapComparison]:
        """The laps that count."""
        return self.summary.counting(self.comparison.laps)


def plan_of(
    reference: Lap,
    laps: Sequence[Lap],
    circuit: CircuitOnAxis | None,
    *,
    most: int = MOST_AIMS,
    given: Circumstances = ANYWHERE,
    each: Each = map,
) -> RunPlan:
    """Propose aims for the next run.

    Args:
        reference: the lap that gives the axis.
        laps: of the runs that the aims are read off.
        circuit: on the reference's axis; None: the reference decides.
        most: no more aims than this.
        given: what is known besides the laps.
        each: as of :func:`jete.core.compare.compare`.

    Raises:
        InputError: laps that do not belong to the reference.
    """
    return plan_from(compare_beside(reference, laps, circuit, each), circuit, most=most, given=given)


def plan_from(
    comparison: Comparison,
    circuit: CircuitOnAxis | None,
    summary: RunSummary | None = None,
    *,
    most: int = MOST_AIMS,
    given: Circumstances = ANYWHERE,
) -> RunPlan:
    """The same of laps that were compared already; without a summary all laps count that do not stray."""
    summary, reference = summary or run_of(comparison), comparison.reference.lap
    counted = sorted(summary.counting(comparison.laps), key=lambda c: c.passage.lap.span.time_s)
    # What can be kept up over a race is the middle of the better half.
    middle = counted[len(counted) // (4 if given.race else 2)]
    here = _on_this_road(comparison, given)
    found, over = proposed(to_be_had(middle.corners, _often(summary)), counted, here)
    vehicle = vehicle_of_run([c.passage.lap for c in summary.counting(comparison.laps)])
    held = _held_like(reference, comparison, middle)
    aims: list[AimWithGain] = []
    for aim in found:
        if len(aims) == max(most, TO_CHOOSE_FROM):
            break
        why = _seldom(aim, summary) or hangs_on(CornerNumber(aim.corner), {one.aim.corner for one in aims}, here)
        told = why or _with_gain(aim, vehicle, held, summary)
        if isinstance(told, AimWithGain):
            aims.append(told)
        else:
            over.append(PassedOver(aim.corner, aim.kind, told))
    others = {one.aim.corner for one in aims[:most]}
    over += [PassedOver(aim.corner, aim.kind, "others come first") for aim in found if _left(aim, others, over)]
    return RunPlan(
        comparison=comparison,
        summary=summary,
        circuit=circuit,
        aims=tuple(aims[:most]),
        others=tuple(aims[most:]),
        passed_over=tuple(over),
        given=given,
    )


def _seldom(aim: Aim, summary: RunSummary) -> str:
    """Why a cause is no habit of the run; empty where it is one."""
    laps = next((x.laps for x in summary.corners[aim.corner - 1].causes if x.kind is aim.kind), 0)
    return f"on {laps} of {summary.counted} laps only" if laps < HABIT * summary.counted else ""


def _left(aim: Aim, taken: set[int], over: Sequence[PassedOver]) -> bool:
    return aim.corner not in taken and aim.corner not in {p.corner for p in over}


def _often(summary: RunSummary) -> Mapping[tuple[CornerNumber, Kind], float]:
    return {(c.corner.number, x.kind): x.laps / max(summary.counted, 1) for c in summary.corners for x in c.causes}


def _on_this_road(comparison: Comparison, given: Circumstances) -> Circumstances:
    """The same with what the road says: exits before long straights, corners that hang on each other, laps that went wrong."""
    stakes, corners = stakes_in(comparison), comparison.corners
    long = {c.number for c, s in zip(corners, stakes, strict=True) if s.straight_m >= LONG_M}
    close = {after.number for s, after in zip(stakes, corners[1:], strict=False) if s.straight_m < NONE_M}
    wrong = {corners[k].number: WENT_WRONG for k in went_wrong_at(passes_s(comparison)) if k is not None}
    return replace(given, exits=frozenset(long), follows=frozenset(close), withdrawn={**wrong, **given.withdrawn})


def _held_like(reference: Lap, comparison: Comparison, lap: LapComparison) -> Held:
    """A lap on its own axis with the comparison's corners."""
    own = lap.passage.lap
    return held_of(own, corners_on(comparison.corners, reference, own), ())


def _with_gain(aim: Aim, vehicle: KnownVehicle, held: Held, summary: RunSummary) -> AimWithGain | str:
    """The aim with what the model says of it, its step halved until it is within the grip shown; or why it can't be."""
    what = change_of(aim.judge.measure)
    if what is None or vehicle.why is not None:
        return AimWithGain(aim, None, 1.0)
    corner, step, change = summary.corners[aim.corner - 1], aim.judge.step, None
    share = 1.0 - (corner.spread_s**2 / max(summary.counted, 1)) / max(corner.mean_s**2, 1e-6)
    for _ in range(HALVES):
        if abs(step) < TOLERANCES[aim.judge.measure]:
            break
        smaller = replace(aim, judge=replace(aim.judge, target=aim.judge.start + step))
        change = changed(held, vehicle, AskedChange(aim.corner, (SetTo(what, step, keep_of(what, aim.kind)),)))
        if change.offered:
            return AimWithGain(smaller, change, min(max(share, LEAST_SHARE), 1.0))
        step *= 0.5
    # Grip that was not shown forbids it; what else can't be asked has no seconds.
    return NOT_SHOWN if change is not None and change.grip_used is not None else AimWithGain(aim, None, 1.0)


def change_of(measure: Measure) -> What | None:
    """The change that moves a mark; None for one that no change is asked of."""
    return next((what for what in STAYS if what == measure), None)


def keep_of(what: What, kind: str) -> Keep:
    """What stays where an aim of a kind is asked as a change."""
    if what == "brake_on_m":
        return "slow_point_m" if kind in HARDER else "braking"
    return "braking" if what == "min_speed_kmh" else "feed"
