"""The losses of every corner from two laps on one axis."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.hybrids.driven import driven_of
from jete.core.causes.hybrids.hybrid import FACTORS, Hybrids
from jete.core.causes.hybrids.stretches import Stretches
from jete.core.causes.kinds import Factor
from jete.core.causes.profiles.cells import Cells
from jete.core.causes.profiles.take_apart import profiles_of
from jete.core.causes.verdict.chains import carried, only_gains
from jete.core.causes.verdict.doubt import doubts_of
from jete.core.causes.verdict.findings import Along, findings_of
from jete.core.causes.verdict.moved import moved_of, together
from jete.core.causes.verdict.overshot import LEAST_LOST_S, overshot, with_overshot
from jete.core.causes.verdict.pair import Pair
from jete.core.causes.verdict.result import CornerLoss, LapComparison, PhaseLoss, SectorTime
from jete.core.driving.windows import PhaseName, PhaseSpan, Span, phases_of, windows_of
from jete.core.log.torn import torn_in
from jete.core.numeric.shapley import shares_of

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.axis.road.road import Road
    from jete.core.causes.profiles.profile import Profile
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.pair import LineSeen, Moved
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.vehicle import Drive

# The contract asks for points no more than 5 m apart.
TRACE_M = 5.0
# Thirds, where the circuit has no sectors of its own.
SECTORS = 3
# In so many metres past the pick-up a throttle is fed.
FED_M = 25.0
# Positions whose lasting error is less show a line: 0.15 m makes 0.3 km/h of a bend with a radius of 40 m.
SHOWS_LINE_M = 0.15


@dataclass(frozen=True, eq=False)
class Held:
    """What laps are held against: the reference's passage and marks, its road, corners and vehicle."""

    passage: Passage
    marks: Sequence[Marks]
    road: Road
    corners: Sequence[Corner]
    drive: Drive
    sectors_m: tuple[float, ...] = ()


def losses_of(reference: Held, lap: Passage, theirs: Sequence[Marks]) -> LapComparison:
    """One lap, with its marks at the reference's corners, against the reference."""
    ours, length = reference.passage, reference.passage.motion.length_m
    trace = np.linspace(0.0, length, int(np.ceil(length / TRACE_M)) + 1)
    return LapComparison(
        passage=lap,
        gap_s=lap.lap.span.time_s - ours.lap.span.time_s,
        sigma_s=_lap_sigma_s(reference, lap),
        trace_m=trace,
        trace_s=gap_at(ours, lap, trace),
        sectors=_sectors(ours, lap, reference.sectors_m),
        corners=_corners_of(reference, lap, theirs),
    )


def _corners_of(reference: Held, lap: Passage, theirs: Sequence[Marks]) -> tuple[CornerLoss, ...]:
    """What each corner of a lap cost, and why: windows, profiles, hybrids, pairs of marks, and then corner by corner."""
    windows = windows_of(reference.corners, reference.marks, theirs, reference.passage.motion.length_m)
    cells = Cells.over(windows)
    laps = (reference.passage, lap)
    profiles = profiles_of(laps, (reference.marks, theirs), windows, cells, reference.drive, reference.road)
    pieces = _pieces(reference, lap, theirs, windows)
    stretches = Stretches.between(cells, _marks_between(profiles, [[p.span for p in phases] for _, phases in pieces]))
    hybrids = Hybrids(stretches, profiles)
    seen = _Stretched.of(reference, lap, hybrids, stretches)
    pairs = _pairs(reference, lap, theirs, windows, hybrids, seen.misfits_s)
    gains = zip(*(only_gains(p, cells).tolist() for p in profiles), strict=True)
    silent = _silent(laps, windows)
    return tuple(
        _corner_loss(pair, corner, window, piece, [] if mute else _found(pair, seen, i, piece[1], gained))
        for i, (pair, corner, window, piece, gained, mute) in enumerate(
            zip(pairs, reference.corners, windows, pieces, gains, silent, strict=True)
        )
    )


@dataclass(frozen=True, eq=False, kw_only=True)
class _Stretched:
    """Seconds on the stretches (c, S) of every window: by each hybrid (2, …, 2, c, S), as measured, and their doubt (c, S, S)."""

    edges_m: FloatArray
    times_s: FloatArray
    gaps_s: FloatArray
    covariances: FloatArray

    @classmethod
    def of(cls, reference: Held, lap: Passage, hybrids: Hybrids, stretches: Stretches) -> _Stretched:
        """What both laps and all that lies between them took."""
        edges = stretches.edges_m
        return cls(
            edges_m=edges,
            times_s=hybrids.times_s(),
            gaps_s=np.diff(gap_at(reference.passage, lap, edges), axis=1),
            covariances=lap.alignment.spread.gap_covariance(edges, reference.road.pace_at(edges)),
        )

    @property
    def misfits_s(self) -> FloatArray:
        """What both laps' own profiles miss of the gap, (c, S)."""
        whole = len(FACTORS)
        return np.asarray(self.times_s[(1,) * whole] - self.times_s[(0,) * whole] - self.gaps_s)


