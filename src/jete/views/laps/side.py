"""The right of the Laps page: the two laps that are compared, what can be done next, and the run's sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.theme import SPACE
from jete.report.words import lap_time, times_that_add_up
from jete.session.state import IDEAL, Changed, Session
from jete.views.following import Following
from jete.views.laps.held import HeldLap
from jete.views.laps.sheet_form import SheetForm

if TYPE_CHECKING:
    from jete.app.store import SessionStore

BUTTONS = (
    ("Compare this lap", "compare"), ("Use as reference", "reference"),
    ("Use the run's ideal lap as reference", "ideal"), ("See where the time goes", "page:ledger"),
)  # fmt: skip
IN_ONE_ROW = ("compare", "reference")


class SidePanel(QWidget):
    """Tells which action a button asks for."""

    wanted = pyqtSignal(str)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.reference, self.lap = HeldLap("reference"), HeldLap("lap")
        self.sheet = SheetForm(store)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        column.setSpacing(SPACE)
        column.addWidget(self.lap)
        column.addWidget(self.reference)
        row = QHBoxLayout()
        column.addLayout(row)
        for text, action in BUTTONS:
            (row if action in IN_ONE_ROW else column).addWidget(self._button(text, action))
        column.addSpacing(SPACE)
        column.addWidget(self.sheet, 1)
        Following(self, store, self._on_changed)

    def _button(self, text: str, action: str) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName(f"do-{action}")
        button.setToolTip(key_hint(action))
        button.setAccessibleName(text)
        button.clicked.connect(self._on_clicked)
        return button

    def _on_clicked(self) -> None:
        sender = self.sender()
        if sender is not None:
            self.wanted.emit(sender.objectName().removeprefix("do-"))

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.CHOICE | Changed.RESULT):
            self._fill()

    def _fill(self) -> None:
        session = self._store.session
        ideal = session.choice.reference is not None and session.choice.reference.lap == IDEAL
        compared = self._store.comparison if ideal else None
        spans = session.span(session.choice.reference), session.span(session.choice.lap)
        joined_s = compared.reference.lap.span.time_s if compared else None
        reference_s, lap_s = spans[0].time_s if spans[0] else joined_s, spans[1].time_s if spans[1] else None
        if reference_s is not None and lap_s is not None:
            times = times_that_add_up(reference_s, lap_s)
        else:
            times = "" if reference_s is None else lap_time(reference_s), "" if lap_s is None else lap_time(lap_s)
        self.reference.show_lap(session, session.choice.reference, times[0])
        self.lap.show_lap(session, session.choice.lap, times[1])
