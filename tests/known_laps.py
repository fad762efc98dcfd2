"""Laps, comparisons and CSV text from known pairs, for the tests."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from jete.core.causes.result import Comparison
from jete.core.compare import compare
from jete.core.log.lap import Lap, Log, fastest
from jete.core.motion.split import line_of, split
from jete.simulate.trials import Trial

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
