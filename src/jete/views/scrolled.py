"""A widget that scrolls up and down where it is higher than its place."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QWidget


def scrolled(inside: QWidget) -> QScrollArea:
    """A widget as wide as its place, without a frame, that is scrolled to where it has no room."""
    scroll = QScrollArea()
    scroll.setWidget(inside)
    scroll.setWidgetResizable(True)
    scroll.setFrameShape(QScrollArea.Shape.NoFrame)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return scroll
