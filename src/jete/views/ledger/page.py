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
from jete.core.sheet import differences
from jete.report.table import CAUTION
from jete.report.words import difference, lap_time, not_logged
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views import tables
from jete.views.ledger.delegate import LedgerDelegate
from jete.views.ledger.model import BAR, COLUMNS, CORNER, GAP, RUN_COLUMNS, RUNNING, LedgerModel, rows_of, rows_of_run

if TYPE_CHECKING:
    from jete.app.analysis import RunResult
    from jete.app.store import SessionStore
    from jete.core.result import Comparison
    from jete.views.ledger.model import Column, LedgerRow


LAST_PX, LAST_OF_RUN_PX = 76, 100


class LedgerPage(QWidget):
    """Shows the comparison in the store; selecting a row selects the corner everywhere."""

    def __init__(self, store: SessionStore, traces: QWidget) -> None:
        super().__init__()
        self._store = store
        self.model = LedgerModel()
        self.table = QTableView()
        self.balance = QLabel()
        self.order = QPushButton()
        self.scope = QPushButton()
        self.aside = QLabel()
        self.doubts = QLabel()
        self.driven = QLabel()
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
        self.scope.setAccessibleName("What the ledger sums up")
        self.scope.setToolTip(key_hint("scope"))
        self.scope.clicked.connect(self._on_scope)
        self.aside.setObjectName("aside")
        self.aside.setAccessibleName("Laps set aside")
        self.aside.setWordWrap(True)
        self.aside.setFont(font(SMALL_PX))
        self.aside.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.aside.linkActivated.connect(self._on_take_back)
        self.aside.hide()
        self.driven.setObjectName("driven")
        self.driven.setAccessibleName("How the corner was driven")
        self.driven.setWordWrap(True)
        self.driven.setFont(font(SMALL_PX))
        self.doubts.setObjectName("doubts")
        self.doubts.setProperty("muted", True)
        self.doubts.setFont(font(SMALL_PX - 1))
        self.doubts.setWordWrap(True)
        self.balance.setObjectName("balance")
        self.balance.setWordWrap(True)
        caution = QLabel(CAUTION)
        caution.setProperty("muted", True)
        caution.setFont(font(SMALL_PX - 1))
        caution.setWordWrap(True)
        head = QHBoxLayout()
        head.addWidget(self.balance, 1)
        for button in (self.scope, self.order):
            head.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(SPACE, SPACE, SPACE, 2)
        column.addLayout(head)
        column.addWidget(self.aside)
        column.addWidget(self.table, 1)
        column.addWidget(self.driven)
        column.addWidget(self.doubts)
        column.addWidget(caution)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(left)
        split.addWidget(traces)
        split.setSizes([670, 610])
        split.setHandleWidth(1)
        split.setChildrenCollapsible(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(split)

    def _set_up_table(self) -> None:
        self.table.setObjectName("ledger")
        self.table.setModel(self.model)
        self.table.setItemDelegate(self._delegate)
        tables.set_up(self.table, "Ledger of the corners", {CORNER: 54, GAP: 68, RUNNING: LAST_PX}, BAR)
        selection = self.table.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(self._on_row)

    def _on_order(self) -> None:
        self._store.look_at(lambda s: ops.display(s, by_loss=not s.display.by_loss))

    def _on_scope(self) -> None:
        self._store.look_at(lambda s: ops.display(s, whole_run=not s.display.whole_run))

    def _on_take_back(self, lap: str) -> None:
        """A lap set aside counts again; Undo sets it aside once more."""
        run = self._store.session.choice.lap
        if run is not None:
            key = LapKey(run.run, int(lap))
            self._store.do(f"take lap {lap} back", lambda s: ops.take_back(s, key))

    def _on_row(self, current: QModelIndex, _: QModelIndex) -> None:
        """A row that a person chose selects its corner; one that follows the state does not."""
        if not current.isValid():
            return
        corner = self.model.rows[current.row()].corner
        if corner is not None and corner != self._store.session.look.corner:
            self._store.look_at(lambda s: ops.select_corner(s, corner))

    def _on_changed(self, _: Session, flags: Changed) -> None:
        rows = Changed.RESULT | Changed.RUN_RESULT | Changed.DISPLAY | Changed.CHOICE | Changed.RUNS
        if flags & rows:
            self._fill()
        if flags & (rows | Changed.CORNER):
            self._follow()

    def _show_rows(self, rows: list[LedgerRow], columns: tuple[Column, ...]) -> None:
        """Take over rows; the last column is wider where it holds a spread."""
        self.model.show(rows, by_loss=self._store.session.display.by_loss, columns=columns)
        titles = self.table.horizontalHeader()
        if titles is not None:
            titles.resizeSection(RUNNING, LAST_OF_RUN_PX if columns is RUN_COLUMNS else LAST_PX)

    def _fill(self) -> None:
        """Rows, the balance in words, and the order's button."""
        session, comparison = self._store.session, self._store.comparison
        self.order.setText("by loss" if session.display.by_loss else "by road")
        self.scope.setText("the run" if session.display.whole_run else "this lap")
        self.aside.hide()
        self.doubts.clear()
        run = self._shown_run()
        if run is not None:
            self._fill_run(run)
            return
        if comparison is None:
            self.balance.setText("Choose a reference and a lap on the page Laps (Ctrl+1), or open the demo (Ctrl+D).")
            self._show_rows([], COLUMNS)
            return
        lap = comparison.laps[0]
        self._show_rows(rows_of(lap, units_of(session.display)), COLUMNS)
        times = [lap_time(p.lap.span.time_s) for p in (lap.passage, comparison.reference)]
        self.balance.setText(
            f"{times[0]} against {times[1]}: gap {difference(lap.gap_s)} s, and the corners below add up to it."
        )
        self._tell_doubts(session, comparison)

    def _tell_doubts(self, session: Session, comparison: Comparison) -> None:
        """How surely the laps lie on each other, what was not logged, and in what the runs differ that matters."""
        passage = comparison.laps[0].passage
        alignment = passage.alignment
        laid = {
            "position": f"Laid on each other by position, which scatters by {alignment.residual_m:.1f} m.",
            "curvature": "Laid on each other by their bends: no position was logged.",
            "distance": "Laid on each other by distance alone: no position and no bends were logged.",
        }[alignment.method]
        missing = [
            n for n in ("speed", "throttle", "brake") if n in {*passage.inferred, *comparison.reference.inferred}
        ]
        runs = [session.run(key.run) if key else None for key in (session.choice.lap, session.choice.reference)]
        apart = differences(runs[0].sheet, runs[1].sheet) if runs[0] and runs[1] else []
        joined = "; ".join(comparison.reference.lap.log.notes)
        reference = f"The reference is {joined}." if joined else ""
        self.doubts.setText(" ".join(t for t in (laid, not_logged(missing), reference) if t))
        self.aside.setText(f"Not the driver alone: {'; '.join(apart)}." if apart else "")
        self.aside.setVisible(bool(apart))

    def _shown_run(self) -> RunResult | None:
        """The run's result where the ledger shows it and it is that of the present choice."""
        session, run = self._store.session, self._store.run
        if not session.display.whole_run or run is None:
            return None
        return run if run.keys == ops.laps_of_run(session) else None

    def _fill_run(self, run: RunResult) -> None:
        """The run's rows, its means and best passes in words, and the laps set aside."""
        summary, laps = run.summary, run.comparison.laps
        self._show_rows(rows_of_run(summary), RUN_COLUMNS)
        reference, best = run.comparison.reference.lap.span.time_s, laps[summary.best_lap].passage.lap.span
        mean = sum(c.mean_s for c in summary.corners)
        self.balance.setText(
            f"{summary.counted} of {len(laps)} laps against {lap_time(reference)}: mean gap {difference(mean)} s. "
            f"Best lap {best.number} {lap_time(best.time_s)}, best passes together {lap_time(summary.best_sum_s)}."
        )
        away = [(k.lap, w) for k, w in zip(run.keys, summary.why, strict=True) if w is not None]
        self.aside.setText(
            "Set aside: " + "; ".join(f"lap {n}, {w} (<a href='{n}'>take back</a>)" for n, w in away) + "."
        )
        self.aside.setVisible(bool(away))

    def _tell_driven(self) -> None:
        """How the selected corner was driven, where it was driven otherwise than by the reference."""
        session, comparison = self._store.session, self._store.comparison
        found = [] if comparison is None or self._shown_run() is not None else comparison.laps[0].corners
        loss = next((c for c in found if c.corner.number == session.look.corner), None)
        if loss is None or comparison is None:
            self.driven.clear()
            return
        from jete.report.driven import driven_against, driven_alike

        units = units_of(session.display)
        passages = (comparison.reference, comparison.laps[0].passage)
        words = driven_against(passages, loss, lambda m: f"{units.length_of(m):.0f} {units.length}")
        told = "; ".join(words) or driven_alike(passages)
        self.driven.setText(f"Corner {loss.corner.shown}: {told}." if told else "")

    def _follow(self) -> None:
        """Select the row of the state's corner without saying so again."""
        self._tell_driven()
        row = self.model.row_of(self._store.session.look.corner)
        selection = self.table.selectionModel()
        if row is None or selection is None:
            return
        index = self.model.index(row, 0)
        flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        selection.setCurrentIndex(index, flags)
        self.table.scrollTo(index)
