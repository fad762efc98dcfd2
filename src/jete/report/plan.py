"""Plans as JSON (``jete.plan/1``) and for people: what to try, from the seat, with its seconds, risks and cautions."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.core.aims.aim import UNITS
from jete.core.causes.kinds import CAUSES, Kind
from jete.core.whatif.worked_out import LEVEL, within
from jete.desk.planned import EXPERIMENT, KEEP
from jete.report.contract import lap_json
from jete.report.seat import hazard_words, moved_words, place_words
from jete.report.units import METRIC, Units
from jete.report.what_if import CAUTIONS
from jete.report.words import difference, lap_time

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.aims.aim import Aim, AimSet, Measure
    from jete.core.axis.road.corners import Corner
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.desk.planned import PlannedAim
    from jete.desk.plans import AimWithGain, RunPlan

DIGITS, PLACE_DIGITS = 6, 3
# Shorter lengths are told to a tenth.
SMALL_M = 20.0
LEAVE: dict[Measure, tuple[Measure, ...]] = {
    "brake_on_m": ("min_speed_kmh", "throttle_on_m"),
    "min_speed_kmh": ("throttle_on_m",),
    "throttle_on_m": ("brake_on_m", "min_speed_kmh"),
    "coast_s": ("brake_on_m",),
    "throttle_dips": ("throttle_on_m",),
}
# As the seat of a car has it, and that of a motorcycle.
CAR_WORDS = {
    "slow": "at the slow point",
    "brake": "the brake",
    "pick up": "pick the throttle up",
    "twice": "pick the throttle up once, and keep it: a little later rather than twice",
}
RIDER_WORDS = {
    "slow": "of roll speed",
    "brake": "the front brake",
    "pick up": "open the throttle",
    "twice": "open the throttle once, and keep it: a little later rather than twice",
}


def plan_document(plan: RunPlan, reference: str, runs: Sequence[tuple[str, Sequence[int]]]) -> dict[str, Any]:
    """The document of ``jete plan --json``.

    Args:
        plan: what was worked out.
        reference: its address.
        runs: address and lap numbers of each run.
    """
    lap = plan.comparison.reference.lap
    told = [{"source": address, "laps": list(numbers)} for address, numbers in runs]
    drivers = {c.passage.lap.driver for c in plan.comparison.laps}
    return {
        "schema": "jete.plan/1",
        "level": LEVEL,
        "state": "proposed",
        "for": "race" if plan.given.race else "lap",
        "circuit": plan.circuit.name if plan.circuit is not None else None,
        "driver": (next(iter(drivers)) or None) if len(drivers) == 1 else None,
        "vehicle": None,
        "reference": {
            **lap_json(lap),
            "source": reference.rpartition(":")[0] if reference.endswith(f":{lap.span.number}") else reference,
            "length_m": round(plan.comparison.road.length_m, PLACE_DIGITS),
        },
        "runs": told,
        "chosen_on": told,
        "aims": [aim_document(plan, one, k) for k, one in enumerate(plan.aims, 1)],
        "passed_over": [{"corner": p.corner, "kind": p.kind, "why": p.why} for p in plan.passed_over],
        "cautions": list(CAUTIONS),
    }


def aim_document(plan: RunPlan, one: AimWithGain, number: int) -> dict[str, Any]:
    """An aim that was proposed, as one of a plan's document."""
    aim, told = one.aim, gain_of(one)
    low, high = within(*told) if told is not None else (None, None)
    return {
        **_at(plan, aim.corner, number),
        "kind": aim.kind,
        "cue": cue_words(aim.kind, aim.judge, plan),
        "seen": place_words(aim.judge.target, plan.circuit) or None if aim.judge.measure.endswith("_m") else None,
        **_judge_document(aim.judge),
        "from_sigma": round(aim.scatter, PLACE_DIGITS),
        "gap_s": _digits(told[0] if told is not None else None),
        "gap_low_s": _digits(low),
        "gap_high_s": _digits(high),
        "why": None if told is not None else "the model has no seconds for this mark",
        "reason": reason_words(plan, aim),
    }


def keep_document(plan: RunPlan, corner: int, judge: AimSet, number: int) -> dict[str, Any]:
    """An aim to leave a corner as it is."""
    return {
        **_at(plan, corner, number),
        "kind": KEEP,
        "cue": f"keep it as it is: {measured(judge.measure, judge.start)}",
        "seen": None,
        **_judge_document(judge),
        **_NO_GAIN,
        "why": "nothing is to change",
        "reason": "it is good, and is to stay",
    }


