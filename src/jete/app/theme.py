"""The look: every colour, space and size of the program, by role: light paper, a dark sheet, high contrast."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from string import Template

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

ASSETS = Path(__file__).parent / "assets"

# Room between things: half of it, it, or a multiple.
SPACE = 8
ROW = 32
# Sizes of text: tables, pictures and what is only there; text; answers and titles; what is read from afar.
SMALL_PX, BODY_PX, LEAD_PX, LARGE_PX = 12, 13, 16, 22


@dataclass(frozen=True)
class Theme:
    """Colours by role.  Colour says which lap, and whether time was lost; never which channel."""

    name: str
    ground: str
    raised: str
    ink: str
    muted: str
    rule: str
    faint: str
    selected: str
    reference: str
    lap: str
    loss: str
    gain: str
    unexplained: str
    sky: str
    verge: str
    asphalt: str
    joint: str
    paint: str
    over: tuple[str, ...]

    def over_color(self, number: int) -> QColor:
        """The colour of a lap that is laid over, by its place among them."""
        return _color(self.over[number % len(self.over)], 255)

    def color(self, role: str, alpha: int = 255) -> QColor:
        """A colour by role with an opacity of 0 to 255."""
        return _color(getattr(self, role), alpha)


@lru_cache(maxsize=256)
def _color(name: str, alpha: int) -> QColor:
    color = QColor(name)
    color.setAlpha(alpha)
    return color


LIGHT = Theme(
    "light", ground="#F6F2E9", raised="#FCFAF4", ink="#1D1B18", muted="#645F55", rule="#D8D0BF", faint="#EAE4D6",
    selected="#E7DEC9", reference="#1D1B18", lap="#076E69", loss="#A44411", gain="#285DB6", unexplained="#9A9384",
    sky="#EEF0EC", verge="#DAD9BF", asphalt="#BDB6A8", joint="#A9A294", paint="#FBF9F2",
    over=("#8E4C9E", "#7E6E00", "#B8407F", "#4F6275", "#7A4A21"),
)  # fmt: skip
DARK = Theme(
    "dark", ground="#15171A", raised="#1C1F23", ink="#EDE8DD", muted="#A69F93", rule="#383C41", faint="#24282C",
    selected="#33373C", reference="#EDE8DD", lap="#41C4B8", loss="#F08A4B", gain="#79A8FF", unexplained="#7E7A72",
    sky="#101418", verge="#1E2420", asphalt="#34373A", joint="#464A4D", paint="#B9B4A8",
    over=("#C99BDA", "#CDBE4A", "#F08FC0", "#A9B8C6", "#C89A6B"),
)  # fmt: skip
CONTRAST = Theme(
    "contrast", ground="#FFFFFF", raised="#FFFFFF", ink="#000000", muted="#2E2E2E", rule="#6E6E6E", faint="#DEDEDE",
    selected="#CFCFCF", reference="#000000", lap="#005750", loss="#9A2C00", gain="#003C9E", unexplained="#4D4D4D",
    sky="#FFFFFF", verge="#D4D4BC", asphalt="#A6A6A6", joint="#7C7C7C", paint="#FFFFFF",
    over=("#5E1F70", "#4F4500", "#8A1050", "#263A4A", "#55300A"),
)  # fmt: skip
THEMES = {t.name: t for t in (LIGHT, DARK, CONTRAST)}


def load_fonts(app: QApplication) -> None:
    """Load the fonts that ship and make B612 the program's font, scaled with the system's."""
    for file in sorted((ASSETS / "fonts").glob("*.otf")):
        QFontDatabase.addApplicationFont(str(file))
    app.setFont(font(BODY_PX))


@lru_cache(maxsize=1)
def scale() -> float:
    """How much larger than usual the system asks text to be (9 or 10 points are usual)."""
    points = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF()
    return min(max(points / 10.0, 1.0), 2.0)


@lru_cache(maxsize=64)
def font(px: int, *, bold: bool = False) -> QFont:
    """B612 with tabular figures at a size in pixels."""
    out = QFont("B612")
    out.setPixelSize(round(px * scale()))
    out.setBold(bold)
    out.setFeature(QFont.Tag("tnum"), 1)
    return out


def palette(theme: Theme) -> QPalette:
    """The palette of a theme; widgets read roles from it."""
    p = QPalette()
    roles = {
        QPalette.ColorRole.Window: "ground",
        QPalette.ColorRole.Base: "raised",
        QPalette.ColorRole.AlternateBase: "faint",
        QPalette.ColorRole.Text: "ink",
        QPalette.ColorRole.WindowText: "ink",
        QPalette.ColorRole.ButtonText: "ink",
        QPalette.ColorRole.Button: "raised",
        QPalette.ColorRole.Highlight: "selected",
        QPalette.ColorRole.HighlightedText: "ink",
        QPalette.ColorRole.PlaceholderText: "muted",
        QPalette.ColorRole.ToolTipBase: "raised",
        QPalette.ColorRole.ToolTipText: "ink",
        QPalette.ColorRole.Link: "lap",
        QPalette.ColorRole.Mid: "rule",
    }
    for role, name in roles.items():
        p.setColor(role, theme.color(name))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.WindowText, QPalette.ColorRole.ButtonText):
        p.setColor(QPalette.ColorGroup.Disabled, role, theme.color("unexplained"))
    return p


@lru_cache(maxsize=4)
def style_sheet(theme: Theme) -> str:
    """What the palette can't say."""
    return Template((ASSETS / "style.qss").read_text(encoding="utf-8")).substitute(vars(theme))


def apply(app: QApplication, theme: Theme) -> None:
    """Put a theme on the application: the palette first, the style sheet second.

    One that is on already is left: every widget there is would be styled anew.
    """
    sheet = style_sheet(theme)
    if app.styleSheet() != sheet:
        app.setPalette(palette(theme))
        app.setStyleSheet(sheet)