def _pairs(
    reference: Held,
    lap: Passage,
    theirs: Sequence[Marks],
    windows: Sequence[Span],
    hybrids: Hybrids,
    misfits_s: FloatArray,
) -> list[Pair]:
    """Both laps at each corner."""
    laps, profiles = (reference.passage, lap), hybrids.profiles
    doubts = doubts_of(laps, reference.road, reference.corners, windows, profiles[0].anchors)
    driven, line = driven_of(laps, (reference.marks, theirs), windows, hybrids), _line_seen(lap)
    shifts = zip(hybrids.brake_shift_m.tolist(), hybrids.down_shift_m.tolist(), strict=True)
    return [
        Pair(
            marks=(reference.marks[i], theirs[i]),
            anchors=(profiles[0].anchors[i], profiles[1].anchors[i]),
            brake_shift_m=brake_m,
            down_shift_m=down_m,
            driven=driven[i],
            start_m=window.start_m,
            end_m=window.end_m,
            doubt=doubts[i],
            misfit_s=misfits_s[i],
            line=line,
            scale=lap.alignment.speed_scale,
        )
        for i, (window, (brake_m, down_m)) in enumerate(zip(windows, shifts, strict=True))
    ]


def _found(
    pair: Pair, seen: _Stretched, i: int, phases: Sequence[PhaseLoss], gained: tuple[bool, bool]
) -> list[Finding]:
    """The causes at the corner of index ``i``; ``gained`` is whether each lap only gains speed through it."""
    moved, shares = _shares(seen.times_s[..., i, :], pair)
    if moved[Factor.ARRIVAL].beyond_scatter:
        shares = carried(shares, pair.driven, gained)
    within = _phases_within([p.span for p in phases], seen.edges_m[i])
    return findings_of(pair, moved, shares, Along(seen.gaps_s[i], seen.covariances[i], within))


def _silent(laps: tuple[Passage, Passage], windows: Sequence[Span]) -> list[bool]:
    """The windows in which nothing can be told: samples too far apart, or a log that is torn there."""
    torn = [*torn_places(laps[0]), *torn_places(laps[1])]
    coarse = laps[0].coarse or laps[1].coarse
    return [coarse or _torn_over(window, torn) for window in windows]


def _lap_sigma_s(reference: Held, lap: Passage) -> float:
    """Standard deviation of the whole gap, from how the line was found."""
    ends = np.array([[0.0], [reference.road.length_m]])
    v = reference.road.speed_mps[[0, -1]][:, None]
    return float(lap.alignment.spread.change(ends[0], ends[1], v[0], v[1])[0])


def _pieces(
    reference: Held, lap: Passage, theirs: Sequence[Marks], windows: Sequence[Span]
) -> list[tuple[float, tuple[PhaseLoss, ...]]]:
    """The gap of each window, and of each of its phases."""
    phases = [
        phases_of(w, c, a, b) for w, c, a, b in zip(windows, reference.corners, reference.marks, theirs, strict=True)
    ]
    gaps = iter(_gaps_over(reference.passage, lap, [*windows, *itertools.chain.from_iterable(phases)]))
    whole = [next(gaps) for _ in windows]
    return [(gap, tuple(PhaseLoss(p, next(gaps)) for p in group)) for gap, group in zip(whole, phases, strict=True)]


def gap_at(reference: Passage, lap: Passage, place_m: FloatArray) -> FloatArray:
    """Running gap at places, seconds: lap time so far minus the reference's, (n,)."""
    return lap.time_at(place_m) - reference.time_at(place_m)


def _gaps_over(reference: Passage, lap: Passage, spans: Sequence[Span]) -> list[float]:
    """Change of the running gap over each piece of the axis, seconds."""
    ends = np.array([[s.start_m, s.end_m] for s in spans])
    change: list[float] = np.diff(gap_at(reference, lap, ends), axis=1)[:, 0].tolist()
    return change


