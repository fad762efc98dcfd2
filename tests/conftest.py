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


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--quick", action="store_true", help="the first case of `many`, nothing of `long`")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leave out what takes long, where that is asked for."""
    if not config.getoption("--quick"):
        return
    seen: set[str] = set()
    kept, left = [], []
    for item in items:
        claim = item.nodeid.partition("[")[0]
        again = item.get_closest_marker("many") is not None and claim in seen
        seen.add(claim)
        (left if again or item.get_closest_marker("long") is not None else kept).append(item)
    config.hook.pytest_deselected(items=left)
    items[:] = kept


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
