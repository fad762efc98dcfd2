"""Paints the laps: the held ones in their colours, set-aside ones hollow, best pieces strong."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from jete.app.theme import BODY_PX, THEMES, Theme, font
from jete.views.laps.model import FIRST, HOLD, LAP, NOTE, PIECES, STATE, TIME, LapRow, Role

if TYPE_CHECKING:
    from collections.abc import Callable

LAP_PX, PAD = 25, 8.0


class LapsDelegate(QStyledItemDelegate):
    """Reads roles and the theme only."""

    def __init__(self, theme_name: Callable[[], str]) -> None:
        super().__init__()
        self._theme_name = theme_name

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """One cell."""
        if painter is None:
            return
        theme, row, rect = THEMES[self._theme_name()], index.data(Role.ROW), QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.color("selected"))
        painter.setPen(QPen(theme.color("faint"), 1))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        _cell(painter, rect, row, index, theme)
        painter.restore()


def _cell(painter: QPainter, rect: QRectF, row: LapRow, index: QModelIndex, theme: Theme) -> None:
    """A lap's cell: muted where it does not count, its role's colour where it is held."""
    column, best = index.column(), row.to_best_s == 0.0
    ink = theme.color("ink" if row.counts else "muted")
    if column == HOLD and row.hold:
        ink = theme.over_color(row.over) if row.hold == "over" else theme.color(row.hold)
        painter.fillRect(QRectF(rect.left() + PAD, rect.center().y() - 5, 10, 10), ink)
        rect = rect.adjusted(18, 0, 0, 0)
    if column == LAP and row.note.star:
        _star(painter, QPointF(rect.left() + PAD + 4, rect.center().y()), theme)
    strong = (column == TIME and (best or row.hold in ("reference", "lap"))) or _is_best_piece(row, column)
    painter.setFont(font(BODY_PX, bold=strong))
    quiet = column in (STATE, NOTE) or (column in PIECES and not strong)
    painter.setPen(theme.color("muted") if quiet else ink)
    text = painter.fontMetrics().elidedText(
        str(index.data()), Qt.TextElideMode.ElideRight, int(rect.width() - 2 * PAD) + 2
    )
    painter.drawText(rect.adjusted(PAD, 0, -PAD, 0), index.data(Qt.ItemDataRole.TextAlignmentRole), text)


def _is_best_piece(row: LapRow, column: int) -> bool:
    return column in PIECES and column - FIRST < len(row.best_pieces) and row.best_pieces[column - FIRST]


def _star(painter: QPainter, middle: QPointF, theme: Theme) -> None:
    """A small rhomb: the font has no star."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("ink"))
    painter.drawPolygon(QPolygonF([middle + QPointF(x, y) for x, y in ((0, -5), (4, 0), (0, 5), (-4, 0))]))
