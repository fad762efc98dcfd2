"""Colours that can be read: contrast of all text roles on all grounds (WCAG 2.1, 1.4.3 and 1.4.6), and sizes from one scale."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtGui import QColor

import jete
from jete.app import theme
from jete.app.theme import THEMES, style_sheet
from jete.session.display import choices

TEXT = ("ink", "muted", "reference", "lap", "loss", "gain")
GROUNDS = ("ground", "raised", "selected", "faint")
SCALE = {theme.SMALL_PX, theme.BODY_PX, theme.LEAD_PX, theme.LARGE_PX}


def contrast(one: str, other: str) -> float:
    """The ratio of two colours' relative luminances."""

    def luminance(name: str) -> float:
        parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(name).getRgbF()[:3]]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


def test_contrast_is_measured_as_the_standard_says() -> None:
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21.0)
    assert contrast("#777777", "#FFFFFF") == pytest.approx(4.48, abs=0.01)


def test_every_theme_can_be_chosen() -> None:
    assert set(choices("theme")) == set(THEMES)


@pytest.mark.parametrize("name", list(THEMES))
@pytest.mark.parametrize("role", TEXT)
def test_text_can_be_read_on_every_ground(name: str, role: str) -> None:
    least = 7.0 if name == "contrast" else 4.5
    shown = THEMES[name]
    for ground in GROUNDS:
        wanted = 4.5 if ground in ("selected", "faint") and name == "contrast" else least
        assert contrast(getattr(shown, role), getattr(shown, ground)) >= wanted, ground


@pytest.mark.parametrize("name", list(THEMES))
def test_what_laps_are_told_apart_by_is_seen_on_paper(name: str) -> None:
    shown = THEMES[name]
    assert len({shown.reference, shown.lap, *shown.over}) == 2 + len(shown.over)
    for color in shown.over:
        assert contrast(color, shown.ground) >= 4.5


@pytest.mark.parametrize("name", list(THEMES))
def test_what_can_be_pressed_shows_that_it_is_pointed_at_pressed_and_switched_off(name: str) -> None:
    sheet = style_sheet(THEMES[name])
    for kind in ("QPushButton", 'QPushButton[page="true"]', 'QPushButton[switch="true"]'):
        for state in ("hover", "pressed", "focus"):
            assert re.search(re.escape(f"{kind}:{state}") + r"\b", sheet), (kind, state)
    assert "QPushButton:disabled" in sheet


def test_text_has_the_sizes_of_the_scale() -> None:
    assert sorted(SCALE) == [12, 13, 16, 22]
    home = Path(jete.__file__).parent / "views"
    own = [
        f"{path.name}: {line.strip()}"
        for path in home.rglob("*.py")
        for line in path.read_text(encoding="utf-8").splitlines()
        if re.search(r"font\([A-Z]+_PX [+-]|setPixelSize\(|setPointSize", line)
    ]
    assert own == []
