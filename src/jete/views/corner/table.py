"""The marks of the corner: mark, reference, lap, difference, cost; and what it cost, in sentences."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QRect, QSignalBlocker, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHeaderView,
    QLabel,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import LEAD_PX, SMALL_PX, THEMES, font, scale
from jete.report.words import difference

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jete.app.theme import Theme
    from jete.report.corner import MarkRow, Told

COLUMNS = ("mark", "reference", "lap", "difference", "cost s")
ROW_PX, TWO_LINES_PX = 19, 31
# What rounds to nothing at three decimals is neither lost nor gained.
LEAST_SHOWN_S = 0.0005


class TwoLines(QStyledItemDelegate):
    """Paints a cell's lines each for itself, the second paler; where the first has no room, it takes the second's."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Paint a cell."""
        text = str(index.data() or "")
        if painter is None or "\n" not in text:
            super().paint(painter, option, index)
            return
        self.initStyleOption(option, index)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(option.rect, option.palette.highlight())
        color = QColor(index.data(Qt.ItemDataRole.ForegroundRole).color())
        painter.setFont(option.font)
        box = option.rect.adjusted(3, 1, -2, -1)
        height = box.height() // 2
        first, second = text.split("\n", 1)
        broken = broken_to_fit(first, box.width(), option.fontMetrics.horizontalAdvance)
        for k, line in enumerate(broken or (first, second)):
            color.setAlpha(150 if k == 1 and broken is None else 255)
            painter.setPen(color)
            shown = option.fontMetrics.elidedText(line, Qt.TextElideMode.ElideRight, box.width())
            painter.drawText(
                QRect(box.left(), box.top() + k * height, box.width(), height),
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                shown,
            )


def broken_to_fit(line: str, width_px: int, width_of: Callable[[str], int]) -> tuple[str, str] | None:
    """A line in two, at the last space that leaves room for what stands before it; None where it fits, or has no such space.

    >>> broken_to_fit("47 m before 100 board", 12, len), broken_to_fit("at kerb", 12, len)
    (('47 m before', '100 board'), None)
    """
    if width_of(line) <= width_px:
        return None
    words = line.split(" ")
    fits = [k for k in range(1, len(words)) if width_of(" ".join(words[:k])) <= width_px]
    return (" ".join(words[: fits[-1]]), " ".join(words[fits[-1] :])) if fits else None


class Sentences(QLabel):
    """What the corner cost, and by what: the answer of the page, the largest first."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("corner-sentences")
        self.setAccessibleName("What the corner cost, and by what")
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setWordWrap(True)
        self.setFont(font(LEAD_PX))

    def show_told(self, told: Sequence[Told], theme: str) -> None:
        """Show findings; nothing for none."""
        self.setText("".join(_sentence(t, THEMES[theme]) for t in told))
        self.setVisible(bool(told))


class MarksTable(QWidget):
    """A table that can be read by key."""

    def __init__(self) -> None:
        super().__init__()
        self.table = QTableWidget(0, len(COLUMNS))
        self._set_up()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self.table, 1000)
        column.addStretch(1)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """All rows."""
        return QSize(400, self.table.maximumHeight() + 6)

    def _set_up(self) -> None:
        table = self.table
        table.setObjectName("marks-table")
        table.setAccessibleName("Marks of the corner")
        table.setHorizontalHeaderLabels(COLUMNS)
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        table.setTabKeyNavigation(False)
        table.setShowGrid(False)
        table.setItemDelegate(TwoLines(table))
        table.setFrameShape(QFrame.Shape.NoFrame)
        table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        names, titles = table.verticalHeader(), table.horizontalHeader()
        if names is not None and titles is not None:
            names.hide()
            names.setMinimumSectionSize(12)
            titles.setFont(font(SMALL_PX))
            titles.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            titles.setHighlightSections(False)
            # Places take the rest, and are no narrower than their titles.
            titles.setMinimumSectionSize(max(titles.sectionSizeHint(at) for at in (1, 2)))
            for at in (0, 3, 4):
                titles.setSectionResizeMode(at, QHeaderView.ResizeMode.ResizeToContents)
            for at in range(len(COLUMNS)):
                item = table.horizontalHeaderItem(at)
                if item is not None:
                    item.setTextAlignment(_side(at) | Qt.AlignmentFlag.AlignVCenter)

    def show_rows(self, rows: Sequence[MarkRow], theme_name: str) -> None:
        """Show a corner; nothing for none."""
        self.table.setRowCount(len(rows))
        model = self.table.model()
        if model is not None and rows:
            # Each cell would have all columns measured anew: they are told of once, together.
            with QSignalBlocker(model):
                self._put_all(rows, THEMES[theme_name])
            model.dataChanged.emit(model.index(0, 0), model.index(len(rows) - 1, len(COLUMNS) - 1))
        heads = self.table.horizontalHeader()
        body = sum(self.table.rowHeight(at) for at in range(len(rows)))
        self.table.setMaximumHeight(body + (heads.height() if heads is not None else 0) + 4)
        self.updateGeometry()

    def _put_all(self, rows: Sequence[MarkRow], theme: Theme) -> None:
        for at, row in enumerate(rows):
            texts = (row.title, row.reference, row.lap, row.difference, row.cost)
            two = any("\n" in t for t in texts)
            self.table.setRowHeight(at, round((TWO_LINES_PX if two else ROW_PX) * scale()))
            for column, text in enumerate(texts):
                self._put(at, column, text, theme.color(_role(column, row.cost_s)), bold=column == len(texts) - 1)

    def _put(self, row: int, column: int, text: str, color: QColor, *, bold: bool) -> None:
        """Show a cell; one that is there already is changed, since making items anew is what costs time."""
        item = self.table.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            self.table.setItem(row, column, item)
        item.setText(text)
        item.setForeground(QBrush(color))
        item.setFont(font(SMALL_PX, bold=bold))
        item.setTextAlignment(_side(column) | Qt.AlignmentFlag.AlignVCenter)
        item.setToolTip(text.replace("\n", " · "))


def _side(column: int) -> Qt.AlignmentFlag:
    """Words to the left, differences to the right."""
    return Qt.AlignmentFlag.AlignRight if column > 2 else Qt.AlignmentFlag.AlignLeft


def _role(column: int, cost_s: float) -> str:
    if column == len(COLUMNS) - 1:
        return "loss" if cost_s > 0.0 else "gain"
    return ("muted", "reference", "lap", "ink")[column]


def _sentence(told: Told, theme: Theme) -> str:
    """A sentence with its seconds in front, in the colour of loss or gain; what is unexplained, or said besides, is quiet."""
    if told.quiet:
        seconds = f"{difference(told.seconds)} s: " if told.seconds is not None else ""
        small = f"font-size:{font(SMALL_PX).pixelSize()}px; color:{theme.muted}"
        return f"<p style='margin:0; {small}'>{seconds}{escape(told.text, quote=False)}</p>"
    seconds_s = told.seconds or 0.0
    color = theme.muted if abs(seconds_s) < LEAST_SHOWN_S else theme.loss if seconds_s > 0.0 else theme.gain
    text = escape(told.text, quote=False)
    return f"<p style='margin:0 0 2px 0'><b style='color:{color}'>{difference(seconds_s)}</b>&nbsp; {text}</p>"
