"""Settings kept between two starts, and broken ones."""

from __future__ import annotations

import gc
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtWidgets import QApplication, QMessageBox

from jete.app import settings
from jete.app.errors import CrashNote, earlier_crash, log_path, open_crash_log, write_log
from jete.session.state import Display

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


def test_a_display_is_remembered() -> None:
    display = Display(theme="dark", speed="mph", panels=(("car", ("speed", "oil")),), by_loss=True)
    settings.save(display)
    assert settings.load() == display


def test_the_first_start_has_the_usual_display() -> None:
    assert settings.load() == Display()


@pytest.mark.parametrize(
    "text",
    [
        "",
        "not json",
        "[]",
        '{"theme": "purple"}',
        '{"panels": ["gap"]}',
        '{"panels": [["car", []], ["boat", ["gap"]], ["car", [1]]]}',
    ],
)
def test_broken_settings_do_no_harm(text: str) -> None:
    path = settings.settings_path()
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text, encoding="utf-8")
    assert settings.load() == Display()


def test_an_unforeseen_failure_is_logged_with_its_traceback() -> None:
    path = write_log(ValueError("made for the test"))
    assert path == log_path()
    assert "made for the test" in path.read_text(encoding="utf-8")


def test_a_crash_of_an_earlier_start_is_told_once() -> None:
    log_path().parent.mkdir(parents=True, exist_ok=True)
    with open_crash_log() as crash:
        assert earlier_crash(crash) is None
        crash.write("Fatal Python error")
        crash.flush()
        note = earlier_crash(crash)
        assert note is not None
        assert "Fatal" in note.text
        assert earlier_crash(crash) is None


def test_a_state_folder_without_rights_lets_the_window_start(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("jete.app.errors.log_path", lambda: Path("/dev/null/jete.log"))
    with open_crash_log() as crash:
        assert crash.fileno() > 0
        assert earlier_crash(crash) is None


def test_the_box_about_a_crash_stays_until_it_is_answered(qtbot: QtBot) -> None:
    CrashNote("Fatal Python error").tell()
    gc.collect()
    qtbot.wait(5)
    boxes = [w for w in QApplication.topLevelWidgets() if isinstance(w, QMessageBox) and w.isVisible()]
    assert ["ended without warning last time" in b.text() for b in boxes] == [True]
    boxes[0].accept()