def experiment_document(plan: RunPlan, corner: int, words: str, number: int) -> dict[str, Any]:
    """Something to try at a corner on odd laps, and not on even ones."""
    return {
        **_at(plan, corner, number),
        "kind": EXPERIMENT,
        "cue": f"odd laps: {words}",
        "seen": None,
        "measure": None,
        "unit": None,
        "from": None,
        "target": None,
        "tolerance": None,
        "step": None,
        "capped": False,
        "leave": [],
        "laps_needed": 10,
        **_NO_GAIN,
        "why": "odd laps are held against even ones",
        "reason": "an experiment: this way on odd laps, as usual on even ones",
    }


_NO_GAIN = {"from_sigma": None, "gap_s": None, "gap_low_s": None, "gap_high_s": None}


def _at(plan: RunPlan, number: int, aim: int) -> dict[str, Any]:
    """What an aim's document says of its corner: with something that might hurt, a person is to take it along."""
    corner = plan.comparison.corners[number - 1]
    risks = risks_at(plan.circuit, corner)
    return {
        "aim": aim,
        "corner": number,
        "id": corner.id,
        "number": corner.shown,
        "name": corner.name,
        "corner_m": round(corner.apex_m, PLACE_DIGITS),
        "typed": None,
        "risks": risks,
        "taken": not risks,
        "tried_before": [
            {"run": t.run or None, "outcome": t.outcome} for t in plan.given.tried if t.corner == number
        ],
    }  # fmt: skip


def _judge_document(judge: AimSet) -> dict[str, Any]:
    return {
        "measure": judge.measure,
        "unit": UNITS[judge.measure],
        "from": round(judge.start, PLACE_DIGITS),
        "target": round(judge.target, PLACE_DIGITS),
        "tolerance": round(judge.tolerance, PLACE_DIGITS),
        "step": round(judge.step, PLACE_DIGITS),
        "capped": judge.capped,
        "leave": list(LEAVE[judge.measure]),
        "laps_needed": judge.laps_needed,
    }


def _digits(value: float | None) -> float | None:
    return None if value is None else round(value, DIGITS)


def risks_at(circuit: CircuitOnAxis | None, corner: Corner) -> list[str]:
    """What is noted at a corner that might hurt, in words."""
    if circuit is None:
        return []
    words = hazard_words(circuit.book.hazards_in(corner.start_m - 20.0, corner.end_m + 20.0))
    return [words] if words else []


def gain_of(one: AimWithGain) -> tuple[float, float] | None:
    """Seconds that are promised of an aim, shrunk, and one standard deviation; None where there are none."""
    change = one.change
    if change is None or change.gap_s is None:
        return None
    # What is left out of the promise is a doubt of it too.
    return change.gap_s * one.share, (change.sigma_s**2 + (change.gap_s * (1.0 - one.share)) ** 2) ** 0.5


def cue_words(kind: str, judge: AimSet, plan: RunPlan, units: Units = METRIC) -> str:
    """One cue for the head, from a landmark where there is one."""
    words = cue_of(kind, judge, place_words(judge.target, plan.circuit, units), units, rider=plan.given.rider)
    return f"every lap: {words}" if plan.given.race else words


def cue_of(kind: str, judge: AimSet, seen: str, units: Units = METRIC, *, rider: bool = False) -> str:
    """A cue with a place as it is seen, empty where nothing is seen there.

    >>> from jete.core.aims.aim import AimSet
    >>> cue_of("overslowing", AimSet(measure="min_speed_kmh", start=80.0, target=82.0, tolerance=1.0), "")
    '2.0 km/h more at the slow point: let the brake go a little sooner'
    >>> cue_of("late_throttle", AimSet(measure="throttle_on_m", start=80.0, target=77.0, tolerance=1.0), "at the cone", rider=True)
    'open the throttle 3 m earlier: at the cone'
    """
    words = RIDER_WORDS if rider else CAR_WORDS
    size, more = abs(judge.step), judge.step > 0.0
    if judge.measure == "min_speed_kmh":
        how = f"let {words['brake']} go a little sooner" if more else f"stay on {words['brake']} a little longer"
        return f"{units.speed_text(size)} {'more' if more else 'less'} {words['slow']}: {how}"
    if judge.measure == "coast_s":
        return f"{size:.2g} s less on neither pedal: off one, straight onto the other"
    if judge.measure == "throttle_dips":
        return words["twice"]
    what = "brake" if judge.measure == "brake_on_m" else words["pick up"]
    where = f": {seen}" if seen else ""
    how = " and harder" if kind == Kind.SOFT_BRAKING and more else ""
    return f"{what} {units.length_text(size, 0 if units.length == 'm' and size >= 1.0 and size == round(size) else 1)} {'later' if more else 'earlier'}{how}{where}"


