"""What a comparison says: the gap of each lap by corner, phase and cause."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.causes.verdict.trades import Trade, trade_of

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.place.align import Alignment
    from jete.core.axis.road.corners import Corner
    from jete.core.axis.road.road import Road
    from jete.core.causes.verdict.findings import Finding
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.windows import PhaseName, PhaseSpan, Span


@dataclass(frozen=True)
class PhaseLoss:
    """What one phase of a window cost."""

    span: PhaseSpan
    gap_s: float


@dataclass(frozen=True, eq=False, kw_only=True)
class CornerLoss:
    """One corner of a comparison; Σ of the findings' losses + ``unexplained_s`` = ``gap_s``.

    ``end_kmh`` are the speeds of the reference and the lap at the window's end, as logged: what an exit is judged by.
    """

    corner: Corner
    window: Span
    gap_s: float
    sigma_s: float
    phases: tuple[PhaseLoss, ...]
    reference_marks: Marks
    lap_marks: Marks
    findings: tuple[Finding, ...]
    unexplained_s: float
    end_kmh: tuple[float, float]

    @property
    def marks(self) -> tuple[Marks, Marks]:
        """The marks of the reference and of the lap."""
        return self.reference_marks, self.lap_marks

    @property
    def unexplained_phases(self) -> tuple[tuple[PhaseName, float], ...]:
        """What is unexplained in each phase, seconds; together ``unexplained_s``."""
        told: dict[PhaseName, float] = {}
        for phase, seconds in (p for f in self.findings for p in f.phases):
            told[phase] = told.get(phase, 0.0) + seconds
        return tuple((p.span.phase, p.gap_s - told.get(p.span.phase, 0.0)) for p in self.phases)

    @property
    def trade(self) -> Trade | None:
        """What was lost here for a gain, or gained for a loss."""
        return trade_of(self.findings)


@dataclass(frozen=True)
class SectorTime:
    """A sector of the lap and both times in it."""

    number: int
    span: Span
    reference_s: float
    lap_s: float

    @property
    def gap_s(self) -> float:
        """Loss in the sector."""
        return self.lap_s - self.reference_s


@dataclass(frozen=True, eq=False, kw_only=True)
class LapComparison:
    """A lap against the reference; ``trace_m`` and ``trace_s`` (n,) are the running gap.

    ``sigma_s`` is the standard deviation of its gap: 0 where the line was timed.
    """

    passage: Passage
    gap_s: float
    sigma_s: float
    trace_m: FloatArray
    trace_s: FloatArray
    sectors: tuple[SectorTime, ...]
    corners: tuple[CornerLoss, ...]

    @property
    def alignment(self) -> Alignment:
        """How the lap was laid on the reference's axis."""
        return self.passage.alignment


@dataclass(frozen=True, eq=False)
class Comparison:
    """A reference lap, its road and corners, and the laps held against it."""

    reference: Passage
    road: Road
    corners: tuple[Corner, ...]
    laps: tuple[LapComparison, ...]
