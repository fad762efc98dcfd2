"""Plans on a shelf: what was tried before, which plan a run looks back on, and what came of it by the runs that followed."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from jete.core.aims.circumstances import Circumstances, Tried
from jete.core.errors import InputError
from jete.desk.next_runs import Follow, following
from jete.desk.planned import MEASURES, aims_of
from jete.desk.reviews import review_of
from jete.notes.sheet import changed_since

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jete.core.axis.road.corners import Corner, CornerNumber
    from jete.core.compare import Each
    from jete.core.log.lap import Lap
    from jete.desk.planned import PlannedAim
    from jete.desk.reviews import PlanReviewed
    from jete.library.library import Library
    from jete.library.plan_records import PlanRecord
    from jete.library.records import RunRecord
    from jete.notes.sheet import LapSheet

    LapOf = Callable[[RunRecord, int], Lap]

ADDRESS = re.compile(r"library:(\d+)(?::(\d+))?")
WET = frozenset({"damp", "wet"})
AN_OFF = "a lap went off there"


@dataclass(frozen=True, eq=False, kw_only=True)
class PlanOnShelf:
    """A plan that is looked back on.

    Attributes:
        plan: as it is kept.
        follow: the runs about it.
        runs: that it is judged by, by number.
        found: what came of it; None where nothing can be told yet, and ``why``.
        conditions: how those of the runs since differ from the run it was made on, in words.
    """

    plan: PlanRecord
    follow: Follow
    runs: tuple[int, ...]
    found: PlanReviewed | None
    conditions: tuple[str, ...] = ()
    why: str = ""


def taken_aims(plan: PlanRecord) -> list[PlannedAim]:
    """The aims of a plan that were taken along."""
    return [aim for aim in aims_of(plan.document, "the plan") if aim.taken]


def plan_looked_back_on(run: int, plans: Sequence[PlanRecord], records: Sequence[RunRecord]) -> PlanRecord | None:
    """The plan that a run looks back on: one that is judged by it, else its own where a run followed, else its driver's last."""
    by_id = {r.id: r for r in records}
    here = by_id.get(run)
    if here is None:
        return None
    told = [(p, following(by_id[p.run], records)) for p in plans if p.run in by_id and taken_aims(p)]
    judged = [p for p, f in told if run in (p.judged_by if p.judged_by is not None else (f.after,))]
    own = [p for p, f in told if p.run == run and (p.judged_by or f.after is not None or f.asked)]
    his = [p for p, _ in told if p.run != run and _same(by_id[p.run], here)]
    return next(iter([*reversed(judged), *reversed(own), *reversed(his)]), None)


def plans_of_driver(run: int, plans: Sequence[PlanRecord], records: Sequence[RunRecord]) -> tuple[PlanRecord, ...]:
    """The plans of a run's driver with its vehicle on its circuit, the last one last."""
    by_id = {r.id: r for r in records}
    here = by_id.get(run)
    return tuple(p for p in plans if here is not None and p.run in by_id and _same(by_id[p.run], here))


def _same(one: RunRecord, other: RunRecord) -> bool:
    names = ("driver", "vehicle", "circuit", "layout")
    return all(getattr(one.sheet, n) == getattr(other.sheet, n) for n in names) and bool(one.sheet.driver)


def look_back(library: Library, plan: PlanRecord, lap_of: LapOf, each: Each = map) -> PlanOnShelf:
    """What came of a plan by the runs that followed it.

    Args:
        library: that keeps it.
        plan: to be looked back on.
        lap_of: loads a lap of a run.
        each: as of :func:`jete.core.compare.compare`.
    """
    records = {r.id: r for r in library.runs()}
    chosen = records.get(plan.run)
    if chosen is None:
        return PlanOnShelf(plan=plan, follow=Follow(), runs=(), found=None, why="The run it was made on is in the bin.")
    follow = following(chosen, records.values())
    wanted = plan.judged_by if plan.judged_by is not None else (follow.after,)
    runs = tuple(n for n in wanted if n is not None and n in records)
    found, why = None, ""
    if not runs:
        why = _waiting_words(plan, follow, chosen)
    else:
        try:
            found = _reviewed(library, plan, records, (follow, runs), lap_of, each)
        except InputError as error:
            why = str(error)
    conditions = tuple(changed_since([chosen.sheet], [records[n].sheet for n in runs]))
    return PlanOnShelf(plan=plan, follow=follow, runs=runs, found=found, conditions=conditions, why=why)


