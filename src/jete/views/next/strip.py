"""A strip of laps: one cell a lap, filled by how much of an aim was done on it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, font

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.aims.judged import LapState

CELL_PX, GAP_PX, HIGH_PX = 20, 3, 14
WORDS: Final[dict[LapState, str]] = {
    "done": "done",
    "short": "begun, not all of it",
    "over": "overdone",
    "not": "not done",
    "unknown": "no such mark",
}
# How much of its cell is filled; what is overdone stands out above it.
FILLED: Final[dict[LapState, float]] = {"done": 1.0, "short": 0.5, "over": 1.0, "not": 0.0, "unknown": 0.0}
OVER_PX = 4


class Strip(QWidget):
    """Shows the laps of the runs since: full is done, half is begun, empty is not, taller is too much, struck is unknown."""

    def __init__(self) -> None:
        super().__init__()
        self._laps: tuple[tuple[int, LapState, str], ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def show_laps(self, laps: Sequence[tuple[int, LapState, str]]) -> None:
        """Show laps: number, state, and the mark's value in words."""
        self._laps = tuple(laps)
        told = "; ".join(f"lap {n}: {WORDS[s]}{f' ({v})' if v else ''}" for n, s, v in self._laps)
        self.setToolTip(told)
        self.setAccessibleName(f"Laps: {told}" if told else "No laps")
        self.setVisible(bool(self._laps))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """A row of cells with the numbers under them."""
        return QSize(len(self._laps) * (CELL_PX + GAP_PX), HIGH_PX + OVER_PX + self._number_px() + 3)

    def _number_px(self) -> int:
        return self.fontMetrics().height()

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Cells from the left, as many as there is room for."""
        painter = QPainter(self)
        painter.setFont(font(SMALL_PX))
        ink, muted = self.palette().windowText().color(), self.palette().placeholderText().color()
        wide = min(CELL_PX, self.width() / max(len(self._laps), 1) - GAP_PX)
        for k, (number, state, _value) in enumerate(self._laps):
            cell = QRectF(k * (wide + GAP_PX) + 0.5, OVER_PX + 0.5, wide - 1.0, HIGH_PX)
            high = cell.height() * FILLED[state]
            painter.fillRect(QRectF(cell.left(), cell.bottom() - high, cell.width(), high), ink)
            painter.setPen(QPen(ink, 1.0))
            painter.drawRect(cell)
            if state == "over":
                painter.fillRect(QRectF(cell.left() + wide / 4, 0.0, wide / 2, OVER_PX), ink)
            elif state == "unknown":
                painter.drawLine(cell.bottomLeft(), cell.topRight())
            painter.setPen(muted)
            below = QRectF(cell.left() - GAP_PX, cell.bottom() + 1.0, wide + 2 * GAP_PX, self._number_px())
            painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, str(number))
        painter.end()
