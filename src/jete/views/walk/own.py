"""One's own vehicle as it is seen from the seat: a bonnet, or bars and a screen, as a quiet outline."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

if TYPE_CHECKING:
    from jete.app.theme import Theme

# How high the bonnet stands in the picture, as a share of its height.
BONNET, BARS = 0.13, 0.17


def paint_own(painter: QPainter, theme: Theme, width: float, height: float, *, rides: bool) -> None:
    """At the picture's foot: it does not move, so that what moves is the road."""
    painter.setPen(QPen(theme.color("ink", 120), 1.4))
    painter.setBrush(theme.color("selected"))
    painter.drawPath(_bars(width, height) if rides else _bonnet(width, height))
    if rides:
        for side in (-1.0, 1.0):
            x = 0.5 * width + side * 0.27 * width
            painter.drawRoundedRect(
                QRectF(x - 0.055 * width, height - 0.085 * height, 0.11 * width, 0.03 * height), 5, 5
            )
        painter.setBrush(Qt.BrushStyle.NoBrush)


def _bonnet(width: float, height: float) -> QPainterPath:
    """Two wings and the bonnet between them."""
    path = QPainterPath(QPointF(0.0, height))
    path.lineTo(0.0, height * (1.0 - 0.55 * BONNET))
    path.cubicTo(
        QPointF(0.16 * width, height * (1.0 - 1.05 * BONNET)),
        QPointF(0.24 * width, height * (1.0 - 0.75 * BONNET)),
        QPointF(0.32 * width, height * (1.0 - 0.62 * BONNET)),
    )
    path.cubicTo(
        QPointF(0.42 * width, height * (1.0 - 0.80 * BONNET)),
        QPointF(0.58 * width, height * (1.0 - 0.80 * BONNET)),
        QPointF(0.68 * width, height * (1.0 - 0.62 * BONNET)),
    )
    path.cubicTo(
        QPointF(0.76 * width, height * (1.0 - 0.75 * BONNET)),
        QPointF(0.84 * width, height * (1.0 - 1.05 * BONNET)),
        QPointF(width, height * (1.0 - 0.55 * BONNET)),
    )
    path.lineTo(width, height)
    path.closeSubpath()
    return path


def _bars(width: float, height: float) -> QPainterPath:
    """The screen of a motorcycle, its bars to both sides."""
    path = QPainterPath(QPointF(0.38 * width, height))
    path.cubicTo(
        QPointF(0.41 * width, height * (1.0 - 1.2 * BARS)),
        QPointF(0.59 * width, height * (1.0 - 1.2 * BARS)),
        QPointF(0.62 * width, height),
    )
    path.closeSubpath()
    return path
