"""A window that is closed again, on the pair of known laps."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QMessageBox

from jete.main import Application, build
from jete.session import operations as ops

if TYPE_CHECKING:
    from collections.abc import Iterator

    from pytestqt.qtbot import QtBot


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