def _waiting_words(plan: PlanRecord, follow: Follow, chosen: RunRecord) -> str:
    who = chosen.sheet.driver or "this driver"
    if plan.judged_by:
        return "The run it was to be judged by is in the bin."
    if follow.asked:
        return f"No run of {who} is known to have followed; {len(follow.asked)} may have: choose it."
    return f"The next run of {who} is not here yet: it is looked at by itself when it comes in."


def _reviewed(
    library: Library,
    plan: PlanRecord,
    records: dict[int, RunRecord],
    judged: tuple[Follow, tuple[int, ...]],
    lap_of: LapOf,
    each: Each,
) -> PlanReviewed:
    """The plan's aims judged.

    Raises:
        InputError: its reference is gone, or laps that do not belong to it.
    """
    follow, after = judged
    found = ADDRESS.fullmatch(f"{plan.document['reference']['source']}:{plan.document['reference'].get('lap')}")
    record = records.get(int(found[1])) if found is not None else None
    if record is None or found is None or found[2] is None:
        raise InputError("The plan", "its reference lap is not on the shelf any more.", "Take its run out of the bin.")
    number = int(found[2])
    reference = lap_of(record, number)

    def laps(run: RunRecord) -> list[Lap]:
        return [lap_of(run, s.number) for s in run.counted if (run.id, s.number) != (record.id, number)]

    earlier = [n for n in follow.before if n not in after]
    groups = ([laps(records[plan.run])], [laps(records[n]) for n in earlier], [laps(records[n]) for n in after])
    return review_of(reference, groups, taken_aims(plan), library.circuits.circuit_on(record.id, reference), each)


# --- what is known before aims are proposed


def circumstances(
    library: Library, run: int, reference_run: int, corners: Sequence[Corner], *, race: bool
) -> Circumstances:
    """What aims for a run's driver are proposed in, as far as the shelf knows it.

    Args:
        library: the shelf.
        run: that they are read off.
        reference_run: of the reference.
        corners: on the reference's axis.
        race: what can be kept up, instead of one fast lap.
    """
    records = {r.id: r for r in library.runs()}
    here, other = records[run], records.get(reference_run)
    dry = other is not None and other.sheet.condition == "dry"
    return Circumstances(
        rider=here.sheet.kind == "motorcycle",
        race=race,
        wet_after_dry=here.sheet.condition in WET and dry,
        tried=_tried(library, here, records, corners),
        withdrawn=_went_off(here.notes, corners),
    )


def _tried(
    library: Library, here: RunRecord, records: dict[int, RunRecord], corners: Sequence[Corner]
) -> tuple[Tried, ...]:
    """What came of earlier aims of the same driver; what was said not to have been tried is left out."""
    out = []
    for plan in library.plans.all():
        if plan.run not in records or plan.run == here.id or not _same(records[plan.run], here) or plan.review is None:
            continue
        answers = plan.answers
        out += [
            tried
            for told in plan.review["aims"]
            if answers.get(str(told["aim"])) is not False
            and (tried := _tried_aim(f"library:{plan.run}", told, corners)) is not None
        ]
    return tuple(out)


def _tried_aim(run: str, told: dict[str, Any], corners: Sequence[Corner]) -> Tried | None:
    corner = next((c.number for c in corners if c.id is not None and c.id == told["id"]), None)
    measure = next((m for m in MEASURES if m == told["measure"]), None)
    if corner is None or measure is None:
        return None
    return Tried(corner=corner, measure=measure, outcome=told["outcome"], done=told["done"], run=run)


def _went_off(notes: LapSheet, corners: Sequence[Corner]) -> dict[CornerNumber, str]:
    """Corners that a lap of the run is noted to have gone off at, by their number or name in its reason."""
    words = " ".join(f"{note.reason} {note.note}" for _, note in notes.notes if note.aside == "off").casefold()
    return {
        c.number: AN_OFF
        for c in corners
        if re.search(rf"(?:corner|turn|at|in)\s+{re.escape(c.shown.casefold())}\b", words)
        or (c.name and c.name.casefold() in words)
    }


def with_aim(plan: PlanRecord, number: int, **values: Any) -> PlanRecord:
    """A plan with something of one of its aims changed."""
    aims = [{**told, **values} if told["aim"] == number else told for told in plan.document["aims"]]
    return replace(plan, document={**plan.document, "aims": aims})
