"""The card to carry: the cues of a plan that are taken along, on one small page."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from jete.desk.planned import aims_of
from jete.report.plan import expected_words, target_words
from jete.report.sheets import filled
from jete.report.units import METRIC, Units

if TYPE_CHECKING:
    from jete.desk.planned import PlannedAim


def card_body(document: dict[str, Any], units: Units = METRIC) -> str:
    """The card of a plan (``jete.plan/1``): what a person did not take along is not on it, unless nothing was chosen yet."""
    aims = aims_of(document, "plan")
    taken = [aim for aim in aims if aim.taken or document.get("state") == "proposed"]
    titles = {told.get("aim", k): _title(told) for k, told in enumerate(document["aims"], 1)}
    return filled(
        "card.html.j2",
        plan=document,
        who=" · ".join(x for x in (document.get("driver"), document.get("vehicle")) if x),
        aims=[
            {
                "number": k,
                "title": titles.get(aim.number, aim.corner),
                "words": aim.words,
                "small": _small(aim, units),
                "risks": aim.risks,
            }
            for k, aim in enumerate(taken, 1)
        ],
        cautions=" ".join(document.get("cautions") or ()),
    )


def _title(told: dict[str, Any]) -> str:
    return f"{told.get('number') or told.get('corner')} {told.get('name') or ''}".rstrip()


def _small(aim: PlannedAim, units: Units) -> str:
    told = (expected_words(aim), target_words(aim.judge, units) if aim.judge is not None else aim.reason)
    return "; ".join(words for words in told if words)


def card_name(driver: str) -> str:
    """A file's name for the card of a driver.

    >>> card_name("Ines Karlsby"), card_name("../x")
    ('next-run-ines-karlsby.pdf', 'next-run-x.pdf')
    """
    name = "-".join(re.findall(r"[^\W_]+", driver.casefold())) or "driver"
    return f"next-run-{name}.pdf"
