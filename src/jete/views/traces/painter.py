"""Paints trace panels into a pixmap: grid, loss and gain between the speeds, curves, flags.

Points of the visible range are drawn as they are up to two a pixel column; beyond
that the least and greatest of each column.  Pens stay at one pixel, Qt's fast path.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from math import ceil, floor
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF

from jete.app.theme import SMALL_PX, Theme, font, scale
from jete.report.units import plain
from jete.views.canvas import polygon, stroke, ticks
from jete.views.traces.curves import Line, Panel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]

FLAGS_BELOW_M_PER_PX = 2.5
PER_COLUMN = 2
# Left of the axis stand the titles, and at it the numbers, so wide.
NUMBERS_PX = 36
BESIDE_AXIS = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
AT_EDGE = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
# Where a scale has one round value alone, so many finer ones are tried.
MORE_NUMBERS = 5
# Two numbers nearer than this touch each other.
NEAREST_PX = 16.0
ON_LINE_PX = 0.1
ROUNDS = 3


class Room(NamedTuple):
    """Pixels around and between the panels: they grow with the text."""

    left: int
    right: int
    axis: int
    head: int
    numbers: int
    line: int


def room() -> Room:
    """The room at the present size of text."""
    return _room_at(scale())


@lru_cache(maxsize=4)
def _room_at(larger: float) -> Room:
    return Room(*(round(px * larger) for px in (94, 84, 22, 15, 16, 17)))


@dataclass(frozen=True)
class Frame:
    """Where the panels lie: the plot's rectangle, and the visible range of the axis in metres."""

    left: float
    right: float
    start_m: float
    end_m: float

    def x(self, place_m: float) -> float:
        """Pixel column of a place."""
        return self.left + (place_m - self.start_m) / max(self.end_m - self.start_m, 1e-9) * (self.right - self.left)

    def place(self, x: float) -> float:
        """Place at a pixel column."""
        return self.start_m + (x - self.left) / max(self.right - self.left, 1.0) * (self.end_m - self.start_m)

    @property
    def metres_per_px(self) -> float:
        """Scale of the axis."""
        return (self.end_m - self.start_m) / max(self.right - self.left, 1.0)


@dataclass(frozen=True)
class Strip:
    """One panel's top and bottom in pixels, and the values they stand for."""

    panel: Panel
    top: float
    bottom: float
    low: float
    high: float

    def y(self, value: float) -> float:
        """Pixel row of a value."""
        return self.bottom - (value - self.low) / max(self.high - self.low, 1e-9) * (self.bottom - self.top)

    def value(self, y: float) -> float:
        """The value at a pixel row."""
        return self.low + (self.bottom - y) / max(self.bottom - self.top, 1.0) * (self.high - self.low)


def paint(painter: QPainter, theme: Theme, frame: Frame, strips: list[Strip]) -> None:
    """Paint all panels without the place line."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for strip in strips:
        _grid(painter, theme, frame, strip)
        if strip.panel.name == "gap":
            _gap(painter, theme, frame, strip)
        else:
            _panel(painter, theme, frame, strip)


def _grid(painter: QPainter, theme: Theme, frame: Frame, strip: Strip) -> None:
    """Rules at round values with their numbers at the axis, and the panel's title left of them."""
    panel = strip.panel
    painter.setFont(font(SMALL_PX))
    free = strip.bottom + NEAREST_PX * scale()
    for value, text in () if panel.empty else numbers_of(strip):
        y = strip.y(value)
        if free - y < NEAREST_PX * scale():
            continue
        free = y
        rule(painter, theme.color("faint" if value else "rule"), QPointF(frame.left, y), QPointF(frame.right, y))
        painter.setPen(theme.color("muted"))
        box = QRectF(0, y - 9 * scale(), frame.left - 7, 18 * scale())
        painter.drawText(box, BESIDE_AXIS, text)
    _title(painter, theme, frame, strip)
    rule(painter, theme.color("rule"), QPointF(frame.left, strip.bottom), QPointF(frame.right, strip.bottom))


