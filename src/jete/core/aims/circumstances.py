"""What an aim depends on besides the laps: who drives, for what, on which road, and what was tried before."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.aims.aim import Measure
    from jete.core.aims.judged import Outcome
    from jete.core.axis.road.corners import CornerNumber

# After so many runs in vain another way is looked for.
VAIN_RUNS: Final = 2
IN_VAIN: Final = frozenset({"short", "not_done"})


@dataclass(frozen=True, kw_only=True)
class Tried:
    """An aim of an earlier run (its address) at a corner: its measure, what came of it, and on how many laps it was done."""

    corner: CornerNumber
    measure: Measure
    outcome: Outcome
    done: int
    run: str = ""


@dataclass(frozen=True, kw_only=True)
class Circumstances:
    """What aims are proposed in.

    Attributes:
        rider: smaller steps.
        race: what can be kept up lap after lap, instead of one fast lap.
        wet_after_dry: the road is wet, and the reference was driven on a dry one: nothing is asked for that needs grip.
        tried: aims of earlier runs, the last one last.
        withdrawn: why nothing is to be tried at a corner.
        exits: corners before a long straight: first where as much is to be had elsewhere.
        follows: corners that hang on the one before them, with no straight between.
    """

    rider: bool = False
    race: bool = False
    wet_after_dry: bool = False
    tried: Sequence[Tried] = ()
    withdrawn: Mapping[CornerNumber, str] = field(default_factory=dict)
    exits: frozenset[CornerNumber] = frozenset()
    follows: frozenset[CornerNumber] = frozenset()

    def last_of(self, corner: CornerNumber, measure: Measure) -> Tried | None:
        """The last try of a mark at a corner."""
        return next((t for t in reversed(self.tried) if (t.corner, t.measure) == (corner, measure)), None)

    def vain(self, corner: CornerNumber, measure: Measure) -> str:
        """Why a mark is not tried once more at a corner; empty where it may be.

        >>> from jete.core.axis.road.corners import CornerNumber
        >>> once = Tried(corner=CornerNumber(3), measure="brake_on_m", outcome="not_done", done=0)
        >>> Circumstances(tried=(once,)).vain(CornerNumber(3), "brake_on_m")
        ''
        >>> Circumstances(tried=(once, once)).vain(CornerNumber(3), "brake_on_m")
        'tried on two runs in vain'
        """
        own = [t for t in self.tried if (t.corner, t.measure) == (corner, measure)]
        if own and own[-1].outcome == "done_slower":
            return "it was slower there when it was done"
        last = own[-VAIN_RUNS:]
        return "tried on two runs in vain" if len(last) == VAIN_RUNS and {t.outcome for t in last} <= IN_VAIN else ""
