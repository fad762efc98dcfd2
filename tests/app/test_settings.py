"""Settings kept between two starts, and broken ones."""

from __future__ import annotations

import gc
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtWidgets import QApplication, QMessageBox

from jete.app import settings
from jete.app.errors import CrashNote, earlier_crash, log_path, open_crash_log, write_log
from jete.app.theme import THEMES
from jete.report.passes import NUMBERS, SCOPES, WAYS
from jete.report.units import LENGTHS, PRESSURES, SPEEDS
from jete.session.display import PASS_NUMBERS, Display, choices

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


def test_a_display_is_remembered() -> None:
    display = Display(theme="dark", speed="mph", panels=(("car", ("speed", "oil")),), by_loss=True)
    settings.save(display)
    assert settings.load() == display


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("speed", SPEEDS),
        ("length", LENGTHS),
        ("pressure", PRESSURES),
        ("scope", SCOPES),
        ("ways", WAYS),
        ("theme", THEMES),
    ],
)
def test_every_choice_has_words_or_a_measure(name: str, shown: dict[str, object]) -> None:
    assert choices(name) == tuple(shown)
    assert set(PASS_NUMBERS) == set(NUMBERS)


@pytest.mark.parametrize(
    ("name", "values", "never"),
    [
        ("theme", ("dark",), "purple"),
        ("by_loss", (True, False), 1),
        ("eye_m", (0.5, 3.0), 3.01),
        ("view_deg", (90,), True),
        ("dots", (("brake_peak", "window_s"),), ("brake_peak", "oil")),
        ("beside", ("ways",), ""),
    ],
)
def test_what_can_be_is_remembered_and_nothing_else(name: str, values: tuple[object, ...], never: object) -> None:
    for value in values:
        settings.save(replace(Display(), **{name: value}))
        assert getattr(settings.load(), name) == value
    settings.save(replace(Display(), **{name: never}))
    assert settings.load() == Display()


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
