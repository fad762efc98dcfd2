"""Paints the ledger's cells: corner with its bend, the bar with its causes in words, numbers."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from jete.app.theme import BODY_PX, SMALL_PX, THEMES, Theme, font
from jete.views.ledger.model import BAR, CORNER, GAP, UNEXPLAINED, LedgerModel, LedgerRow, Part, Role

if TYPE_CHECKING:
    from collections.abc import Callable

# Where the bar begins, how high it is, and where the words under it begin, of a row's height.
BAR_FROM, BAR_SHARE, WORDS_FROM, MOST_BAR_PX = 0.08, 0.28, 0.40, 11.0
PAD = 8.0
WORD_GAP = 12.0
PALEST = 0.35
ELIDED = Qt.TextElideMode.ElideRight
MORE = "…"


class LedgerDelegate(QStyledItemDelegate):
    """Reads roles and the theme only."""

    def __init__(self, theme_name: Callable[[], str]) -> None:
        super().__init__()
        self._theme_name = theme_name

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """One cell."""
        if painter is None:
            return
        theme = THEMES[self._theme_name()]
        row: LedgerRow = index.data(Role.ROW)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(option.rect)
        _ground(
            painter,
            theme,
            rect,
            row,
            selected=bool(option.state & QStyle.StateFlag.State_Selected),
            first=index.column() == CORNER,
        )
        if index.column() == CORNER:
            _corner(painter, theme, rect, row)
        elif index.column() == BAR:
            model = index.model()
            _bar(painter, theme, rect, row, model.span_s() if isinstance(model, LedgerModel) else (0.2, 0.8))
        else:
            _number(painter, theme, rect, row, index.data(), is_gap=index.column() == GAP)
        painter.restore()


def _ground(painter: QPainter, theme: Theme, rect: QRectF, row: LedgerRow, *, selected: bool, first: bool) -> None:
    """Selection, the rule under the row, the ink bar of the selected and the strong rule of the sum."""
    if selected:
        painter.fillRect(rect, theme.color("selected"))
    painter.setPen(QPen(theme.color("rule"), 1))
    painter.drawLine(rect.bottomLeft(), rect.bottomRight())
    if row.corner is None:
        painter.setPen(QPen(theme.color("ink"), 1))
        painter.drawLine(rect.topLeft(), rect.topRight())
    if selected and first:
        painter.fillRect(QRectF(rect.left(), rect.top(), 3, rect.height()), theme.color("ink"))


def _corner(painter: QPainter, theme: Theme, rect: QRectF, row: LedgerRow) -> None:
    """The number, and a small bend that turns its way."""
    painter.setFont(font(BODY_PX, bold=row.worst or row.corner is None))
    painter.setPen(theme.color("ink"))
    box = rect.adjusted(PAD, 0, -26 if row.corner is not None else 0, 0)
    painter.drawText(
        box,
        Qt.AlignmentFlag.AlignVCenter
        | (Qt.AlignmentFlag.AlignRight if row.corner is not None else Qt.AlignmentFlag.AlignLeft),
        row.label,
    )
    if row.worst:
        _matters(painter, theme, rect)
    if row.corner is not None and row.direction in ("left", "right"):
        _bend(painter, theme, QPointF(rect.right() - 14, rect.center().y()), left=row.direction == "left")


def _matters(painter: QPainter, theme: Theme, rect: QRectF) -> None:
    """The sign of a corner that matters: a small wedge at the row's edge, which says nothing of loss or gain."""
    x, y = rect.left() + 6.0, rect.center().y()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("ink"))
    painter.drawPolygon(QPolygonF([QPointF(x, y - 4), QPointF(x + 5, y), QPointF(x, y + 4)]))


def _bend(painter: QPainter, theme: Theme, at: QPointF, *, left: bool) -> None:
    """A short stroke that leaves upwards and turns left or right."""
    side = -1.0 if left else 1.0
    painter.setPen(QPen(theme.color("muted"), 1.4))
    painter.drawPolyline(
        QPolygonF(
            [
                at + QPointF(-side * 3, 6),
                at + QPointF(-side * 3, 0),
                at + QPointF(-side * 1, -3),
                at + QPointF(side * 5, -4),
            ]
        )
    )


