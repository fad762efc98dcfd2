"""The Guide page as a hand uses it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from jete.library.guide_records import OwnWords
from jete.main import Application
from jete.session import operations as ops
from made_films import make_film

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


@pytest.fixture
def page(shelf: Application, qtbot: QtBot) -> Application:
    shelf.store.look_at(lambda s: ops.go_to_page(s, "guide"))
    qtbot.waitUntil(lambda: shelf.store.guide is not None and shelf.tasks.idle, timeout=20000)
    return shelf


def test_a_line_a_corner_and_the_card_of_the_selected_one(page: Application, qtbot: QtBot) -> None:
    guide = page.window.page("guide")
    assert guide.corners.count() == 12
    qtbot.keyClick(page.window, "n")
    number = page.store.session.look.corner
    assert guide.corners.currentRow() == number - 1
    assert guide.card_title.text().startswith(str(number))
    guide.corners.setCurrentRow(6)
    assert page.store.session.look.corner == 7
    assert "km/h" in guide.sentences["speed"].measured.text()


def test_own_words_are_kept_when_the_field_is_left_and_undone(page: Application, qtbot: QtBot) -> None:
    guide = page.window.page("guide")
    page.store.look_at(lambda s: ops.select_corner(s, 2))
    sentence = guide.sentences["brake"]
    assert sentence.own.isHidden(), "what nobody writes over reads as text"
    qtbot.mouseClick(sentence.measured, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(sentence.own, "at the second cone")
    guide.sentences["gear"].open()
    made = page.store.guide
    assert made is not None
    assert made.typed[2, "brake"].text == "at the second cone"
    assert guide.sentences["brake"].measured.text() not in ("", "at the second cone")
    page.store.undo()
    assert guide.sentences["brake"].own.text() == ""
    page.store.redo()
    assert guide.sentences["brake"].own.text() == "at the second cone"


def test_own_words_stay_when_the_guide_is_written_from_another_lap(page: Application, qtbot: QtBot) -> None:
    assert page.guides.write(3, "exit", "use all the road")
    before = page.store.guide
    lap = page.store.session.choice.lap
    page.store.do("choice", lambda s: ops.choose_reference(s, lap))
    qtbot.waitUntil(lambda: page.store.guide is not before and page.tasks.idle, timeout=20000)
    made = page.store.guide
    assert made is not None
    assert made.lap.span.number == lap.lap
    assert made.typed == {(3, "exit"): OwnWords("use all the road")}


@pytest.mark.parametrize(("button", "name"), [("write", "guide.html"), ("bag", "bag.pdf")])
def test_it_is_written_by_its_buttons(
    page: Application, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, button: str, name: str
) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / name), ""))
    qtbot.mouseClick(getattr(page.window.page("guide"), button), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.tasks.idle, timeout=20000)
    assert (tmp_path / name).stat().st_size > 3000
    assert page.window.told.text() == f"The guide is in {name}."


def test_a_guide_that_can_not_be_printed_says_so(
    page: Application, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "gone" / "bag.pdf"), ""))
    told: list[Exception] = []
    page.guides.failed.connect(told.append)
    qtbot.mouseClick(page.window.page("guide").bag, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(told), timeout=20000)
    assert "could not be printed (No such file or directory)" in str(told[0])


def test_without_a_reference_it_says_what_to_do(empty: Application) -> None:
    empty.store.look_at(lambda s: ops.go_to_page(s, "guide"))
    assert "Choose a reference" in empty.window.page("guide").title.text()
    empty.window.grab()


def typed(page: Application, corner: int, key: str, text: str, qtbot: QtBot) -> None:
    """Type own words as a hand would, and go on to the next field."""
    page.store.look_at(lambda s: ops.select_corner(s, corner))
    field = page.window.page("guide").sentences[key].open()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Tab)


def another_lap(page: Application, qtbot: QtBot) -> None:
    """The guide is written anew, from another lap."""
    before, lap = page.store.guide, page.store.session.choice.lap
    page.store.do("choice", lambda s: ops.choose_reference(s, lap))
    qtbot.waitUntil(lambda: page.store.guide is not before and page.tasks.idle, timeout=20000)


@pytest.mark.parametrize(("button", "left"), [("take", ""), ("leave", "at the second cone")])
def test_what_is_measured_otherwise_now_is_taken_or_left(
    page: Application, qtbot: QtBot, button: str, left: str
) -> None:
    guide = page.window.page("guide")
    typed(page, 6, "speed", "at the second cone", qtbot)
    stale = guide.sentences["speed"].stale
    assert stale.isHidden()
    another_lap(page, qtbot)
    page.store.look_at(lambda s: ops.select_corner(s, 6))
    assert not stale.isHidden()
    assert "km/h" in stale.was.text()
    qtbot.mouseClick(getattr(stale, button), Qt.MouseButton.LeftButton)
    assert stale.isHidden()
    assert guide.sentences["speed"].own.text() == left
    page.store.undo()
    assert not stale.isHidden()


def test_what_is_being_typed_outlives_a_guide_that_comes_in(page: Application, qtbot: QtBot) -> None:
    field = page.window.page("guide").sentences["brake"].open()
    qtbot.keyClicks(field, "half a sen")
    page.guides.make()
    qtbot.waitUntil(lambda: page.tasks.idle, timeout=20000)
    qtbot.wait(30)
    assert field.text() == "half a sen"


def test_it_is_shown_as_it_prints_beside_the_card(page: Application, qtbot: QtBot) -> None:
    guide = page.window.page("guide")
    qtbot.keyClick(page.window, "p", Qt.KeyboardModifier.ControlModifier)
    assert guide.preview.isVisible()
    qtbot.waitUntil(lambda: bool(guide.preview.pages), timeout=20000)
    assert 2 <= len(guide.preview.pages) <= 7
    assert guide.preview.pages[0].pixmap().width() > 200
    qtbot.mouseClick(guide.side.buttons[0], Qt.MouseButton.LeftButton)
    assert guide.corners.isVisible()


def test_versions_are_kept_held_beside_the_guide_and_thrown_away(page: Application, qtbot: QtBot) -> None:
    dialog = page.window.page("guide").show_versions()
    assert dialog is not None
    qtbot.waitUntil(lambda: "No version is kept yet" in dialog.said.text(), timeout=4000)
    qtbot.keyClicks(dialog.author, "Edda Rowe")
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: dialog.list.count() == 1, timeout=4000)
    assert "Edda Rowe" in dialog.list.item(0).text()
    assert dialog.said.text() == "As the guide is now."
    dialog.close()
    page.window.activateWindow()
    qtbot.waitUntil(page.window.isActiveWindow, timeout=4000)
    typed(page, 2, "exit", "stay tight", qtbot)
    dialog = page.window.page("guide").show_versions()
    assert dialog is not None
    assert dialog.author.text() == "Edda Rowe"
    qtbot.waitUntil(lambda: dialog.said.text().startswith("1 field differ"), timeout=4000)
    assert dialog.table.item(0, 3).text() == "stay tight"
    qtbot.mouseClick(dialog.drop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: dialog.list.count() == 0, timeout=4000)
    page.store.undo()
    qtbot.waitUntil(lambda: dialog.list.count() == 1, timeout=4000)
    dialog.close()


def test_a_picture_is_put_on_a_card_and_taken_off(
    page: Application, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    image = QImage(3000, 1500, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.darkGray)
    image.save(str(tmp_path / "kerb.png"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "kerb.png"), ""))
    page.store.look_at(lambda s: ops.select_corner(s, 3))
    photos = page.window.page("guide").photos
    qtbot.keyClicks(photos.caption, "where the kerb begins")
    qtbot.mouseClick(photos.add, Qt.MouseButton.LeftButton)
    made = page.store.guide
    assert made is not None
    (photo,) = made.photos
    assert (photo.corner, photo.caption) == (3, "where the kerb begins")
    assert QImage.fromData(photo.jpeg).width() == 1280
    assert photos.list.count() == 1
    photos.list.setCurrentRow(0)
    qtbot.mouseClick(photos.drop, Qt.MouseButton.LeftButton)
    assert page.store.guide.photos == ()
    page.store.undo()
    assert page.store.guide.photos == (photo,)
    page.store.look_at(lambda s: ops.select_corner(s, 4))
    assert photos.list.count() == 0


def test_what_is_no_picture_is_refused(
    page: Application, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    (tmp_path / "notes.jpg").write_text("no picture")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "notes.jpg"), ""))
    qtbot.mouseClick(page.window.page("guide").photos.add, Qt.MouseButton.LeftButton)
    box = page.window.findChild(QMessageBox)
    assert box is not None
    assert "no picture" in box.text() + box.informativeText()


def test_a_still_of_the_reference_film_goes_onto_the_card(page: Application, tmp_path: Path, qtbot: QtBot) -> None:
    films = page.window.page("walk").films
    assert not page.window.page("guide").photos.still.isEnabled()
    films.add("reference", make_film(tmp_path / "in-car.mp4", 400, size=(96, 54)))
    qtbot.waitUntil(lambda: page.tasks.idle and page.store.films[0] is not None, timeout=8000)
    page.store.look_at(lambda s: ops.go_to(s, 300.0))
    films.tie("reference", 4.0)
    qtbot.mouseClick(page.window.page("guide").photos.still, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.tasks.idle and page.store.guide.photos != (), timeout=8000)
    assert page.store.guide.photos[0].caption == "film at 0:04.00"
