"""Plans and reviews as JSON and for people: what to try, from the seat, with its seconds, risks and cautions; and what came of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.core.aims.aim import UNITS
from jete.core.causes.kinds import CAUSES, Kind
from jete.core.whatif.worked_out import LEVEL, within
from jete.report.contract import lap_json
from jete.report.seat import hazard_words, place_words
from jete.report.units import METRIC, Units
from jete.report.what_if import CAUTIONS, seconds_words
from jete.report.words import difference, lap_time

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.aims.aim import Aim
    from jete.core.aims.judged import AimJudged, Interval
    from jete.core.axis.road.corners import Corner
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.desk.plans import AimBeside, AimWithGain, PlannedAim, PlanReviewed, RunPlan

DIGITS, PLACE_DIGITS = 6, 3
# Shorter lengths are told to a tenth.
SMALL_M = 20.0
LEAVE = {
    "brake_on_m": ("min_speed_kmh", "throttle_on_m"),
    "min_speed_kmh": ("throttle_on_m",),
    "throttle_on_m": ("brake_on_m", "min_speed_kmh"),
    "coast_s": ("brake_on_m",),
    "throttle_dips": ("throttle_on_m",),
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
        "aims": [_aim(plan, k, one) for k, one in enumerate(plan.aims, 1)],
        "passed_over": [{"corner": p.corner, "kind": p.kind, "why": p.why} for p in plan.passed_over],
        "cautions": list(CAUTIONS),
    }


def _aim(plan: RunPlan, number: int, one: AimWithGain) -> dict[str, Any]:
    aim, corner = one.aim, plan.comparison.corners[one.aim.corner - 1]
    told = gain_of(one)
    low, high = within(*told) if told is not None else (None, None)
    return {
        "aim": number,
        "corner": aim.corner,
        "id": corner.id,
        "number": corner.shown,
        "kind": aim.kind,
        "cue": cue_words(aim, plan.circuit),
        "typed": None,
        "seen": place_words(aim.target, plan.circuit) or None if aim.measure.endswith("_m") else None,
        "measure": aim.measure,
        "unit": UNITS[aim.measure],
        "from": round(aim.start, PLACE_DIGITS),
        "from_sigma": round(aim.scatter, PLACE_DIGITS),
        "target": round(aim.target, PLACE_DIGITS),
        "tolerance": round(aim.tolerance, PLACE_DIGITS),
        "step": round(aim.step, PLACE_DIGITS),
        "capped": aim.capped,
        "leave": list(LEAVE[aim.measure]),
        "laps_needed": aim.laps_needed,
        "gap_s": _digits(told[0] if told is not None else None),
        "gap_low_s": _digits(low),
        "gap_high_s": _digits(high),
        "why": None if told is not None else "the model has no seconds for this mark",
        "risks": risks_at(plan.circuit, corner),
        "tried_before": [],
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


def cue_words(aim: Aim, circuit: CircuitOnAxis | None, units: Units = METRIC) -> str:
    """One cue for the head, from a landmark where there is one.

    >>> from jete.core.aims.aim import Aim
    >>> from jete.core.causes.kinds import Kind
    >>> aim = Aim(corner=1, kind=Kind.OVERSLOWING, measure="min_speed_kmh", start=80.0, scatter=0.5, target=82.0, tolerance=1.0, capped=True)
    >>> cue_words(aim, None)
    '2.0 km/h more at the slow point: let the brake go a little sooner'
    """
    size, more = abs(aim.step), aim.step > 0.0
    if aim.measure == "min_speed_kmh":
        how = "let the brake go a little sooner" if more else "stay on the brake a little longer"
        return f"{units.speed_text(size)} {'more' if more else 'less'} at the slow point: {how}"
    if aim.measure == "coast_s":
        return f"{size:.1f} s less on neither pedal: off one, straight onto the other"
    if aim.measure == "throttle_dips":
        return "pick the throttle up once, and keep it: a little later rather than twice"
    what = "brake" if aim.measure == "brake_on_m" else "pick the throttle up"
    seen = place_words(aim.target, circuit, units)
    where = f": {seen}" if seen else ""
    how = " and harder" if aim.kind is Kind.SOFT_BRAKING and more else ""
    return f"{what} {units.length_text(size, 0 if units.length == 'm' else 1)} {'later' if more else 'earlier'}{how}{where}"


def reason_words(plan: RunPlan, aim: Aim) -> str:
    """Why it is proposed: the cause, what it costs in the mean, on how many laps."""
    corner = plan.summary.corners[aim.corner - 1]
    cause = next((c for c in corner.causes if c.kind is aim.kind), None)
    title = CAUSES[aim.kind].title
    if cause is None:
        return title
    return f"{title} {difference(cause.median_s)} s, on {cause.laps} of {plan.summary.counted} laps"


def target_words(aim: Aim, units: Units = METRIC) -> str:
    """From where to where, how far off still counts, and on how many laps it is to be done.

    >>> from jete.core.aims.aim import Aim
    >>> from jete.core.causes.kinds import Kind
    >>> aim = Aim(corner=1, kind=Kind.OVERSLOWING, measure="min_speed_kmh", start=80.0, scatter=0.5, target=82.0, tolerance=1.0, capped=True)
    >>> target_words(aim)
    'from 80.0 km/h to 82.0 km/h, within 1.0 km/h; done on 5 laps it counts; the reference is farther off: one step a run'
    """
    told = [_with_unit(aim, value, units) for value in (aim.start, aim.target, aim.tolerance)]
    more = "; the reference is farther off: one step a run" if aim.capped else ""
    return f"from {told[0]} to {told[1]}, within {told[2]}; done on {aim.laps_needed} laps it counts{more}"


def _with_unit(aim: Aim, value: float, units: Units) -> str:
    if aim.measure == "min_speed_kmh":
        return units.speed_text(value)
    if aim.measure.endswith("_m"):
        return units.length_text(value, 1 if abs(value) < SMALL_M else 0)
    return f"{value:.1f} {UNITS[aim.measure]}"


LEAVE_WORDS = {"brake_on_m": "the brake point", "min_speed_kmh": "the lowest speed", "throttle_on_m": "the pick-up"}


def leave_words(aim: Aim) -> str:
    """What is to be left as it is."""
    return f"leave as it is: {' and '.join(LEAVE_WORDS[n] for n in LEAVE[aim.measure])}"


def passed_words(plan: RunPlan) -> str:
    """The corners that were passed over, by their reason; empty where there are none."""
    by_why: dict[str, list[str]] = {}
    for one in plan.passed_over:
        by_why.setdefault(one.why, []).append(plan.comparison.corners[one.corner - 1].shown)
    told = "; ".join(f"{', '.join(numbers)}: {why}" for why, numbers in by_why.items())
    return f"Passed over: {told}." if told else ""


def plan_table(plan: RunPlan) -> str:
    """The aims for people on a terminal."""
    reference = plan.comparison.reference.lap
    lines = [f"for the next run, against {reference.label} ({lap_time(reference.span.time_s)}):"]
    for k, one in enumerate(plan.aims, 1):
        corner = plan.comparison.corners[one.aim.corner - 1]
        name = f"{corner.shown} {corner.name}".rstrip()
        lines.append(f"{k}  corner {name}: {cue_words(one.aim, plan.circuit)}")
        lines.append(f"   {CAUSES[one.aim.kind].title}; expected {seconds_words(gain_of(one))} a lap")
        lines += [f"   {risk}" for risk in risks_at(plan.circuit, corner)]
    if not plan.aims:
        lines.append("nothing to propose: no corner loses enough by a mark that could be moved.")
    lines += [f"passed over: corner {plan.comparison.corners[p.corner - 1].shown}: {p.why}" for p in plan.passed_over]
    return "\n".join([*lines, "", *CAUTIONS]) + "\n"


def review_document(
    found: PlanReviewed,
    addresses: tuple[Sequence[str], Sequence[str], Sequence[str]],
    plan: str,
    differences: Sequence[str] | None = None,
) -> dict[str, Any]:
    """The document of ``jete review --json``.

    Args:
        found: what came of the plan.
        addresses: of the runs chosen on, before and after.
        plan: name of its file.
        differences: of the conditions before and after, in words; None where they are not known.
    """
    parts = (found.chosen_on, found.before, found.after)
    chosen, before, after = (_runs(found, names, part) for names, part in zip(addresses, parts, strict=True))
    mean, sigma, count = found.others
    return {
        "schema": "jete.review/1",
        "level": LEVEL,
        "plan": plan,
        "chosen_on": chosen,
        "before": before,
        "after": after,
        "same_driver": same_driver(found),
        "conditions": {
            "same": None if differences is None else not differences,
            "differences": list(differences or []),
        },
        "controls": {"corners": count, "gap_s": _digits(mean), "sigma_s": _digits(sigma), "used": False},
        "aims": [_judged(found, *each, differences or ()) for each in found.aims],
        "cautions": list(CAUTIONS),
    }


def same_driver(found: PlanReviewed) -> bool | None:
    """Whether all runs were one driver's; None where nobody is known."""
    sides = [
        {found.comparison.laps[i].passage.lap.driver for run in part for i in run}
        for part in (found.chosen_on + found.before, found.after)
    ]
    if not all(all(side) and side for side in sides):
        return None
    return sides[0] == sides[1] and len(sides[0]) == 1


