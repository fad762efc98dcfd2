"""Paints the laps: headings across the row, the two held laps in their colours."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from jete.app.theme import BODY_PX, THEMES, Theme, font, scale
from jete.views.laps.model import HOLD, STATE, TIME, LapRow, Role

if TYPE_CHECKING:
    from collections.abc import Callable

LAP_PX, HEAD_PX, PAD = 25, 38, 8.0


class LapsDelegate(QStyledItemDelegate):
    """Reads roles and the theme only."""

    def __init__(self, theme_name: Callable[[], str]) -> None:
        super().__init__()
        self._theme_name = theme_name

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:  # noqa: N802 - Qt's name
        """Headings are taller than laps."""
        row: LapRow = index.data(Role.ROW)
        return QSize(super().sizeHint(option, index).width(), round((LAP_PX if row.span else HEAD_PX) * scale()))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """One cell."""
        if painter is None:
            return
        theme, row, rect = THEMES[self._theme_name()], index.data(Role.ROW), QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.color("selected"))
        painter.setPen(QPen(theme.color("rule" if row.span is None else "faint"), 1))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        if row.span is None:
            painter.setFont(font(BODY_PX + 1, bold=True))
            painter.setPen(theme.color("ink"))
            text = painter.fontMetrics().elidedText(
                str(index.data()), Qt.TextElideMode.ElideMiddle, int(rect.width() - 2 * PAD)
            )
            painter.drawText(
                rect.adjusted(PAD, 8, -PAD, -4), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, text
            )
        else:
            _cell(painter, rect, row, index, theme)
        painter.restore()


def _cell(painter: QPainter, rect: QRectF, row: LapRow, index: QModelIndex, theme: Theme) -> None:
    """A lap's cell: muted where it is not complete, its role's colour where it is held."""
    best = row.to_best_s == 0.0
    held = {"reference": "reference", "lap": "lap"}.get(row.hold)
    role = "muted" if row.span and not row.span.complete else "ink"
    if index.column() == HOLD and held:
        painter.fillRect(QRectF(rect.left() + PAD, rect.center().y() - 5, 10, 10), theme.color(held))
        rect = rect.adjusted(18, 0, 0, 0)
        role = held
    painter.setFont(font(BODY_PX, bold=index.column() == TIME and (best or bool(held))))
    painter.setPen(theme.color("muted" if index.column() == STATE else role))
    text = painter.fontMetrics().elidedText(
        str(index.data()), Qt.TextElideMode.ElideRight, int(rect.width() - 2 * PAD) + 2
    )
    painter.drawText(rect.adjusted(PAD, 0, -PAD, 0), index.data(Qt.ItemDataRole.TextAlignmentRole), text)
