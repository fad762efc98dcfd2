"""The drawings of a card, in the ink of the sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import THEMES
from jete.paper.placed import paint_drawing

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent, QResizeEvent

    from jete.app.store import SessionStore
    from jete.report.drawings import Drawing

LEAST_HEIGHT, MOST_HEIGHT, GAP = 120, 260, 14.0


class CardDrawings(QWidget):
    """The corner from above, and what the lap did over it; as in print."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._drawings: tuple[Drawing, ...] = ()
        self.setAccessibleName("The corner as it is drawn in the guide")
        self.setMinimumHeight(LEAST_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As high as the drawings are for their width."""
        return QSize(560, self.heightForWidth(560))

    def heightForWidth(self, width: int) -> int:  # noqa: N802 - Qt's name
        """As high as the drawings are, side by side in a width."""
        wide = sum(d.width for d in self._drawings)
        if not wide:
            return LEAST_HEIGHT
        room = width - GAP * len(self._drawings)
        return round(min(max(room / wide * max(d.height for d in self._drawings), LEAST_HEIGHT), MOST_HEIGHT))

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """No empty room under them."""
        super().resizeEvent(event)
        self.setFixedHeight(self.heightForWidth(self.width()))

    def show_drawings(self, drawings: tuple[Drawing, ...]) -> None:
        """Show the drawings of a card."""
        self._drawings = drawings
        self.setAccessibleDescription("; ".join(d.name for d in drawings))
        self.setFixedHeight(self.heightForWidth(self.width()))
        self.update()

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Side by side, as large as there is room."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        wide = sum(d.width for d in self._drawings)
        if not wide:
            return
        room = self.width() - GAP * len(self._drawings)
        scale = min(room / wide, self.height() / max(d.height for d in self._drawings))
        left = 0.0
        for drawing in self._drawings:
            box = QRectF(left, 0.0, drawing.width * scale, drawing.height * scale)
            paint_drawing(painter, drawing, box, theme.color("ink"))
            left = box.right() + GAP
