"""The three corners that matter, each with its reason in a sentence."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.report.seat import KIND_WORDS
from jete.report.sentences import short_words
from jete.report.units import METRIC, Units
from jete.report.words import difference

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.road.corners import CornerNumber
    from jete.core.causes.kinds import Kind
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.causes.verdict.to_be_had import ToBeHad
    from jete.core.circuit.stakes import Stakes
    from jete.core.run import RunSummary

MOST = 3
# Less than this is within what anybody drives differently from lap to lap.
LEAST_S = 0.03


def that_matter(had: Sequence[ToBeHad]) -> list[ToBeHad]:
    """The first three that are worth a word."""
    return [h for h in had[:MOST] if h.seconds >= LEAST_S and (h.dearest is not None or h.spoils)]


def three_sentences(
    had: Sequence[ToBeHad],
    corners: Sequence[CornerLoss],
    stakes: Sequence[Stakes],
    often: Often | None = None,
    units: Units = METRIC,
) -> list[str]:
    """One sentence a corner: what its causes lost and which most, on how many laps, why it weighs, what it spoils.

    Args:
        had: the most first.
        corners: of the lap, in order.
        stakes: of the corners; empty where they are not known.
        often: on how many of the run's laps corners have causes; None where no run is known.
        units: that it is told in.
    """
    return [_sentence(h, corners, stakes, often or Often(0, {}), units) for h in that_matter(had)]


def _sentence(had: ToBeHad, corners: Sequence[CornerLoss], stakes: Sequence[Stakes], often: Often, units: Units) -> str:
    loss = corners[had.corner - 1]
    name = loss.corner.called
    parts = [name]
    if had.dearest is not None:
        words = f"{short_words(had.dearest, loss.marks, units)} {difference(had.dearest.loss_s)}"
        parts = [f"{name} {difference(had.lost_s)} s: {words}", often.words(had.corner, had.dearest.kind)]
    if stakes:
        parts.append(_why(stakes[had.corner - 1], units))
    if had.spoils:
        there = ", ".join(corners[n - 1].corner.shown for n in had.spoils)
        parts.append(f"it also slows the arrival at {there} ({difference(had.later_s)} s)")
    return ", ".join(p for p in parts if p)


@dataclass(frozen=True)
class Often:
    """On how many of a run's laps that count a corner has a cause."""

    counted: int
    laps: Mapping[tuple[CornerNumber, Kind], int]

    @classmethod
    def of(cls, run: RunSummary | None) -> Often:
        """How often a run has them; on none of none where no run is known."""
        if run is None:
            return cls(0, {})
        return cls(run.counted, {(c.corner.number, x.kind): x.laps for c in run.corners for x in c.causes})

    @property
    def shares(self) -> dict[tuple[CornerNumber, Kind], float]:
        """As shares of the laps that count; empty where no run is known."""
        return {key: n / max(self.counted, 1) for key, n in self.laps.items()}

    def words(self, corner: CornerNumber, kind: Kind) -> str:
        """How often in words; empty where no run is known.

        >>> Often(8, {(1, Kind.COASTING): 7}).words(1, Kind.COASTING)
        'on 7 of 8 laps'
        """
        return f"on {self.laps.get((corner, kind), 0)} of {self.counted} laps" if self.counted else ""


def _why(stakes: Stakes, units: Units) -> str:
    kind = KIND_WORDS[stakes.kind]
    return (
        f"{kind}, {units.length_text(stakes.straight_m)} of straight after it"
        if stakes.kind in ("exit", "both")
        else kind
    )