def _bar(painter: QPainter, theme: Theme, rect: QRectF, row: LedgerRow, span: tuple[float, float]) -> None:
    """The bar from its zero line, losses to the right, gains to the left; the causes below."""
    inner = rect.adjusted(PAD, 0, -PAD, 0)
    gains, losses = span
    per_s = inner.width() / max(gains + losses, 1e-6)
    zero = inner.left() + gains * per_s
    top = rect.top() + BAR_FROM * rect.height()
    thick = min(BAR_SHARE * rect.height(), MOST_BAR_PX)
    if row.corner is None:
        _words(painter, theme, rect.adjusted(PAD, 0, -PAD, 0), row, Qt.AlignmentFlag.AlignVCenter)
        return
    right, left = zero, zero
    for k, part in enumerate(p for p in row.parts if abs(p.seconds) >= 0.0005):
        width = abs(part.seconds) * per_s
        if part.seconds > 0:
            box = QRectF(right, top, width, thick)
            right += width
        else:
            left -= width
            box = QRectF(left, top, width, thick)
        _piece(painter, theme, box, part, order=k)
    painter.setPen(QPen(theme.color("muted"), 1))
    painter.drawLine(QPointF(zero, top - 2), QPointF(zero, top + thick + 1))
    _whisker(painter, theme, zero + row.gap_s * per_s, (inner.left(), inner.right()), (top, thick), row.sigma_s * per_s)
    _words(
        painter,
        theme,
        QRectF(
            inner.left(), rect.top() + WORDS_FROM * rect.height(), inner.width(), (1.0 - WORDS_FROM) * rect.height() - 1
        ),
        row,
        Qt.AlignmentFlag.AlignVCenter,
    )


def _piece(painter: QPainter, theme: Theme, box: QRectF, part: Part, *, order: int) -> None:
    """One cause: full for the dearest, lighter for the next, paler the less sure it is; the unexplained is hatched."""
    if box.width() <= 0.0:
        return
    role = "loss" if part.seconds > 0 else "gain"
    painter.setPen(Qt.PenStyle.NoPen)
    if part.cause == UNEXPLAINED:
        painter.setBrush(QBrush(theme.color("unexplained"), Qt.BrushStyle.BDiagPattern))
    else:
        painter.setBrush(
            theme.color(role, round(max(255 - 75 * order, 90) * (PALEST + (1.0 - PALEST) * part.confidence)))
        )
    painter.drawRect(box.adjusted(0, 0, -1.0 if box.width() > 3.0 else 0.0, 0))


def _whisker(
    painter: QPainter, theme: Theme, x: float, ends: tuple[float, float], bar: tuple[float, float], half: float
) -> None:
    """The corner's gap as a tick with one sigma to either side, no further than its cell; ``bar`` is its top and height."""
    top, thick = bar
    y = top + thick / 2
    painter.setPen(QPen(theme.color("ink"), 1))
    painter.drawLine(QPointF(x, top - 2), QPointF(x, top + thick + 1))
    if half > 1.5:
        painter.drawLine(QPointF(max(x - half, ends[0]), y), QPointF(min(x + half, ends[1]), y))


def _words(painter: QPainter, theme: Theme, rect: QRectF, row: LedgerRow, align: Qt.AlignmentFlag) -> None:
    """Causes with their seconds, as many as fit; what stays unexplained to the right, muted, where there is room."""
    painter.setFont(font(SMALL_PX))
    metrics = QFontMetricsF(painter.font())
    told, rest = [p.in_words for p in row.told], row.rest
    right = rect.right()
    # Causes come first: what stays unexplained is left out before any of them is.
    needed = sum(metrics.horizontalAdvance(t) + WORD_GAP for t in told[:2])
    if rest and needed + metrics.horizontalAdvance(rest) <= rect.width():
        painter.setPen(theme.color("muted"))
        painter.drawText(rect, align | Qt.AlignmentFlag.AlignRight, rest)
        right -= metrics.horizontalAdvance(rest) + WORD_GAP
    x = rect.left()
    painter.setPen(theme.color("ink"))
    for number, text in enumerate(told):
        width = metrics.horizontalAdvance(text)
        room = right - x
        if width > room and number:
            # That there is more is said where it can be.
            if metrics.horizontalAdvance(MORE) <= room:
                painter.setPen(theme.color("muted"))
                painter.drawText(QRectF(x, rect.top(), room, rect.height()), align | Qt.AlignmentFlag.AlignLeft, MORE)
            break
        box = QRectF(x, rect.top(), min(width + 2, room), rect.height())
        painter.drawText(box, align | Qt.AlignmentFlag.AlignLeft, metrics.elidedText(text, ELIDED, room))
        x += width + WORD_GAP


def _number(painter: QPainter, theme: Theme, rect: QRectF, row: LedgerRow, text: str, *, is_gap: bool) -> None:
    """A number to the right; the gap of a corner that matters is bold, and in the colour of a loss where it is one."""
    bold = row.corner is None or (is_gap and row.worst)
    painter.setFont(font(BODY_PX, bold=bold))
    painter.setPen(theme.color("loss" if bold and row.corner is not None and row.gap_s > 0.0 else "ink"))
    painter.drawText(rect.adjusted(0, 0, -PAD, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
