"""The window goes on while the shelf can't take what is typed, and nothing of it is lost."""

from __future__ import annotations

import sqlite3
import threading
import time
from contextlib import closing, contextmanager
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox
from sqlalchemy import Engine, event

from jete.app.not_saved import not_saved_path
from jete.app.writer import Change, Writer
from jete.core.errors import InputError
from jete.library.bring_in import bring_in
from jete.library.database import open_file
from jete.library.errors import NotNowError
from jete.library.library import Library
from jete.library.location import FILE, Location, usual_location
from jete.library.opening import open_library
from jete.main import Application
from jete.notes.sheet import LapNote
from jete.session import operations as ops
from jete.session.state import LapKey
from known_laps import DEMO_PAIR

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator
    from pathlib import Path

    from PyQt6.QtWidgets import QLineEdit
    from pytestqt.qtbot import QtBot

    from servers import Server

A_MOMENT_S = 0.05


@pytest.fixture(autouse=True)
def _the_window_waits_as_long_as_for_a_person(_a_change_is_in_at_once: None, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("jete.app.writer.PATIENCE_S", A_MOMENT_S)
    monkeypatch.setattr("jete.app.writer.AGAIN_S", 0.05)


@contextmanager
def busy(parts: Application) -> Iterator[None]:
    """Somebody else is changing the shelf meanwhile."""
    parts.shelf.library()._engine.dispose()
    with closing(sqlite3.connect(usual_location().folder / FILE, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        yield


@pytest.fixture
def laps(shelf: Application, monkeypatch: pytest.MonkeyPatch) -> Application:
    monkeypatch.setitem(open_file.__kwdefaults__, "wait_s", 0.1)
    shelf.store.look_at(lambda s: ops.select_run(ops.go_to_page(s, "laps"), 1))
    return shelf


def type_and_leave(parts: Application, qtbot: QtBot, name: str, words: str) -> QLineEdit:
    sheet = parts.window.laps.side.sheet
    field = sheet.open_field(name)
    qtbot.keyClicks(field, words)
    sheet.open_field("event")
    return field  # type: ignore[return-value]


def on_the_shelf(number: int = 1) -> tuple[str, str]:
    library = Library(usual_location(), read_only=True)
    sheet = library.run(number).sheet
    library.close()
    return sheet.note, sheet.wind


def settled(parts: Application, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not parts.shelf.writer.pending, timeout=10000)


def test_words_for_a_busy_shelf_are_shown_and_told_and_get_in_by_themselves(laps: Application, qtbot: QtBot) -> None:
    mark = laps.window.unsaved
    with busy(laps):
        begun = time.monotonic()
        field = type_and_leave(laps, qtbot, "note", "rear slid")
        other = type_and_leave(laps, qtbot, "wind", "from the sea")
        assert time.monotonic() - begun < 1.0
        assert (field.text(), other.text()) == ("rear slid", "from the sea")
        qtbot.waitUntil(mark.isVisible, timeout=4000)
        qtbot.waitUntil(lambda: "in use by" in mark.toolTip(), timeout=4000)
        assert mark.text() == "2 changes not saved yet"
        assert 'run 1: note "rear slid"' in mark.toolTip()
        laps.store.look_at(lambda s: ops.select_run(s, 2))
        assert field.text() == ""
        laps.store.look_at(lambda s: ops.select_run(s, 1))
        assert field.text() == "rear slid"
        assert on_the_shelf() == ("", "")
    settled(laps, qtbot)
    assert on_the_shelf() == ("rear slid", "from the sea")
    assert not mark.isVisible()


def test_the_mark_pressed_lists_what_waits(laps: Application, qtbot: QtBot) -> None:
    with busy(laps):
        type_and_leave(laps, qtbot, "note", "rear slid")
        qtbot.waitUntil(laps.window.unsaved.isVisible, timeout=4000)
        qtbot.mouseClick(laps.window.unsaved, Qt.MouseButton.LeftButton)
        box = laps.window.findChild(QMessageBox)
        assert box is not None
        assert 'run 1: note "rear slid"' in box.informativeText()
    settled(laps, qtbot)


def test_a_star_and_a_lap_note_wait_as_well(laps: Application, qtbot: QtBot) -> None:
    with busy(laps):
        laps.shelf.notebook.note_lap(LapKey(1, 3), LapNote(note="traffic", star=True))
        assert laps.store.session.runs[0].notes.of(3).note == "traffic"
    settled(laps, qtbot)
    library = Library(usual_location(), read_only=True)
    assert library.run(1).notes.of(3) == LapNote(note="traffic", star=True)
    library.close()


def test_nothing_is_undone_before_it_is_in(laps: Application, qtbot: QtBot) -> None:
    with busy(laps):
        type_and_leave(laps, qtbot, "note", "rear slid")
        laps.store.undo()
        assert laps.store.undo_text is None
    settled(laps, qtbot)
    assert on_the_shelf()[0] == "rear slid"
    assert laps.store.undo_text == "note on the run"
    laps.store.undo()
    settled(laps, qtbot)
    assert on_the_shelf()[0] == ""


def test_the_window_closes_once_all_is_saved(laps: Application, qtbot: QtBot) -> None:
    with busy(laps):
        type_and_leave(laps, qtbot, "note", "rear slid")
        laps.window.close()
        assert laps.window.isVisible()
        laps.window.close()
        boxes = [b for b in laps.window.findChildren(QMessageBox) if b.isVisible()]
        assert [b.text() for b in boxes] == ["The window closes as soon as these changes are saved."]
    qtbot.waitUntil(lambda: not laps.window.isVisible(), timeout=10000)
    assert on_the_shelf()[0] == "rear slid"


def test_who_closes_without_waiting_keeps_the_words_as_text(laps: Application, qtbot: QtBot) -> None:
    with busy(laps):
        type_and_leave(laps, qtbot, "note", "rear slid")
        laps.window.close()
        box = laps.window.findChild(QMessageBox)
        assert box is not None
        without = next(b for b in box.buttons() if b.text() == "Close without them")
        without.click()
        qtbot.waitUntil(lambda: not laps.window.isVisible(), timeout=10000)
        assert 'run 1: note "rear slid"' in not_saved_path().read_text(encoding="utf-8")
        assert on_the_shelf()[0] == ""


def test_what_waits_is_told_with_all_that_was_typed(laps: Application, qtbot: QtBot) -> None:
    laps.store.look_at(lambda s: ops.go_to_page(s, "guide"))
    qtbot.waitUntil(lambda: laps.store.guide is not None and laps.tasks.idle, timeout=20000)
    with busy(laps):
        laps.guides.write(2, "brake", "at the second cone")
        laps.shelf.circuits.call(2, "2", "Lighthouse")
        laps.shelf.circuits.put_rules(("no passing under the bridge",))
        told = [change.words for change in laps.shelf.writer.pending]
        assert told == [
            'words of the guide: corner 2, brake "at the second cone"',
            'name of the corner "2 Lighthouse"',
            'local rules "no passing under the bridge"',
        ]
        made = laps.store.guide
        assert made is not None
        assert made.typed[2, "brake"].text == "at the second cone"
        laps.guides.make()
        qtbot.waitUntil(lambda: laps.store.guide is not made and laps.tasks.idle, timeout=20000)
    settled(laps, qtbot)
    assert laps.store.guide is not None
    assert laps.store.guide.typed[2, "brake"].text == "at the second cone"


def test_another_shelf_may_be_opened_meanwhile(laps: Application, qtbot: QtBot) -> None:
    from jete.app.demo import demo_location

    with busy(laps):
        type_and_leave(laps, qtbot, "note", "rear slid")
        with qtbot.waitSignal(laps.shelf.shown, timeout=30000):
            laps.shelf.open(demo_location())
        assert laps.store.session.runs == ()
    settled(laps, qtbot)
    assert on_the_shelf()[0] == "rear slid"


def test_words_that_are_refused_are_told_in_full_and_the_truth_is_shown(laps: Application, qtbot: QtBot) -> None:
    """Another hand has set the note's field to something that can't be: the run is there, the change is not taken."""
    told: list[InputError] = []
    laps.shelf.failed.connect(told.append)
    library = laps.shelf.library()

    def refuse(*_: object) -> None:
        time.sleep(2 * A_MOMENT_S)
        raise InputError("library:1", "it can't be noted.", "Ask who keeps the shelf.")

    library.change_sheets = refuse  # type: ignore[method-assign,assignment]
    field = type_and_leave(laps, qtbot, "note", "rear slid")
    qtbot.waitUntil(lambda: bool(told) and not laps.shelf.writer.pending, timeout=4000)
    assert told[0].mend == 'Ask who keeps the shelf. Not saved: run 1: note "rear slid".'
    assert field.text() == ""
    assert laps.store.undo_text is None


def test_no_question_is_put_to_the_shelf_on_the_windows_thread(laps: Application, qtbot: QtBot) -> None:
    """A server that does not answer would hold the window up."""
    asked: list[str] = []

    def note(_: object, __: object, statement: str, *___: object) -> None:
        if threading.current_thread() is threading.main_thread():
            asked.append(statement)

    event.listen(Engine, "before_cursor_execute", note)
    try:
        laps.shelf.notebook.note_lap(LapKey(1, 3), LapNote(star=True))
        laps.shelf.notebook.pin(LapKey(1, 3))
        type_and_leave(laps, qtbot, "note", "rear slid")
        settled(laps, qtbot)
        laps.store.undo()
        laps.store.redo()
        for page in ("ledger", "corner", "walk", "guide", "laps"):
            laps.store.look_at(lambda s, p=page: ops.go_to_page(s, p))
            laps.store.look_at(lambda s: ops.select_corner(s, 2))
            qtbot.waitUntil(lambda: laps.tasks.idle, timeout=20000)
        laps.shelf.circuits.call(2, "2", "Lighthouse")
        laps.shelf.circuits.note_corner(2, "", "bumpy")
        laps.shelf.notebook.note_pass((1, 3, 2), "clean", "")
        laps.shelf.notebook.remove(2)
        settled(laps, qtbot)
        qtbot.waitUntil(lambda: laps.tasks.idle, timeout=20000)
        assert asked == []
        laps.shelf.library().pins()
        assert asked != []
    finally:
        event.remove(Engine, "before_cursor_execute", note)


@pytest.mark.long
def test_a_server_that_stands_still_does_not_stop_the_window(
    empty: Application, server: Server, tmp_path: Path, qtbot: QtBot
) -> None:
    location = Location(tmp_path / "shared", server.address)
    library, _ = open_library(location)
    bring_in(library, DEMO_PAIR[0])
    library.close()
    with qtbot.waitSignal(empty.shelf.shown, timeout=30000):
        empty.shelf.open(location)
    qtbot.waitUntil(lambda: empty.tasks.idle, timeout=30000)
    with server.standing_still():
        begun = time.monotonic()
        for lap in (2, 3):
            empty.shelf.notebook.note_lap(LapKey(1, lap), LapNote(star=True))
        assert time.monotonic() - begun < 1.0
        assert empty.store.session.runs[0].notes.of(3).star
        qtbot.waitUntil(empty.window.unsaved.isVisible, timeout=4000)
    settled(empty, qtbot)
    library = Library(location, read_only=True)
    assert [n for n, note in library.run(1).notes.notes if note.star] == [2, 3]
    library.close()


# --- the writer alone


def change(work: Callable[[], object], seen: list[object]) -> Change:
    return Change(words="a change", work=work, done=seen.append, refused=seen.append)


def test_changes_are_made_and_told_in_their_order(qtbot: QtBot) -> None:
    writer, seen, free = Writer(), [], threading.Event()
    assert not writer.put(change(lambda: free.wait(5), seen))
    for k in range(5):
        assert not writer.put(change(lambda k=k: k, seen))
    free.set()
    qtbot.waitUntil(lambda: not writer.pending, timeout=4000)
    assert seen == [True, 0, 1, 2, 3, 4]
    writer.close()


def test_what_is_not_taken_now_is_tried_until_it_is(qtbot: QtBot) -> None:
    writer, seen, tries = Writer(), [], []

    def work() -> str:
        tries.append(1)
        if len(tries) < 3:
            raise NotNowError("a shelf", "it is in use.", "Wait.")
        return "in"

    writer.put(change(work, seen))
    qtbot.waitUntil(lambda: seen == ["in"], timeout=4000)
    writer.close()


def test_what_fails_for_good_is_told_and_the_next_goes_on(qtbot: QtBot) -> None:
    writer, seen = Writer(), []
    error = ValueError("no such thing")

    def fail() -> None:
        raise error

    assert writer.put(change(fail, seen))
    assert writer.put(change(lambda: "next", seen))
    assert seen == [error, "next"]
    writer.close()
