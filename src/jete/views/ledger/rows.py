"""The rows of the ledger with their sum right below: as high as there is room for all of them, within bounds; more scroll."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QItemSelectionModel, QModelIndex, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QTableView, QVBoxLayout, QWidget

from jete.app.theme import scale
from jete.views import tables
from jete.views.ledger.delegate import LedgerDelegate
from jete.views.ledger.model import BAR, CORNER, GAP, RUN_COLUMNS, RUNNING, LedgerModel

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.views.ledger.model import Column, LedgerRow

# A row holds a bar and a line of words; higher ones only lie farther apart.
LEAST_ROW, MOST_ROW, HEAD_PX = 24, 56, 22
CORNER_PX, GAP_PX, LAST_PX, LAST_OF_RUN_PX = 58, 68, 76, 100
# Frames of a table, above and below.
FRAMES_PX = 4
# Qt's own bound of a widget's height.
MOST_PX = 16_777_215


class LedgerRows(QWidget):
    """Two tables of one model: all rows but the last, and the last; ``chosen`` tells the corner of a row that a person chose."""

    chosen = pyqtSignal(int)

    def __init__(self, theme_name: Callable[[], str]) -> None:
        super().__init__()
        self.model = LedgerModel()
        self.table, self.sum = QTableView(), QTableView()
        self._beside = QWidget()
        self._delegate = LedgerDelegate(theme_name)
        self._set_up_table()
        self._set_up_sum()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.table, 100)
        column.addLayout(self._sum_row())
        column.addStretch(1)

    def _set_up_table(self) -> None:
        self._set_up_either(self.table, "Ledger of the corners")
        self.table.setObjectName("ledger")
        self.table.installEventFilter(self)
        heads, selection = self.table.horizontalHeader(), self.table.selectionModel()
        if heads is not None and selection is not None:
            heads.setFixedHeight(round(HEAD_PX * scale()))
            selection.currentRowChanged.connect(self._on_row)

    def _set_up_sum(self) -> None:
        """The sum is always in sight, and nothing to choose."""
        self._set_up_either(self.sum, "Sum of the ledger")
        self.sum.setObjectName("ledger-sum")
        titles = self.sum.horizontalHeader()
        if titles is not None:
            titles.hide()
        self.sum.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.sum.setSelectionMode(QTableView.SelectionMode.NoSelection)
        self.sum.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.sum.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def _set_up_either(self, table: QTableView, name: str) -> None:
        table.setModel(self.model)
        table.setItemDelegate(self._delegate)
        widths = {CORNER: CORNER_PX, GAP: GAP_PX, RUNNING: LAST_PX}
        tables.set_up(table, name, widths, BAR, round(LEAST_ROW * scale()))

    def _sum_row(self) -> QHBoxLayout:
        """The sum, as wide as the rows above it beside their scroll bar."""
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.sum)
        row.addWidget(self._beside)
        bar = self.table.verticalScrollBar()
        if bar is not None:
            bar.rangeChanged.connect(self._on_scroll_range)
        self._beside.setFixedWidth(0)
        return row

    def _on_scroll_range(self, low: int, high: int) -> None:
        bar = self.table.verticalScrollBar()
        self._beside.setFixedWidth(bar.sizeHint().width() if bar is not None and high > low else 0)
        # Where less of the rows has room, the selected one stays in sight, and whole.
        self.table.scrollTo(self.table.currentIndex())

    def _on_row(self, current: QModelIndex, _: QModelIndex) -> None:
        corner = self.model.rows[current.row()].corner if current.isValid() else None
        if corner is not None:
            self.chosen.emit(corner)

    def show_rows(self, rows: list[LedgerRow], columns: tuple[Column, ...], *, by_loss: bool) -> None:
        """Take over rows, their sum last; the last column is wider where it holds a spread."""
        self.model.show(rows, by_loss=by_loss, columns=columns)
        last = len(rows) - 1
        for table in (self.table, self.sum):
            header = table.horizontalHeader()
            if header is not None:
                header.resizeSection(RUNNING, round((LAST_OF_RUN_PX if columns is RUN_COLUMNS else LAST_PX) * scale()))
            for row in range(len(rows)):
                table.setRowHidden(row, (row == last) == (table is self.table))
        # No higher than its rows, so that their sum and the corner's card stand right below.
        if rows:
            self._fit()
        else:
            self.table.setMaximumHeight(MOST_PX)
        self.sum.setVisible(bool(rows))
        self.sum.setFixedHeight(self.sum.rowHeight(last) + 2 if rows else 0)

    def select(self, corner: int | None) -> None:
        """Select a corner's row, and bring it in sight, without saying so again."""
        row, selection = self.model.row_of(corner), self.table.selectionModel()
        if row is None or selection is None:
            return
        index = self.model.index(row, 0)
        flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        selection.setCurrentIndex(index, flags)
        self.table.scrollTo(index)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802 - Qt's name
        """The rows follow the height that there is: that of the table, and what the rest of the column leaves."""
        if event is not None and event.type() in (QEvent.Type.Resize, QEvent.Type.LayoutRequest):
            self._fit()
        return super().eventFilter(watched, event)

    def stand_in(self, column: QWidget) -> None:
        """Follow what else stands in the column."""
        column.installEventFilter(self)

    def _fit(self) -> None:
        """As high as there is room for all of them, within bounds; more of them scroll."""
        rows, titles = self.table.verticalHeader(), self.table.horizontalHeader()
        count = len(self.model.rows) - 1
        if rows is None or titles is None or count < 1:
            return
        room = self._room - titles.height() - FRAMES_PX
        high = min(max(room // count, round(LEAST_ROW * scale())), round(MOST_ROW * scale()))
        if high != rows.defaultSectionSize():
            rows.setDefaultSectionSize(high)
        self.table.setMaximumHeight(high * count + titles.height() + FRAMES_PX)

    @property
    def _room(self) -> int:
        """What the rows may take of the page's height: all that the rest of their column does not need."""
        left = self.parentWidget()
        layout = left.layout() if left is not None else None
        if left is None or layout is None:
            return self.table.height()
        others = layout.sizeHint().height() - self.table.sizeHint().height()
        return max(left.height() - others, self.table.height())
