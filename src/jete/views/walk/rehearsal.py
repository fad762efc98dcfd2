"""Rehearsing: the lap plays without marks, a person calls brake, turn-in and pick-up by key, and sees how far off each call was."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import BY_ID, key_hint
from jete.app.speech import Speech
from jete.app.theme import LARGE_PX, SMALL_PX, font, scale
from jete.report.guide_words import HARD_WORDS
from jete.report.rehearsal import CALL_WORDS, call_words, known_words, off_words
from jete.report.units import units_of
from jete.session.state import Changed, Session
from jete.views.following import Following
from jete.views.labels import plain, tip
from jete.views.switch import Switch

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PyQt6.QtGui import QResizeEvent

    from jete.app.rehearsal import Rehearsal
    from jete.app.store import SessionStore
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.walk.rehearse import CallName

# Twelve corners stand in sight on a common screen.
ROW_PX = 27
# A name is no narrower: then the table scrolls.
LEAST_NAME_PX = 70


class RehearsalPanel(QWidget):
    """The calls of this time as a table, one row a corner, and which are not known yet."""

    def __init__(self, store: SessionStore, rehearsal: Rehearsal) -> None:
        super().__init__()
        self._store, self.rehearsal = store, rehearsal
        self.said, self.sheet = QLabel(), plain(wrap=True, small=True)
        self.how = plain(wrap=True, small=True, muted=True)
        self.table = QTableWidget(0, 0)
        self.done = QPushButton("Done: keep what is known")
        self.say = QPushButton("Say the lap…")
        self.blind = Switch("What is seen", ("Road", "Names only"), key_hint("rehearse:blind"))
        self.aloud = QCheckBox("say it aloud")
        self.speech = Speech()
        self._build()
        rehearsal.changed.connect(self.fill)
        Following(self, store, self._on_changed)

    def _build(self) -> None:
        self.said.setFont(font(LARGE_PX, bold=True))
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setWordWrap(True)
        self.said.setObjectName("rehearsal-said")
        self.said.setAccessibleName("The last call")
        self.sheet.setObjectName("rehearsal-sheet")
        self.table.setAccessibleName("Calls by corner, metres late or early")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setFont(font(SMALL_PX))
        self.table.setShowGrid(False)
        rows = self.table.verticalHeader()
        if rows is not None:
            rows.hide()
            rows.setDefaultSectionSize(round(ROW_PX * scale()))
        self.done.setToolTip("What was called is kept by person and circuit; what is not known comes again first.")
        self.done.clicked.connect(self.rehearsal.keep)
        self.aloud.setToolTip(key_hint("rehearse:aloud"))
        self.aloud.toggled.connect(self._on_aloud)
        self.say.setToolTip(key_hint("rehearse:say"))
        row = QHBoxLayout()
        row.addWidget(self.blind)
        row.addWidget(self.aloud)
        row.addStretch(1)
        ends = QHBoxLayout()
        for button in (self.say, self.done):
            ends.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(6, 0, 0, 0)
        column.addLayout(row)
        for widget in (self.how, self.said, self.table, self.sheet):
            column.addWidget(widget)
        column.addLayout(ends)
        column.setStretchFactor(self.table, 1)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY):
            self.fill()

    def _tell_how(self, names: Sequence[CallName]) -> None:
        """Which keys call what."""
        keys = ", ".join(f"{CALL_WORDS[name]} ({BY_ID[f'call:{name}'].keys[0]})" for name in names)
        hard = ", ".join(f"{words} ({BY_ID[f'call:{h}'].keys[0]})" for h, words in HARD_WORDS.items())
        more = f"; the brake also {hard}" if "brake" in names else ""
        self.how.setText(f"The lap plays. Call {keys} when it should come{more}.")

    def _circuit(self) -> CircuitOnAxis | None:
        road = self._store.road
        return road.circuit if road is not None and self._store.session.display.by_landmark else None

    def _tell(self, words: str) -> None:
        """Show the last call, and say it where that is wished."""
        if words and words != self.said.text() and self.aloud.isChecked():
            self.speech.say(words)
        self.said.setText(words)

    def turn_aloud(self) -> None:
        """Say calls aloud, or not, by key."""
        self.aloud.setChecked(not self.aloud.isChecked())

    def _on_aloud(self, aloud: bool) -> None:  # noqa: FBT001 - Qt's signal
        """Where there is no voice it is said in writing."""
        if aloud and not self.speech.ready():
            self.aloud.setChecked(False)
            self.sheet.setText("There is no voice on this system; calls are shown only.")

    def fill(self) -> None:
        """The calls so far."""
        comparison = self._store.comparison
        corners = comparison.laps[0].corners if comparison is not None else ()
        units = units_of(self._store.session.display)
        calls, names = self.rehearsal.calls, self.rehearsal.names()
        self._tell_how(names)
        self._tell(call_words(calls[-1], corners, units, self._circuit()) if calls else "")
        self.table.setColumnCount(len(names) + 2)
        self.table.setHorizontalHeaderLabels(["corner", *(CALL_WORDS[n] for n in names), "known"])
        self.table.setRowCount(len(corners))
        for row, loss in enumerate(corners):
            mine = {c.name: c for c in calls if c.corner == loss.corner.number}
            texts = [loss.corner.called]
            texts += [off_words(mine[n].metres, units) if n in mine else "" for n in names]
            texts.append(known_words(self.rehearsal.memories.get(loss.corner.lasting)))
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(text))
                side = Qt.AlignmentFlag.AlignRight if 0 < column < len(texts) - 1 else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        self._share()
        self.sheet.setText(self.rehearsal.unknown_words())

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """The columns follow the width that there is."""
        super().resizeEvent(event)
        self._share()

    def _share(self) -> None:
        """Names are whole, and what is left is shared by the calls; where they have no room, names are cut first."""
        titles, view = self.table.horizontalHeader(), self.table.viewport()
        if titles is None or view is None or not self.table.columnCount():
            return
        asked = [max(titles.sectionSizeHint(c), self.table.sizeHintForColumn(c)) for c in range(titles.count())]
        room, modes = view.width() - sum(asked[1:]), QHeaderView.ResizeMode
        for column in range(titles.count()):
            shared = asked[0] <= room and 0 < column < titles.count() - 1
            titles.setSectionResizeMode(column, modes.Stretch if shared else modes.ResizeToContents)
        if asked[0] > room:
            titles.setSectionResizeMode(0, modes.Interactive)
            titles.resizeSection(0, max(room, round(LEAST_NAME_PX * scale())))
