"""Typed words are saved to what they were typed for, whatever happens meanwhile."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt

from jete.library.library import Library
from jete.library.location import usual_location
from jete.main import Application
from jete.session import operations as ops
from known_laps import DEMO

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QLineEdit
    from pytestqt.qtbot import QtBot


def typed(parts: Application, qtbot: QtBot, name: str, words: str) -> QLineEdit:
    """Words typed into a field of the sheet, which is not left."""
    parts.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    field = parts.window.laps.side.sheet.open_field(name)
    field.setFocus()
    qtbot.keyClicks(field, words)
    return field  # type: ignore[return-value]


def stored() -> Library:
    return Library(usual_location(), read_only=True)


@pytest.mark.long
def test_a_log_that_comes_in_leaves_the_form_with_the_run_that_is_typed_for(shelf: Application, qtbot: QtBot) -> None:
    shelf.store.look_at(lambda s: ops.select_run(ops.go_to_page(s, "laps"), 1))
    field = typed(shelf, qtbot, "note", "rear slid in ")
    shelf.imports.open_files([DEMO / "ines-karlsby-run-3.parquet"])
    qtbot.waitUntil(lambda: len(shelf.store.session.runs) == 3 and shelf.tasks.idle, timeout=30000)
    shelf.store.look_at(lambda s: ops.select_run(s, 3))
    qtbot.keyClicks(field, "corner 6")
    assert field.text() == "rear slid in corner 6"
    shelf.window.laps.side.sheet.open_field("wind")
    library = stored()
    assert [library.run(n).sheet.note for n in (1, 2, 3)] == ["rear slid in corner 6", "", ""]
    library.close()
    assert field.text() == ""


@pytest.mark.parametrize("runs", [(1,), (1, 2)])
def test_the_word_several_is_a_note_as_any_other(shelf: Application, qtbot: QtBot, runs: tuple[int, ...]) -> None:
    """It also stands greyed in a field of runs that differ."""
    shelf.store.look_at(lambda s: ops.choose_runs(ops.go_to_page(s, "laps"), runs, runs[0]))
    field = typed(shelf, qtbot, "note", "several")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    library = stored()
    assert [library.run(n).sheet.note for n in runs] == ["several" for _ in runs]
    library.close()


@pytest.mark.parametrize("how", ["closed", "quit", "page", "another run"])
def test_words_without_enter_are_saved_before_what_comes_next(shelf: Application, qtbot: QtBot, how: str) -> None:
    shelf.store.look_at(lambda s: ops.select_run(ops.go_to_page(s, "laps"), 1))
    typed(shelf, qtbot, "note", "rear slid")
    if how == "closed":
        shelf.window.close()
    elif how == "quit":
        shelf.window.actions_by_id["quit"].trigger()
    elif how == "page":
        qtbot.keyClick(shelf.window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    else:
        shelf.window.laps.list.tree.setFocus()
    library = stored()
    assert library.run(1).sheet.note == "rear slid"
    library.close()


def typed_on_the_second_card(parts: Application, qtbot: QtBot) -> QLineEdit:
    """Own words typed into a card of the guide, which is not left."""
    parts.store.look_at(lambda s: ops.go_to_page(s, "guide"))
    qtbot.waitUntil(lambda: parts.store.guide is not None and parts.tasks.idle, timeout=20000)
    parts.store.look_at(lambda s: ops.select_corner(s, 2))
    field = parts.window.page("guide").sentences["brake"].open()
    qtbot.keyClicks(field, "at the second cone")
    return field


def test_own_words_of_the_guide_are_saved_when_the_window_is_closed(shelf: Application, qtbot: QtBot) -> None:
    typed_on_the_second_card(shelf, qtbot)
    shelf.window.close()
    library = stored()
    assert library.guides.typed(library.circuits.places()[0])[2, "brake"].text == "at the second cone"
    library.close()


def test_own_words_stay_with_the_corner_that_they_were_typed_for(shelf: Application, qtbot: QtBot) -> None:
    field = typed_on_the_second_card(shelf, qtbot)
    shelf.store.look_at(lambda s: ops.select_corner(s, 3))
    made = shelf.store.guide
    assert made is not None
    assert {k: w.text for k, w in made.typed.items()} == {(2, "brake"): "at the second cone"}
    assert field.text() == ""
