"""The Laps page: open or drop files, see their laps, choose what is held against what."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedLayout,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import key_hint
from jete.app.theme import SPACE, TITLE_PX, font
from jete.report.words import difference, lap_time
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views import tables
from jete.views.laps.delegate import LapsDelegate
from jete.views.laps.model import HOLD, LAP, LENGTH, STATE, TIME, TO_BEST, LapsModel, rows_of

if TYPE_CHECKING:
    from jete.app.store import SessionStore

EMPTY = "Nothing is open yet."
EMPTY_HOW = "Drop CSV logs on this window, or open them. To look around first, open the demo: a club team's car and a motorcycle at Kestrel Sands."


class LapsPage(QWidget):
    """The shelf of open runs; asks the window to open files or the demo."""

    open_wanted = pyqtSignal()
    demo_wanted = pyqtSignal()

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.model = LapsModel()
        self.table = QTableView()
        self.held = QLabel()
        self.notes = QLabel()
        self._delegate = LapsDelegate(self._theme_name)
        self._stack = QStackedLayout(self)
        self._stack.addWidget(self._empty())
        self._stack.addWidget(self._full())
        store.changed.connect(self._on_changed)
        self._fill()

    def _theme_name(self) -> str:
        return self._store.session.display.theme

    def _empty(self) -> QWidget:
        """What to do next, when nothing is open."""
        page = QWidget()
        title, how = QLabel(EMPTY), QLabel(EMPTY_HOW)
        title.setFont(font(TITLE_PX, bold=True))
        how.setWordWrap(True)
        how.setMaximumWidth(460)
        buttons = QHBoxLayout()
        for text, action, signal in (
            ("Open logs…", "open", self.open_wanted),
            ("Open the demo", "demo", self.demo_wanted),
        ):
            button = QPushButton(text)
            button.setToolTip(key_hint(action))
            button.setAccessibleName(text)
            button.clicked.connect(signal)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(page)
        column.setContentsMargins(120, 90, 40, 40)
        column.setSpacing(2 * SPACE)
        column.addWidget(title)
        column.addWidget(how)
        column.addLayout(buttons)
        column.addStretch(1)
        return page

    def _full(self) -> QWidget:
        """The table of laps, and beside it what is held and what was mended."""
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        row.setSpacing(3 * SPACE)
        self._set_up_table()
        row.addWidget(self.table, 1)
        row.addLayout(self._side(), 0)
        return page

    def _side(self) -> QVBoxLayout:
        """Beside the table: the two held laps, the buttons, the notes."""
        column = QVBoxLayout()
        column.setSpacing(SPACE)
        self.held.setObjectName("held")
        self.held.setTextFormat(Qt.TextFormat.PlainText)
        for label in (self.held, self.notes):
            label.setWordWrap(True)
            label.setFixedWidth(300)
        self.notes.setProperty("muted", True)
        column.addWidget(self.held)
        actions = (
            ("Hold as reference", "reference", self.hold_reference),
            ("Hold against it", "compare", self.hold_lap),
        )
        for text, action, slot in actions:
            button = QPushButton(text)
            button.setToolTip(key_hint(action))
            button.setAccessibleName(text)
            button.clicked.connect(slot)
            column.addWidget(button)
        ledger = QPushButton("See where the time goes")
        ledger.setToolTip(key_hint("page:ledger"))
        ledger.setAccessibleName("Go to the ledger")
        ledger.clicked.connect(self._to_ledger)
        column.addWidget(ledger)
        column.addSpacing(SPACE)
        column.addWidget(self.notes)
        column.addStretch(1)
        return column

    def _set_up_table(self) -> None:
        self.table.setObjectName("laps")
        self.table.setModel(self.model)
        self.table.setItemDelegate(self._delegate)
        self.table.activated.connect(self._on_activated)
        widths = {HOLD: 150, LAP: 54, TIME: 96, TO_BEST: 92, LENGTH: 92}
        tables.set_up(self.table, "Laps of the open runs", widths, STATE)

    def selected(self) -> LapKey | None:
        """The lap that is selected in the table."""
        row = self.table.currentIndex().row()
        return self.model.rows[row].key if 0 <= row < len(self.model.rows) else None

    def hold_reference(self) -> None:
        """Hold the selected lap as the reference."""
        key = self.selected()
        if key is not None:
            self._store.do("choice of the reference", lambda s: ops.choose_reference(s, key))

    def hold_lap(self) -> None:
        """Hold the selected lap against the reference."""
        key = self.selected()
        if key is not None:
            self._store.do("choice of the lap", lambda s: ops.choose_lap(s, key))

    def _on_activated(self, index: QModelIndex) -> None:
        key = self.model.rows[index.row()].key
        if key is not None:
            self._store.do("choice of the lap", lambda s: ops.choose_lap(s, key))

    def _to_ledger(self) -> None:
        self._store.look_at(lambda s: ops.go_to_page(s, "ledger"))

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.CHOICE | Changed.DISPLAY | Changed.RESULT):
            self._fill()

    def _fill(self) -> None:
        session = self._store.session
        self._stack.setCurrentIndex(1 if session.runs else 0)
        self.model.show(rows_of(session))
        self.table.clearSpans()
        for i, row in enumerate(self.model.rows):
            if row.span is None:
                self.table.setSpan(i, 0, 1, self.model.columnCount())
        self.held.setText(_held_text(session, self._store))
        self.notes.setText(_notes_text(session))
        if not self.table.currentIndex().isValid():
            self._select(session.choice.lap)

    def _select(self, key: LapKey | None) -> None:
        row = next((i for i, r in enumerate(self.model.rows) if r.key == key and key is not None), None)
        if row is not None:
            self.table.setCurrentIndex(self.model.index(row, 0))


def _held_text(session: Session, store: SessionStore) -> str:
    """The two laps and the gap between them."""
    lines = []
    for title, key in (("Reference", session.choice.reference), ("Held against it", session.choice.lap)):
        span = session.span(key)
        time = f"\n{lap_time(span.time_s)}" if span else ""
        lines.append(f"{title}\n{session.label(key)}{time}")
    comparison = store.comparison
    if comparison is not None:
        lines.append(f"Gap {difference(comparison.laps[0].gap_s)} s")
    return "\n\n".join(lines)


def _notes_text(session: Session) -> str:
    """What was mended on reading, quietly."""
    lines = [f"{run.name}: {r.channel}: {r.what} ({r.count})" for run in session.runs for r in run.repairs]
    return "Mended on reading\n" + "\n".join(lines[:12]) if lines else ""