def _runs(found: PlanReviewed, addresses: Sequence[str], part: Sequence[range]) -> list[dict[str, Any]]:
    """Each run with its laps and those that were set aside."""
    number = [lap.passage.lap.span.number for lap in found.comparison.laps]
    return [
        {
            "source": address,
            "laps": [number[i] for i in run],
            "set_aside": [{"lap": number[i], "why": found.why[i]} for i in run if found.why[i] is not None],
        }
        for address, run in zip(addresses, part, strict=True)
    ]


def _judged(
    found: PlanReviewed, aim: PlannedAim, came: AimJudged, beside: AimBeside, differences: Sequence[str]
) -> dict[str, Any]:
    corner = found.comparison.corners[aim.corner - 1]
    laps = [found.comparison.laps[i].passage.lap for run in found.after for i in run if found.why[i] is None]
    other = same_driver(found) is False
    return {
        "aim": aim.number,
        "corner": aim.corner,
        "id": corner.id,
        "measure": aim.judge.measure,
        "laps": [
            {"source": lap.log.source, "lap": lap.span.number, "value": _place(value), "state": state}
            for lap, value, state in zip(laps, beside.values, _states(came, beside), strict=True)
        ],
        "done": came.done,
        "of": len(laps),
        **_interval("moved", came.moved, "", PLACE_DIGITS),
        "beside": [],
        **_interval("gap", came.gap, "_s", DIGITS),
        "next_gap_s": _digits(beside.next_gap_s),
        "modelled_gap_s": None,
        "runs_before": len(found.chosen_on) + len(found.before),
        "runs_after": len(found.after),
        "outcome": "not_told" if other else came.outcome,
        "gained": None if other else came.gained,
        "explained_by": [*(["another driver"] if other else []), *differences],
        "proposal": "wait" if other else came.proposal,
        "runs_more": came.runs_more,
    }