def _sectors(reference: Passage, lap: Passage, begins_m: Sequence[float]) -> tuple[SectorTime, ...]:
    """The circuit's sectors, from where each begins after the first; thirds of the lap where it has none."""
    length = reference.motion.length_m
    inside = sorted(b for b in begins_m if 0.0 < b < length)
    bounds = np.array([0.0, *inside, length]) if inside else np.linspace(0.0, length, SECTORS + 1)
    times = [np.diff(p.time_at(bounds)) for p in (reference, lap)]
    return tuple(
        SectorTime(i + 1, Span(float(bounds[i]), float(bounds[i + 1])), float(times[0][i]), float(times[1][i]))
        for i in range(len(bounds) - 1)
    )


def _line_seen(lap: Passage) -> LineSeen:
    """Whether the lap's line was seen by positions, by such whose error lasts, or not."""
    errors = lap.alignment.errors
    if lap.alignment.method != "position" or errors is None:
        return "unseen"
    lasting_m = max(errors.drift_m, errors.white_m if errors.filter_s > 0.0 else 0.0)
    return "doubtful" if lasting_m > SHOWS_LINE_M else "seen"


def torn_places(passage: Passage) -> list[tuple[float, float, str]]:
    """Where on the axis a lap's log says nothing of driving, from and to, metres, and why."""
    span = passage.lap.span
    return [
        (
            passage.place_of(max(t.start_s - span.start_s, 0.0)),
            passage.place_of(min(t.end_s - span.start_s, span.time_s)),
            t.what,
        )
        for t in torn_in(passage.lap.log, span)
    ]


def _torn_over(window: Span, torn: Sequence[tuple[float, float, str]]) -> bool:
    return any(start < window.end_m and end > window.start_m for start, end, _ in torn)


def _corner_loss(
    pair: Pair,
    corner: Corner,
    window: Span,
    piece: tuple[float, tuple[PhaseLoss, ...]],
    findings: list[Finding],
) -> CornerLoss:
    """The findings of one window, and what they leave unexplained of its gap."""
    gap_s, phases = piece
    rest = gap_s - sum(f.loss_s for f in findings)
    reference, lap = pair.driven.leaving_mps
    ends = 3.6 * reference, 3.6 * lap / pair.scale
    return CornerLoss(
        corner=corner,
        window=window,
        gap_s=gap_s,
        sigma_s=pair.doubt.gap_s,
        phases=phases,
        reference_marks=pair.marks[0],
        lap_marks=pair.marks[1],
        findings=tuple(findings),
        unexplained_s=rest,
        end_kmh=ends,
    )


def _shares(times_s: FloatArray, pair: Pair) -> tuple[dict[Factor, Moved], dict[Factor, FloatArray]]:
    """How far each mark has moved, and the seconds on each stretch, (S,), of those that have, with what goes along.

    Where a lap ran on past the apex and lost by that, that is all that is told of the corner.
    """
    moved, ran_on = moved_of(pair), overshot(pair)
    if ran_on is not None:
        overshooting = with_overshot(moved, ran_on)
        shares = _shares_of(times_s, overshooting)
        if shares[Factor.BRAKE_POINT].sum() >= LEAST_LOST_S:
            return overshooting, shares
    return moved, _shares_of(times_s, moved)


def _shares_of(times_s: FloatArray, moved: Mapping[Factor, Moved]) -> dict[Factor, FloatArray]:
    """Seconds on each stretch of every factor whose mark has moved, with those that go along; (S,) each."""
    groups = together(moved)
    players = [tuple(FACTORS.index(f) for f in group) for group in groups.values()]
    idle = tuple(k for k in range(len(FACTORS)) if not any(k in p for p in players))
    values = shares_of(times_s, (*players, idle) if idle else tuple(players))
    return dict(zip(groups, values, strict=False))


def _marks_between(profiles: tuple[Profile, Profile], phases: Sequence[Sequence[PhaseSpan]]) -> FloatArray:
    """What stretches lie between, (c, 8): the marks of both laps and the borders of the phases."""
    brake, slowed, pickup = (
        np.sort([p.each(n) for p in profiles], axis=0) for n in ("brake_m", "slowed_m", "pickup_m")
    )
    fed = pickup[1] + FED_M
    borders = np.array([([s.end_m for s in spans[:-1]] + 4 * [spans[-1].end_m])[:4] for spans in phases])
    return np.sort(np.column_stack([brake[0], slowed[0], pickup[0], pickup[1], fed, borders]), axis=1)


def _phases_within(spans: Sequence[PhaseSpan], ends_m: FloatArray) -> list[PhaseName]:
    """The phase in which the middle of each stretch lies."""
    middles = 0.5 * (ends_m[1:] + ends_m[:-1])
    k = np.searchsorted([s.end_m for s in spans[:-1]], middles)
    return [spans[i].phase for i in k.tolist()]
