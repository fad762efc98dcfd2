"""Shared fixtures: known pairs of laps, CSV files made from them, a private home for settings."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

import pytest

from jete.core.causes.verdict.result import Comparison
from jete.simulate.trials import Trial
from known_laps import compare_trial, csv_text, drawn, rows_of
from servers import Server, running

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

SEED = 5


@pytest.fixture(autouse=True)
def _private_home(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(home / name))


@pytest.fixture
def server() -> Iterator[Server]:
    with running() as found:
        yield found


@pytest.fixture(scope="session")
def trial() -> Trial:
    return drawn(SEED)


@pytest.fixture(scope="session")
def equal_trial() -> Trial:
    return drawn(SEED, faults=0)


@pytest.fixture(scope="session")
def comparison(trial: Trial) -> Comparison:
    return compare_trial(trial)


@pytest.fixture(scope="session")
def equal_comparison(equal_trial: Trial) -> Comparison:
    return compare_trial(equal_trial)


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
