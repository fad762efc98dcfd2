"""How alike the corners of the shown run are driven: found out while one looks at it."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from jete.main import Application
from jete.notes.sheet import LapNote
from jete.session import operations as ops
from jete.session.state import LapKey


@pytest.fixture
def measured(shelf: Application, qtbot: QtBot) -> Application:
    qtbot.waitUntil(lambda: shelf.store.evenness is not None, timeout=30000)
    return shelf


def test_the_laps_page_says_which_corners_are_driven_alike(measured: Application) -> None:
    found = measured.store.evenness
    assert found is not None
    assert found.even_s < found.uneven_s
    assert f"most consistent: corner {found.even} " in measured.window.laps.run.words.text()
    assert f"least: corner {found.uneven} " in measured.window.laps.run.words.text()


def test_another_run_has_its_own(measured: Application, qtbot: QtBot) -> None:
    first = measured.store.evenness
    measured.store.look_at(lambda s: ops.select_run(s, 1))
    assert measured.store.evenness is None
    qtbot.waitUntil(lambda: measured.store.evenness is not None, timeout=20000)
    assert measured.store.evenness != first
    measured.store.look_at(lambda s: ops.select_run(s, 2))
    assert measured.store.evenness == first


def test_a_lap_set_aside_does_not_count(measured: Application, qtbot: QtBot) -> None:
    before = measured.store.evenness
    measured.shelf.notebook.note_lap(LapKey(2, 2), LapNote(aside="traffic"))
    assert measured.store.evenness is None
    qtbot.waitUntil(lambda: measured.store.evenness is not None, timeout=20000)
    assert measured.store.evenness != before


def test_two_laps_say_nothing(empty: Application, pair_files: tuple[Path, Path], qtbot: QtBot) -> None:
    empty.imports.open_files(pair_files)
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 2 and empty.tasks.idle, timeout=20000)
    assert empty.store.evenness is None
    assert "alike" not in empty.window.laps.run.words.text()
