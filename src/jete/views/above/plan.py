"""A corner on paper: the road, both lines to scale, marks, ends and landmarks, painted from metres."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from math import cos, hypot, sin
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jete.app.theme import SMALL_PX, Theme, font, scale
from jete.core.numeric.statistics import true_runs
from jete.views.canvas import polygon

if TYPE_CHECKING:
    from collections.abc import Iterable

    from jete.core.arrays import BoolArray, FloatArray
    from jete.core.causes.verdict.result import CornerLoss, LapComparison
    from jete.core.circuit.drawn import Drawn
    from jete.report.units import Units

# So much time lost in a metre makes the full tint, seconds.
FULL_TINT = 0.004
CUTS = 40
# Which marks stand on the lines, by the letter of their name.
SHOWN = {"brake_on_m": "b", "turn_in_m": "t", "slow_point_m": "s", "throttle_on_m": "p"}
# How far from the road's edge a mark's letter stands, the nearest that is free of these; half the room that it takes.
LETTERS_PX, LETTER_PX = (12.0, 27.0, 42.0, 57.0), 7.5
# Drawn wider by no more than this the road is to scale for the eye.
TO_SCALE = 1.05
# Of the road so much beyond the picture is looked at for what lies on it.
SEEN_PX = 80.0
# A landmark's name stands beside it, or so much under or over that.
DOWNS_PX = (0.0, 13.0, -13.0, 26.0, -26.0)
# A bar is so long.
BAR_PX = 11.0
# The bar where a corner begins or ends reaches so far beyond the road's edges; half of it where there are none.
BEYOND_M, END_M = 3.0, 9.0


@dataclass(frozen=True)
class View:
    """From metres to pixels: turned, scaled, moved."""

    turn_rad: float
    px_per_m: float
    middle: tuple[float, float]
    at: tuple[float, float]

    def px(self, x: FloatArray, y: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Pixels of points, (n,) both."""
        dx, dy = x - self.middle[0], y - self.middle[1]
        c, s = cos(self.turn_rad), sin(self.turn_rad)
        return self.at[0] + self.px_per_m * (c * dx - s * dy), self.at[1] - self.px_per_m * (s * dx + c * dy)

    def metres(self, px: float, py: float) -> tuple[float, float]:
        """The point under a pixel."""
        u, v = (px - self.at[0]) / self.px_per_m, -(py - self.at[1]) / self.px_per_m
        c, s = cos(self.turn_rad), sin(self.turn_rad)
        return self.middle[0] + c * u + s * v, self.middle[1] - s * u + c * v

    def across(self, drawn: Drawn, place: float) -> tuple[QPointF, QPointF]:
        """Both ends of a bar across the road, the knob to the right."""
        (x0, y0), (x1, y1) = drawn.point(place - 1.0), drawn.point(place + 1.0)
        long = max(hypot(x1 - x0, y1 - y0), 1e-6)
        nx, ny = -(y1 - y0) / long, (x1 - x0) / long
        if drawn.edges_m is None:
            middle = (0.5 * (x0 + x1), 0.5 * (y0 + y1))
            ends, out = (middle, middle), END_M
        else:
            ends, out = (drawn.point(place, drawn.edges_m[0]), drawn.point(place, drawn.edges_m[1])), BEYOND_M
        (ax, ay), (bx, by) = ends
        px, py = self.px(np.array([ax + out * nx, bx - out * nx]), np.array([ay + out * ny, by - out * ny]))
        return QPointF(float(px[0]), float(py[0])), QPointF(float(px[1]), float(py[1]))


