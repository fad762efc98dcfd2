"""What is drawn from above: the lines of the laps, the road's middle and edges, all at the places of one reference."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import hypot
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.positions.path import fixes_of
from jete.core.axis.road.sensor_path import led_path
from jete.core.circuit.mean_path import left_of_m, normals
from jete.core.circuit.schematic import schematic
from jete.core.log.plane import Origin, origin_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.road import Road
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.passage import Passage

# Finer than a vehicle is long.
STEP_M = 2.0
# Widened lines reach so much of the way to the middle of the tightest bend, its curvature taken over so many places.
FOLDS, SMOOTHED = 0.7, 5


@dataclass(frozen=True, eq=False)
class Drawn:
    """Lines at even places of a reference, ``place_m`` (n,); points are (n, 2) metres on the reference's plane.

    ``laps_xy_m`` are None for laps without positions; ``edges_m`` are the left and the right edge,
    ``told_edges`` whether people said where they are, else they are as far as laps were driven.
    Without positions everything lies on one ``schematic`` line.
    """

    place_m: FloatArray
    reference_xy_m: FloatArray
    laps_xy_m: tuple[FloatArray | None, ...]
    edges_m: tuple[FloatArray, FloatArray] | None
    told_edges: bool
    schematic: bool

    def beside_m(self, lap: int, place_m: float) -> float | None:
        """How far left of the reference's line a lap was at a place, metres; None without its line."""
        line = self.laps_xy_m[lap] if lap < len(self.laps_xy_m) else None
        if line is None or self.schematic:
            return None
        return float(np.interp(place_m, self.place_m, left_of_m(line, self.reference_xy_m)))

    def point(self, place_m: float, line: FloatArray | None = None) -> tuple[float, float]:
        """Where a place lies on a line, by default the reference's."""
        xy = self.reference_xy_m if line is None else line
        return float(np.interp(place_m, self.place_m, xy[:, 0])), float(np.interp(place_m, self.place_m, xy[:, 1]))

    def beside(self, place_m: float, side: str, out_m: float) -> tuple[float, float]:
        """A point so far outside the road's edge on a side, ``left`` or ``right``; on the reference's line for any other.

        Without edges it lies so far beside that line.
        """
        number = {"left": 0, "right": 1}.get(side)
        line = self.edges_m[number] if self.edges_m is not None and number is not None else None
        a, b = self.point(place_m - 1.0, line), self.point(place_m + 1.0, line)
        long = max(hypot(b[0] - a[0], b[1] - a[1]), 1e-6)
        out = {"left": out_m, "right": -out_m}.get(side, 0.0)
        return 0.5 * (a[0] + b[0]) - (b[1] - a[1]) / long * out, 0.5 * (a[1] + b[1]) + (b[0] - a[0]) / long * out

    def nearest_m(self, x_m: float, y_m: float, start_m: float, end_m: float) -> float:
        """The place between two that lies nearest to a point."""
        inside = np.flatnonzero((self.place_m >= start_m) & (self.place_m <= end_m))
        away = np.hypot(self.reference_xy_m[inside, 0] - x_m, self.reference_xy_m[inside, 1] - y_m)
        return float(self.place_m[inside[int(np.argmin(away))]]) if inside.size else start_m


def line_of(passage: Passage, origin: Origin | None, place_m: FloatArray) -> FloatArray | None:
    """A lap's own line at places of the axis (n,), (n, 2) metres on the plane of ``origin``; None without positions."""
    fixes = fixes_of(passage.lap, passage.motion, origin)
    if fixes is None:
        return None
    own = np.interp(place_m, passage.alignment.place_m, passage.motion.distance_m)
    return led_path(passage.lap, passage.motion, fixes)(own)


def drawn_of(reference: Passage, laps: Sequence[Passage], road: Road, circuit: CircuitOnAxis | None) -> Drawn:
    """The lines of a comparison.

    Args:
        reference: whose axis and plane it is.
        laps: on its axis.
        road: of the reference.
        circuit: on the same axis, where one is known.
    """
    place = np.linspace(0.0, road.length_m, max(round(road.length_m / STEP_M), 2) + 1)
    origin = origin_of(reference.lap.log)
    own = line_of(reference, origin, place)
    if own is None:
        return Drawn(place, schematic(place, road.curvature_at(place)), tuple(None for _ in laps), None, False, True)
    lines = tuple(line_of(p, origin, place) for p in laps)
    edges = None if circuit is None or origin is None else _edges(circuit, origin, place)
    return Drawn(place, own, lines, edges, circuit is not None and bool(circuit.book.edges), schematic=False)


def widened(drawn: Drawn, most: float, start_m: float, end_m: float) -> tuple[Drawn, float]:
    """The same lines with all that lies beside the road's middle drawn farther out, so that two lines can be told apart.

    Where the road turns tightest its inner edge must not fold over: there it is widened by less, and so everywhere.

    Args:
        drawn: to scale.
        most: how many times as far, at the most.
        start_m: of the piece that is looked at; the tightest bend is looked for there.
        end_m: its end.

    Returns:
        The lines, and how many times as far out they are; one for lines that have no road, or lie on a schematic one.
    """
    if drawn.edges_m is None or drawn.schematic:
        return drawn, 1.0
    middle = 0.5 * (drawn.edges_m[0] + drawn.edges_m[1])
    aside = normals(middle)
    inside = (drawn.place_m >= start_m) & (drawn.place_m <= end_m)
    half = 0.5 * float(np.max(np.hypot(*(drawn.edges_m[0] - drawn.edges_m[1])[inside].T), initial=0.0))
    heading = np.unwrap(np.arctan2(*np.gradient(middle, axis=0).T[::-1]))
    bend = np.abs(np.gradient(heading, drawn.place_m))
    tightest = float(np.max(np.convolve(bend, np.ones(SMOOTHED) / SMOOTHED, "same")[inside], initial=0.0))
    by = float(np.clip(FOLDS / max(tightest * half, 1e-6), 1.0, most))

    def out(line: FloatArray) -> FloatArray:
        return np.asarray(middle + by * np.sum((line - middle) * aside, axis=1)[:, None] * aside)

    wide = replace(
        drawn,
        reference_xy_m=out(drawn.reference_xy_m),
        laps_xy_m=tuple(None if line is None else out(line) for line in drawn.laps_xy_m),
        edges_m=(out(drawn.edges_m[0]), out(drawn.edges_m[1])),
    )
    return wide, by


def _edges(circuit: CircuitOnAxis, origin: Origin, place_m: FloatArray) -> tuple[FloatArray, FloatArray] | None:
    """The road's edges as people said, else as far as laps were driven; None where neither is known."""
    road = circuit.road
    if road.schematic or (road.origin.latitude_deg is None) != (origin.latitude_deg is None):
        return None
    path = road.origin.carried_to(origin, road.path_m())
    middle = np.stack([np.interp(place_m, circuit.reference_m, path[:, k]) for k in (0, 1)], axis=1)
    if circuit.book.edges:
        at, left, right = (np.array(v) for v in zip(*circuit.book.edges, strict=True))
        widths = np.interp(place_m, at, left), np.interp(place_m, at, right)
    elif road.laps > 1:
        widths = tuple(np.interp(place_m, circuit.reference_m, w) for w in road.driven_edges_m())  # type: ignore[assignment]
    else:
        return None
    aside = normals(middle)
    return middle + widths[0][:, None] * aside, middle - widths[1][:, None] * aside
