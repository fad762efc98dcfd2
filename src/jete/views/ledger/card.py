"""Under the rows: the selected corner's marks of both laps, with the difference of each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QBrush
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from jete.app.theme import SMALL_PX, THEMES, font, scale
from jete.views.labels import plain

if TYPE_CHECKING:
    from jete.report.card import CardColumn

ROW_PX = 18
ROWS = (("lap", "lap"), ("reference", "reference"), ("difference", "ink"))


class CornerCard(QWidget):
    """A small table: one column a mark, one row a lap; and how the corner was driven, in words."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.head = plain(wrap=True, small=True)
        self.head.setObjectName("driven")
        self.head.setAccessibleName("How the corner was driven")
        self.table = QTableWidget(len(ROWS), 0)
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
            titles.setFixedHeight(round(ROW_PX * scale()))
        self.table.setFrameShape(QFrame.Shape.NoFrame)
        self.table.setFixedHeight(round((ROW_PX * (len(ROWS) + 1)) * scale()) + 2)

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
        self.table.setHorizontalHeaderLabels([f"corner {corner}", *(c.title for c in columns)])
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
        for at in range(self.table.columnCount()):
            title = self.table.horizontalHeaderItem(at)
            if title is not None:
                title.setTextAlignment(_aligned(at))


def _aligned(column: int) -> Qt.AlignmentFlag:
    """Names to the left, numbers to the right."""
    side = Qt.AlignmentFlag.AlignRight if column else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter
