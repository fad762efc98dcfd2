"""The Guide page as a hand uses it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog

from jete.main import Application
from jete.session import operations as ops

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


@pytest.fixture
def page(shelf: Application, qtbot: QtBot) -> Application:
    shelf.store.look_at(lambda s: ops.go_to_page(s, "guide"))
    qtbot.waitUntil(lambda: shelf.store.guide is not None and shelf.tasks.idle, timeout=20000)
    return shelf


def test_a_line_a_corner_and_the_card_of_the_selected_one(page: Application, qtbot: QtBot) -> None:
    guide = page.window.guide_page
    assert guide.corners.count() == 12
    qtbot.keyClick(page.window, "n")
    number = page.store.session.look.corner
    assert guide.corners.currentRow() == number - 1
    assert guide.card_title.text().startswith(str(number))
    guide.corners.setCurrentRow(6)
    assert page.store.session.look.corner == 7
    assert "km/h" in guide.measured["speed"].text()


def test_own_words_are_kept_when_the_field_is_left_and_undone(page: Application, qtbot: QtBot) -> None:
    guide = page.window.guide_page
    page.store.look_at(lambda s: ops.select_corner(s, 2))
    field = guide.typed["brake"]
    field.setFocus()
    qtbot.keyClicks(field, "at the second cone")
    guide.typed["gear"].setFocus()
    made = page.store.guide
    assert made is not None
    assert made.typed == {(2, "brake"): "at the second cone"}
    assert guide.measured["brake"].text() not in ("", "at the second cone")
    page.store.undo()
    assert guide.typed["brake"].text() == ""
    page.store.redo()
    assert guide.typed["brake"].text() == "at the second cone"


def test_own_words_stay_when_the_guide_is_written_from_another_lap(page: Application, qtbot: QtBot) -> None:
    assert page.guides.write(3, "exit", "use all the road")
    before = page.store.guide
    lap = page.store.session.choice.lap
    page.store.do("choice", lambda s: ops.choose_reference(s, lap))
    qtbot.waitUntil(lambda: page.store.guide is not before and page.tasks.idle, timeout=20000)
    made = page.store.guide
    assert made is not None
    assert made.lap.span.number == lap.lap
    assert made.typed == {(3, "exit"): "use all the road"}


@pytest.mark.parametrize(("button", "name"), [("write", "guide.html"), ("bag", "bag.pdf")])
def test_it_is_written_by_its_buttons(
    page: Application, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, button: str, name: str
) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / name), ""))
    qtbot.mouseClick(getattr(page.window.guide_page, button), Qt.MouseButton.LeftButton)
    assert (tmp_path / name).stat().st_size > 3000


def test_without_a_reference_it_says_what_to_do(empty: Application) -> None:
    empty.store.look_at(lambda s: ops.go_to_page(s, "guide"))
    assert "Choose a reference" in empty.window.guide_page.title.text()
    empty.window.grab()
