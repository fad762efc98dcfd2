"""How sure what is measured at each corner is: places, marks, speeds and costs.

An error of place is the doubt of a gap and of the length between two marks; a mark is seen no better than its samples lie apart; a speed that
was not logged has the doubt of the smoother it came from.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, inf, sqrt
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.positions.position_errors import UNKNOWN_S
from jete.core.causes.kinds import Factor
from jete.core.motion.motion import blur_s

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.axis.road.road import Road
    from jete.core.causes.profiles.anchors import Anchors
    from jete.core.driving.passage import Passage
    from jete.core.driving.pedals import Pedal
    from jete.core.driving.windows import Span

    Ends = dict[str, tuple[FloatArray, FloatArray]]

# How well an edge is seen between two samples, as a share of their step.
MARK_SHARE = 0.15
# How well an edge of an inferred pedal is seen, as a share of what blurs the acceleration.
BLUR_SHARES = {"brake": 0.06, "throttle": 0.4}
# A vehicle is about slowest for so long.
SLOWEST_LASTS_S = 1.0
# A relative error of a shorter braking says nothing.
SHORTEST_SLOWING_M = 5.0


@dataclass(frozen=True, kw_only=True)
class Doubt:
    """Standard deviations at one corner.

    Of the distance between the brake points and between the pick-ups, of the mean
    deceleration and of a speed along the axis in the bend (both relative), of a difference of
    the speeds at both ends of the window, of the seconds on neither pedal, of its gap, and of what an edge
    seen wrong makes of the cost of each factor of :mod:`jete.core.causes.hybrids.hybrid`.
    """

    brake_m: float
    pickup_m: float
    braking: float
    pace: float
    ends_mps: tuple[float, float]
    coast_s: float
    gap_s: float
    cost_s: dict[Factor, float]


def doubts_of(
    passages: tuple[Passage, Passage],
    road: Road,
    corners: Sequence[Corner],
    windows: Sequence[Span],
    anchors: Sequence[Anchors],
) -> list[Doubt]:
    """Doubts of a lap at all corners.

    Args:
        passages: of the reference and of the lap.
        road: of the reference.
        corners: of the road, (c).
        windows: of the pair at each corner.
        anchors: of the reference at each corner.
    """
    brake, slowed, pickup = np.array([[a.brake_m, a.slowed_m, a.pickup_m] for a in anchors]).T
    bend = np.array([[c.start_m, c.end_m] for c in corners]).T
    window = np.array([[w.start_m, w.end_m] for w in windows]).T
    line = np.zeros_like(brake)
    lengths = {"turn": (bend[0], bend[1]), "brake": (line, brake), "pickup": (line, pickup)}
    change = _changes(passages[1], road, (window[0], window[1]), lengths)
    turn = change["turn"] / np.maximum(bend[1] - bend[0], 1.0)
    inferred = _speeds(passages, road, corners)
    brake_step_m = _steps_m(passages, road, brake, "brake")
    brake_m = np.hypot(change["brake"], brake_step_m)
    pickup_m = np.hypot(change["pickup"], _steps_m(passages, road, pickup, "throttle"))
    # An edge seen wrong between two samples moves the brake point, not the end of the slowing.
    edge_s = brake_step_m / road.pace_at(brake)
    braked = _deceleration(road, (brake, slowed), brake_m, inferred, corners)
    costs = dict.fromkeys(Factor, np.zeros_like(edge_s)) | {Factor.BRAKE_POINT: edge_s, Factor.BRAKING: edge_s}
    ends = _ends_mps(passages, road, len(corners))
    coast_s = hypot(*(e for pedal in BLUR_SHARES for e in _edges_s(passages, pedal)))
    pace, gap_s = np.maximum(turn, inferred), change["window"]
    return [
        Doubt(
            brake_m=float(brake_m[i]),
            pickup_m=float(pickup_m[i]),
            braking=float(braked[i]),
            pace=float(pace[i]),
            ends_mps=ends[i],
            coast_s=coast_s,
            gap_s=float(gap_s[i]),
            cost_s={factor: float(cost[i]) for factor, cost in costs.items()},
        )
        for i in range(len(corners))
    ]


def _changes(lap: Passage, road: Road, window: tuple[FloatArray, FloatArray], lengths: Ends) -> dict[str, FloatArray]:
    """What the alignment may be off by: seconds of gap over the window, metres over each length; solved for at once."""
    ends = [np.concatenate([window[side], *(e[side] for e in lengths.values())]) for side in (0, 1)]
    timed = np.arange(len(ends[0])) < len(window[0])
    per = [np.where(timed, road.pace_at(at), 1.0) for at in ends]
    found = lap.alignment.spread.change(ends[0], ends[1], per[0], per[1]).reshape(1 + len(lengths), -1)
    return dict(zip(("window", *lengths), found, strict=True))


def _steps_m(passages: tuple[Passage, Passage], road: Road, at_m: FloatArray, pedal: str) -> FloatArray:
    """What samples, or an acceleration that a pedal was inferred from, leave open of the distance between two marks, (c,)."""
    return np.asarray(hypot(*_edges_s(passages, pedal)) * road.pace_at(at_m))


def _edges_s(passages: tuple[Passage, Passage], name: str) -> list[float]:
    """Standard deviations of an edge of a pedal in time, of both laps."""
    pedals: list[Pedal] = [getattr(p, name) for p in passages]
    blurred = [
        BLUR_SHARES[name] * blur_s(p.motion) if e.inferred else 0.0 for e, p in zip(pedals, passages, strict=True)
    ]
    return [hypot(MARK_SHARE * e.step_s, blur) for e, blur in zip(pedals, blurred, strict=True)]


def _speeds(passages: tuple[Passage, Passage], road: Road, corners: Sequence[Corner]) -> FloatArray:
    """Relative standard deviation at each corner of a speed that was not logged, 0 for a logged one, (c,)."""
    sigma = hypot(*_inferred_mps(passages, road))
    return np.asarray(sigma / road.pace_at(np.array([c.apex_m for c in corners])))


def _inferred_mps(passages: tuple[Passage, Passage], road: Road) -> list[float]:
    """Standard deviations of the speeds of both laps that were not logged, 0 for logged ones.

    What the smoother leaves, and how fast positions may drift that look surer than a plain receiver is: an error of d
    that lasts τ moves by d √(2 T/τ) within a short T.
    """
    out = []
    for passage, worth in zip(passages, (road.errors, passages[1].alignment.errors), strict=True):
        drifts = worth.unseen_m * sqrt(2.0 / (UNKNOWN_S * SLOWEST_LASTS_S)) if worth is not None else 0.0
        out.append(hypot(passage.motion.sigmas.speed_mps, drifts) if passage.motion.inferred else 0.0)
    return out


def _ends_mps(passages: tuple[Passage, Passage], road: Road, count: int) -> list[tuple[float, float]]:
    """Standard deviation of a difference of two speeds at both ends of each window, 0 for logged ones, (c).

    Where positions begin at the line, the speed there and the gap beyond it come from the same
    guess of the line: such a speed is no evidence of its own.
    """
    motions = [p.motion for p in passages]
    smoothed, inside = hypot(*(m.sigmas.speed_mps for m in motions)), hypot(*_inferred_mps(passages, road))
    first, last = (hypot(*(m.end_sigmas[side].speed_mps for m in motions)) for side in (0, 1))
    first, last = inf if first > smoothed else inside, sqrt(last**2 + inside**2 - smoothed**2)
    return list(zip([first, *[inside] * (count - 1)], [*[inside] * (count - 1), last], strict=True))


def _deceleration(
    road: Road,
    ends: tuple[FloatArray, FloatArray],
    brake_m: FloatArray,
    inferred: FloatArray,
    corners: Sequence[Corner],
) -> FloatArray:
    """Relative standard deviation of the mean deceleration between two places, (c,)."""
    fast, slow = (road.pace_at(at) for at in ends)
    apex = road.pace_at(np.array([c.apex_m for c in corners]))
    slowed_by = np.maximum(0.5 * (fast**2 - slow**2), 1.0)
    stretch = np.maximum(ends[1] - ends[0], SHORTEST_SLOWING_M)
    return np.asarray(np.hypot(inferred * apex * fast / slowed_by, brake_m / stretch))
