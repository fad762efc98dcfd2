"""Paths beside the centre line: smooth lateral offsets drawn from a seed, and lines through a corner that differ where it matters.

A line is a road of its own: shorter or longer, tighter or wider.  Who drives it as a road (``as_road``) is as quick as
it lets him be; laid back on the centre line (``on_centre``) two laps of different lines can be held against each other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from jete.simulate.circuit import STEP_M, Circuit, RoadCorner, away_m

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.simulate.driver import Trace, TrueCorner

FloatArray = NDArray[np.float64]


# How a corner may be gone through.
Shape = Literal["usual", "early", "late", "double", "tight"]
# Bells by shape: where along the corner (0 its start, 1 its end), and how far to the inside, metres. Out, in and out;
# with an early or a late apex, with two, or without the road at the exit.
SHAPES: dict[Shape, tuple[tuple[float, float], ...]] = {
    "usual": ((-0.15, -1.2), (0.5, 1.4), (1.15, -1.2)),
    "early": ((-0.35, -1.0), (0.25, 1.4), (1.15, -1.4)),
    "late": ((-0.15, -1.4), (0.72, 1.4), (1.25, -1.0)),
    "double": ((-0.15, -1.2), (0.25, 1.2), (0.75, 1.2), (1.15, -1.2)),
    "tight": ((-0.15, -1.2), (0.5, 1.4), (1.15, 0.6)),
}
# How wide a bell is, as a share of its corner, and at least.
BELL_SHARE, LEAST_BELL_M = 0.25, 14.0


@dataclass(frozen=True, eq=False)
class Line:
    """Lateral offset from the centre line over one lap, left positive, shape (n,) in metres."""

    circuit: Circuit
    offset_m: FloatArray

    def length_rate(self) -> FloatArray:
        """Metres of path per metre of centre line, shape (n,)."""
        step = self.circuit.length_m / len(self.offset_m)
        slope = (np.roll(self.offset_m, -1) - np.roll(self.offset_m, 1)) / (2 * step)
        return np.hypot(1.0 - self.circuit.curvature_1pm * self.offset_m, slope)

    def curvature_1pm(self) -> FloatArray:
        """Curvature of the path, (n,): the road's and the line's own."""
        circuit, n = self.circuit, self.offset_m
        step = circuit.length_m / len(circuit.station_m)
        bend = (np.roll(n, -1) - 2 * n + np.roll(n, 1)) / step**2
        return circuit.curvature_1pm / np.maximum(1.0 - circuit.curvature_1pm * n, 0.2) + bend

    def along_m(self) -> FloatArray:
        """Metres of path up to each metre of centre line and to the end of the lap, (n + 1,)."""
        rate = self.length_rate()
        step = self.circuit.length_m / len(rate)
        return np.concatenate([[0.0], np.cumsum(0.5 * (rate + np.roll(rate, -1)))]) * step

    def places(self, station_m: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Coordinates x, y in metres at running stations (any lap), shape (m,)."""
        c = self.circuit
        at = np.mod(station_m, c.length_m)
        grid = np.append(c.station_m, c.length_m)
        n = np.interp(at, grid, np.append(self.offset_m, self.offset_m[0]))
        x = np.interp(at, grid, np.append(c.x_m, c.x_m[0]))
        y = np.interp(at, grid, np.append(c.y_m, c.y_m[0]))
        turn = round((c.heading_rad[-1] - c.heading_rad[0]) / (2 * np.pi)) * 2 * np.pi
        psi = np.interp(at, grid, np.append(c.heading_rad, c.heading_rad[0] + turn))
        return x - n * np.sin(psi), y + n * np.cos(psi)


