"""Rehearsing: the lap plays without marks, a person calls brake, turn-in and pick-up by key, and sees how far off each call was."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import BY_ID
from jete.app.theme import BODY_PX, SMALL_PX, font
from jete.report.rehearsal import CALL_WORDS, call_words, known_words
from jete.report.units import units_of
from jete.session.state import Changed, Session
from jete.views.labels import plain

if TYPE_CHECKING:
    from jete.app.rehearsal import Rehearsal
    from jete.app.store import SessionStore

COLUMNS = ("corner", *CALL_WORDS.values(), "known")


class RehearsalPanel(QWidget):
    """The calls of this time as a table, one row a corner, and which are not known yet."""

    def __init__(self, store: SessionStore, rehearsal: Rehearsal) -> None:
        super().__init__()
        self._store, self.rehearsal = store, rehearsal
        self.said, self.sheet = QLabel(), plain(wrap=True, small=True)
        self.table = QTableWidget(0, len(COLUMNS))
        self.done = QPushButton("Done: keep what is known")
        self._build()
        rehearsal.changed.connect(self.fill)
        store.changed.connect(self._on_changed)

    def _build(self) -> None:
        self.said.setFont(font(BODY_PX + 9, bold=True))
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setWordWrap(True)
        self.said.setObjectName("rehearsal-said")
        self.said.setAccessibleName("The last call")
        self.sheet.setObjectName("rehearsal-sheet")
        self.table.setAccessibleName("Calls by corner, metres late or early")
        self.table.setHorizontalHeaderLabels(COLUMNS)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setFont(font(SMALL_PX))
        rows, titles = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and titles is not None:
            rows.hide()
            titles.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.done.setToolTip("What was called is kept by person and circuit; what is not known comes again first.")
        self.done.clicked.connect(self.rehearsal.keep)
        keys = ", ".join(f"{words} ({BY_ID[f'call:{name}'].keys[0]})" for name, words in CALL_WORDS.items())
        how = plain(f"The lap plays. Call {keys} when it should come.", wrap=True, small=True, muted=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(6, 0, 0, 0)
        for widget in (how, self.said, self.table, self.sheet, self.done):
            column.addWidget(widget)
        column.setStretch(2, 1)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY):
            self.fill()

    def fill(self) -> None:
        """The calls so far."""
        comparison = self._store.comparison
        corners = comparison.laps[0].corners if comparison is not None else ()
        units = units_of(self._store.session.display)
        calls = self.rehearsal.calls
        self.said.setText(call_words(calls[-1], corners, units) if calls else "")
        self.table.setRowCount(len(corners))
        for row, loss in enumerate(corners):
            mine = {c.name: c for c in calls if c.corner == loss.corner.number}
            texts = [f"{loss.corner.shown} {loss.corner.name}".rstrip()]
            texts += [units.length_text(mine[n].metres) if n in mine else "" for n in CALL_WORDS]
            texts.append(known_words(self.rehearsal.memories.get(loss.corner.id or -1)))
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                side = Qt.AlignmentFlag.AlignRight if 0 < column < len(texts) - 1 else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        self.sheet.setText(self.rehearsal.unknown_words())