def numbers_of(strip: Strip) -> list[tuple[float, str]]:
    """The values that rules stand for, with their text: where a pedal is off and full, whole gears, else round ones, two at least."""
    height = strip.bottom - strip.top
    most = max(2, int(height / (26 * scale())))
    if strip.panel.name == "throttle":
        return [(v, plain(v, 0)) for v in ((0.0, 50.0, 100.0) if most > 2 else (0.0, 100.0))]
    if strip.panel.name == "gear":
        low, high = ceil(strip.low), floor(strip.high)
        step = max(1, ceil((high - low) / most))
        return [(float(v), str(v)) for v in range(low, high + 1, step)]
    tries = (ticks(strip.low, strip.high, k) for k in range(most, most + MORE_NUMBERS))
    found = next((values for values in tries if len(values) > 1), [strip.low, strip.high])
    digits = max(2 if strip.panel.name == "gap" else 0, _digits(found))
    return [(v, plain(v, digits)) for v in found]


def _digits(values: list[float]) -> int:
    """Decimals that tell neighbours apart."""
    step = min((b - a for a, b in pairwise(values)), default=1.0)
    return 0 if step >= 1.0 else 1 if step >= 0.1 else 2


def _title(painter: QPainter, theme: Theme, frame: Frame, strip: Strip) -> None:
    """What the panel shows, and in which unit, at the left edge: never on the curves."""
    painter.setPen(theme.color("muted"))
    painter.setFont(font(SMALL_PX))
    metrics, wide = painter.fontMetrics(), frame.left - NUMBERS_PX * scale()
    title, unit = strip.panel.title_and_unit
    words = [*_wrapped(title, wide, metrics), *([unit] if unit else [])]
    if metrics.lineSpacing() * len(words) > strip.bottom - strip.top + 6.0 * scale():
        words = [f"{title} {unit}"]
    for k, text in enumerate(words):
        box = QRectF(4, strip.top - 5 * scale() + k * metrics.lineSpacing(), wide - 4, metrics.lineSpacing())
        painter.drawText(box, AT_EDGE, metrics.elidedText(text, Qt.TextElideMode.ElideRight, round(wide - 4)))


def _wrapped(text: str, wide: float, metrics: QFontMetrics) -> list[str]:
    """A text in lines, broken between words."""
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and metrics.horizontalAdvance(longer) <= wide - 4:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def rule(painter: QPainter, color: QColor, start: QPointF, end: QPointF) -> None:
    """A level or upright line of one pixel, filled: a stroke costs ten times as much."""
    width, height = end.x() - start.x(), end.y() - start.y()
    painter.fillRect(QRectF(round(start.x()), round(start.y()), max(round(width), 1), max(round(height), 1)), color)


def _area(painter: QPainter, color: QColor, x: FloatArray, top: FloatArray, bottom: FloatArray) -> None:
    """Fill between two curves over the same columns; smooth edges are left to the curves on it."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, on=False)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    painter.drawPolygon(polygon(np.concatenate([x, x[::-1]]), np.concatenate([top, bottom[::-1]])))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)


def _gap(painter: QPainter, theme: Theme, frame: Frame, strip: Strip) -> None:
    """The running gap, filled towards zero by loss (above) and gain (below)."""
    line = strip.panel.lap
    if line is None:
        return
    x, y = _points(line, frame, strip)
    zero = np.full_like(y, strip.y(0.0))
    _area(painter, theme.color("loss", 70), x, np.minimum(y, zero), zero)
    _area(painter, theme.color("gain", 70), x, np.maximum(y, zero), zero)
    _over(painter, theme, frame, strip)
    _curve(painter, theme.color("lap"), x, y)


def _over(painter: QPainter, theme: Theme, frame: Frame, strip: Strip) -> None:
    """Further laps, each as one thin line under the two that are compared."""
    for number, line in enumerate(strip.panel.over):
        painter.setPen(QPen(theme.over_color(number), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(polygon(*straightened(*_points(line, frame, strip))))


def _panel(painter: QPainter, theme: Theme, frame: Frame, strip: Strip) -> None:
    """Both laps, with loss and gain between the speeds, and their marks."""
    panel = strip.panel
    if panel.name == "speed" and panel.reference and panel.lap:
        _between(painter, theme, frame, strip)
    _over(painter, theme, frame, strip)
    for line, role in ((panel.reference, "reference"), (panel.lap, "lap")):
        if line is not None:
            _curve(painter, theme.color(role), *_points(line, frame, strip))
    if frame.metres_per_px > FLAGS_BELOW_M_PER_PX:
        return
    for flags, role, up in ((panel.flags, "reference", True), (panel.lap_flags, "lap", False)):
        _flags(painter, theme.color(role), frame, strip, flags, up=up)


def _points(line: Line, frame: Frame, strip: Strip) -> tuple[FloatArray, FloatArray]:
    """The visible points of a line in pixels, x and y (n,)."""
    shown = _visible(line, frame)
    block = (shown.stop - shown.start) // int(frame.right - frame.left)
    if block > PER_COLUMN:
        line = _thinned(line, block)
        shown = _visible(line, frame)
    x, y = line.x[shown], line.y[shown]
    px = frame.left + (x - frame.start_m) / frame.metres_per_px
    py = strip.bottom - (y - strip.low) / max(strip.high - strip.low, 1e-9) * (strip.bottom - strip.top)
    return np.clip(px, frame.left, frame.right), np.clip(py, strip.top, strip.bottom)


def _visible(line: Line, frame: Frame) -> slice:
    """The samples of a line that lie in the frame, with one to either side."""
    lo, hi = np.searchsorted(line.x, (frame.start_m, frame.end_m))
    return slice(max(int(lo) - 1, 0), min(int(hi) + 1, len(line.x)))


def thin(x: FloatArray, y: FloatArray, block: int) -> tuple[FloatArray, FloatArray]:
    """The least and the greatest value of each block of samples, (2 ceil(n / block),), in the order it runs through them.

    Blocks count from the line's first sample, so that a line keeps its shape while it is moved.
    """
    first = np.arange(0, len(x), block)
    last = np.append(first[1:], len(x)) - 1
    low, high = np.minimum.reduceat(y, first), np.maximum.reduceat(y, first)
    rises = y[last] >= y[first]
    out_x, out_y = np.empty(2 * len(first)), np.empty(2 * len(first))
    out_x[::2], out_x[1::2] = x[first], x[last]
    out_y[::2], out_y[1::2] = np.where(rises, low, high), np.where(rises, high, low)
    return out_x, out_y


@lru_cache(maxsize=64)
def _thinned(line: Line, block: int) -> Line:
    """A line's least and greatest values by block: made once for as long as the scale stays."""
    return Line(*thin(line.x, line.y, block))


