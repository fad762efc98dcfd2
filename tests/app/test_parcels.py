"""Handing a lap on and taking one in, as a hand does it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from jete.main import Application
from jete.session import operations as ops
from jete.views.parcels import HandOnDialog, TakeInDialog
from known_laps import DEMO

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


@pytest.fixture
def handed(shelf: Application, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A lap that was handed on through the window, without notes."""
    target = tmp_path / "lap.zip"
    assert shelf.shelf.circuits.take_in(DEMO / "kestrel-sands.geojson")
    qtbot.waitUntil(lambda: shelf.tasks.idle, timeout=20000)
    shelf.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    shelf.window.laps.setFocus()
    qtbot.keyClick(shelf.window, "h", Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = shelf.window.findChild(HandOnDialog)
    assert dialog is not None
    qtbot.mouseClick(dialog.notes, Qt.MouseButton.LeftButton, pos=QPoint(8, dialog.notes.height() // 2))
    assert not dialog.notes.isChecked()
    qtbot.mouseClick(dialog.write, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: shelf.tasks.idle and target.exists(), timeout=20000)
    return target


def drop(app: Application, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    how = Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(app.window, QDragEnterEvent(QPoint(300, 300), *how))
    QApplication.sendEvent(app.window, QDropEvent(QPointF(300, 300), *how))


def test_what_was_handed_on_is_looked_at_and_taken_in(shelf: Application, handed: Path, qtbot: QtBot) -> None:
    before = len(shelf.store.session.runs)
    drop(shelf, handed)
    qtbot.waitUntil(lambda: shelf.window.findChild(TakeInDialog) is not None, timeout=20000)
    dialog = shelf.window.findChild(TakeInDialog)
    assert dialog is not None
    told = " ".join(w.text() for w in dialog.words)
    assert "42 landmarks" in told
    assert "You have set landmarks" in told
    assert not dialog.circuit.isChecked()
    assert len(shelf.store.session.runs) == before
    qtbot.mouseClick(dialog.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: shelf.tasks.idle and len(shelf.store.session.runs) == before + 1, timeout=20000)
    assert "the circuit here stayed as it is" in shelf.window.told.text()


def test_what_is_left_changes_nothing(shelf: Application, handed: Path, qtbot: QtBot) -> None:
    before = shelf.store.session.runs
    drop(shelf, handed)
    qtbot.waitUntil(lambda: shelf.window.findChild(TakeInDialog) is not None, timeout=20000)
    dialog = shelf.window.findChild(TakeInDialog)
    assert dialog is not None
    qtbot.mouseClick(dialog.leave, Qt.MouseButton.LeftButton)
    qtbot.wait(50)
    assert shelf.store.session.runs == before


def test_one_that_was_tampered_with_is_refused_in_words(
    shelf: Application, handed: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    import zipfile

    with zipfile.ZipFile(handed, "a") as archive:
        archive.writestr("../evil.sh", "echo")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(handed), ""))
    shelf.window.run_action(shelf.window.actions_by_id["parcel:in"].data())
    qtbot.waitUntil(lambda: shelf.window.findChild(QMessageBox) is not None, timeout=20000)
    box = shelf.window.findChild(QMessageBox)
    assert box is not None
    assert "holds what no parcel does" in box.text() + box.informativeText()
