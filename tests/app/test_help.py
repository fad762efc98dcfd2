"""Help without a network, the first look around, and files asked for where the last one was."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFileDialog, QLabel

from jete.app.help import GLOSSARY, GUIDES, OF_PAGE, folder, text_of, word_in, words
from jete.app.pages import PAGE_IDS
from jete.main import Application
from jete.session import operations as ops
from jete.views import help as help_view
from jete.views.asked_file import ask_open, ask_save, last_folder
from jete.views.tour import STEPS

if TYPE_CHECKING:
    from pathlib import Path

    from pytestqt.qtbot import QtBot


def test_every_page_has_a_guide_and_every_guide_ships() -> None:
    assert set(OF_PAGE) == set(PAGE_IDS)
    for guide in GUIDES:
        assert text_of(guide).startswith("# "), guide
        assert "![" not in text_of(guide)
    project = (folder().parent / "pyproject.toml").read_text(encoding="utf-8")
    assert {g for g in GUIDES if f"assets/help/{g}.md" in project} == set(GUIDES)


def test_the_words_of_the_screens_are_explained() -> None:
    assert {"trail", "hesitation", "unexplained", "kept", "possibly", "overslowing", "gap", "pick-up"} <= set(words())
    found = re.findall(r"^## (.+)$", text_of(GLOSSARY), re.MULTILINE)
    assert found == sorted(found, key=str.casefold), "in the order of the alphabet"
    assert word_in("Possibly: overslowing +0.2") in {"possibly", "overslowing"}
    assert word_in("entrails") == "", "a part of another word is none"


def test_help_opens_at_the_page_and_at_the_word_under_the_pointer(
    empty: Application, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = empty.window
    empty.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    dialog = window.show_help()
    assert dialog.guide == "walking-a-lap"
    assert "Walking a lap" in dialog.page.toPlainText()
    label = QLabel("hesitation +0.043")
    monkeypatch.setattr(help_view.QApplication, "widgetAt", lambda _: label)
    assert window.show_help() is dialog, "one help a window"
    assert dialog.guide == GLOSSARY
    assert dialog.page.textCursor().block().text() == "hesitation"
    dialog.close()


def test_a_link_leads_to_another_guide_and_a_word_is_found(empty: Application, qtbot: QtBot) -> None:
    dialog = help_view.ask_about(empty.window, "reading-the-ledger", "")
    dialog._on_link(help_view.QTextBrowser().source().fromLocalFile("reading-a-corner.md"))
    assert dialog.guide == "reading-a-corner"
    qtbot.keyClicks(dialog.search, "Two ways")
    qtbot.keyClick(dialog.search, Qt.Key.Key_Return)
    assert dialog.page.textCursor().selectedText().casefold() == "two ways"
    dialog.close()


def test_the_first_look_frames_what_it_tells_and_can_be_left(landmarked: Application, qtbot: QtBot) -> None:
    tour, window = landmarked.window.tour, landmarked.window
    window.actions_by_id["tour"].trigger()
    for number, step in enumerate(STEPS):
        qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=30000)
        assert landmarked.store.session.look.page == step.page
        assert tour.title.text() == step.title
        frame = tour.framed()
        assert not frame.isNull(), step.what
        assert window.rect().contains(frame.center())
        covered = tour.card.geometry().intersected(frame)
        assert covered.width() * covered.height() < 0.5 * frame.width() * frame.height()
        if number < len(STEPS) - 1:
            qtbot.mouseClick(tour.on, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(tour.on, Qt.MouseButton.LeftButton)
    assert tour.card.isHidden()
    tour.begin()
    qtbot.keyClick(tour.on, Qt.Key.Key_Escape)
    assert tour.card.isHidden(), "it is left by Escape"
    assert window.childAt(QPoint(5, 5)) is not tour


def test_a_file_is_asked_for_where_the_last_one_was(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []

    def chosen(_parent: object, _title: str, where: str, _kinds: str) -> tuple[str, str]:
        asked.append(where)
        return str(tmp_path / "laps" / "one.csv"), "CSV"

    (tmp_path / "laps").mkdir()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", chosen)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", chosen)
    before = last_folder()
    assert ask_open(None, "Open", "") == str(tmp_path / "laps" / "one.csv")
    assert last_folder() == tmp_path / "laps"
    ask_save(None, "Save", "lap.csv", "")
    assert asked == [str(before), str(tmp_path / "laps" / "lap.csv")]


def test_a_key_that_can_do_nothing_says_why(shelf: Application, qtbot: QtBot) -> None:
    shelf.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    shelf.window.laps.run.table.clearSelection()
    shelf.window.laps.run.table.setCurrentIndex(shelf.window.laps.run.model.index(-1, -1))
    with qtbot.waitSignal(shelf.shelf.told, timeout=2000) as told:
        qtbot.keyClick(shelf.window, Qt.Key.Key_R)
    assert told.args[0].startswith("No lap is selected")


def test_a_letter_acts_only_where_its_effect_is_seen_and_says_where_that_is(
    landmarked: Application, qtbot: QtBot
) -> None:
    store, window = landmarked.store, landmarked.window
    store.look_at(lambda s: ops.go_to_page(s, "corner"))
    before = store.session
    for key, where in ((Qt.Key.Key_R, "Laps"), (Qt.Key.Key_X, "Laps"), (Qt.Key.Key_O, "Ledger")):
        qtbot.keyClick(window, key)
        assert f"on the page {where} (Ctrl+" in window.told.text()
    assert (store.session.choice, store.session.display) == (before.choice, before.display)
    qtbot.keyClick(window, Qt.Key.Key_D)
    assert store.session.display.beside == "shapes"
