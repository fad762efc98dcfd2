"""The middle of the Laps page: the shown run in words, its laps as a table and as a chart."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QStackedWidget, QTableView, QVBoxLayout, QWidget

from jete.app.theme import LEAD_PX, SPACE, font, scale
from jete.report.targets import way_words
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views import tables
from jete.views.following import Following
from jete.views.labels import ElidedLabel, plain, tip
from jete.views.laps.chart import RunChart, words_of
from jete.views.laps.delegate import LAP_PX, LapsDelegate
from jete.views.laps.model import (
    FIRST,
    HOLD,
    LAP,
    NOTE,
    PIECES,
    SECOND,
    STATE,
    THIRD,
    TIME,
    TO_BEST,
    LapsModel,
    rows_of,
)
from jete.views.laps.runs_chart import RunsChart
from jete.views.switch import Switch

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.app.store import SessionStore

WIDTHS = {HOLD: 104, LAP: 40, TIME: 78, TO_BEST: 74, FIRST: 68, SECOND: 64, THIRD: 64, STATE: 92}
LEAST_NOTE_PX = 90
# What was mended has so many lines, and a tip with all of it.
NOTE_LINES = 3
FILLED_BY = (
    Changed.RUNS | Changed.CHOICE | Changed.DISPLAY | Changed.RESULT | Changed.RUN_RESULT | Changed.SHELF
)  # fmt: skip


class RunPanel(QWidget):
    """Shows the run; tells what is done to a lap in the table."""

    lap_wanted = pyqtSignal(object)
    menu_wanted = pyqtSignal()

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.model, self.table = LapsModel(), QTableView()
        self.title = ElidedLabel()
        self.words = plain(wrap=True)
        self.target = plain(wrap=True)
        self.notes = plain(wrap=True, small=True, muted=True)
        self.chart, self.runs, self.charts = RunChart(store), RunsChart(store), QStackedWidget()
        self.which = Switch("What the chart shows", ("This run", "All runs here"), "")
        self._delegate = LapsDelegate(self._theme_name)
        self._build()
        Following(self, store, self._on_changed)

    def _theme_name(self) -> str:
        return self._store.session.display.theme

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.title.setObjectName("run-title")
        self.words.setObjectName("run-words")
        # Room for what comes later, so that no row moves under the pointer.
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.target.setObjectName("run-target")
        self.target.hide()
        self.words.setMinimumHeight(2 * self.words.fontMetrics().lineSpacing() + 2)
        self.notes.setMaximumHeight(NOTE_LINES * self.notes.fontMetrics().lineSpacing())
        self.notes.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._set_up_table()
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        column.addWidget(self.title)
        column.addWidget(self.words)
        column.addWidget(self.target)
        column.addWidget(self.table, 3)
        self.which.moved.connect(self.charts.setCurrentIndex)
        for chart in (self.chart, self.runs):
            self.charts.addWidget(chart)
        column.addWidget(self.which, 0, Qt.AlignmentFlag.AlignRight)
        column.addWidget(self.charts, 2)
        column.addWidget(self.notes)

    def _set_up_table(self) -> None:
        self.table.setObjectName("laps")
        self.table.setModel(self.model)
        self.table.setItemDelegate(self._delegate)
        self.table.activated.connect(self._on_activated)
        self.table.setDragEnabled(True)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.doubleClicked.connect(self._on_double_click)
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(self._on_menu)
        tables.set_up(self.table, "Laps of the run", WIDTHS, NOTE, round(LAP_PX * scale()))

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Where there is little room the times of the thirds go first, then what is missing to the best: state and note are needed more."""
        super().resizeEvent(event)
        room = self.width() / scale() - LEAST_NOTE_PX - 2 * SPACE
        wanted = sum(WIDTHS.values())
        thirds = wanted <= room
        to_best = wanted - sum(WIDTHS[p] for p in PIECES) <= room
        for column, shown in ((TO_BEST, to_best), *((p, thirds) for p in PIECES)):
            self.table.setColumnHidden(column, not shown)

    def _give_rest_to_chart(self) -> None:
        """The table is as high as its rows, the chart has what they leave."""
        heads = self.table.horizontalHeader()
        rows = round(LAP_PX * scale()) * len(self.model.rows)
        self.table.setMaximumHeight(rows + (heads.sizeHint().height() if heads is not None else 0) + 2)

    def selected(self) -> LapKey | None:
        """The lap that is selected in the table."""
        row = self.table.currentIndex().row()
        return self.model.rows[row].key if 0 <= row < len(self.model.rows) else None

    def type_note(self) -> None:
        """Type a note on the selected lap."""
        index = self.table.currentIndex()
        if index.isValid():
            self._edit(self.model.index(index.row(), NOTE))

    def _edit(self, index: QModelIndex) -> None:
        """Open the field of a note, unless one is open already or notes can't be typed here."""
        open_already = self.table.state() == QAbstractItemView.State.EditingState
        if not open_already and index.flags() & Qt.ItemFlag.ItemIsEditable:
            self.table.edit(index)

    def below_selected(self) -> QPoint | None:
        """Where on the screen the selected lap's row ends."""
        index, viewport = self.table.currentIndex(), self.table.viewport()
        if not index.isValid() or viewport is None:
            return None
        return viewport.mapToGlobal(self.table.visualRect(index).bottomLeft())

    def _on_menu(self, at: QPoint) -> None:
        index = self.table.indexAt(at)
        if index.isValid():
            self.table.setCurrentIndex(index)
            self.menu_wanted.emit()

    def _on_activated(self, index: QModelIndex) -> None:
        if index.column() != NOTE:
            self.lap_wanted.emit(self.model.rows[index.row()].key)

    def _on_double_click(self, index: QModelIndex) -> None:
        if index.column() == NOTE:
            self._edit(index)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & FILLED_BY:
            self._fill()

    def _fill(self) -> None:
        session = self._store.session
        run = ops.shown_run(session)
        self.model.show(rows_of(session, run))
        self._give_rest_to_chart()
        sheet = run.sheet if run else None
        self.title.setText(" · ".join(p for p in ((run.name if run else ""), sheet.vehicle if sheet else "") if p))
        self.words.setText(words_of(run) + _alike(self._store) if run else "")
        way = self._store.target
        self.target.setText(
            way_words(way) if way is not None and run is not None and way.target.holds_for(run.sheet) else ""
        )
        self.target.setVisible(bool(self.target.text()))
        known = run is not None and run.best is not None
        for part in (self.which, self.charts):
            part.setVisible(known)
        lines = _notes(session)
        self.notes.setText("  ".join(lines))
        self.notes.setToolTip(tip("\n".join(lines)))
        if not self.table.currentIndex().isValid():
            self._select(session.choice.lap)

    def _select(self, key: LapKey | None) -> None:
        row = next((i for i, r in enumerate(self.model.rows) if r.key == key and key is not None), None)
        if row is not None:
            self.table.setCurrentIndex(self.model.index(row, 0))


def _alike(store: SessionStore) -> str:
    """The corners that are driven most and least alike, once that has been found out."""
    found = store.evenness
    if found is None:
        return ""
    most, least = f"{found.even} ±{found.even_s:.2f} s", f"{found.uneven} ±{found.uneven_s:.2f} s"
    return f" · most consistent: corner {most} · least: corner {least}"


def _notes(session: Session) -> list[str]:
    """What is wrong with the run's data, what was mended on reading, and what is pinned: quietly."""
    run = ops.shown_run(session)
    if run is None:
        return []
    lines = [f"Its channel data {run.damaged}: import the log again, or restore a backup."] if run.damaged else []
    pinned = session.pin_of(run)
    if pinned is not None:
        lines.append(f"Reference of this class: {session.label(pinned)}.")
    if run.repairs:
        lines.append(
            "Mended on reading: " + "; ".join(f"{r.channel}: {r.what} ({r.count})" for r in run.repairs[:8]) + "."
        )
    return lines
