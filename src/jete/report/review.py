"""What came of a plan as JSON (``jete.review/1``) and for people."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.core.aims.aim import UNITS
from jete.core.whatif.worked_out import LEVEL
from jete.report.plan import DIGITS, PLACE_DIGITS, corner_title
from jete.report.sheets import filled
from jete.report.units import METRIC, Units
from jete.report.what_if import CAUTIONS
from jete.report.words import MINUS, difference

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.aims.aim import Measure
    from jete.core.aims.judged import AimJudged, Interval
    from jete.desk.plan_shelf import PlanOnShelf
    from jete.desk.reviews import AimReviewed, PlanReviewed

ANOTHER_DRIVER = "another driver"


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
        "aims": [_judged(found, each, differences or ()) for each in found.aims],
        "cautions": list(CAUTIONS),
    }


def shelf_document(back: PlanOnShelf) -> dict[str, Any]:
    """What came of a plan of the shelf, as it is kept there.

    Raises:
        ValueError: nothing came of it yet.
    """
    if back.found is None:
        raise ValueError(back.why)
    parts = ([back.plan.run], [n for n in back.follow.before if n not in back.runs], back.runs)
    addresses = tuple([f"library:{n}" for n in part] for part in parts)
    return review_document(
        back.found, (addresses[0], addresses[1], addresses[2]), f"library:plan:{back.plan.id}", back.conditions
    )


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


def _judged(found: PlanReviewed, one: AimReviewed, differences: Sequence[str]) -> dict[str, Any]:
    came, told = one.came, told_of(found, one, differences)
    return {
        "aim": one.aim.number,
        "corner": one.corner.number if one.corner is not None else one.aim.corner,
        "id": one.corner.id if one.corner is not None else one.aim.id,
        "measure": one.aim.judge.measure if one.aim.judge is not None else None,
        "laps": [
            {"source": lap.log.source, "lap": lap.span.number, "value": _place(value), "state": state}
            for lap, value, state in zip(found.laps_after(), one.values, one.states, strict=False)
        ],
        "done": one.states.count("done"),
        "of": len(one.states),
        **_interval("moved", came.moved, "", PLACE_DIGITS),
        "beside": [{"mark": mark, **_interval("", moved, "", PLACE_DIGITS)} for mark, moved in one.beside],
        **_interval("gap", came.gap, "_s", DIGITS),
        "next_gap_s": _digits(one.next_gap_s),
        "modelled_gap_s": _digits(one.modelled_gap_s),
        "runs_before": len(found.chosen_on) + len(found.before),
        "runs_after": len(found.after),
        **told,
        "runs_more": came.runs_more,
    }


def told_of(found: PlanReviewed, one: AimReviewed, differences: Sequence[str]) -> dict[str, Any]:
    """Outcome, gain, what explains it, and the proposal: of another driver's laps nothing is told."""
    explained = list(differences)
    if one.corner is None:
        explained.insert(0, "its corner is no more")
    if one.went_wrong:
        explained.insert(0, f"lap {', '.join(map(str, one.went_wrong))} went wrong there")
    if same_driver(found) is False:
        return {"outcome": "not_told", "gained": None, "explained_by": [ANOTHER_DRIVER, *explained], "proposal": "wait"}
    came = one.came
    return {"outcome": came.outcome, "gained": came.gained, "explained_by": explained, "proposal": came.proposal}


def _interval(name: str, told: Interval | None, unit: str, digits: int) -> dict[str, float | None]:
    values = (None, None, None) if told is None else (told.value, told.low, told.high)
    names = (f"{name}{unit}", f"{name}_low{unit}", f"{name}_high{unit}") if name else ("moved", "low", "high")
    return {n: None if v is None else round(v, digits) for n, v in zip(names, values, strict=True)}


def _digits(value: float | None) -> float | None:
    return None if value is None else round(value, DIGITS)


def _place(value: float | None) -> float | None:
    return None if value is None else round(value, PLACE_DIGITS)


# Before and after the number of laps.
OUTCOMES = {
    "worked": ("Done", ", and no slower."),
    "done_slower": ("Done", ", and slower here."),
    "overdone": ("Overdone: as asked", "."),
    "short": ("Begun, not all of it: done", "."),
    "not_done": ("Not done: as asked", "."),
}
KEPT = {"worked": ("Kept", "."), "not_done": ("Not kept: as before", ".")}
PROPOSALS = {
    "keep": "Keep it",
    "step_on": "One step more",
    "step_back": "A step back",
    "drop": "Drop it",
    "wait": "Try it again",
}


# What is right of a mark, for a mark that lies on the road.
LATER, MORE = ("later", "earlier"), ("more", "less")
MARKS: dict[Measure, tuple[str, tuple[str, str]]] = {
    "brake_on_m": ("braked", LATER),
    "min_speed_kmh": ("lowest speed", MORE),
    "throttle_on_m": ("picked up", LATER),
    "coast_s": ("coasted", MORE),
    "throttle_dips": ("dips of the throttle", MORE),
}


def moved_words(measure: Measure, moved: Interval, units: Units = METRIC) -> str:
    """How far a mark moved, with what holds the truth in nine of ten cases.

    >>> from jete.core.aims.judged import Interval
    >>> moved_words("brake_on_m", Interval(4.6, 2.1, 7.1))
    'braked 4.6 m later (2.1 to 7.1)'
    >>> moved_words("min_speed_kmh", Interval(-1.0, -2.2, 0.2))
    'lowest speed 1.0 km/h less (−0.2 to 2.2)'
    """
    name, (more, less) = MARKS[measure]
    side = 1.0 if moved.value >= 0.0 else -1.0
    low, high = sorted((moved.low * side, moved.high * side))
    told = [_tenths(measure, v, units) for v in (abs(moved.value), low, high)]
    unit = told[0].partition(" ")[2]
    return f"{name} {told[0]} {more if side > 0.0 else less} ({' to '.join(t.removesuffix(unit).rstrip() for t in told[1:])})"


