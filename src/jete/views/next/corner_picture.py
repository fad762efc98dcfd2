"""The corner of an aim from above, as on the page Corner; a click goes there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, Qt, pyqtSignal

from jete.session.state import Changed, Session
from jete.views.above.from_above import FromAbove

if TYPE_CHECKING:
    from PyQt6.QtGui import QMouseEvent, QWheelEvent

    from jete.app.store import SessionStore
    from jete.core.causes.verdict.result import CornerLoss

LEAST_PX = 150


class CornerPicture(FromAbove):
    """Shows one corner of the comparison, whichever is selected; nothing in it can be dragged."""

    clicked = pyqtSignal()

    def __init__(self, store: SessionStore) -> None:
        self._number: int | None = None
        super().__init__(store)
        self.setToolTip("Click: the corner on its page. b brake, t turn-in, s slowest, p pick-up.")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumHeight(LEAST_PX)

    def minimumSizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As low as a bend can still be read."""
        return QSize(120, LEAST_PX)

    def show_corner(self, number: int | None) -> None:
        """Show a corner by its number."""
        if number != self._number:
            self._number = number
            self.paint_anew()

    def loss(self) -> CornerLoss | None:
        """The corner that is drawn."""
        comparison = self._store.comparison
        if comparison is None or self._number is None:
            return None
        return next((c for c in comparison.laps[0].corners if c.corner.number == self._number), None)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY):
            super()._on_changed(session, flags)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Nothing is taken hold of."""

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Nothing is dragged."""

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Go there."""
        if event is not None and self._number is not None:
            self.clicked.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The same as a click."""

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """The page scrolls."""
        if event is not None:
            event.ignore()
