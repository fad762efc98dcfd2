"""Under the rows: the selected corner's marks of both laps, with the difference of each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QBrush
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from jete.app.theme import SMALL_PX, THEMES, font, scale
from jete.views.labels import ElidedLines

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.report.card import CardColumn

ROW_PX = 18
# Beside a title, at both sides together.
TITLE_PAD_PX = 8
# Rows come before words: more of these are in the tip, and on the page Corner.
MOST_LINES = 3
ROWS = (("lap", "lap"), ("reference", "reference"), ("difference", "ink"))


class CornerCard(QWidget):
    """A small table: one column a mark, one row a lap; and how the corner was driven, in words."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.head = ElidedLines(small=True)
        self.head.setObjectName("driven")
        self.head.setAccessibleName("How the corner was driven")
        self.head.setMaximumHeight(MOST_LINES * self.head.fontMetrics().lineSpacing())
        self.table = QTableWidget(len(ROWS), 0)
        self._titles: list[str] = []
        self._set_up()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.table)
        column.addWidget(self.head)

    def _set_up(self) -> None:
        self.table.setAccessibleName("Marks of the selected corner")
        self.table.setObjectName("card-table")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.table.setShowGrid(False)
        self.table.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        names, titles = self.table.verticalHeader(), self.table.horizontalHeader()
        if names is not None and titles is not None:
            names.hide()
            names.setMinimumSectionSize(12)
            names.setDefaultSectionSize(round(ROW_PX * scale()))
            titles.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            titles.setFont(font(SMALL_PX))
            titles.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.table.setFrameShape(QFrame.Shape.NoFrame)
        self._fit_titles()

    def show_corner(self, corner: str, columns: tuple[CardColumn, ...], words: str, theme_name: str) -> None:
        """Show a corner's marks.

        Args:
            corner: its label.
            columns: the marks; none for no comparison.
            words: how it was driven.
            theme_name: of the colours.
        """
        theme = THEMES[theme_name]
        self.head.setText(words)
        self.head.setVisible(bool(words))
        self.table.setVisible(bool(columns))
        self.table.setColumnCount(len(columns) + 1 if columns else 0)
        self._titles = [f"corner {corner}", *(c.title for c in columns)] if columns else []
        self.table.setHorizontalHeaderLabels(self._titles)
        for row, (name, role) in enumerate(ROWS):
            texts = [name, *((c.lap, c.reference, c.difference)[row] for c in columns)]
            for at, text in enumerate(texts if columns else ()):
                item = QTableWidgetItem(text)
                item.setForeground(QBrush(theme.color(role)))
                item.setFont(font(SMALL_PX, bold=row == len(ROWS) - 1 and at > 0))
                item.setTextAlignment(_aligned(at))
                self.table.setItem(row, at, item)
        titles = self.table.horizontalHeader()
        if titles is not None and columns:
            titles.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        self._fit_titles()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Titles follow the width that there is."""
        super().resizeEvent(event)
        self._fit_titles()

    def _fit_titles(self) -> None:
        """Titles in one line where all have room, else with the unit in a second one."""
        heads = self.table.horizontalHeader()
        if heads is None:
            return
        metrics, sizes = heads.fontMetrics(), [heads.sectionSize(k) for k in range(heads.count())]
        needed = [metrics.horizontalAdvance(title) + TITLE_PAD_PX for title in self._titles]
        in_two = any(wide > has for wide, has in zip(needed[1:], sizes[1:], strict=True))
        for at, title in enumerate(self._titles):
            item = self.table.horizontalHeaderItem(at)
            if item is not None:
                item.setText("\n".join(title.rsplit(" ", 1)) if in_two and at else title)
                item.setTextAlignment(_aligned(at))
        high = ROW_PX * scale()
        heads.setFixedHeight(round(high * (1.8 if in_two else 1.0)))
        self.table.setFixedHeight(heads.height() + round(high * len(ROWS)) + 2)


def _aligned(column: int) -> Qt.AlignmentFlag:
    """Names to the left, numbers to the right."""
    side = Qt.AlignmentFlag.AlignRight if column else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter
