"""The traces of one corner from which a person asks what if: flags of the lap that can be dragged, and what that would make of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jete.app.theme import THEMES, scale
from jete.report.units import KMH, units_of
from jete.views.canvas import polygon
from jete.views.traces.corner import ROW_PX, CornerTraces, row_y

if TYPE_CHECKING:
    from PyQt6.QtGui import QMouseEvent, QPaintEvent

    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.views.traces.painter import Strip

# Rows whose flag of the lap asks what if when it is dragged; how near a hand must come.
DRAGGED = {"brake": "brake_on_m", "pick-up": "throttle_on_m"}
GRIP_PX = 9.0


@dataclass(frozen=True, eq=False)
class ChangeShown:
    """What a change makes of the speed: places of the reference's axis and speeds in the chosen unit, (n,), and moved marks."""

    place_m: FloatArray
    speed: FloatArray
    flags: tuple[tuple[str, float], ...]


class AskingTraces(CornerTraces):
    """The selected corner; what is dragged is told by ``flag_dragged``: which mark, and by how many metres or km/h."""

    flag_dragged = pyqtSignal(str, float)

    def __init__(self, store: SessionStore) -> None:
        self._flag: tuple[str, float] | None = None
        self._change: ChangeShown | None = None
        super().__init__(store)
        self.setToolTip(
            "Click or drag: place. Drag this lap's flag of brake or pick-up, or its slowest point on the speed, to ask what if. "
            "Corner before and after: B, N."
        )

    @property
    def _speed_strip(self) -> Strip | None:
        return next((s for s in self._strips if s.panel.name == "speed"), None)

    def show_change(self, change: ChangeShown | None) -> None:
        """Draw what a change would make of the speed over the curves, and its flags where they were dragged to."""
        if change is not self._change:
            self._change = change
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The curves, and over them what a change would make of the speed."""
        super().paintEvent(event)
        strip = self._speed_strip
        if self._change is None or strip is None or not self._drawn:
            return
        painter, frame = QPainter(self), self.frame()
        theme = THEMES[self._store.session.display.theme]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(frame.left, 0.0, frame.right - frame.left + 8.0, strip.bottom))
        painter.setPen(QPen(theme.color("lap"), 1.6, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        x = np.array([frame.x(self.along(p)) for p in self._change.place_m.tolist()])
        y = np.array([strip.y(v) for v in self._change.speed.tolist()])
        painter.drawPolyline(polygon(x, y))
        for what, place in self._change.flags:
            row = self._flag_y(what)
            if row is not None:
                at = frame.x(self.along(place))
                painter.setPen(QPen(theme.color("lap"), 1.4))
                painter.drawPolygon(QPolygonF([QPointF(at, row - 5), QPointF(at + 7, row), QPointF(at, row + 5)]))

    def _flag_y(self, what: str) -> float | None:
        """The middle of a mark's row of flags."""
        titles = [title for title, _, _ in self.pairs()]
        wanted = next((title for title, name in DRAGGED.items() if name == what), "")
        return row_y(titles.index(wanted)) if wanted in titles else None

    def grip(self, what: str) -> QPointF | None:
        """Where a hand takes hold of a mark; None where it is not shown."""
        loss, frame = self.loss(), self.frame()
        strip = self._speed_strip
        if loss is None or strip is None:
            return None
        if what == "min_speed_kmh":
            slow = units_of(self._store.session.display).speed_of(loss.lap_marks.min_speed_kmh / KMH)
            return QPointF(frame.x(self.along(loss.lap_marks.slow_point_m)), strip.y(slow))
        row = self._flag_y(what)
        place = next((lap for title, _, lap in self.pairs() if DRAGGED.get(title) == what), None)
        return QPointF(frame.x(self.along(place)), row) if row is not None and place is not None else None

    def _flag_at(self, at: QPointF) -> tuple[str, float] | None:
        """What is asked for by dragging from a point, and where the drag began: metres of the lap, or a speed; None elsewhere."""
        loss = self.loss()
        for what in (*DRAGGED.values(), "min_speed_kmh"):
            grip = self.grip(what)
            # A flag points to the right of its place.
            if loss is None or grip is None or not (-GRIP_PX <= at.x() - grip.x() <= GRIP_PX + 4.0):
                continue
            if abs(at.y() - grip.y()) > 0.5 * ROW_PX * scale():
                continue
            if what == "min_speed_kmh":
                return what, units_of(self._store.session.display).speed_of(loss.lap_marks.min_speed_kmh / KMH)
            return what, self.place_of(self.frame().place(grip.x()))
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """A flag is taken hold of, or the place."""
        self._flag = self._flag_at(event.position()) if event is not None else None
        if self._flag is None:
            super().mousePressEvent(event)

    def _drag_flag(self, at: QPointF, flag: tuple[str, float]) -> None:
        what, own = flag
        if what != "min_speed_kmh":
            self.flag_dragged.emit(what, self.place_of(self.frame().place(at.x())) - own)
            return
        strip = self._speed_strip
        if strip is not None:
            units = units_of(self._store.session.display)
            self.flag_dragged.emit(what, (strip.value(at.y()) - own) / units.speed_of(1.0 / KMH))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Drag a flag, or the place."""
        if event is not None and self._flag is not None:
            self._drag_flag(event.position(), self._flag)
        else:
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """A flag is let go, or a click sets the place."""
        if self._flag is not None:
            self._flag = None
        else:
            super().mouseReleaseEvent(event)
