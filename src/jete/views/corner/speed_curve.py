"""The lap's speed through a corner and the speed that a change would make of it, with flags that are dragged along it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, font, scale
from jete.report.units import plain
from jete.views.canvas import polygon, stroke, ticks

if TYPE_CHECKING:
    from PyQt6.QtGui import QMouseEvent, QPaintEvent

    from jete.app.theme import Theme
    from jete.core.arrays import FloatArray
    from jete.core.whatif.asked_for import What

LEFT_PX, AXIS_PX, TOP_PX = 34, 18, 8
# Knobs stand so far off the curve.
STEM_PX = 22
# And need so much room with their stem.
KNOB_PX = 34
NEAR_PX = 14.0
LETTERS: Final[dict[What, str]] = {"brake_on_m": "b", "min_speed_kmh": "s", "throttle_on_m": "p"}


@dataclass(frozen=True, eq=False, kw_only=True)
class CurveShown:
    """What is drawn: places as metres from the apex (n,), the lap's speeds (n,) and the changed ones (n,; None where none is told), in the chosen unit.

    ``flags`` are the changed places and speeds of each thing that can be dragged; ``hatched`` says that it asks for more than was shown.
    """

    along: FloatArray
    own: FloatArray
    changed: FloatArray | None
    flags: tuple[tuple[What, float, float], ...]
    hatched: bool


class SpeedCurve(QWidget):
    """Emits by how much a flag was dragged: what, and where to, metres along or speed, in the chosen units."""

    dragged = pyqtSignal(str, float)

    def __init__(self) -> None:
        super().__init__()
        self.shown: CurveShown | None = None
        self.theme: Theme = THEMES["light"]
        self._held: What | None = None
        self.setObjectName("what-if-curve")
        self.setAccessibleName("Speed of the lap, and with the change")
        self.setToolTip("Drag b, s or p: brake point, lowest speed, pick-up.")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(110)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As wide as the column, a third as high."""
        return QSize(340, 170)

    def show_curve(self, shown: CurveShown | None, theme: Theme) -> None:
        """Show another curve."""
        self.shown, self.theme = shown, theme
        self.update()

    # --- where things lie

    def _plot(self) -> QRectF:
        left = LEFT_PX * scale()
        return QRectF(left, TOP_PX, self.width() - left - 6, self.height() - TOP_PX - AXIS_PX * scale())

    def _bounds(self, shown: CurveShown) -> tuple[float, float]:
        every = shown.own if shown.changed is None else np.concatenate([shown.own, shown.changed])
        # Room for the knobs above and below.
        share = min(KNOB_PX * scale() / max(self._plot().height(), 1.0), 0.3)
        room = max(float(np.ptp(every)), 1.0) * share / (1.0 - 2.0 * share)
        return float(every.min()) - room, float(every.max()) + room

    def point(self, along: float, speed: float) -> QPointF:
        """Where a place and a speed lie, pixels."""
        shown, plot = self.shown, self._plot()
        assert shown is not None
        low, high = self._bounds(shown)
        first, last = float(shown.along[0]), float(shown.along[-1])
        x = plot.left() + (along - first) / max(last - first, 1e-9) * plot.width()
        return QPointF(x, plot.bottom() - (speed - low) / max(high - low, 1e-9) * plot.height())

    # --- painting

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Grid, both curves, flags."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.shown is None or self.shown.along.size < 2:
            return
        self._paint_grid(painter, self.shown)
        self._paint_curve(painter, self.shown.own, "lap", Qt.PenStyle.SolidLine)
        if self.shown.changed is not None:
            if self.shown.hatched:
                self._paint_hatched(painter, self.shown, self.shown.changed)
            self._paint_curve(painter, self.shown.changed, "ink", Qt.PenStyle.DashLine)
        for what, along, speed in self.shown.flags:
            self._paint_flag(painter, what, self.point(along, speed))

    def _paint_grid(self, painter: QPainter, shown: CurveShown) -> None:
        plot, (low, high) = self._plot(), self._bounds(shown)
        painter.setFont(font(SMALL_PX))
        for value in ticks(low, high, max(2, int(plot.height() / (28 * scale())))):
            y = self.point(float(shown.along[0]), value).y()
            painter.setPen(QPen(self.theme.color("faint"), 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(self.theme.color("muted"))
            painter.drawText(
                QRectF(0, y - 9, plot.left() - 5, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                plain(value, 0),
            )
        painter.setPen(self.theme.color("muted"))
        for value in ticks(float(shown.along[0]), float(shown.along[-1]), max(2, int(plot.width() / 70))):
            x = self.point(value, low).x()
            text = "apex" if value == 0.0 else plain(value, 0)
            painter.drawText(
                QRectF(x - 40, plot.bottom() + 1, 80, AXIS_PX * scale()), Qt.AlignmentFlag.AlignCenter, text
            )

    def _paint_curve(self, painter: QPainter, speed: FloatArray, role: str, style: Qt.PenStyle) -> None:
        assert self.shown is not None
        points = [self.point(a, v) for a, v in zip(self.shown.along.tolist(), speed.tolist(), strict=True)]
        line = polygon(np.array([p.x() for p in points]), np.array([p.y() for p in points]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if style == Qt.PenStyle.SolidLine:
            stroke(painter, self.theme.color(role), line)
            return
        pen = QPen(self.theme.color(role), 1.4, style)
        painter.setPen(pen)
        painter.drawPolyline(line)

    def _paint_hatched(self, painter: QPainter, shown: CurveShown, changed: FloatArray) -> None:
        """Hatch what is asked for and was never shown, between both curves."""
        there = [self.point(a, v) for a, v in zip(shown.along.tolist(), changed.tolist(), strict=True)]
        back = [self.point(a, v) for a, v in zip(shown.along.tolist(), shown.own.tolist(), strict=True)][::-1]
        points = there + back
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(self.theme.color("muted"), Qt.BrushStyle.BDiagPattern))
        painter.drawPolygon(polygon(np.array([p.x() for p in points]), np.array([p.y() for p in points])))

    def knob(self, what: What, at: QPointF) -> QPointF:
        """Where the knob of a flag stands off the curve: the slow point's below it, the others above."""
        return QPointF(at.x(), at.y() + (1.0 if what == "min_speed_kmh" else -1.0) * STEM_PX * scale())

    def _paint_flag(self, painter: QPainter, what: What, on_curve: QPointF) -> None:
        """A knob with its letter on a stem from the curve."""
        radius, at = 8.0 * scale(), self.knob(what, on_curve)
        painter.setPen(QPen(self.theme.color("ink"), 1.2))
        painter.drawLine(on_curve, at)
        painter.setBrush(self.theme.color("raised"))
        painter.drawEllipse(at, radius, radius)
        painter.setFont(font(SMALL_PX, bold=True))
        painter.setPen(self.theme.color("ink"))
        painter.drawText(QRectF(at.x() - 9, at.y() - 10, 18, 19), Qt.AlignmentFlag.AlignCenter, LETTERS[what])

    # --- dragging

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Take the nearest flag."""
        if event is None or self.shown is None:
            return
        near = [
            (self._far(event.position(), self.knob(what, self.point(a, v))), what) for what, a, v in self.shown.flags
        ]
        distance, what = min(near, default=(NEAR_PX + 1.0, None), key=lambda each: each[0])
        self._held = what if distance <= NEAR_PX * scale() else None

    @staticmethod
    def _far(a: QPointF, b: QPointF) -> float:
        return float(np.hypot(a.x() - b.x(), a.y() - b.y()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Drag it: along the road, the slow point up and down."""
        if event is None or self.shown is None or self._held is None:
            return
        plot, at = self._plot(), event.position()
        if self._held == "min_speed_kmh":
            low, high = self._bounds(self.shown)
            self.dragged.emit(self._held, low + (plot.bottom() - at.y()) / max(plot.height(), 1.0) * (high - low))
            return
        first, last = float(self.shown.along[0]), float(self.shown.along[-1])
        self.dragged.emit(self._held, first + (at.x() - plot.left()) / max(plot.width(), 1.0) * (last - first))

    def mouseReleaseEvent(self, _: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Let go of it."""
        self._held = None