def draw_line(circuit: Circuit, seed: int, width_m: float = 1.5) -> Line:
    """Draw a line up to ``width_m`` from the centre; drivers agree more where it is tight."""
    rng = np.random.default_rng(seed)
    n = len(circuit.station_m)
    waves = np.zeros(n)
    for k in range(1, 16):
        amplitude, phase = rng.normal(0.0, 1.0), rng.uniform(0.0, 2 * np.pi)
        waves += amplitude * np.sin(2 * np.pi * k * np.arange(n) / n + phase)
    waves /= max(float(np.abs(waves).max()), 1e-9)
    tight = np.minimum(1.0, 0.02 / np.maximum(np.abs(circuit.curvature_1pm) * width_m, 1e-9))
    kernel = np.hanning(121) / np.hanning(121).sum()
    tight = np.convolve(np.concatenate([tight[-60:], tight, tight[:60]]), kernel, mode="valid")
    return Line(circuit, waves * width_m * tight)


def draw_shaped(circuit: Circuit, seed: int, shapes: Mapping[int, Shape], width_m: float = 0.4) -> Line:
    """A line that goes wide into each corner, to its inside, and wide out of it, as told by corner; wanders by ``width_m``."""
    offset = draw_line(circuit, seed, width_m).offset_m.copy()
    for corner in circuit.corners:
        offset = offset + _through(circuit, corner, shapes.get(corner.number, "usual"))
    return Line(circuit, offset)


def _through(circuit: Circuit, corner: RoadCorner, shape: Shape) -> FloatArray:
    """Offset of one corner, (n,): a sum of bells."""
    length = corner.end_m - corner.start_m
    inside = 1.0 if corner.direction == "left" else -1.0
    out = np.zeros(len(circuit.station_m))
    for share, metres in SHAPES[shape]:
        away = away_m(circuit.station_m, corner.start_m + share * length, circuit.length_m)
        out += inside * metres * np.exp(-0.5 * (away / max(BELL_SHARE * length, LEAST_BELL_M)) ** 2)
    return out


def as_road(line: Line) -> Circuit:
    """A line as a road of its own, on an even grid of its own metres."""
    c, along = line.circuit, line.along_m()
    length = float(along[-1])
    count = round(length / STEP_M)
    station = np.asarray(np.arange(count) * (length / count), dtype=np.float64)
    grid = np.append(c.station_m, c.length_m)
    centre = np.interp(station, along, grid)
    x, y = line.places(centre)
    ends = np.diff(np.append(x, x[0])), np.diff(np.append(y, y[0]))
    corners = tuple(
        RoadCorner(r.number, r.direction, *np.interp([r.start_m, r.apex_m, r.end_m], grid, along).tolist())
        for r in c.corners
    )
    curvature, height = (np.interp(centre, grid, np.append(v, v[0])) for v in (line.curvature_1pm(), c.height_m))
    heading = np.unwrap(np.arctan2(ends[1], ends[0]))
    return Circuit(c.name, length, station, curvature, x, y, heading, corners, height)


def on_centre(trace: Trace, line: Line) -> Trace:
    """What was driven on a line as a road, told over the centre line."""
    c, along = line.circuit, line.along_m()
    grid, own = np.append(c.station_m, c.length_m), trace.circuit.length_m

    def back(place_m: FloatArray | float) -> FloatArray:
        lap = np.floor(np.asarray(place_m) / own)
        return np.asarray(lap * c.length_m + np.interp(np.asarray(place_m) - lap * own, along, grid))

    def told(true: TrueCorner) -> TrueCorner:
        slow, pickup = back(np.array([true.slow_point_m, true.throttle_on_m])).tolist()
        brake = None if true.brake_on_m is None else float(back(true.brake_on_m))
        return replace(true, brake_on_m=brake, slow_point_m=slow, throttle_on_m=pickup)

    station = back(trace.station_m)
    rate = line.length_rate()
    per_metre = np.interp(np.mod(station, c.length_m), grid, np.append(rate, rate[0]))
    corners = tuple(told(t) for t in trace.corners)
    return replace(trace, circuit=c, station_m=station, speed_mps=trace.speed_mps / per_metre, corners=corners)
