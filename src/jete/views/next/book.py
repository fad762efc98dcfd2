"""The logbook of the shown run's driver on its circuit: a row a run, the last one last, and which cues worked."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import LEAD_PX, font, scale
from jete.notes.search import holds
from jete.report.book import HEADS, book_row, cues_words
from jete.report.words import counted
from jete.views.labels import plain, tip

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.desk.book import Book

ROW_PX = 28
# Columns of numbers stand right; the widest two take what is left.
RIGHT, WIDE, LEAST_WIDE_PX = (4, 5, 6), (7, 8), 210


class BookView(QWidget):
    """Tells which run is to be looked at."""

    wanted = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.title, self.cues = plain("Logbook"), plain(wrap=True)
        self.search, self.table = QLineEdit(), QTableWidget(0, len(HEADS))
        self._runs: list[int] = []
        self._build()

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.search.setPlaceholderText("Find in the book")
        self.search.setAccessibleName("Find in the book")
        self.search.textChanged.connect(self._on_find)
        self.table.setAccessibleName("Runs of the driver, in order of time")
        self.table.setHorizontalHeaderLabels(list(HEADS))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.cellActivated.connect(self._on_activated)
        rows, heads = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and heads is not None:
            rows.hide()
            rows.setDefaultSectionSize(ROW_PX)
            heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            heads.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            for wide in WIDE:
                heads.setSectionResizeMode(wide, QHeaderView.ResizeMode.Interactive)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        for widget in (self.title, self.search, self.table, self.cues):
            column.addWidget(widget)

    def show_book(self, book: Book) -> None:
        """Show a book."""
        self.title.setText(
            f"{book.driver or 'Nobody is noted as the driver'}: {counted(len(book.entries), 'run', 'runs')} here"
        )
        self.cues.setText(cues_words(book))
        self._runs = [e.run.id for e in book.entries]
        self.table.setRowCount(len(book.entries))
        for row, entry in enumerate(book.entries):
            for column, text in enumerate(book_row(entry)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(text))
                side = Qt.AlignmentFlag.AlignRight if column in RIGHT else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        self._on_find(self.search.text())
        self._share()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """The words have what the numbers leave."""
        super().resizeEvent(event)
        self._share()

    def _share(self) -> None:
        """The two widest columns share what is left, and are never too narrow to be read: then the table scrolls."""
        heads, view = self.table.horizontalHeader(), self.table.viewport()
        if heads is None or view is None:
            return
        heads.resizeSections(QHeaderView.ResizeMode.ResizeToContents)
        others = sum(heads.sectionSize(c) for c in range(heads.count()) if c not in WIDE)
        for column in WIDE:
            heads.resizeSection(column, max((view.width() - others) // len(WIDE), round(LEAST_WIDE_PX * scale())))

    def _on_find(self, text: str) -> None:
        """Only the rows that hold every word."""
        for row in range(self.table.rowCount()):
            cells = (self.table.item(row, c) for c in range(self.table.columnCount()))
            whole = " ".join(cell.text() for cell in cells if cell is not None).casefold()
            self.table.setRowHidden(row, not holds(whole, text))

    def _on_activated(self, row: int, _: int) -> None:
        self.wanted.emit(self._runs[row])
