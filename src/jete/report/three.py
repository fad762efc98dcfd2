"""The three corners that matter, each with its reason in a sentence."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.report.seat import KIND_WORDS
from jete.report.units import METRIC, Units
from jete.report.words import cause_words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.result import CornerLoss
    from jete.core.causes.to_be_had import ToBeHad
    from jete.core.circuit.stakes import Stakes

MOST = 3
# Less than this is within what anybody drives differently from lap to lap.
LEAST_S = 0.03


def that_matter(had: Sequence[ToBeHad]) -> list[ToBeHad]:
    """The first three that are worth a word."""
    return [h for h in had[:MOST] if h.seconds >= LEAST_S and (h.dearest is not None or h.spoils)]


def three_sentences(
    had: Sequence[ToBeHad], corners: Sequence[CornerLoss], stakes: Sequence[Stakes], units: Units = METRIC
) -> list[str]:
    """One sentence a corner: what cost most, why it weighs, what it spoils.

    Args:
        had: the most first.
        corners: of the lap, in order.
        stakes: of the corners; empty where they are not known.
        units: that it is told in.
    """
    return [_sentence(h, corners, stakes, units) for h in that_matter(had)]


def _sentence(had: ToBeHad, corners: Sequence[CornerLoss], stakes: Sequence[Stakes], units: Units) -> str:
    corner = corners[had.corner - 1].corner
    name = f"{corner.shown} {corner.name}".rstrip()
    parts = [f"{name} about {had.seconds:.2f} s"]
    if had.dearest is not None:
        parts.append(cause_words(had.dearest.kind, had.dearest.loss_s))
    if stakes:
        parts.append(_why(stakes[had.corner - 1], units))
    if had.spoils:
        parts.append(f"it also slows the arrival at {', '.join(corners[n - 1].corner.shown for n in had.spoils)}")
    return ", ".join(p for p in parts if p)


def _why(stakes: Stakes, units: Units) -> str:
    kind = KIND_WORDS[stakes.kind]
    return (
        f"{kind}, {units.length_text(stakes.straight_m)} of straight after it"
        if stakes.kind in ("exit", "both")
        else kind
    )
