"""The corners of the guide, a row each: number and name, the line that the driver takes along, kept or not."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from jete.app.theme import BODY_PX, SMALL_PX, THEMES, font, scale
from jete.views.labels import tip

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.app.store import SessionStore

ROW_PX, NAME_PX, KEPT_PX = 30, 118, 62
LINE: Final = Qt.ItemDataRole.UserRole + 1
KEPT: Final = Qt.ItemDataRole.UserRole + 2


class CornerRows(QListWidget):
    """Shows a row a corner; what has no room stands in the tip."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self.setAccessibleName("Corners, a line each")
        self.setObjectName("guide-corners")
        self.setItemDelegate(_Row(store))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setUniformItemSizes(True)

    def show_rows(self, rows: Sequence[tuple[str, str, str]]) -> None:
        """Show corners: what each is called, its line, what the compared lap kept of it (empty: not known)."""
        self.clear()
        for name, line, kept in rows:
            item = QListWidgetItem(name)
            item.setData(LINE, line)
            item.setData(KEPT, kept)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, " · ".join(t for t in (name, line, kept) if t))
            item.setToolTip(tip("\n".join(t for t in (line, kept) if t)))
            self.addItem(item)


class _Row(QStyledItemDelegate):
    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store

    def sizeHint(self, _: QStyleOptionViewItem, __: QModelIndex) -> QSize:  # noqa: N802 - Qt's name
        """One line."""
        return QSize(200, round(ROW_PX * scale()))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Name, line, and whether it was kept."""
        if painter is None:
            return
        theme, rect = THEMES[self._store.session.display.theme], QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.color("selected"))
        painter.fillRect(QRectF(rect.left(), rect.bottom(), rect.width(), 1), theme.color("faint"))
        kept = str(index.data(KEPT) or "")
        wide, last = NAME_PX * scale(), KEPT_PX * scale() if kept else 0.0
        cells = (
            (str(index.data()), "ink", font(BODY_PX, bold=True), QRectF(rect.left() + 6, rect.top(), wide - 8, rect.height())),
            (str(index.data(LINE)), "ink", font(BODY_PX), rect.adjusted(wide + 4, 0, -last - 8, 0)),
            (kept.partition(":")[0], "muted", font(SMALL_PX), QRectF(rect.right() - last, rect.top(), last - 4, rect.height())),
        )  # fmt: skip
        for text, role, face, box in cells:
            painter.setFont(face)
            painter.setPen(theme.color(role))
            cut = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, round(box.width()))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, cut)