def _tenths(measure: Measure, value: float, units: Units) -> str:
    """A difference with its unit, to a tenth."""
    if measure == "min_speed_kmh":
        return units.speed_text(value).replace("-", MINUS)
    if measure.endswith("_m"):
        return units.length_text(value, 1).replace("-", MINUS)
    return f"{value:.1f} {UNITS[measure]}".replace("-", MINUS)


def outcome_words(found: PlanReviewed, one: AimReviewed, differences: Sequence[str] = ()) -> str:
    """What came of an aim in one line: the outcome, and on how many laps it was done."""
    told, laps = told_of(found, one, differences), len(one.states)
    if one.corner is None:
        return "Ended: its corner is no more on this circuit."
    if ANOTHER_DRIVER in told["explained_by"]:
        return "Not told: another driver drove."
    if one.aim.judge is None:
        return _experiment_words(one)
    if told["outcome"] == "not_told":
        return f"Not told: {laps} clean laps, five are needed." if laps < one.aim.judge.laps_needed else "Not told."
    done = f" on {one.states.count('done')} of {laps} laps"
    if told["outcome"] == "not_done" and one.states.count("done") >= one.aim.judge.laps_needed and one.aim.judge.step:
        return f"Not sure: as asked{done}, but runs differ by as much by themselves."
    words = KEPT if one.aim.judge.step == 0.0 else OUTCOMES
    start, end = words[told["outcome"]]
    return f"{start}{done}{end}"


def _experiment_words(one: AimReviewed) -> str:
    gap = one.came.gap
    if gap is None:
        return "Not told: too few laps of each way."
    if not gap.sure:
        return f"Not told yet: odd laps {difference(gap.value)} s ({difference(gap.low)} to {difference(gap.high)})."
    return f"Odd laps are {'quicker' if gap.value < 0.0 else 'slower'}: {difference(gap.value)} s ({difference(gap.low)} to {difference(gap.high)})."


def corner_gap_words(one: AimReviewed) -> str:
    """What the corner and the next one took of time since; empty where nothing is known."""
    gap, moved = one.came.gap, one.came.moved
    if gap is None or one.aim.judge is None:
        return ""
    sure = moved is not None and moved.sure
    told = f"the corner {difference(gap.value)}\N{NO-BREAK SPACE}s ({difference(gap.low)} to {difference(gap.high)})"
    following = f", the next one {difference(one.next_gap_s)}\N{NO-BREAK SPACE}s" if one.next_gap_s is not None else ""
    modelled = (
        f"; modelled for what was driven: {difference(one.modelled_gap_s)}\N{NO-BREAK SPACE}s"
        if sure and one.modelled_gap_s is not None
        else ""
    )
    return f"{told}{following}{modelled}"


def beside_words(one: AimReviewed, units: Units = METRIC) -> str:
    """The other marks of the corner that surely moved; empty where none did."""
    return "; ".join(moved_words(mark, moved, units) for mark, moved in one.beside if moved.sure)


def review_table(found: PlanReviewed) -> str:
    """What came of the aims, for people on a terminal."""
    lines = []
    for one in found.aims:
        proposal = PROPOSALS[told_of(found, one, ())["proposal"]]
        lines.append(f"{one.aim.number}  {_title(one)}: {outcome_words(found, one)} {proposal}.")
        lines += [f"   {words}" for words in detail_words(one)]
    return "\n".join([*lines, "", *CAUTIONS]) + "\n"


def review_body(found: PlanReviewed, differences: Sequence[str] = (), units: Units = METRIC) -> str:
    """What came of the aims as a sheet's body."""
    return filled(
        "review.html.j2",
        runs=f"{len(found.after)} run{'s' if len(found.after) != 1 else ''} since, {len(found.laps_after())} laps that count",
        aims=[
            {
                "number": one.aim.number,
                "title": _title(one),
                "cue": one.aim.words,
                "outcome": outcome_words(found, one, differences),
                "proposal": PROPOSALS[told_of(found, one, differences)["proposal"]],
                "lines": detail_words(one, units),
            }
            for one in found.aims
        ],
        differences=list(differences),
        cautions=CAUTIONS,
    )


def _title(one: AimReviewed) -> str:
    return corner_title(one.corner) if one.corner is not None else f"corner {one.aim.corner}"


def detail_words(one: AimReviewed, units: Units = METRIC) -> list[str]:
    """How far the mark moved, what that did to the corner, which other marks moved, and whether it gained time."""
    moved = one.came.moved
    told = moved_words(one.aim.judge.measure, moved, units) if moved is not None and one.aim.judge is not None else ""
    lines = (told, corner_gap_words(one), beside_words(one, units), gained_words(one.came) if one.corner else "")
    return [line for line in lines if line]


def gained_words(came: AimJudged) -> str:
    """Whether it gained time, in words."""
    if came.gained is not None:
        return "it gained time" if came.gained else "it lost time"
    if came.runs_more is None:
        return ""
    return f"gains are not told yet: about {came.runs_more} more run{'s' if came.runs_more > 1 else ''} that did not choose the aim"
