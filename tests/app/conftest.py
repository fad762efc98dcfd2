"""A window that is closed again, on the pair of known laps."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import TYPE_CHECKING
from weakref import WeakSet

import pytest
from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox

import jete.core.compare
import jete.desk.alone
import jete.desk.beside
import jete.desk.guide
from jete.core.compare import compare
from jete.desk.passes import make_passes
from jete.formats import geojson
from jete.library.bring_in import bring_in
from jete.library.exchange import take_in
from jete.library.location import location_named, usual_location
from jete.library.opening import open_library
from jete.main import Application, build
from jete.session import operations as ops
from known_laps import DEMO, DEMO_PAIR

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from pytestqt.qtbot import QtBot

    from jete.core.axis.road.corners import Corner
    from jete.core.causes.verdict.result import Comparison
    from jete.core.log.lap import Lap


# What is noted of the two runs.
GIVEN = (
    {"circuit": "Kestrel Sands", "driver": "Ines Karlsby", "time": "10:15"},
    {"driver": "Tomasz Oryel", "time": "11:05"},
)
_STARTED: WeakSet[QTimer] = WeakSet()
_start = QTimer.start


def _noted(timer: QTimer, *args: int) -> None:
    _STARTED.add(timer)
    _start(timer, *args)


@pytest.fixture(autouse=True)
def _no_timer_is_left(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """A timer that still ticks when its window is closed would keep on working for nobody."""
    monkeypatch.setattr(QTimer, "start", _noted)
    _STARTED.clear()
    yield
    ticking = [t for t in _STARTED if not sip.isdeleted(t) and t.isActive()]
    for timer in ticking:
        timer.stop()
    assert [type(t.parent()).__name__ for t in ticking] == []


@pytest.fixture(autouse=True)
def _a_change_is_in_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is written is looked at right after; how the window goes on meanwhile has tests of its own."""
    monkeypatch.setattr("jete.app.writer.PATIENCE_S", 20.0)


@pytest.fixture(scope="session")
def _compared() -> dict[object, Comparison]:
    return {}


@pytest.fixture(autouse=True)
def _the_same_laps_are_compared_once(monkeypatch: pytest.MonkeyPatch, _compared: dict[object, Comparison]) -> None:
    """What the window shows is tested here, not how it is worked out: a process compares the same laps once."""

    def same(
        reference: Lap,
        laps: Sequence[Lap],
        corners: Sequence[Corner] | None = None,
        sectors_m: Sequence[float] = (),
        each: object = None,
    ) -> Comparison:
        key = tuple(_content(lap) for lap in (reference, *laps)), tuple(corners or ()), tuple(sectors_m)
        if key not in _compared:
            _compared[key] = compare(reference, laps, corners, sectors_m)
        return _compared[key]

    # Each of them has the name by itself, and has had it since before: whichever was imported first, all are told.
    for module in (jete.core.compare, jete.desk.alone, jete.desk.beside, jete.desk.guide):
        monkeypatch.setattr(module, "compare", same)


def _content(lap: Lap) -> tuple[object, ...]:
    sums = tuple((name, len(c), float(c.value.sum())) for name in lap.log.channels if (c := lap.get(name)) is not None)
    return lap.log.source, lap.span, lap.driver, sums


@pytest.fixture
def empty(qtbot: QtBot) -> Iterator[Application]:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    parts = build(app)
    parts.window.resize(1280, 800)
    parts.window.show()
    qtbot.waitExposed(parts.window)
    yield parts
    for box in parts.window.findChildren(QMessageBox):
        box.close()
    parts.window.close()
    parts.window.deleteLater()


@pytest.fixture(scope="session")
def ready_shelf(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A shelf with the demo's pair of runs and their passes, brought in and made once for all tests of a process."""
    folder = tmp_path_factory.mktemp("ready") / "shelf"
    library, _ = open_library(location_named(str(folder), ""))
    for path, given in zip(DEMO_PAIR, GIVEN, strict=True):
        bring_in(library, path, given)
    make_passes(library, library.circuits.places()[0], lambda *_: None, lambda: False)
    library.close()
    return folder


@pytest.fixture(scope="session")
def ready_circuit(ready_shelf: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The same shelf with the circuit's names and landmarks."""
    folder = Path(shutil.copytree(ready_shelf, tmp_path_factory.mktemp("landmarks") / "shelf"))
    library, _ = open_library(location_named(str(folder), ""))
    take_in(library, library.circuits.places()[0], geojson.read(DEMO / "kestrel-sands.geojson"))
    make_passes(library, library.circuits.places()[0], lambda *_: None, lambda: False)
    library.close()
    return folder


def _with_shelf(parts: Application, ready: Path, qtbot: QtBot) -> Application:
    shutil.copytree(ready, usual_location().folder)
    with qtbot.waitSignal(parts.shelf.shown, timeout=30000):
        parts.shelf.open()
    qtbot.waitUntil(lambda: parts.tasks.idle and parts.store.comparison is not None, timeout=30000)
    return parts


@pytest.fixture
def shelf(empty: Application, ready_shelf: Path, qtbot: QtBot) -> Application:
    """The demo's pair of runs, noted on the shelf and compared."""
    return _with_shelf(empty, ready_shelf, qtbot)


@pytest.fixture
def landmarked(empty: Application, ready_circuit: Path, qtbot: QtBot) -> Application:
    """The same with the circuit's names and landmarks."""
    return _with_shelf(empty, ready_circuit, qtbot)


@pytest.fixture(scope="session")
def ready_pair(pair_files: tuple[Path, Path], tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A shelf with the pair of known laps, brought in once for all tests of a process."""
    folder = tmp_path_factory.mktemp("pair-ready") / "shelf"
    library, _ = open_library(location_named(str(folder), ""))
    for path in pair_files:
        bring_in(library, path, {})
    library.close()
    return folder


@pytest.fixture
def opened(empty: Application, ready_pair: Path, qtbot: QtBot) -> Application:
    """The pair of known laps, each run with its one lap, compared."""
    opened = _with_shelf(empty, ready_pair, qtbot)
    comparison = opened.store.comparison
    assert comparison is not None
    assert comparison.laps[0].passage.lap.log.source != comparison.reference.lap.log.source
    return opened


@pytest.fixture
def ledger(opened: Application, qtbot: QtBot) -> Application:
    opened.store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    opened.window.setFocus(Qt.FocusReason.OtherFocusReason)
    qtbot.wait(20)
    return opened