def reason_words(plan: RunPlan, aim: Aim) -> str:
    """Why it is proposed: the cause, what it costs in the mean, on how many laps."""
    corner = plan.summary.corners[aim.corner - 1]
    cause = next((c for c in corner.causes if c.kind is aim.kind), None)
    title = CAUSES[aim.kind].title
    if cause is None:
        return title
    return f"{title} {difference(cause.median_s)} s, on {cause.laps} of {plan.summary.counted} laps"


def target_words(judge: AimSet, units: Units = METRIC, circuit: CircuitOnAxis | None = None) -> str:
    """From where to where, from a landmark where one tells, how far off still counts, and on how many laps it is to be done.

    >>> from jete.core.aims.aim import AimSet
    >>> target_words(AimSet(measure="min_speed_kmh", start=80.0, target=82.0, tolerance=1.0, capped=True))
    'from 80.0 km/h to 82.0 km/h, within 1.0 km/h; counts once done on 5 laps; the reference is farther off: one step a run'
    """
    told = [measured(judge.measure, value, units) for value in (judge.start, judge.target, judge.tolerance)]
    more = "; the reference is farther off: one step a run" if judge.capped else ""
    seen = moved_words(judge.start, judge.target, circuit, units) if judge.measure.endswith("_m") else ""
    way = (seen or f"from {told[0]} to {told[1]}") if judge.step else f"at {told[0]}"
    return f"{way}, within {told[2]}; counts once done on {judge.laps_needed} laps{more}"


def measured(measure: Measure, value: float, units: Units = METRIC) -> str:
    """A value of a measure with its unit."""
    if measure == "min_speed_kmh":
        return units.speed_text(value)
    if measure.endswith("_m"):
        return units.length_text(value, 1 if abs(value) < SMALL_M else 0)
    return f"{value:.{2 if measure == 'coast_s' else 1}f} {UNITS[measure]}"


LEAVE_WORDS: dict[Measure, str] = {
    "brake_on_m": "the brake point",
    "min_speed_kmh": "the lowest speed",
    "throttle_on_m": "the pick-up",
}


def leave_words(measure: Measure) -> str:
    """What is to be left as it is."""
    return f"leave as it is: {' and '.join(LEAVE_WORDS[n] for n in LEAVE[measure])}"


def corner_title(corner: Corner) -> str:
    """A corner by number and name."""
    return f"corner {corner.called}"


def passed_words(plan: RunPlan) -> str:
    """The corners that were passed over, by their reason; empty where there are none."""
    by_why: dict[str, list[str]] = {}
    for one in plan.passed_over:
        by_why.setdefault(one.why, []).append(plan.comparison.corners[one.corner - 1].shown)
    told = "; ".join(f"{', '.join(numbers)}: {why}" for why, numbers in by_why.items())
    return f"Passed over: {told}." if told else ""


def expected_words(aim: PlannedAim) -> str:
    """The seconds that an aim may be worth; what else is known where there are none."""
    if aim.gain is None:
        return "what it is worth is not known" if aim.judge is not None and aim.judge.step else ""
    value, low, high = (difference(s) for s in aim.gain)
    return f"{value} s ({low} to {high}) a lap"


TRIED: dict[str, str] = {
    "worked": "done",
    "done_slower": "done, and slower",
    "overdone": "overdone",
    "short": "begun",
    "not_done": "not done",
    "not_told": "not told",
}


def tried_words(aim: PlannedAim) -> str:
    """What came of earlier tries at the corner; empty where there were none."""
    return f"Tried there before: {', then '.join(TRIED.get(t, t) for t in aim.tried)}." if aim.tried else ""


def plan_table(plan: RunPlan, aims: Sequence[PlannedAim]) -> str:
    """The aims for people on a terminal."""
    reference = plan.comparison.reference.lap
    lines = [f"for the next run, against {reference.label} ({lap_time(reference.span.time_s)}):"]
    for one in aims:
        lines.append(f"{one.number}  {corner_title(plan.comparison.corners[one.corner - 1])}: {one.words}")
        lines.append(f"   {one.reason}; expected {expected_words(one)}")
        lines += [f"   {risk}" for risk in one.risks]
    if not aims:
        lines.append("nothing to propose: no corner loses enough by a mark that could be moved.")
    lines += [f"passed over: corner {plan.comparison.corners[p.corner - 1].shown}: {p.why}" for p in plan.passed_over]
    return "\n".join([*lines, "", *CAUTIONS]) + "\n"