@dataclass(frozen=True, eq=False)
class Plan:
    """Paints one corner's plan, piece by piece; ``taken`` is where words stand already."""

    painter: QPainter
    theme: Theme
    view: View
    drawn: Drawn
    taken: list[QRectF] = field(default_factory=list)

    def road(self) -> None:
        """The road between its edges; those that only laps tell are dashed."""
        if self.drawn.edges_m is None:
            return
        left, right = (np.stack(self.view.px(*e.T), axis=1) for e in self.drawn.edges_m)
        half = 0.5 * float(np.max(np.hypot(*(left - right).T)))
        runs = zip(*true_runs(self._in_sight(0.5 * (left + right), half)), strict=True)
        pieces = [slice(max(a - 1, 0), b + 2) for a, b in runs]
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.theme.color("faint"))
        for part in pieces:
            self.painter.drawPolygon(polygon(*np.concatenate([left[part], right[part][::-1]]).T))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        style = Qt.PenStyle.SolidLine if self.drawn.told_edges else Qt.PenStyle.DashLine
        self.painter.setPen(QPen(self.theme.color("rule"), 1, style))
        for part in pieces:
            for edge in (left, right):
                self.painter.drawPolyline(polygon(*edge[part].T))

    def _in_sight(self, points: FloatArray, more_px: float = 0.0) -> BoolArray:
        """Which points (n, 2) lie in the picture, or near it: a whole circuit takes long to paint."""
        seen, around = self.painter.viewport(), SEEN_PX + more_px
        return np.asarray(
            np.all((points > -around) & (points < (seen.width() + around, seen.height() + around)), axis=1)
        )

    def lines(self, piece: tuple[float, float], lap: LapComparison | None) -> None:
        """The reference in ink, the lap over a band of time lost and gained."""
        inside = (self.drawn.place_m >= piece[0] - 80.0) & (self.drawn.place_m <= piece[1] + 80.0)
        line = self.drawn.laps_xy_m[0] if self.drawn.laps_xy_m else None
        band = self.drawn.reference_xy_m if line is None else line
        self._time(self.drawn.place_m[inside], band[inside], lap)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        for xy, role in ((self.drawn.reference_xy_m, "reference"), (line, "lap")):
            if xy is not None:
                self.painter.setPen(QPen(self.theme.color(role), 1.6))
                self.painter.drawPolyline(polygon(*self.view.px(*xy[inside].T)))

    def _time(self, place: FloatArray, xy: FloatArray, lap: LapComparison | None) -> None:
        if lap is None or len(place) < 3:
            return
        ends = np.linspace(place[0], place[-1], CUTS + 1)
        lost = np.diff(np.interp(ends, lap.trace_m, lap.trace_s)) / np.diff(ends)
        for start, end, rate in zip(ends[:-1], ends[1:], lost, strict=True):
            part = (place >= start - 2.1) & (place <= end + 2.1)
            strength = min(abs(rate) / FULL_TINT, 1.0)
            if strength < 0.08 or np.count_nonzero(part) < 2:
                continue
            color = self.theme.color("loss" if rate > 0.0 else "gain", round(150 * strength))
            self.painter.setPen(QPen(color, 7.0, cap=Qt.PenCapStyle.FlatCap))
            self.painter.drawPolyline(polygon(*self.view.px(*xy[part].T)))

    def marks(self, loss: CornerLoss) -> None:
        """Marks as short bars across each line with a letter: b brake, t turn-in, s slowest, p pick-up."""
        lines = (self.drawn.reference_xy_m, self.drawn.laps_xy_m[0] if self.drawn.laps_xy_m else None)
        self.painter.setFont(font(SMALL_PX, bold=True))
        for line, marks, role, side in zip(
            lines, (loss.reference_marks, loss.lap_marks), ("reference", "lap"), (1.0, -1.0), strict=True
        ):
            if line is None:
                continue
            for name, letter in SHOWN.items():
                place = getattr(marks, name)
                if place is not None:
                    self._bar(line, (place, letter, role, side))

    def _bar(self, line: FloatArray, mark: tuple[float, str, str, float]) -> None:
        place, letter, role, side = mark
        a, b = self.drawn.point(place - 1.0, line), self.drawn.point(place + 1.0, line)
        (x0, x1), (y0, y1) = self.view.px(np.array([a[0], b[0]]), np.array([a[1], b[1]]))
        long = max(hypot(x1 - x0, y1 - y0), 1e-6)
        nx, ny = -(y1 - y0) / long * side, (x1 - x0) / long * side
        x, y = 0.5 * (x0 + x1), 0.5 * (y0 + y1)
        # Beyond the edge on the line's own side, where there is room; else beyond the other.
        own, other = self._to_edges(place, (x, y), (nx, ny))
        steps, half = [far * scale() for far in LETTERS_PX], LETTER_PX * scale()
        fars = (*(own + far for far in steps), *(-other - far for far in steps))
        boxes = [QRectF(x - far * nx - half, y - far * ny - half, 2.0 * half, 2.0 * half) for far in fars]
        k = next((k for k, box in enumerate(boxes) if self._free(box)), None)
        self.painter.setPen(QPen(self.theme.color(role), 1.6))
        way = 1.0 if k is None or fars[k] > 0.0 else -1.0
        near = way * BAR_PX
        self.painter.drawLine(QPointF(x, y), QPointF(x - near * nx, y - near * ny))
        if k is None:
            # Where many marks lie together the bar stands alone: a letter on a letter says nothing.
            return
        self.taken.append(boxes[k])
        # A letter stands beyond the road, and is tied to its bar.
        far = fars[k] - way * half
        self.painter.setPen(QPen(self.theme.color(role), 0.8, Qt.PenStyle.DotLine))
        self.painter.drawLine(QPointF(x - near * nx, y - near * ny), QPointF(x - far * nx, y - far * ny))
        self.painter.setPen(QPen(self.theme.color(role), 1.6))
        self.painter.drawText(boxes[k].adjusted(-1, -1, 1, 1), Qt.AlignmentFlag.AlignCenter, letter)

    def _to_edges(self, place: float, at: tuple[float, float], normal: tuple[float, float]) -> tuple[float, float]:
        """How far the road's edges lie from a point of it, pixels: against a direction, and along it."""
        if self.drawn.edges_m is None:
            return 8.0, 8.0
        points = np.array([self.drawn.point(place, edge) for edge in self.drawn.edges_m])
        px, py = self.view.px(points[:, 0], points[:, 1])
        along = (px - at[0]) * normal[0] + (py - at[1]) * normal[1]
        return max(-float(along.min()), 0.0), max(float(along.max()), 0.0)

    def _on_road(self, box: QRectF) -> int:
        """How many of a box's corners, its middle among them, lie on the road: nearer to its middle than the edges are."""
        if self.drawn.edges_m is None:
            return 0
        middle, half = self._middle_px
        corners = (box.topLeft(), box.topRight(), box.bottomLeft(), box.bottomRight(), box.center())
        points = np.array([(c.x(), c.y()) for c in corners])
        away = np.hypot(*(middle[:, None, :] - points[None, :, :]).transpose(2, 0, 1))
        nearest = away.argmin(axis=0)
        return int(np.count_nonzero(away[nearest, np.arange(len(points))] < half[nearest]))

    @cached_property
    def _middle_px(self) -> tuple[FloatArray, FloatArray]:
        """The road's middle as far as it is seen, (n, 2) pixels, and half its width there, (n,)."""
        assert self.drawn.edges_m is not None
        left, right = (np.stack(self.view.px(*e.T), axis=1) for e in self.drawn.edges_m)
        middle = 0.5 * (left + right)
        inside = self._in_sight(middle)
        inside[0] = True
        return middle[inside], 0.5 * np.hypot(*(left - right)[inside].T)

    def _free(self, box: QRectF) -> bool:
        """Whether nothing stands there, and all of it is seen."""
        inside = QRectF(self.painter.viewport()).contains(box.adjusted(-2, -2, 2, 2))
        return inside and not any(box.intersects(taken) for taken in self.taken)

    def ends(self, places: Iterable[float]) -> None:
        """The corner's ends as dotted bars across the road, with a knob to take hold of."""
        for place in places:
            a, b = self.view.across(self.drawn, place)
            self.painter.setPen(QPen(self.theme.color("muted"), 1, Qt.PenStyle.DotLine))
            self.painter.drawLine(a, b)
            self.painter.setPen(QPen(self.theme.color("muted"), 1))
            self.painter.setBrush(self.theme.color("raised"))
            self.painter.drawEllipse(b, 3.5, 3.5)
            self.taken.append(QRectF(b.x() - 4, b.y() - 4, 8, 8))

    def squares(self, spots: Iterable[QPointF]) -> None:
        """Landmarks as small open squares."""
        for spot in spots:
            square = QRectF(spot.x() - 3, spot.y() - 3, 6, 6)
            self.painter.setPen(QPen(self.theme.color("ink"), 1))
            self.painter.setBrush(self.theme.color("raised"))
            self.painter.drawRect(square)
            self.taken.append(square)

    def landmarks(self, spots: Iterable[tuple[QPointF, str]], width_px: int) -> None:
        """The names of landmarks beside them, where they cover nothing."""
        self.painter.setFont(font(SMALL_PX))
        for spot, words in spots:
            width = self.painter.fontMetrics().horizontalAdvance(words) + 4
            lefts = (spot.x() + 6, spot.x() - 8 - width, spot.x() + 24, spot.x() - 26 - width)
            high = 16.0 * scale()
            boxes = [
                QRectF(left, spot.y() - 0.5 * high + down * scale(), width, high) for down in DOWNS_PX for left in lefts
            ]
            free = [b for b in boxes if b.left() >= 0.0 and b.right() < width_px and self._free(b)]
            # Beside the road, where there is room.
            box = next((b for b in free if not self._on_road(b)), free[0] if free else None)
            if box is not None:
                self.taken.append(box)
                self.painter.setPen(self.theme.color("muted"))
                self.painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def place(self, place: float) -> None:
        """Where one looks, as a ring on each line."""
        for line, role in (
            (self.drawn.reference_xy_m, "reference"),
            (self.drawn.laps_xy_m[0] if self.drawn.laps_xy_m else None, "lap"),
        ):
            if line is not None:
                x, y = self.view.px(*(np.array([v]) for v in self.drawn.point(place, line)))
                self.painter.setPen(QPen(self.theme.color(role), 1.5))
                self.painter.setBrush(self.theme.color("ground"))
                self.painter.drawEllipse(QPointF(float(x[0]), float(y[0])), 4.5, 4.5)

    def scale(self, height_px: int, units: Units, wider: float) -> None:
        """A bar of ten or fifty metres, how much wider than long the road is drawn, and where north is."""
        self.painter.setFont(font(SMALL_PX))
        metres = next((m for m in (10.0, 20.0, 50.0, 100.0) if m * self.view.px_per_m > 36.0), 200.0)
        left, y = 8.0, height_px - 8.0
        self.painter.setPen(QPen(self.theme.color("muted"), 1))
        self.painter.drawLine(QPointF(left, y), QPointF(left + metres * self.view.px_per_m, y))
        text = f"{units.length_text(metres)}{f' along, across × {wider:.1f}' if wider > TO_SCALE else ''}"
        high = 17.0 * scale()
        box = QRectF(left, y - high - 2, self.painter.fontMetrics().horizontalAdvance(text) + 4.0, high)
        self.painter.drawText(box, Qt.AlignmentFlag.AlignLeft, text)
        self.taken.append(box)
        tip = QPointF(18.0 - 11.0 * sin(self.view.turn_rad), 22.0 - 11.0 * cos(self.view.turn_rad))
        self.painter.drawLine(QPointF(18.0, 22.0), tip)
        self.painter.setBrush(self.theme.color("muted"))
        turned = self.view.turn_rad
        head = [QPointF(tip.x() + 5 * sin(turned + a), tip.y() + 5 * cos(turned + a)) for a in (0.45, -0.45)]
        self.painter.drawPolygon(QPolygonF([tip, *head]))
        self.painter.drawText(QRectF(26, 8, 16, 16), Qt.AlignmentFlag.AlignCenter, "N")
