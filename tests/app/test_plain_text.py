"""Names are shown as they are typed: none is read as HTML, in any widget."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractItemView, QLabel, QListView, QMessageBox, QWidget

from jete.core.errors import InputError
from jete.main import Application
from jete.notes.sheet import FIELDS, LapNote
from jete.session import operations as ops
from jete.session.state import LapKey
from jete.views.labels import ElidedLines

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

HOSTILE = "<img src='file:///etc/hostname'><b>x</b>&amp;"


def shown_as_html(widget: QWidget) -> list[str]:
    """Texts and tips in a window that Qt would read as HTML with a hostile name in it."""
    found = []
    for part in [widget, *widget.findChildren(QWidget)]:
        rich = isinstance(part, QLabel) and part.textFormat() != Qt.TextFormat.PlainText
        if rich and "<img" in part.text():  # type: ignore[attr-defined]
            found.append(f"{part.objectName()}: {part.text()}")  # type: ignore[attr-defined]
        if "<img" in part.toolTip():
            found.append(f"tip of {part.objectName()}: {part.toolTip()}")
        if isinstance(part, QAbstractItemView) and part.model() is not None:
            found += _tips(part)
    return found


def _tips(view: QAbstractItemView) -> list[str]:
    model = view.model()
    assert model is not None
    columns = 1 if isinstance(view, QListView) else model.columnCount()
    cells = [model.index(r, c) for r in range(model.rowCount()) for c in range(columns)]
    tips = [str(i.data(Qt.ItemDataRole.ToolTipRole) or "") for i in cells]
    return [f"cell of {view.objectName()}: {t}" for t in tips if "<img" in t]


@pytest.fixture
def hostile(shelf: Application, qtbot: QtBot) -> Application:
    """Two runs whose every text field, and a lap's note, is hostile."""
    answers = {f.name: HOSTILE for f in FIELDS if f.holds == "text"}
    shelf.shelf.notebook.note_runs(ops.with_answers(shelf.store.session, [1, 2], answers))
    shelf.shelf.notebook.note_runs(ops.with_answers(shelf.store.session, [1], {"tyres": f"soft {HOSTILE}"}))
    shelf.shelf.notebook.note_lap(LapKey(2, 3), LapNote(note=HOSTILE, aside="traffic", reason=HOSTILE))
    qtbot.waitUntil(lambda: shelf.tasks.idle, timeout=30000)
    return shelf


@pytest.mark.parametrize("page", ["laps", "ledger"])
@pytest.mark.parametrize("whole_run", [False, True])
def test_no_page_reads_a_name_as_html(hostile: Application, page: str, whole_run: bool, qtbot: QtBot) -> None:  # noqa: FBT001
    hostile.store.look_at(lambda s: ops.display(ops.go_to_page(s, page), whole_run=whole_run))
    qtbot.waitUntil(lambda: hostile.tasks.idle, timeout=30000)
    assert shown_as_html(hostile.window) == []
    assert any("<img" in label.text() for label in hostile.window.findChildren(QLabel))


def test_no_dialog_reads_a_name_as_html(hostile: Application, qtbot: QtBot) -> None:
    hostile.shelf.notebook.remove(1)
    for action in ("bin", "keys", "panels", "line", "server"):
        hostile.window.actions_by_id[action].trigger()
        qtbot.waitUntil(lambda: hostile.tasks.idle, timeout=30000)
        assert shown_as_html(hostile.window) == [], action


def test_no_box_reads_a_name_as_html(hostile: Application) -> None:
    hostile.shelf.failed.emit(InputError(HOSTILE, f"it is {HOSTILE}.", f"Mend {HOSTILE}."))
    (box,) = hostile.window.findChildren(QMessageBox)
    assert shown_as_html(box) == []
    assert HOSTILE in box.text()


def test_text_that_has_no_room_is_cut_in_its_last_line_and_told_whole_by_its_tip(qtbot: QtBot) -> None:
    label = ElidedLines()
    qtbot.addWidget(label)
    label.setText("Brakes 28 m before the cone, where the reference brakes 14 m before it, and lets go sooner")
    label.resize(200, 2 * label.fontMetrics().lineSpacing())
    first, last = label.shown_lines()
    assert label.text().startswith(first)
    assert last.endswith("…")
    assert label.toolTip() == label.text()
    label.resize(900, 40)
    assert label.shown_lines() == [label.text()]
