"""One pass of one corner as numbers that can be compared over runs, days and drivers.

Every pass of a circuit is timed between the same places, and its marks stand on the circuit's
axis, so that passes of other references and other days lie on each other.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.circuit.drawn import line_of
from jete.core.circuit.mean_path import left_of_m
from jete.core.compare import compare
from jete.core.driving.technique import technique_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner, CornerId
    from jete.core.causes.verdict.result import Comparison, CornerLoss
    from jete.core.circuit.mean_path import CircuitRoad
    from jete.core.driving.passage import Passage
    from jete.core.log.lap import Lap

# Of the method: passes that an earlier one made are made anew.
VERSION: Final = 5
# Others brake earlier than the lap the circuit is known by; so far before its slowing a pass begins.
AHEAD_M = 60.0


@dataclass(frozen=True, kw_only=True)
class Pass:
    """One pass; places in metres of the circuit's axis, None where there is no such mark.

    Attributes:
        corner: id of the corner.
        window_s: from where passes begin to the corner's end.
        whole_s: the same with the straight after it, to where the next corner's passes begin.
        brushes: how often the brake was pressed.
        apex_off_m: metres left of the mean path at the apex.
        exit_off_m: the same at the corner's end.
        entry_off_m: the same where the lap begins to slow.
        causes: kind and seconds against the lap that the circuit is known by.
        sigma_s: standard deviation of ``whole_s``.
    """

    corner: CornerId
    window_s: float
    whole_s: float
    sigma_s: float
    brake_on_m: float | None
    brake_peak: float | None
    turn_in_m: float | None
    slow_point_m: float
    min_speed_kmh: float
    throttle_on_m: float | None
    full_throttle_m: float | None
    exit_speed_kmh: float
    gear: int | None
    brushes: int
    apex_off_m: float | None
    exit_off_m: float | None
    entry_off_m: float | None = None
    causes: tuple[tuple[str, float], ...] = ()


def passes_of(
    founder: Lap, laps: Sequence[Lap], corners: Sequence[Corner], road: CircuitRoad
) -> list[tuple[Pass, ...]]:
    """The passes of laps, all corners of one lap in order.

    Args:
        founder: the lap that the circuit is known by.
        laps: to be taken apart.
        corners: of the circuit, on the founder's axis, with ids.
        road: of the circuit.

    Raises:
        InputError: a lap of another circuit, layout or direction.
    """
    comparison = compare(founder, laps, corners)
    borders = borders_m(comparison)
    out = []
    for lap in comparison.laps:
        beside = _beside(road, lap.passage)
        ends = np.array([c.corner.end_m for c in lap.corners])
        times = lap.passage.time_at(borders), lap.passage.time_at(ends)
        made = [_pass(c, k, lap.passage, times, road, beside) for k, c in enumerate(lap.corners)]
        out.append(tuple(made))
    return out


def borders_m(comparison: Comparison) -> FloatArray:
    """Where passes begin and the last one ends, by the founder alone, metres of its axis, (c + 1,)."""
    corners = comparison.laps[0].corners
    starts = [max(_before(corners[0]), 0.0)]
    for ahead, here in itertools.pairwise(corners):
        starts.append(max(_before(here), ahead.corner.end_m, starts[-1] + 1.0))
    return np.array([*starts, comparison.road.length_m])


def _before(loss: CornerLoss) -> float:
    """A little before the founder begins to slow for a corner."""
    slows = loss.reference_marks.slowing_m
    return (loss.corner.start_m if slows is None else min(slows, loss.corner.start_m)) - AHEAD_M


def _beside(road: CircuitRoad, passage: Passage) -> FloatArray | None:
    """Metres left of the mean path at the road's places, (n,); None without positions."""
    line = None if road.schematic else line_of(passage, road.origin, road.founder_m)
    return None if line is None else np.asarray(left_of_m(line, road.founder_xy_m) - road.mean_m)


def _pass(
    loss: CornerLoss, k: int, passage: Passage, times: tuple[FloatArray, FloatArray], road: CircuitRoad, beside: FloatArray | None
) -> Pass:  # fmt: skip
    marks, corner = loss.lap_marks, loss.corner
    begins, leaves = float(times[0][k]), float(times[1][k])

    def at(place: float | None) -> float | None:
        return None if place is None else round(float(np.interp(place, road.founder_m, road.circuit_m)), 2)

    def off(place: float) -> float | None:
        return None if beside is None else round(float(np.interp(place, road.founder_m, beside)), 2)

    return Pass(
        corner=corner.lasting, window_s=leaves - begins, whole_s=float(times[0][k + 1]) - begins, sigma_s=loss.sigma_s,
        brake_on_m=at(marks.brake_on_m), brake_peak=marks.brake_peak, turn_in_m=at(marks.turn_in_m), slow_point_m=at(marks.slow_point_m) or 0.0, min_speed_kmh=marks.min_speed_kmh,
        throttle_on_m=at(marks.throttle_on_m), full_throttle_m=at(marks.full_throttle_m), exit_speed_kmh=marks.exit_speed_kmh, gear=marks.gear,
        brushes=technique_of(passage, corner, marks).brake_applications, apex_off_m=off(corner.apex_m), exit_off_m=off(corner.end_m),
        entry_off_m=off(corner.start_m if marks.slowing_m is None else min(marks.slowing_m, corner.start_m)),
        causes=tuple((str(f.kind), round(f.loss_s, 4)) for f in loss.findings),
    )  # fmt: skip
