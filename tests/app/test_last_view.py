"""What was shown last is painted at once at the next start, and is of no use once anything has changed."""

from __future__ import annotations

import os
import pickle
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtWidgets import QApplication

from jete.app import last_view
from jete.library.library import Library
from jete.library.location import Location
from jete.main import Application, build
from jete.session import operations as ops

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


@pytest.fixture
def left(shelf: Application) -> Location:
    """A shelf whose ledger was looked at, and closed."""
    shelf.store.look_at(lambda s: ops.select_corner(ops.go_to_page(s, "ledger"), 4))
    location = shelf.shelf.location
    assert location is not None
    shelf.window.close()
    return location


def started(qtbot: QtBot) -> Application:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    again = build(app)
    again.window.show()
    return again


def test_the_last_ledger_is_there_before_the_shelf_is(left: Location, qtbot: QtBot) -> None:
    again = started(qtbot)
    with qtbot.waitSignal(again.shelf.shown, timeout=30000):
        again.window.files.open_own()
        shown = again.store.comparison
        assert shown is not None
        assert again.shelf.location is None
        assert again.store.session.look.corner == 4
        assert len(again.window.page("ledger").model.rows) > 4
    qtbot.waitUntil(lambda: again.tasks.idle, timeout=30000)
    assert again.store.comparison is shown
    assert again.store.session.look.corner == 4
    again.window.close()


def test_a_comparison_of_other_laps_than_those_chosen_is_not_kept(shelf: Application, qtbot: QtBot) -> None:
    """Who chooses another lap and closes at once finds the lap that was chosen, not the one shown before."""
    location, lap = shelf.shelf.location, shelf.store.session.choice.lap
    assert location is not None
    assert lap is not None
    other = next(s.number for s in shelf.store.session.run(lap.run).counted if s.number != lap.lap)
    shelf.store.do("another lap", lambda s: ops.choose_lap(s, replace(lap, lap=other)))
    shelf.window.close()
    assert last_view.load(location) is None
    again = started(qtbot)
    again.window.files.open_own()
    qtbot.waitUntil(lambda: again.store.comparison is not None and again.tasks.idle, timeout=30000)
    assert again.store.comparison.laps[0].passage.lap.span.number == again.store.session.choice.lap.lap == other
    again.window.close()


def test_a_shelf_that_has_changed_is_compared_anew(left: Location, qtbot: QtBot) -> None:
    library = Library(left)
    library.note_run(1, library.run(1).sheet)
    library.close()
    os.utime(left.file or "", (5.0, 5.0))
    again = started(qtbot)
    again.window.files.open_own()
    assert again.store.comparison is None
    qtbot.waitUntil(lambda: again.store.comparison is not None, timeout=30000)
    again.window.close()


class Evil:
    """What would run a command when it is read back."""

    def __reduce__(self) -> tuple:
        return os.system, ("touch /tmp/jete-was-here",)


@pytest.mark.parametrize("what", [Evil(), {"a": 1}, None])
def test_a_file_that_was_tampered_with_does_nothing(left: Location, what: object) -> None:
    last_view._path().write_bytes(pickle.dumps((last_view._stamp(left), what)))
    assert last_view.load(left) is None
    last_view._path().write_bytes(b"nothing")
    assert last_view.load(left) is None
    assert not Path("/tmp/jete-was-here").exists()
