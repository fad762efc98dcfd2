"""Both laps at one corner, and how far a mark of theirs lies apart."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf
from typing import TYPE_CHECKING, Literal, NamedTuple

from jete.core.causes.kinds import CAUSES, Cause, Factor, Kind

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.hybrids.driven import Driven
    from jete.core.causes.profiles.anchors import Anchors
    from jete.core.causes.verdict.doubt import Doubt
    from jete.core.driving.marks import Marks

# A foot meets a place to a metre or two.
LEAST_MOVE_M = 1.5
# A mark that lies no farther inside a window may have been before it.
INSIDE_M = 1.0

LineSeen = Literal["seen", "doubtful", "unseen"]


@dataclass(frozen=True, eq=False, kw_only=True)
class Pair:
    """Both laps at one corner: marks and anchors, and how they drove its window.

    ``brake_shift_m`` is how much earlier (−) or later the lap's whole slowing lies, ``down_shift_m`` how much earlier or later
    it is down to the lowest speed that both reach; ``misfit_s`` is what the profiles of both laps miss of the gap on each stretch, (S,); ``line`` says whether the
    lines were seen by positions, were seen by such whose error lasts, or were not;
    ``scale`` brings the lap's speeds on the reference's odometer.
    """

    marks: tuple[Marks, Marks]
    anchors: tuple[Anchors, Anchors]
    brake_shift_m: float
    down_shift_m: float
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

    @property
    def brakes_apart_m(self) -> float | None:
        """How far the lap's brake point lies past the reference's, or its lift where neither brakes; None where that can't be told.

        One that is beyond the line, before the window, is not where the marks say it is.
        """
        ours, lap = self.marks
        if (ours.brake_on_m is None) is not (lap.brake_on_m is None) or ours.onset_m is None or lap.onset_m is None:
            return None
        return lap.onset_m - ours.onset_m if max(ours.onset_m, lap.onset_m) > self.start_m + INSIDE_M else None

    def faster_kmh(self, mark: str) -> tuple[float, float]:
        """The lap's speed at a mark over the reference's, km/h: on the reference's odometer, and as logged."""
        reference, lap = (float(getattr(m, mark)) for m in self.marks)
        return lap * self.scale - reference, lap - reference


class Moved(NamedTuple):
    """A mark's difference in its kind's unit, its standard deviation, and whether there is any to speak of.

    ``goes_with`` are factors that its factor goes along with before others, where it has not moved itself.
    ``shown`` is the difference that shows that it was driven otherwise, where that is another than the one that is told;
    ``factor`` is the one that it was asked of, where that is another than its kind's.
    """

    kind: Kind
    at_m: float
    measure: float
    sigma: float
    beyond_scatter: bool
    goes_with: tuple[Factor, ...] = ()
    shown: float | None = None
    factor: Factor | None = None

    @property
    def record(self) -> Cause:
        """The record of its factor: of a kind of that factor, where its own is of another."""
        own = CAUSES[self.kind]
        return own if self.factor in (None, own.factor) else next(c for c in CAUSES.values() if c.factor is self.factor)

    @property
    def costs(self) -> float:
        """The sign that its cost must have; 0 where it can have either."""
        return self.record.costs * (self.measure if self.shown is None else self.shown)

    @property
    def size(self) -> float:
        """How far it has moved, in its kind's unit, without sign."""
        return abs(self.measure if self.shown is None else self.shown)

    @property
    def sigmas(self) -> float:
        """How many standard deviations the mark has moved by."""
        return self.size / self.sigma if self.sigma > 0.0 else inf