def straightened(x: FloatArray, y: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Leave out points that lie on the line between their neighbours: a segment costs the same however short.

    Every second point goes where it is within ``ON_LINE_PX`` of the chord, a few times over;
    what is left out shifts the line by less than ``ROUNDS`` times that.
    """
    for _ in range(ROUNDS):
        if len(x) < 5:
            break
        left, mid, right = slice(0, -2, 2), slice(1, -1, 2), slice(2, None, 2)
        share = (x[mid] - x[left]) / np.maximum(x[right] - x[left], 1e-9)
        keep = np.ones(len(x), dtype=bool)
        keep[mid] = np.abs(y[mid] - y[left] - share * (y[right] - y[left])) > ON_LINE_PX
        x, y = x[keep], y[keep]
    return x, y


def _curve(painter: QPainter, color: QColor, x: FloatArray, y: FloatArray) -> None:
    """A line of as few points as it takes."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    stroke(painter, color, polygon(*straightened(x, y)))


def _between(painter: QPainter, theme: Theme, frame: Frame, strip: Strip) -> None:
    """Shade between the speeds: orange where the lap is slower, blue where it is faster."""
    panel = strip.panel
    if panel.reference is None or panel.lap is None:
        return
    columns = np.arange(frame.left, frame.right + 1.0, 2.0)
    places = frame.start_m + (columns - frame.left) * frame.metres_per_px
    per_unit = (strip.bottom - strip.top) / max(strip.high - strip.low, 1e-9)
    ours, theirs = (
        strip.bottom - (np.interp(places, line.x, line.y) - strip.low) * per_unit
        for line in (panel.reference, panel.lap)
    )
    _area(painter, theme.color("loss", 80), columns, ours, np.maximum(ours, theirs))
    _area(painter, theme.color("gain", 80), columns, ours, np.minimum(ours, theirs))


def _flags(
    painter: QPainter, color: QColor, frame: Frame, strip: Strip, flags: tuple[tuple[float, float], ...], *, up: bool
) -> None:
    """Marks as small pennants on a stem: the reference's above its curve, the lap's below."""
    painter.setPen(QPen(color, 1))
    painter.setBrush(color)
    for place, value in flags:
        if not frame.start_m <= place <= frame.end_m:
            continue
        x, y = frame.x(place), strip.y(value)
        tip = max(y - 15.0, strip.top + 1.0) if up else min(y + 15.0, strip.bottom - 1.0)
        down = 6.0 if up else -6.0
        painter.drawLine(QPointF(x, y), QPointF(x, tip))
        painter.drawPolygon(QPolygonF([QPointF(x, tip), QPointF(x + 7.0, tip + down / 2), QPointF(x, tip + down)]))
