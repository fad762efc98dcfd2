"""The whole way from a reference lap and other laps to a comparison.  Start reading here.

logs ──split──> laps ──motion, align──> places on the reference's axis
     ──road, corners──> windows ──marks──> phases ──hybrid laps──> findings
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.align import Alignment, align, identity
from jete.core.corners import Corner, find_corners, renumbered
from jete.core.findings import Finding, Pair, findings_of
from jete.core.hybrid import Hybrids, shapley
from jete.core.marks import Marks, coasting_s, is_flat, marks_of
from jete.core.motion import Motion, motion_of
from jete.core.passage import Passage, passage_of
from jete.core.path import Fixes, fixes_of
from jete.core.plane import origin_of
from jete.core.profile import Cells, profiles_of
from jete.core.road import Road, road_of, sensed_curvature
from jete.core.split import require_complete
from jete.core.vehicle import Drive, drive_of
from jete.core.windows import PhaseSpan, Span, phases_of, windows_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.lap import FloatArray, Lap

TRACE_M = 5.0
SECTORS = 3
# Noise of a speed from positions, per noise of a position: what the smoother leaves of it.
INFERRED_PER_S = 0.45


@dataclass(frozen=True)
class PhaseLoss:
    """What one phase of a window cost."""

    span: PhaseSpan
    gap_s: float


@dataclass(frozen=True, eq=False)
class CornerLoss:
    """One corner of a comparison; Σ of the findings' losses + ``unexplained_s`` = ``gap_s``."""

    corner: Corner
    window: Span
    gap_s: float
    sigma_s: float
    phases: tuple[PhaseLoss, ...]
    reference_marks: Marks
    lap_marks: Marks
    findings: tuple[Finding, ...]
    unexplained_s: float


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


@dataclass(frozen=True, eq=False)
class LapComparison:
    """A lap against the reference; ``trace_m`` and ``trace_s`` (n,) are the running gap."""

    passage: Passage
    gap_s: float
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


@dataclass(frozen=True, eq=False)
class _Prepared:
    """A lap with its motion and positions on the reference's plane."""

    lap: Lap
    motion: Motion
    fixes: Fixes | None


def compare(reference: Lap, laps: Sequence[Lap]) -> Comparison:
    """Compare laps with a reference lap.

    Args:
        reference: gives the distance axis, the road and the corners.
        laps: one or more; the reference itself may be among them.

    Raises:
        InputError: a lap that is too short, or of another circuit, layout or direction.
    """
    origin = origin_of(reference.log)
    prepared = [_prepare(lap, origin) for lap in (reference, *laps)]
    road = road_of(reference, prepared[0].motion, prepared[0].fixes)
    passages = [passage_of(reference, prepared[0].motion, identity(prepared[0].motion))]
    passages += [_laid(p, road) for p in prepared[1:]]
    corners = _corners(road, passages)
    drive = drive_of(passages, road)
    ours = marks_of(passages[0], corners)
    marks = [ours, *(marks_of(p, corners, ours) for p in passages[1:])]
    compared = [
        _against(passages[0], p, corners, marks[0], m, drive, road)
        for p, m in zip(passages[1:], marks[1:], strict=True)
    ]
    return Comparison(passages[0], road, tuple(corners), tuple(compared))


def _prepare(lap: Lap, origin: object) -> _Prepared:
    require_complete(lap.span, lap.log.source)
    motion = motion_of(lap)
    return _Prepared(lap, motion, fixes_of(lap, motion, origin))  # type: ignore[arg-type]


def _laid(prepared: _Prepared, road: Road) -> Passage:
    """A lap laid on the road."""
    sensed = None
    if prepared.fixes is None or road.path is None:
        sensed = sensed_curvature(prepared.lap, prepared.motion)
    name = f"{prepared.lap.log.source}, lap {prepared.lap.span.number}"
    alignment = align(name, prepared.motion, prepared.fixes, sensed, road)
    return passage_of(prepared.lap, prepared.motion, alignment)


def _corners(road: Road, passages: Sequence[Passage]) -> list[Corner]:
    """Bends that at least one lap does not take flat; the longest bend where all are flat."""
    bends = find_corners(road)
    asked = [c for c in bends if not all(is_flat(p, c) for p in passages)]
    if asked:
        return renumbered(asked)
    if bends:
        return renumbered([max(bends, key=lambda c: c.end_m - c.start_m)])
    slowest = float(road.grid_m[int(np.argmin(road.speed_mps))])
    return [Corner(1, "unknown", max(slowest - 20.0, 0.0), slowest, min(slowest + 20.0, road.length_m))]


def _against(
    reference: Passage,
    lap: Passage,
    corners: list[Corner],
    ours: list[Marks],
    theirs: list[Marks],
    drive: Drive,
    road: Road,
) -> LapComparison:
    """One lap against the reference."""
    length = reference.motion.length_m
    windows = windows_of(corners, ours, theirs, length)
    losses = tuple(
        _corner_loss(reference, lap, c, w, (a, b), drive, road)
        for c, w, a, b in zip(corners, windows, ours, theirs, strict=True)
    )
    trace = np.linspace(0.0, length, int(np.ceil(length / TRACE_M)) + 1)
    gap = gap_at(reference, lap, trace)
    total = lap.lap.span.time_s - reference.lap.span.time_s
    return LapComparison(lap, total, trace, gap, _sectors(reference, lap), losses)


