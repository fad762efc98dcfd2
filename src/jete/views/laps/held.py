"""The two held laps beside the table: a lap dropped on one is held there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QLabel

from jete.views.laps.model import key_of

if TYPE_CHECKING:
    from jete.session.state import LapKey, Session

TITLES = {"reference": "Reference", "lap": "Compared lap"}


class HeldLap(QLabel):
    """One held lap with its time, in its colour; takes laps that are dropped on it."""

    dropped = pyqtSignal(object)

    def __init__(self, role: str) -> None:
        super().__init__()
        self._role = role
        self.setObjectName(f"held-{role}")
        self.setAccessibleName(TITLES[role])
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setAcceptDrops(True)
        self.setToolTip("Drop a lap here to choose it.")

    def show_lap(self, session: Session, key: LapKey | None, time: str) -> None:
        """The lap's name and its time, as it is shown; empty where it is not known."""
        self.setText(f"{TITLES[self._role]}{f'   {time}' if time else ''}\n{session.label(key)}")

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:  # noqa: N802 - Qt's name
        """Laps may be dropped."""
        if event and key_of(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:  # noqa: N802 - Qt's name
        """Hold the lap."""
        key = key_of(event.mimeData()) if event else None
        if event and key is not None:
            event.acceptProposedAction()
            self.dropped.emit(key)
