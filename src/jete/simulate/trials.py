"""Pairs of logs with known truth, drawn from a seed: what the program is measured against."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jete.core.log.lap import Log
from jete.simulate.circuit import Circuit, draw
from jete.simulate.driver import FAULT_KINDS, Fault, LapPlan, Style, Trace, TrueCorner, drive
from jete.simulate.lines import Line, draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import draw_vehicle

FloatArray = NDArray[np.float64]

SIZES = {
    "early_braking": (8.0, 22.0),
    "late_braking": (4.0, 10.0),
    "soft_braking": (0.12, 0.3),
    "hard_braking": (0.08, 0.14),
    "overslowing": (3.0, 9.0),
    "more_speed": (1.5, 3.0),
    "coasting": (0.35, 1.0),
    "late_throttle": (8.0, 25.0),
    "early_throttle": (3.0, 6.0),
    "throttle_hesitation": (0.3, 0.7),
    "slow_exit": (0.1, 0.3),
    "fast_exit": (0.05, 0.12),
}


@dataclass(frozen=True, eq=False)
class TrueFault:
    """A fault and the lap without it, for its cost by leave-one-out (negative: it gained).

    ``other`` is the lap without the other fault of its corner, and without both; None where it is the only one.
    """

    fault: Fault
    lap: Trace
    without: Trace
    other: tuple[Trace, Trace] | None = None

    @property
    def cost_s(self) -> float:
        """Cost over the whole lap, seconds."""
        return self.lap.lap_time_s(1) - self.without.lap_time_s(1)

    def cost_between_s(self, start_m: float, end_m: float) -> float:
        """Cost between two stations of the lap, seconds: the rest is carried on."""
        return _took_s(self.lap, start_m, end_m) - _took_s(self.without, start_m, end_m)

    def share_between_s(self, start_m: float, end_m: float) -> float:
        """Mean cost between two stations of committing it first and of committing it last, seconds.

        The shares of two faults of one corner add up to what both cost, which their costs by leave-one-out need not
        (Shapley: :mod:`jete.core.numeric.shapley`).
        """
        last = self.cost_between_s(start_m, end_m)
        if self.other is None:
            return last
        return 0.5 * (last + _took_s(self.other[0], start_m, end_m) - _took_s(self.other[1], start_m, end_m))


def _took_s(trace: Trace, start_m: float, end_m: float) -> float:
    return float(np.diff(trace.time_at_s(1, np.array([start_m, end_m])))[0])


@dataclass(frozen=True, eq=False)
class Trial:
    """A reference log and a lap's log, each of one whole lap, and what is true of them."""

    seed: int
    circuit: Circuit
    reference: Log
    lap: Log
    reference_trace: Trace
    lap_trace: Trace
    reference_line: Line
    lap_line: Line
    scales: tuple[float, float]
    faults: tuple[TrueFault, ...]

    @property
    def reference_scale(self) -> float:
        """Of the reference's odometer."""
        return self.scales[0]

    def logged(self, settings: LoggerSettings) -> Trial:
        """The same laps by another logger."""
        traces, lines = (self.reference_trace, self.lap_trace), (self.reference_line, self.lap_line)
        reference, lap = recorded(traces, lines, self.scales, settings, self.seed)
        return replace(self, reference=reference, lap=lap)

    def axis_m(self, station_m: FloatArray | float) -> FloatArray:
        """The reference log's own distance at stations of the road."""
        grid = np.append(self.circuit.station_m, self.circuit.length_m)
        return np.asarray(np.interp(station_m, grid, self.reference_line.along_m()) * self.reference_scale)

    def station_m(self, axis_m: FloatArray | float) -> FloatArray:
        """Stations of the road at places of the reference log's own distance."""
        stations = np.append(self.circuit.station_m, self.circuit.length_m)
        return np.asarray(np.interp(axis_m, self.axis_m(stations), stations))

    def gap_s(self, station_m: FloatArray) -> FloatArray:
        """True running gap at stations."""
        return self.lap_trace.time_at_s(1, station_m) - self.reference_trace.time_at_s(1, station_m)

    def corners(self, which: str) -> list[TrueCorner]:
        """True marks of the ``reference`` or the ``lap``."""
        trace = self.reference_trace if which == "reference" else self.lap_trace
        return [c for c in trace.corners if c.lap == 1]


def draw_trial(seed: int, settings: LoggerSettings | None = None, *, faults: int | None = None) -> Trial:
    """Draw a pair: circuit, vehicle, lines, odometers, and up to four faults apart from each other."""
    settings = settings or LoggerSettings()
    rng = np.random.default_rng([seed, 77])
    circuit, vehicle = draw(seed), draw_vehicle(seed)
    style = Style(
        corner_share=float(rng.uniform(0.85, 0.95)),
        brake_share=float(rng.uniform(0.8, 0.9)),
        hold_s=float(rng.uniform(0.35, 0.7)),
    )
    reference = drive(circuit, vehicle, [LapPlan()] * 3, style)
    chosen = _draw_faults(reference, rng, 4 if faults is None else faults)

    def driven(these: tuple[Fault, ...]) -> Trace:
        return drive(circuit, vehicle, [LapPlan(), LapPlan(these), LapPlan()], style)

    lap = driven(chosen)
    true = tuple(TrueFault(f, lap, driven(tuple(g for g in chosen if g != f))) for f in chosen)
    lines = (draw_line(circuit, 1000 * seed + 1), draw_line(circuit, 1000 * seed + 2))
    scales = float(rng.uniform(0.99, 1.01)), float(rng.uniform(0.99, 1.01))
    logs = recorded((reference, lap), lines, scales, settings, seed)
    return Trial(seed, circuit, logs[0], logs[1], reference, lap, *lines, scales, true)


def recorded(
    traces: tuple[Trace, Trace],
    lines: tuple[Line, Line],
    scales: tuple[float, float],
    settings: LoggerSettings,
    seed: int,
) -> tuple[Log, Log]:
    """The logs of a reference and a lap, one whole lap each, with an odometer's scale of their own."""

    def log(k: int, name: str) -> Log:
        return record(traces[k], lines[k], replace(settings, odometer_scale=scales[k]), 10 * seed + k, (1, 2), name)

    return log(0, "reference.csv"), log(1, "lap.csv")


def _draw_faults(reference: Trace, rng: np.random.Generator, count: int) -> tuple[Fault, ...]:
    """Faults at corners that are braked for, none next to another."""
    braked = [c.corner for c in reference.corners if c.lap == 1 and not c.flat and c.brake_on_m is not None]
    chosen: list[Fault] = []
    for corner in rng.permutation(braked):
        if len(chosen) == count:
            break
        if any(abs(corner - f.corner) < 2 for f in chosen):
            continue
        kind = str(rng.choice(FAULT_KINDS))
        chosen.append(Fault(kind, int(corner), float(rng.uniform(*SIZES[kind]))))
    return tuple(chosen)
