"""The start line on the path of a run: it can be dragged along it, or moved by key."""

from __future__ import annotations

from dataclasses import replace
from math import cos, sin
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QPushButton, QVBoxLayout, QWidget

from jete.app.theme import THEMES
from jete.core.motion.one_line import LineSource
from jete.core.motion.start_line import line_at
from jete.views.canvas import polygon

if TYPE_CHECKING:
    from PyQt6.QtGui import QKeyEvent, QMouseEvent

    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Channel

MARGIN = 30.0
STEP_M, LEAP_M = 5.0, 50.0
POINTS = 4000
HALF_M = 22.0


class StartLineDialog(QDialog):
    """Hands over the line where it was put."""

    chosen = pyqtSignal(int, object)

    def __init__(
        self,
        run: int,
        path: tuple[Channel, Channel],
        along_m: FloatArray,
        line: LineSource,
        theme: str,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._run = run
        self.setWindowTitle("The start line")
        self.setObjectName("start-line")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(760, 620)
        self.map = PathMap(path, along_m, line, theme)
        buttons = QDialogButtonBox()
        self.use = QPushButton("Split the run here")
        self.use.clicked.connect(self._on_use)
        buttons.addButton(self.use, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        buttons.rejected.connect(self.reject)
        how = QLabel(
            "Drag the line along the path, or move it with the arrow keys. The circuit keeps it for its next logs."
        )
        how.setWordWrap(True)
        body = QVBoxLayout(self)
        body.addWidget(how)
        body.addWidget(self.map, 1)
        body.addWidget(buttons)
        self.map.setFocus()

    def _on_use(self) -> None:
        self.chosen.emit(self._run, self.map.line)
        self.accept()


class PathMap(QWidget):
    """The path from above with the line across it."""

    def __init__(self, path: tuple[Channel, Channel], along_m: FloatArray, line: LineSource, theme: str) -> None:
        super().__init__()
        self._path, self._along, self.line = path, along_m, line
        self._theme = THEMES[theme]
        self._place_m = self._nearest(line.line.x_m, line.line.y_m) if line.line else float(along_m[0])
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Path of the run with the start line")
        self.setMinimumSize(QSize(400, 300))

    def _nearest(self, x: float, y: float) -> float:
        away = np.hypot(self._path[0].value - x, self._path[1].value - y)
        return float(self._along[int(np.argmin(away))])

    def move_to(self, place_m: float) -> None:
        """Put the line at a distance along the path."""
        self._place_m = min(max(place_m, float(self._along[0])), float(self._along[-1]))
        self.line = replace(self.line, line=line_at(self._path, self._along, self._place_m))
        self.setAccessibleDescription(f"{self._place_m:.0f} m from the beginning of the log")
        self.update()

    def _scale(self) -> tuple[float, float, float]:
        """Pixels a metre, and the pixel of the plane's origin."""
        x, y = self._path[0].value, self._path[1].value
        scale = min(
            (self.width() - 2 * MARGIN) / max(float(np.ptp(x)), 1.0),
            (self.height() - 2 * MARGIN) / max(float(np.ptp(y)), 1.0),
        )
        left = 0.5 * (self.width() - scale * (float(x.min()) + float(x.max())))
        top = 0.5 * (self.height() + scale * (float(y.min()) + float(y.max())))
        return scale, left, top

    def place_of(self, point: QPointF) -> float:
        """Distance along the path nearest to a pixel."""
        scale, left, top = self._scale()
        return self._nearest((point.x() - left) / scale, (top - point.y()) / scale)

    def pixel_of(self, x_m: float, y_m: float) -> QPointF:
        """Pixel of a place on the plane."""
        scale, left, top = self._scale()
        return QPointF(left + scale * x_m, top - scale * y_m)

    def paintEvent(self, _: object) -> None:  # noqa: N802 - Qt's name
        """Path, line and the direction of travel."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale, left, top = self._scale()
        every = max(1, len(self._along) // POINTS)
        x, y = (c.value[::every] for c in self._path)
        painter.setPen(QPen(self._theme.color("muted"), 1))
        painter.drawPolyline(polygon(left + scale * x, top - scale * y))
        line = self.line.line
        if line is None:
            return
        half = max(HALF_M, 14.0 / scale)
        across = (-sin(line.heading_rad) * half, cos(line.heading_rad) * half)
        ahead = (cos(line.heading_rad) * half, sin(line.heading_rad) * half)
        painter.setPen(QPen(self._theme.color("ink"), 2))
        middle = self.pixel_of(line.x_m, line.y_m)
        painter.drawLine(
            self.pixel_of(line.x_m - across[0], line.y_m - across[1]),
            self.pixel_of(line.x_m + across[0], line.y_m + across[1]),
        )
        painter.drawLine(middle, self.pixel_of(line.x_m + ahead[0], line.y_m + ahead[1]))
        painter.setBrush(self._theme.color("ink"))
        painter.drawEllipse(middle, 4.0, 4.0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The line goes to the place that is pressed."""
        if event:
            self.move_to(self.place_of(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """And is dragged along the path."""
        self.mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Arrow keys move it by 5 m, with Shift by 50."""
        if event is None:
            return
        sign = {Qt.Key.Key_Right: 1.0, Qt.Key.Key_Up: 1.0, Qt.Key.Key_Left: -1.0, Qt.Key.Key_Down: -1.0}.get(
            Qt.Key(event.key())
        )
        if sign is None:
            super().keyPressEvent(event)
            return
        leap = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.move_to(self._place_m + sign * (LEAP_M if leap else STEP_M))
