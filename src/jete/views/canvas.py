"""What the painted widgets share: a pixmap at the screen's own resolution, quick polygons, round values for axes."""

from __future__ import annotations

from math import ceil, floor, log10
from typing import TYPE_CHECKING, cast

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QWidget

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]


def blank(widget: QWidget, color: QColor) -> QPixmap:
    """A pixmap of the widget's size, filled."""
    ratio = widget.devicePixelRatioF()
    pixmap = QPixmap(round(widget.width() * ratio), round(widget.height() * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(color)
    return pixmap


def polygon(x: FloatArray, y: FloatArray) -> QPolygonF:
    """A polygon from coordinates (n,) in pixels, filled through its own memory: a point at a time is slow."""
    out = QPolygonF()
    out.fill(QPointF(), len(x))
    memory = out.data()
    if memory is not None:
        memory.setsize(16 * len(x))
        points = np.frombuffer(cast("memoryview", memory), dtype=np.float64)
        points[::2], points[1::2] = x, y
    return out


def stroke(painter: QPainter, color: QColor, line: QPolygonF) -> None:
    """A line that looks one and a half pixels wide: drawn twice with Qt's quick pen of one, 0.6 px apart."""
    painter.setPen(QPen(color, 1))
    painter.drawPolyline(line)
    painter.drawPolyline(line.translated(0.0, 0.6))


def ticks(low: float, high: float, most: int) -> list[float]:
    """Round values between two bounds, at most ``most``; steps of 1, 2 or 5.

    >>> ticks(0.0, 100.0, 4)
    [0.0, 50.0, 100.0]
    """
    span = max(high - low, 1e-12)
    raw = span / max(most, 1)
    power = 10.0 ** floor(log10(raw))
    step = next(power * f for f in (1, 2, 5, 10) if power * f >= raw * 0.999)
    first = ceil(low / step - 1e-9)
    return [k * step for k in range(first, floor(high / step + 1e-9) + 1)]


def kept_in(middle: float, wide: float, room: float) -> tuple[float, float]:
    """Left edge and width of a text in the middle over a point, moved as little as it takes to stay between 0 and ``room``.

    >>> kept_in(50.0, 20.0, 100.0), kept_in(3.0, 20.0, 100.0), kept_in(99.0, 20.0, 100.0)
    ((40.0, 20.0), (0.0, 20.0), (80.0, 20.0))
    """
    return min(max(middle - 0.5 * wide, 0.0), max(room - wide, 0.0)), wide
