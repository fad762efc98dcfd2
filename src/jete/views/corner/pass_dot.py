"""A pass as a dot: filled, open for the second of two ways, pale where it does not count; the compared laps ringed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from jete.session.state import Choice, LapKey

if TYPE_CHECKING:
    from jete.app.theme import Theme
    from jete.library.pass_book import KeptPass

DOT_PX, HIT_PX = 3.0, 9.0
# How strong a dot is that does not count, of 255.
PALE = 60


@dataclass(frozen=True)
class Way:
    """How a pass is shown: 0 filled, 1 open, None pale; ``why`` says why it does not count."""

    number: int | None
    why: str = ""


FILLED: Final = Way(0)


def paint_pass(painter: QPainter, theme: Theme, at: QPointF, of: tuple[KeptPass, Choice], way: Way = FILLED) -> None:
    """Paint a pass at a point; with what is compared, whose laps are ringed in their colours."""
    kept, choice = of
    pale = way.number is None
    painter.setPen(QPen(theme.color("muted", PALE if pale else 255), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush if way.number == 1 else theme.color("muted", PALE if pale else 150))
    painter.drawEllipse(at, DOT_PX, DOT_PX)
    for key, role in ((choice.reference, "reference"), (choice.lap, "lap")):
        if key == LapKey(kept.run, kept.lap):
            painter.setPen(QPen(theme.color(role), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, DOT_PX + 2.5, DOT_PX + 2.5)
