"""The coach's table: drivers × corners, each cell tinted by what is lost there, and a way from each to the comparison."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QBrush
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import LEAD_PX, THEMES, font, scale
from jete.report.team import cell_words, most_words, straights_words
from jete.report.words import difference
from jete.views.labels import plain, tip
from jete.views.scrolled import scrolled

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.desk.team import TeamTable
    from jete.report.units import Units

# Columns ahead of the corners: who, how many laps, what is lost in all.
AHEAD = ("driver", "laps", "lost s")
ROW_PX, CORNER_PX, MOST_CORNER_PX = 30, 62, 90
# So many drivers are seen without scrolling; the frame and a scroll bar below.
MOST_ROWS, FRAME_PX = 12, 18
# What is lost in a cell that is tinted most, seconds, and how opaque that is.
MOST_S, MOST_ALPHA, LEAST_ALPHA = 0.5, 150, 12


class TeamView(QWidget):
    """Tells which cell is to be compared: the row's and the column's place, and asks for the hand-outs."""

    compared = pyqtSignal(int, int)
    handed_out = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.title, self.told, self.note = plain("Team"), plain(wrap=True), plain(wrap=True, small=True, muted=True)
        self.most = plain(wrap=True)
        self.table = QTableWidget(0, 0)
        self.compare, self.hand_out = QPushButton("Compare there"), QPushButton("Hand-outs…")
        self._shown: TeamTable | None = None
        self._units: Units | None = None
        self._build()

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.told.setFont(font(LEAD_PX))
        self.compare.setToolTip("This driver's best pass there against the one to learn from (Enter in the table).")
        self.hand_out.setToolTip("The card of each driver's last plan, each with his own aims only, into a folder.")
        self.table.setAccessibleName("Drivers by corners: seconds lost")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setTabKeyNavigation(False)
        self.table.setObjectName("team-table")
        rows = self.table.verticalHeader()
        if rows is not None:
            rows.hide()
            rows.setDefaultSectionSize(round(ROW_PX * scale()))
        self.table.currentCellChanged.connect(self._on_cell)
        self.table.cellActivated.connect(self._on_activated)
        self.compare.clicked.connect(lambda: self._on_activated(self.table.currentRow(), self.table.currentColumn()))
        self.hand_out.clicked.connect(self.handed_out)
        head = QHBoxLayout()
        for widget, stretch in ((self.title, 1), (self.compare, 0), (self.hand_out, 0)):
            head.addWidget(widget, stretch)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(head)
        column.addWidget(self.table)
        column.addWidget(self.told)
        self.most.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(scrolled(self.most), 1)
        column.addWidget(self.note)

    def wait(self, done: int, of: int) -> None:
        """Say how far the table is."""
        self.told.setText(f"Taking laps apart: {done} of {of} …" if of else "")

    def show_table(self, table: TeamTable, units: Units, theme: str) -> None:
        """Show a table."""
        self._shown, self._units = table, units
        name = " · ".join(x for x in (*table.circuit, table.group) if x)
        self.title.setText(f"{name}: seconds lost a lap on who is quickest there")
        self.table.setRowCount(len(table.rows))
        self.table.setColumnCount(len(AHEAD) + len(table.corners))
        self.table.setHorizontalHeaderLabels([*AHEAD, *(c.shown for c in table.corners)])
        loss = THEMES[theme]
        for k, row in enumerate(table.rows):
            for column, text in enumerate((row.driver, str(row.laps), difference(row.lost_s))):
                self._put(k, column, text, left=column == 0)
            for c, (corner, cell) in enumerate(zip(table.corners, row.cells, strict=True), start=len(AHEAD)):
                item = self._put(k, c, "–" if cell is None else "0" if cell.lost_s == 0.0 else difference(cell.lost_s))
                item.setToolTip(tip(cell_words(row.driver, corner.shown, cell, units)))
                if cell is not None and cell.learn_from:
                    share = min(cell.lost_s / MOST_S, 1.0)
                    item.setBackground(
                        QBrush(loss.color("loss", round(LEAST_ALPHA + share * (MOST_ALPHA - LEAST_ALPHA))))
                    )
        self.table.setFixedHeight(round(ROW_PX * scale()) * (min(len(table.rows), MOST_ROWS) + 1) + FRAME_PX)
        self.table.resizeColumnsToContents()
        self._share()
        straights = [f"{r.driver}: {w}" for r in table.rows if (w := straights_words(r))]
        left = [f"{table.left_out} runs are left out: nobody is noted to have driven them"] if table.left_out else []
        self.note.setText(
            ". ".join(
                [*straights, *left, "Medians of all passes; 0 is the quickest there. What may be chance is not tinted"]
            )
            + "."
        )
        if self.table.currentRow() < 0:
            self._choose_dearest(table)
        self._on_cell(self.table.currentRow(), self.table.currentColumn())

    def _choose_dearest(self, table: TeamTable) -> None:
        """The cell where most is lost is told of before a person chooses another."""
        cells = [
            (c.lost_s, k, at)
            for k, row in enumerate(table.rows)
            for at, c in enumerate(row.cells)
            if c and c.learn_from
        ]
        if cells:
            _, row, corner = max(cells)
            self.table.setCurrentCell(row, len(AHEAD) + corner)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """The corners' columns follow the width that there is."""
        super().resizeEvent(event)
        self._share()

    def _share(self) -> None:
        """Corners share what names and sums leave; more of them than have room scroll."""
        ahead, count, view = len(AHEAD), self.table.columnCount(), self.table.viewport()
        if view is None or count <= ahead:
            return
        room = view.width() - sum(self.table.columnWidth(c) for c in range(ahead))
        wide = min(max(room // (count - ahead), round(CORNER_PX * scale())), round(MOST_CORNER_PX * scale()))
        for c in range(ahead, count):
            self.table.setColumnWidth(c, wide)

    def _put(self, row: int, column: int, text: str, *, left: bool = False) -> QTableWidgetItem:
        item = QTableWidgetItem(text)
        side = Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight
        item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
        self.table.setItem(row, column, item)
        return item

    def _on_cell(self, row: int, column: int, *_: int) -> None:
        """Tell the selected cell as a sentence."""
        table, corner = self._shown, column - len(AHEAD)
        there = table is not None and 0 <= row < len(table.rows) and 0 <= corner < len(table.corners)
        self.compare.setEnabled(False)
        if table is None or self._units is None or not there:
            self.told.setText("Choose a cell: who to learn from there, and by what.")
            self.most.setText("")
            return
        shown = table.rows[row]
        cell = shown.cells[corner]
        self.told.setText(cell_words(shown.driver, f"corner {table.corners[corner].shown}", cell, self._units))
        self.compare.setEnabled(cell is not None and bool(cell.learn_from))
        lines = most_words(shown, table.corners, self._units)
        self.most.setText("\n".join([f"Most of all {shown.driver} may learn:", *lines]) if lines else "")

    def _on_activated(self, row: int, column: int) -> None:
        if self.compare.isEnabled():
            self.compared.emit(row, column - len(AHEAD))
