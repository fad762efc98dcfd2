"""The screen for the paddock: the cues of the next run and nothing else, large enough to be read from three metres."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QVBoxLayout, QWidget

from jete.app.theme import LEAD_PX, SPACE, font
from jete.report.plan import corner_title
from jete.report.what_if import CAUTIONS
from jete.views.labels import plain

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PyQt6.QtGui import QKeyEvent

    from jete.core.axis.road.corners import Corner
    from jete.desk.planned import PlannedAim

# A capital of 17 mm on a common screen: read from three metres.
CUE_PX, CORNER_PX = 44, 26


class PaddockScreen(QDialog):
    """Esc closes it; F11 makes it as large as the screen, and back."""

    def __init__(self, aims: Sequence[PlannedAim], corners: Sequence[Corner], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("paddock")
        self.setWindowTitle("Next run")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(1100, 720)
        self.cues = []
        column = QVBoxLayout(self)
        column.setContentsMargins(*[5 * SPACE] * 4)
        column.addStretch(1)
        for aim in aims:
            corner = aim.corner_in(corners)
            title, cue = plain(corner_title(corner) if corner is not None else "", muted=True), plain(wrap=True)
            cue.setText(f"{aim.words[:1].upper()}{aim.words[1:]}")
            title.setFont(font(CORNER_PX))
            cue.setFont(font(CUE_PX, bold=True))
            self.cues.append(cue)
            column.addWidget(title)
            column.addWidget(cue)
            column.addStretch(1)
        care = plain(" ".join(CAUTIONS), wrap=True, muted=True)
        care.setFont(font(LEAD_PX))
        column.addWidget(care)

    def turn_full(self) -> None:
        """As large as the screen, and back."""
        if self.isFullScreen():
            self.showNormal()
        else:
            self.showFullScreen()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """F11 for the whole screen."""
        if event is not None and event.key() == Qt.Key.Key_F11:
            self.turn_full()
        else:
            super().keyPressEvent(event)
