"""The answer of the ledger, set large: up to three corners that matter, one line each; a click selects the corner."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import BODY_PX, LEAD_PX, THEMES, font, scale
from jete.report.words import difference
from jete.views.labels import tip

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.report.answer import Answer

LINE_PX, GAP_PX = 22, 10.0
MOST: Final = 3


class Answers(QWidget):
    """Tells which corner was chosen."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("answers")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMouseTracking(True)
        self.shown: tuple[Answer, ...] = ()
        self._theme, self._over = "light", -1
        self._corner: int | None = None

    def select(self, corner: int | None) -> None:
        """Tell the corner that is selected."""
        if corner != self._corner:
            self._corner = corner
            self.update()

    def show_answers(self, answers: Sequence[Answer], theme: str) -> None:
        """Show the corners that matter."""
        self.shown, self._theme = tuple(answers[:MOST]), theme
        self.setAccessibleName(f"The corners that matter: {'. '.join(words_of(a) for a in self.shown)}")
        self.setVisible(bool(self.shown))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """A line a corner."""
        return QSize(400, round(LINE_PX * scale()) * len(self.shown) + 2)

    def minimumSizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As narrow as there is room: what does not fit is cut, and stands in the tip."""
        return QSize(120, self.sizeHint().height())

    def _row_at(self, y: float) -> int:
        row = int(y // round(LINE_PX * scale()))
        return row if 0 <= row < len(self.shown) else -1

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Select the corner of a line."""
        row = self._row_at(event.position().y()) if event is not None else -1
        if row >= 0:
            self.chosen.emit(self.shown[row].corner)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The whole line stands in the tip."""
        row = self._row_at(event.position().y()) if event is not None else -1
        if row != self._over:
            self._over = row
            self.setToolTip(tip(words_of(self.shown[row])) if row >= 0 else "")
            self.update()

    def leaveEvent(self, _: QEvent | None) -> None:  # noqa: N802 - Qt's name
        """No line is pointed at any more."""
        self._over = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Up and down go through the corners that matter."""
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        if event is None or event.key() not in steps or not self.shown:
            super().keyPressEvent(event)
            return
        at = next((k for k, a in enumerate(self.shown) if a.corner == self._corner), -1)
        self.chosen.emit(self.shown[(at + steps[Qt.Key(event.key())]) % len(self.shown)].corner)

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Corner, seconds, what was done, and what the reference does."""
        painter, theme, high = QPainter(self), THEMES[self._theme], round(LINE_PX * scale())
        for k, answer in enumerate(self.shown):
            rect = QRectF(0.0, k * high, float(self.width()), float(high))
            if k == self._over or (self.hasFocus() and answer.corner == self._corner):
                painter.fillRect(rect, theme.color("faint"))
            x = 8.0
            loses = answer.seconds > 0.0
            parts = (
                (answer.title, "ink", True, LEAD_PX),
                (f"{difference(answer.seconds)} s", "loss" if loses else "gain", True, LEAD_PX),
                (answer.done, "ink", False, LEAD_PX),
                (answer.often, "muted", False, BODY_PX),
                (f"→ the reference {answer.otherwise}" if answer.otherwise else "", "ink", False, BODY_PX),
            )
            for text, role, bold, size in parts:
                if not text or x >= rect.right() - GAP_PX:
                    continue
                painter.setFont(font(size, bold=bold))
                painter.setPen(theme.color(role))
                metrics = QFontMetricsF(painter.font())
                room = rect.right() - x - 2.0
                cut = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
                painter.drawText(QRectF(x, rect.top(), room, rect.height()), Qt.AlignmentFlag.AlignVCenter, cut)
                x += metrics.horizontalAdvance(cut) + GAP_PX

    def point_of(self, row: int) -> QPoint:
        """The middle of a line."""
        return QPoint(40, round((row + 0.5) * round(LINE_PX * scale())))


def words_of(answer: Answer) -> str:
    """An answer as one line."""
    more = "".join(f", {w}" for w in (answer.often,) if w)
    otherwise = f"; the reference {answer.otherwise}" if answer.otherwise else ""
    return f"{answer.title} {difference(answer.seconds)} s: {answer.done}{more}{otherwise}"
