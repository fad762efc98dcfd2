"""The Ledger page: the table to the left, the traces to the right."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSplitter,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import key_hint
from jete.app.theme import SMALL_PX, SPACE, font
from jete.app.units import units_of
from jete.report.table import CAUTION
from jete.report.words import difference, lap_time
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views import tables
from jete.views.ledger.delegate import LedgerDelegate
from jete.views.ledger.model import BAR, CORNER, GAP, RUNNING, LedgerModel, rows_of

if TYPE_CHECKING:
    from jete.app.store import SessionStore


class LedgerPage(QWidget):
    """Shows the comparison in the store; selecting a row selects the corner everywhere."""

    def __init__(self, store: SessionStore, traces: QWidget) -> None:
        super().__init__()
        self._store = store
        self.model = LedgerModel()
        self.table = QTableView()
        self.balance = QLabel()
        self.order = QPushButton()
        self._delegate = LedgerDelegate(self._theme_name)
        self._build(traces)
        store.changed.connect(self._on_changed)
        self._fill()

    def _theme_name(self) -> str:
        return self._store.session.display.theme

    def _build(self, traces: QWidget) -> None:
        self._set_up_table()
        self.order.setAccessibleName("Order of the ledger")
        self.order.setToolTip(key_hint("order"))
        self.order.clicked.connect(self._on_order)
        self.balance.setObjectName("balance")
        self.balance.setWordWrap(True)
        caution = QLabel(CAUTION)
        caution.setProperty("muted", True)
        caution.setFont(font(SMALL_PX - 1))
        caution.setWordWrap(True)
        head = QHBoxLayout()
        head.addWidget(self.balance, 1)
        head.addWidget(self.order, 0, Qt.AlignmentFlag.AlignTop)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(SPACE, SPACE, SPACE, 2)
        column.addLayout(head)
        column.addWidget(self.table, 1)
        column.addWidget(caution)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(left)
        split.addWidget(traces)
        split.setSizes([640, 640])
        split.setHandleWidth(1)
        split.setChildrenCollapsible(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(split)

    def _set_up_table(self) -> None:
        self.table.setObjectName("ledger")
        self.table.setModel(self.model)
        self.table.setItemDelegate(self._delegate)
        tables.set_up(self.table, "Ledger of the corners", {CORNER: 54, GAP: 74, RUNNING: 80}, BAR)
        selection = self.table.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(self._on_row)

    def _on_order(self) -> None:
        self._store.look_at(lambda s: ops.display(s, by_loss=not s.display.by_loss))

    def _on_row(self, current: QModelIndex, _: QModelIndex) -> None:
        """A row that a person chose selects its corner; one that follows the state does not."""
        if not current.isValid():
            return
        corner = self.model.rows[current.row()].corner
        if corner is not None and corner != self._store.session.look.corner:
            self._store.look_at(lambda s: ops.select_corner(s, corner))

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY):
            self._fill()
        if flags & (Changed.RESULT | Changed.DISPLAY | Changed.CORNER):
            self._follow()

    def _fill(self) -> None:
        """Rows, the balance in words, and the order's button."""
        session, comparison = self._store.session, self._store.comparison
        self.order.setText("by loss" if session.display.by_loss else "by road")
        if comparison is None:
            self.balance.setText("Choose a reference and a lap on the page Laps (Ctrl+1), or open the demo (Ctrl+D).")
            self.model.show([], by_loss=False)
            return
        lap = comparison.laps[0]
        self.model.show(rows_of(lap, units_of(session.display)), by_loss=session.display.by_loss)
        times = [lap_time(p.lap.span.time_s) for p in (lap.passage, comparison.reference)]
        self.balance.setText(
            f"{times[0]} against {times[1]}: gap {difference(lap.gap_s)} s, and the corners below add up to it."
        )

    def _follow(self) -> None:
        """Select the row of the state's corner without saying so again."""
        row = self.model.row_of(self._store.session.look.corner)
        selection = self.table.selectionModel()
        if row is None or selection is None:
            return
        index = self.model.index(row, 0)
        flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        selection.setCurrentIndex(index, flags)
        self.table.scrollTo(index)
