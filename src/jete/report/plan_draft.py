"""A plan while people choose: from what is proposed to what is taken along, one aim put in the place of another."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from jete.core.aims.proposed import kept
from jete.library.plan_records import PlanRecord
from jete.report.plan import aim_document, corner_title, cue_words, experiment_document, keep_document, plan_document

if TYPE_CHECKING:
    from jete.desk.plans import RunPlan
    from jete.notes.sheet import RunSheet

# A corner whose mean gap is not above this is good as it is.
GOOD_S = 0.01
# What a person may try on odd laps, besides own words.
USUAL_TRIES = ("one gear higher", "one gear lower", "a wider line in", "off the kerb")


@dataclass(frozen=True)
class Instead:
    """An aim that may stand in another's place: what it is called, and its document."""

    title: str
    document: dict[str, Any]


def draft_of(plan: RunPlan, run: tuple[int, RunSheet], reference: tuple[int, int]) -> PlanRecord:
    """A plan of the shelf as it is proposed, not kept yet.

    Args:
        plan: what was worked out.
        run: that its aims are chosen on: its number, and what is noted.
        reference: run and lap.
    """
    number, sheet = run
    laps = [c.passage.lap.span.number for c in plan.comparison.laps]
    address = f"library:{reference[0]}:{reference[1]}"
    document = plan_document(plan, address, [(f"library:{number}", laps)])
    named = {"circuit": sheet.circuit or None, "driver": sheet.driver or None, "vehicle": sheet.vehicle or None}
    return PlanRecord(run=number, document={**document, **named})


def opened(draft: PlanRecord) -> PlanRecord:
    """The plan taken along: with all of its aims that were ticked."""
    return replace(draft, document={**draft.document, "state": "open"})


def instead_of(plan: RunPlan, draft: PlanRecord, number: int) -> list[Instead]:
    """What may be tried instead of an aim: other proposals, and to keep what is good; corners that have an aim are left out."""
    taken = {told["corner"] for told in draft.document["aims"]}
    corners = plan.comparison.corners
    out = [
        Instead(
            f"{corner_title(corners[one.aim.corner - 1])}: {cue_words(one.aim.kind, one.aim.judge, plan)}",
            aim_document(plan, one, number),
        )
        for one in (*plan.aims, *plan.others)
        if one.aim.corner not in taken
    ]
    for summed in plan.summary.corners:
        judge = kept(summed.corner.number, plan.counted)
        if summed.mean_s <= GOOD_S and summed.corner.number not in taken and judge is not None:
            document = keep_document(plan, summed.corner.number, judge, number)
            out.append(Instead(f"{corner_title(summed.corner)}: keep it as it is", document))
    return out


def tried_on_odd_laps(plan: RunPlan, draft: PlanRecord, number: int, words: str) -> Instead:
    """An experiment at the corner of an aim, in its place."""
    corner = next(told["corner"] for told in draft.document["aims"] if told["aim"] == number)
    document = experiment_document(plan, corner, words, number)
    return Instead(f"{corner_title(plan.comparison.corners[corner - 1])}: {words}", document)


def put_instead(draft: PlanRecord, number: int, chosen: Instead) -> PlanRecord:
    """The plan with an aim in another's place, taken along since a person chose it."""
    aims = [
        {**chosen.document, "aim": number, "taken": True} if told["aim"] == number else told
        for told in draft.document["aims"]
    ]
    return replace(draft, document={**draft.document, "aims": aims})
