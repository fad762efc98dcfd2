"""Shared fixtures: known pairs of laps, CSV files made from them, a private home for settings."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

import numpy as np
import pytest

from jete.core.compare import Comparison, compare
from jete.core.lap import Lap, Log, fastest
from jete.core.split import line_of, split
from jete.simulate.trials import Trial, draw_trial

if TYPE_CHECKING:
    from collections.abc import Callable

SEED = 5
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


@pytest.fixture(autouse=True)
def _private_home(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(home / name))


@pytest.fixture(scope="session")
def trial() -> Trial:
    return draw_trial(SEED)


@pytest.fixture(scope="session")
def equal_trial() -> Trial:
    return draw_trial(SEED, faults=0)


def lap_of(log: Log, line: object = None) -> Lap:
    return Lap(log, fastest(split(log, line), log.source))  # type: ignore[arg-type]


def compare_trial(trial: Trial) -> Comparison:
    return compare(lap_of(trial.reference), [lap_of(trial.lap, line_of(trial.reference))])


@pytest.fixture(scope="session")
def comparison(trial: Trial) -> Comparison:
    return compare_trial(trial)


@pytest.fixture(scope="session")
def equal_comparison(equal_trial: Trial) -> Comparison:
    return compare_trial(equal_trial)


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


@pytest.fixture(scope="session")
def pair_files(trial: Trial, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    folder = tmp_path_factory.mktemp("pair")
    out = []
    for log, name in ((trial.reference, "reference.csv"), (trial.lap, "lap.csv")):
        path = folder / name
        path.write_text(csv_text(*rows_of(log)), encoding="utf-8")
        out.append(path)
    return out[0], out[1]


@pytest.fixture
def write(tmp_path: Path) -> Callable[[str | bytes, str], Path]:
    def write(text: str | bytes, name: str = "log.csv") -> Path:
        path = tmp_path / name
        path.write_bytes(text.encode() if isinstance(text, str) else text)
        return path

    return write