def _states(came: AimJudged, beside: AimBeside) -> list[str]:
    """A state for each lap that counts, those without the mark among them."""
    known = iter(came.states)
    return ["unknown" if value is None else next(known) for value in beside.values]


def _interval(name: str, told: Interval | None, unit: str, digits: int) -> dict[str, float | None]:
    values = (None, None, None) if told is None else (told.value, told.low, told.high)
    names = (f"{name}{unit}", f"{name}_low{unit}", f"{name}_high{unit}")
    return {n: None if v is None else round(v, digits) for n, v in zip(names, values, strict=True)}


def _place(value: float | None) -> float | None:
    return None if value is None else round(value, PLACE_DIGITS)


OUTCOMES = {
    "worked": "done, and no slower",
    "done_slower": "done, and slower here",
    "overdone": "overdone",
    "short": "begun, not all of it",
    "not_done": "not done",
    "not_told": "not told: too few clean laps",
}
PROPOSALS = {
    "keep": "keep it",
    "step_on": "one step more",
    "step_back": "a step back",
    "drop": "drop it",
    "wait": "try it again",
}


def review_table(found: PlanReviewed) -> str:
    """What came of the aims, for people on a terminal."""
    lines = []
    for aim, came, beside in found.aims:
        corner, unit = found.comparison.corners[aim.corner - 1], UNITS[aim.judge.measure]
        lines.append(
            f"{aim.number}  corner {corner.shown}: {OUTCOMES[came.outcome]} ({came.done} of {len(beside.values)} laps); {PROPOSALS[came.proposal]}"
        )
        if came.moved is not None:
            moved = came.moved
            lines.append(f"   moved {moved.value:+.1f} {unit} ({moved.low:+.1f} to {moved.high:+.1f})")
        if came.gap is not None:
            lines.append(
                f"   the corner: {difference(came.gap.value)} s ({difference(came.gap.low)} to {difference(came.gap.high)})"
            )
        lines.append(f"   {gained_words(came)}")
    return "\n".join([*lines, "", *CAUTIONS]) + "\n"


def gained_words(came: AimJudged) -> str:
    """Whether it gained time, in words."""
    if came.gained is not None:
        return "it gained time" if came.gained else "it lost time"
    return f"gains are not told yet: about {came.runs_more} more runs that did not choose the aim"
