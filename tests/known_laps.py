"""Laps, comparisons and CSV text from known pairs, for the tests."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from tempfile import mkdtemp

import numpy as np

from jete.core.causes.verdict.result import Comparison, CornerLoss
from jete.core.compare import compare
from jete.core.log.lap import Channel, Lap, Log, fastest
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.core.passes.passes import Pass
from jete.formats.reader import read_log
from jete.formats.writer import write_log
from jete.simulate.driver import Fault, LapPlan, Style, drive
from jete.simulate.feet_trials import Made, draw_feet_trial
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.trials import Trial, TrueFault, draw_trial
from jete.simulate.vehicle import CAR, Vehicle

# Factor from the inside unit to the one written, and its name.
WRITTEN = {
    "speed": (3.6, "km/h"),
    "throttle": (100.0, "%"),
    "brake": (1.0, "bar"),
    "steering": (180 / np.pi, "deg"),
    "yaw_rate": (180 / np.pi, "deg/s"),
    "acc_long": (1 / 9.80665, "g"),
    "acc_lat": (1 / 9.80665, "g"),
}


DEMO = Path(__file__).parents[1] / "src/jete/app/assets/demo"
# The first run of both of the demo's drivers, on one circuit in one car.
DEMO_PAIR = [DEMO / f"{name}-run-1.parquet" for name in ("ines-karlsby", "tomasz-oryel")]


@lru_cache(maxsize=1)
def short_run() -> Path:
    """Two laps (2 and 3) of the demo's first run as a file of their own: all that storage is tested with."""
    log = read_log(DEMO_PAIR[0])
    spans = {s.number: s for s in split(log)}
    start, end = spans[2].start_s - 5.0, spans[3].end_s + 3.0
    channels = {}
    for name, c in log.channels.items():
        inside = (c.time_s >= start) & (c.time_s <= end)
        channels[name] = Channel(c.name, c.unit, c.time_s[inside], c.value[inside])
    path = Path(mkdtemp(prefix="jete-short-")) / "ines-karlsby-run-1.parquet"
    write_log(path, Log(source=path.name, channels=channels))
    return path


# Pairs of one seed are drawn once in a process.
drawn = lru_cache(maxsize=24)(draw_trial)


@lru_cache(maxsize=4)
def with_feet(seed: int, made: Made) -> Trial:
    """A pair of a driver with feet, driven once; log it anew for each logger (``logged``)."""
    return draw_feet_trial(seed, made=made)


def lap_of(log: Log, line: object = None) -> Lap:
    return Lap(log, fastest(split(log, line), log.source))  # type: ignore[arg-type]


def compare_trial(trial: Trial) -> Comparison:
    return compare(lap_of(trial.reference), [lap_of(trial.lap, line_of(trial.reference))])


def rows_of(log: Log, names: tuple[str, ...] | None = None, every: int = 1) -> tuple[list[str], np.ndarray]:
    """Headings with units and a table of cells (NaN where empty) of a log."""
    clock = log.channels["time"].time_s
    heads, columns = [], []
    for name in names or tuple(log.channels):
        channel = log.channels[name]
        factor, unit = WRITTEN.get(name, (1.0, channel.unit))
        column = np.full(len(clock), np.nan)
        column[np.minimum(np.searchsorted(clock, channel.time_s - 1e-9), len(clock) - 1)] = channel.value * factor
        heads.append(f"{name} [{unit}]" if unit else name)
        columns.append(column)
    return heads, np.stack(columns, axis=1)[::every]


def csv_text(heads: list[str], table: np.ndarray, separator: str = ",", decimal: str = ".") -> str:
    def cell(value: float) -> str:
        return "" if np.isnan(value) else f"{value:.4f}".replace(".", decimal)

    lines = [separator.join(heads), *(separator.join(cell(v) for v in row) for row in table)]
    return "\n".join(lines) + "\n"


def passed(fault: Fault | None, vehicle: Vehicle = CAR, channels: tuple[str, ...] | None = None) -> CornerLoss:
    """The corner of a fault on circuit 5, compared with a lap without it."""
    circuit = drawn(5, faults=0).circuit
    line = draw_line(circuit, 1)
    settings = LoggerSettings(channels=channels or LoggerSettings().channels)
    traces = [
        drive(circuit, vehicle, [LapPlan(), LapPlan(f), LapPlan()], Style()) for f in ((), (fault,) if fault else ())
    ]
    logs = [record(t, line, settings, k, (1, 2), f"{k}.csv") for k, t in enumerate(traces)]
    faults = (TrueFault(fault, traces[1], traces[0]),) if fault else ()
    trial = Trial(5, circuit, logs[0], logs[1], traces[0], traces[1], line, line, (1.0, 1.0), faults)
    number = fault.corner if fault else 2
    apex = float(trial.axis_m(circuit.corners[number - 1].apex_m))
    return min(compare_trial(trial).laps[0].corners, key=lambda c: abs(c.corner.apex_m - apex))


BARE_PASS = Pass(
    corner=1,
    window_s=8.0,
    whole_s=20.0,
    sigma_s=0.0,
    brake_on_m=None,
    brake_peak=None,
    turn_in_m=None,
    slow_point_m=0.0,
    min_speed_kmh=80.0,
    throttle_on_m=None,
    full_throttle_m=None,
    exit_speed_kmh=100.0,
    gear=None,
    brushes=0,
    apex_off_m=None,
    exit_off_m=None,
)


def a_pass(**known: float | None) -> Pass:
    """A pass of which nothing is known but what is given."""
    return replace(BARE_PASS, **known)  # type: ignore[arg-type]
