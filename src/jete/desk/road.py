"""What is known of the road beside a comparison.  Light to load: what was shown last is read back before anything is worked out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.core.circuit.drawn import Drawn
    from jete.core.circuit.height import RoadProfile
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.circuit.stakes import Stakes


@dataclass(frozen=True, eq=False, kw_only=True)
class RoadBeside:
    """The circuit on the reference's axis where one is known, what each corner is worth, how the road rises and falls, lines from above."""

    circuit: CircuitOnAxis | None
    stakes: tuple[Stakes, ...]
    profile: RoadProfile | None
    drawn: Drawn