def gap_at(reference: Passage, lap: Passage, place_m: FloatArray) -> FloatArray:
    """Running gap at places, seconds: lap time so far minus the reference's, (n,)."""
    return lap.time_at(place_m) - reference.time_at(place_m)


def gap_over(reference: Passage, lap: Passage, span: Span) -> float:
    """Change of the running gap over a piece of the axis, seconds."""
    ends = gap_at(reference, lap, np.array([span.start_m, span.end_m]))
    return float(ends[1] - ends[0])


def _sectors(reference: Passage, lap: Passage) -> tuple[SectorTime, ...]:
    """Thirds of the lap."""
    bounds = np.linspace(0.0, reference.motion.length_m, SECTORS + 1)
    times = [np.diff(p.time_at(bounds)) for p in (reference, lap)]
    return tuple(
        SectorTime(i + 1, Span(float(bounds[i]), float(bounds[i + 1])), float(times[0][i]), float(times[1][i]))
        for i in range(SECTORS)
    )


def _corner_loss(
    reference: Passage, lap: Passage, corner: Corner, window: Span, marks: tuple[Marks, Marks], drive: Drive, road: Road
) -> CornerLoss:
    """Gap, phases and findings of one window."""
    gap = gap_over(reference, lap, window)
    phases = phases_of(window, corner, *marks)
    losses = tuple(PhaseLoss(p, gap_over(reference, lap, p)) for p in phases)
    cells = Cells.over(window)
    profiles = profiles_of((reference, lap), marks, window, cells, drive, road)
    hybrids = Hybrids(cells, profiles)
    shares, _ = shapley(hybrids)
    sigma = _sigma_s(reference, lap, window)
    pace_sigma = _pace_sigma(reference, lap, corner, road)
    pair = Pair(
        marks,
        profiles,
        hybrids.common_m,
        *_end_speeds(reference, lap, window),
        _coasts(reference, lap, marks),
        window.start_m,
        window.end_m,
        lap.alignment.sigma_m,
        pace_sigma,
        _speed_sigma(reference, lap, corner, road),
    )
    findings = tuple(
        findings_of(pair, shares, gap, float(np.hypot(sigma, 0.5 * pace_sigma * _turning_s(reference, corner))))
    )
    rest = gap - sum(f.loss_s for f in findings)
    return CornerLoss(corner, window, gap, sigma, losses, marks[0], marks[1], findings, rest)


def _pace_sigma(reference: Passage, lap: Passage, corner: Corner, road: Road) -> float:
    """Relative standard deviation of a speed along the axis in a bend: of the offset, and of an inferred speed."""
    offset = lap.alignment.offset_sigma_m * float(abs(road.curvature_at(np.array([corner.apex_m]))[0]))
    return float(np.hypot(offset, _speed_sigma(reference, lap, corner, road)))


def _speed_sigma(reference: Passage, lap: Passage, corner: Corner, road: Road) -> float:
    """Relative standard deviation of a speed that was not logged, 0 for a logged one."""
    if not (lap.motion.inferred or reference.motion.inferred):
        return 0.0
    return INFERRED_PER_S * road.noise_m / max(float(reference.speed_at(corner.apex_m)), 5.0)


def _turning_s(reference: Passage, corner: Corner) -> float:
    """Seconds the reference takes through the bend itself."""
    ends = reference.time_at(np.array([corner.start_m, corner.end_m]))
    return float(ends[1] - ends[0])


def _end_speeds(reference: Passage, lap: Passage, window: Span) -> tuple[tuple[float, float], tuple[float, float]]:
    """Speeds at the reference's scale at the beginning and the end of a window, m/s."""
    pairs = [
        tuple(float(p.speed_at(place)) * p.alignment.scale for p in (reference, lap))
        for place in (window.start_m + 2.0, window.end_m - 2.0)
    ]
    return (pairs[0][0], pairs[0][1]), (pairs[1][0], pairs[1][1])


def _coasts(reference: Passage, lap: Passage, marks: tuple[Marks, Marks]) -> tuple[float, float]:
    """Seconds on neither pedal of both laps, up to the reference's pick-up point at most."""
    limit = marks[0].throttle_on_m
    out = []
    for passage, own in zip((reference, lap), marks, strict=True):
        start = own.slowing_m
        ends = [m for m in (own.throttle_on_m, limit) if m is not None]
        if start is None or not ends:
            out.append(0.0)
            continue
        out.append(coasting_s(passage, float(passage.time_at(start)), float(passage.time_at(min(ends)))))
    return out[0], out[1]


def _sigma_s(reference: Passage, lap: Passage, window: Span) -> float:
    """Standard deviation of the window's gap from the error of the alignment at its ends."""
    length = reference.motion.length_m
    ends = [(p, float(reference.speed_at(p))) for p in (window.start_m, window.end_m) if 0.0 < p < length]
    return float(np.sqrt(sum((lap.alignment.sigma_m / max(v, 3.0)) ** 2 for _, v in ends)))
