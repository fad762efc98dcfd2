"""Both laps at one corner, and how far a mark of theirs lies apart."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf
from typing import TYPE_CHECKING, Final, Literal, NamedTuple

from jete.core.causes.kinds import CAUSES, Factor, Kind

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.anchors import Anchors
    from jete.core.causes.doubt import Doubt
    from jete.core.causes.driven import Driven
    from jete.core.driving.marks import Marks

# A foot meets a place to a metre or two.
LEAST_MOVE_M = 1.5
# What marks of one driver lie apart by from lap to lap, at the most: metres, g, km/h, seconds.
SCATTERS: Final[dict[Factor, float]] = {
    Factor.BRAKE_POINT: 5.0,
    Factor.BRAKING: 0.05,
    Factor.SLOWEST: 2.0,
    Factor.COASTING: 0.2,
    Factor.PICKUP: 5.0,
}
# And so many of its own standard deviations.
FAR_SIGMAS = 2.5

LineSeen = Literal["seen", "doubtful", "unseen"]


@dataclass(frozen=True, eq=False)
class Pair:
    """Both laps at one corner: marks and anchors, and how they drove its window.

    ``misfit_s`` is what the profiles of both laps miss of the gap on each stretch, (S,); ``line`` says whether the
    lines were seen by positions, were seen by such whose error lasts, or were not;
    ``scale`` brings the lap's speeds on the reference's odometer.
    """

    marks: tuple[Marks, Marks]
    anchors: tuple[Anchors, Anchors]
    brake_shift_m: float
    driven: Driven
    start_m: float
    end_m: float
    doubt: Doubt
    misfit_s: FloatArray
    line: LineSeen = "seen"
    scale: float = 1.0

    @property
    def harder_mps2(self) -> float:
        """How much harder the lap brakes on the whole, m/s²; negative for softer."""
        return self.anchors[1].braking_mps2 - self.anchors[0].braking_mps2


class Moved(NamedTuple):
    """A mark's difference in its kind's unit, its standard deviation, and whether there is any to speak of.

    ``goes_with`` are factors that its factor goes along with before others, where it has not moved itself.
    ``shown`` is the difference that shows that it was driven otherwise, where that is another than the one that is told.
    """

    kind: Kind
    at_m: float
    measure: float
    sigma: float
    really: bool
    goes_with: tuple[Factor, ...] = ()
    shown: float | None = None

    @property
    def size(self) -> float:
        """How far it has moved, in its kind's unit, without sign."""
        return abs(self.measure if self.shown is None else self.shown)

    @property
    def sigmas(self) -> float:
        """How many standard deviations the mark has moved by."""
        return self.size / self.sigma if self.sigma > 0.0 else inf

    @property
    def far(self) -> float:
        """How far it has moved beyond what feet and sensors scatter by: 0 for no more than that, 1 for twice as much."""
        scatter = SCATTERS.get(CAUSES[self.kind].factor, inf)
        return min(max(self.size / (scatter + FAR_SIGMAS * self.sigma) - 1.0, 0.0), 1.0)
