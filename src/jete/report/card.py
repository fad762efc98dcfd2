"""The card of a corner: where both laps braked, how hard, how slow they were, where they picked up; and what lies between."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from jete.report.marks import marks_read

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import CornerLoss
    from jete.report.units import Units

# The marks that a card has room for, and what they are called there.
TITLES: Final = {
    "brake_on_m": "brake at", "brake_peak": "peak", "min_speed_kmh": "lowest", "throttle_on_m": "pick-up", "full_throttle_m": "flat out", "gear": "gear",
}  # fmt: skip


@dataclass(frozen=True)
class CardColumn:
    """One mark: its title with its unit, both laps' values and their difference, as text."""

    title: str
    lap: str
    reference: str
    difference: str


def card_of(loss: CornerLoss, units: Units) -> tuple[CardColumn, ...]:
    """The marks of a corner in the chosen units, in the order in which they are driven.

    Places are metres of the lap; the difference of a place is minus where the lap did it earlier.
    """
    return tuple(
        CardColumn(f"{TITLES[m.name]} {m.unit}".strip(), m.text(m.lap), m.text(m.reference), m.difference)
        for m in marks_read(loss, units)
        if m.name in TITLES
    )
