"""Paths beside the centre line: smooth lateral offsets drawn from a seed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jete.simulate.circuit import Circuit

FloatArray = NDArray[np.float64]


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
