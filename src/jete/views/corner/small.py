"""Small panels: one quantity of both laps over seconds, metres or another quantity, with its figures beside it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPen

from jete.app.theme import SMALL_PX, font, scale
from jete.report.units import plain
from jete.views.canvas import kept_in, polygon, stroke, ticks

if TYPE_CHECKING:
    from PyQt6.QtGui import QPainter

    from jete.app.theme import Theme
    from jete.core.arrays import FloatArray

AXIS_PX, LEFT_PX = 16, 30
# The plot's part of the width; the words have the rest, where it may be less at least what the longest take on one line.
PLOT_SHARE, LEAST_PLOT_SHARE = 0.55, 0.4
WORDS_PX = 190
GAP_PX = 12


@dataclass(frozen=True, eq=False)
class SmallLine:
    """A line in the colour of a role; ``filled`` are pieces to shade towards zero, from and to on x."""

    x: FloatArray
    y: FloatArray
    role: str
    filled: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, eq=False)
class SmallPanel:
    """What one panel shows: title, lines, bounds, words beside it (the lap's, then the reference's)."""

    title: str
    lines: tuple[SmallLine, ...]
    x_bounds: tuple[float, float]
    y_bounds: tuple[float, float]
    figures: tuple[str, str] = ("", "")
    digits: int = 1
    square: bool = False
    outline: SmallLine | None = None


def paint_small(painter: QPainter, theme: Theme, box: QRectF, panel: SmallPanel) -> None:
    """Paint a panel into a box: the plot to the left, title and figures to the right of it."""
    wide = min(PLOT_SHARE * box.width(), box.width() - WORDS_PX * scale() - GAP_PX)
    wide = max(wide, LEAST_PLOT_SHARE * box.width())
    left = LEFT_PX * scale()
    plot = QRectF(box.left() + left, box.top() + 5, wide - left, max(box.height() - AXIS_PX * scale() - 6, 10.0))
    if panel.square:
        side = min(plot.width(), plot.height())
        plot = QRectF(plot.left() + 0.5 * (plot.width() - side), plot.top(), side, side)
    _paint_grid(painter, theme, plot, panel)
    painter.save()
    painter.setClipRect(plot.adjusted(-1, -1, 1, 1))
    if panel.outline is not None:
        painter.setPen(QPen(theme.color("muted"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(theme.color("faint"))
        painter.drawPolygon(polygon(*_px(plot, panel, panel.outline.x, panel.outline.y)))
    for line in panel.lines:
        _paint_line(painter, theme, plot, panel, line)
    painter.restore()
    beside = QRectF(box.left() + wide + GAP_PX, box.top() + 2, box.width() - wide - GAP_PX, box.height())
    _paint_words(painter, theme, beside, panel)


def _paint_words(painter: QPainter, theme: Theme, box: QRectF, panel: SmallPanel) -> None:
    """Title, then the lap's and the reference's figures, each on as many lines as it takes."""
    painter.setFont(font(SMALL_PX))
    flags = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)
    y = box.top()
    for text, role in ((panel.title, "muted"), (panel.figures[0], "lap"), (panel.figures[1], "reference")):
        if text:
            room = QRectF(box.left(), y, box.width(), max(box.bottom() - y, 1.0))
            painter.setPen(theme.color(role))
            y += painter.boundingRect(room, flags, text).height() + 1.0
            painter.drawText(room, flags, text)


def _paint_grid(painter: QPainter, theme: Theme, plot: QRectF, panel: SmallPanel) -> None:
    painter.setFont(font(SMALL_PX))
    for value in ticks(*panel.y_bounds, max(2, int(plot.height() / (24 * scale())))):
        y = float(_px(plot, panel, np.array([panel.x_bounds[0]]), np.array([value]))[1][0])
        painter.fillRect(QRectF(plot.left(), round(y), plot.width(), 1), theme.color("faint"))
        painter.setPen(theme.color("muted"))
        text = plain(value, _digits(panel.y_bounds))
        wide = painter.fontMetrics().horizontalAdvance(text)
        painter.drawText(
            QRectF(max(plot.left() - 4 - wide, 0.0), y - 8, wide + 2, 16),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            text,
        )
    for value in ticks(*panel.x_bounds, max(2, int(plot.width() / (44 * scale())))):
        x = float(_px(plot, panel, np.array([value]), np.array([panel.y_bounds[0]]))[0][0])
        painter.setPen(theme.color("muted"))
        text = plain(value, _digits(panel.x_bounds))
        left, room = kept_in(x, painter.fontMetrics().horizontalAdvance(text), plot.right() + 24.0)
        box = QRectF(left, plot.bottom() + 1, room, AXIS_PX * scale())
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
    painter.fillRect(QRectF(plot.left(), plot.bottom(), plot.width(), 1), theme.color("rule"))


def _digits(bounds: tuple[float, float]) -> int:
    span = bounds[1] - bounds[0]
    return 0 if span > 4.0 else 1


def _px(plot: QRectF, panel: SmallPanel, x: FloatArray, y: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Pixels of points, (n,) both."""
    (x0, x1), (y0, y1) = panel.x_bounds, panel.y_bounds
    px = plot.left() + (x - x0) / max(x1 - x0, 1e-9) * plot.width()
    py = plot.bottom() - (y - y0) / max(y1 - y0, 1e-9) * plot.height()
    return px, py


def _paint_line(painter: QPainter, theme: Theme, plot: QRectF, panel: SmallPanel, line: SmallLine) -> None:
    if len(line.x) < 2:
        return
    x, y = _px(plot, panel, line.x, line.y)
    zero = float(_px(plot, panel, np.zeros(1), np.zeros(1))[1][0])
    for start, end in line.filled:
        part = (line.x >= start) & (line.x <= end)
        if np.count_nonzero(part) > 1:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color(line.role, 70))
            around = x[part], y[part]
            sides = np.array([around[0][0]]), np.array([around[0][-1]])
            painter.drawPolygon(
                polygon(np.concatenate([sides[0], around[0], sides[1]]), np.concatenate([[zero], around[1], [zero]]))
            )
    painter.setBrush(Qt.BrushStyle.NoBrush)
    stroke(painter, theme.color(line.role), polygon(x, y))
