"""A pixmap to paint a widget into, at the screen's own resolution."""

from __future__ import annotations

from PyQt6.QtGui import QColor, QPixmap
from PyQt6.QtWidgets import QWidget


def blank(widget: QWidget, color: QColor) -> QPixmap:
    """A pixmap of the widget's size, filled."""
    ratio = widget.devicePixelRatioF()
    pixmap = QPixmap(round(widget.width() * ratio), round(widget.height() * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(color)
    return pixmap
