"""Desktop entry and metadata are valid."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

import pytest
from PyQt6.QtGui import QFontDatabase, QIcon
from pytestqt.qtbot import QtBot

from jete.app import theme


@pytest.mark.parametrize(
    "command",
    [
        ("desktop-file-validate", "share/applications/jete.desktop"),
        ("appstreamcli", "validate", "--no-net", "share/metainfo/org.jete.Jete.metainfo.xml"),
    ],
)
def test_desktop_files_are_valid(command: tuple[str, ...]) -> None:
    if shutil.which(command[0]) is None:
        pytest.skip(f"{command[0]} is not installed")
    result = subprocess.run(command, capture_output=True, text=True, check=False)
    assert result.returncode == 0, result.stdout + result.stderr


def test_the_icon_can_be_drawn(qapp: object) -> None:
    assert not QIcon(str(theme.ASSETS / "jete.svg")).pixmap(48).isNull()


def test_the_font_that_ships_is_loaded(qtbot: QtBot) -> None:
    from PyQt6.QtWidgets import QApplication

    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.load_fonts(app)
    assert "B612" in QFontDatabase.families()
    assert theme.font(13).family() == "B612"


@pytest.mark.parametrize("name", list(theme.THEMES))
def test_text_can_be_read_on_its_ground(name: str) -> None:
    t = theme.THEMES[name]

    def luminance(role: str) -> float:
        c = t.color(role)
        parts = [c.redF(), c.greenF(), c.blueF()]
        linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    for role in ("ink", "muted", "lap", "loss", "gain"):
        pair = sorted((luminance(role), luminance("ground")))
        assert (pair[1] + 0.05) / (pair[0] + 0.05) >= 4.0, role


def test_no_lock_file_names_an_address() -> None:
    for path in Path().glob("requirements*.lock"):
        assert "://" not in path.read_text(encoding="utf-8")
