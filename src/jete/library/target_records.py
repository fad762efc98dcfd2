"""A time to reach, as the library hands it out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.notes.sheet import RunSheet


@dataclass(frozen=True, kw_only=True)
class TargetRecord:
    """A time to reach; empty text holds for all.

    Attributes:
        id: its number; 0 where it is not kept yet.
        circuit: and ``layout``: where.
        driver: who wants it.
        group: class.
        condition: of the road.
        name: what it is: own, a licence, a medal, a record, a team mate's.
        time_s: the lap time.
    """

    id: int = 0
    circuit: str
    layout: str = ""
    driver: str = ""
    group: str = ""
    condition: str = ""
    name: str = ""
    time_s: float

    def holds_for(self, sheet: RunSheet) -> bool:
        """Whether it is meant for a run."""
        wanted = (
            (self.driver, sheet.driver), (self.group, sheet.group), (self.condition, sheet.condition),
        )  # fmt: skip
        there = (self.circuit, self.layout) == (sheet.circuit, sheet.layout)
        return there and all(not mine or mine == theirs for mine, theirs in wanted)

    @property
    def narrow(self) -> int:
        """How many things it is narrowed by: the narrowest is meant first."""
        return sum(bool(x) for x in (self.driver, self.group, self.condition))
