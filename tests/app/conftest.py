"""A window that is closed again, on the pair of known laps."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING
from weakref import WeakSet

import pytest
from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox

from jete.main import Application, build
from jete.session import operations as ops
from known_laps import DEMO_PAIR

if TYPE_CHECKING:
    from collections.abc import Iterator

    from pytestqt.qtbot import QtBot


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


@pytest.fixture
def shelf(empty: Application, qtbot: QtBot) -> Application:
    """The demo's pair of runs, read and compared."""
    with qtbot.waitSignal(empty.imports.ended, timeout=60000):
        empty.imports.open_files(DEMO_PAIR)
    qtbot.waitUntil(lambda: empty.tasks.idle and empty.store.comparison is not None, timeout=30000)
    return empty


@pytest.fixture
def opened(empty: Application, pair_files: tuple[Path, Path], qtbot: QtBot) -> Application:
    empty.imports.open_files(pair_files)
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 2 and empty.store.comparison is not None, timeout=20000)
    qtbot.waitUntil(
        lambda: (
            empty.store.comparison.laps[0].passage.lap.log.source != empty.store.comparison.reference.lap.log.source
        ),
        timeout=20000,
    )
    return empty


@pytest.fixture
def ledger(opened: Application, qtbot: QtBot) -> Application:
    opened.store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    opened.window.setFocus(Qt.FocusReason.OtherFocusReason)
    qtbot.wait(20)
    return opened
