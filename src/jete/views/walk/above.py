"""The walk from above: the road with both vehicles to scale, turned with the travel, the last seconds as a trail."""

from __future__ import annotations

from math import atan2, cos, pi, sin
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font
from jete.core.circuit.drawn import widened
from jete.report.seat import landmark_short
from jete.views.canvas import polygon
from jete.views.walk.scene import Scene, Vehicle, scene_of

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent, QWheelEvent

    from jete.app.player import Player
    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.circuit.drawn import Drawn
    from jete.core.walk.course import Who

LENGTH_M, WIDTH_M = 4.2, 1.8
TRAIL_S, TRAIL_CUTS = 4.0, 16
AHEAD_SHARE = 0.72
FULL_TINT = 0.004
# A landmark stands so far beside the road's edge.
ASIDE_M = 3.0
# What lies beside the road's middle is drawn so many times as far out, at the most.
WIDER, TO_SCALE = 2.5, 1.05
# A bar on each line every so many seconds, half of it so long.
TICK_S, TICK_PX = 0.5, 4.0


class WalkAbove(QWidget):
    """The vehicle stays where it is, the road comes."""

    def __init__(self, store: SessionStore, player: Player) -> None:
        super().__init__()
        self._store, self._player = store, player
        self.in_time = True
        self._wide: tuple[Drawn, Drawn, float] | None = None
        self._shown_m = 120.0
        self.setObjectName("walk-above")
        self.setAccessibleName("The walk from above")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip("Wheel: closer or wider.")
        player.moved.connect(self.update)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Room for a bend."""
        return QSize(480, 360)

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """Closer or wider."""
        if event is not None and event.angleDelta().y():
            self._shown_m = min(max(self._shown_m * (0.8 if event.angleDelta().y() > 0 else 1.25), 30.0), 900.0)
            self.update()
            event.accept()

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Road, lines, trail, landmarks, vehicles."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        scene = scene_of(self._store, self._player, in_time=self.in_time, drawn=self._wide_lines())
        if scene is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view = _View.of(scene, self.width(), self.height(), self._shown_m)
        near = slice(*view.near(scene))
        self._paint_road(painter, theme, view, scene, near)
        self._paint_trail(painter, theme, view, scene)
        lines: dict[Who, FloatArray | None] = {
            "reference": scene.drawn.reference_xy_m,
            "lap": scene.drawn.laps_xy_m[0] if scene.drawn.laps_xy_m else None,
        }
        for who, line in lines.items():
            if line is not None:
                painter.setPen(QPen(theme.color(who, 190), 1))
                painter.drawPolyline(polygon(*view.px(line[near])))
                self._paint_seconds(painter, theme, view, (scene, near, line), who)
        self._paint_landmarks(painter, theme, view, scene)
        for vehicle in (scene.other, scene.played):
            _paint_vehicle(painter, theme, view, vehicle, scene, filled=vehicle is scene.played)
        self._paint_key(painter, theme)

    def _wide_lines(self) -> Drawn | None:
        """The lines drawn apart, by as much in all corners."""
        road = self._store.road
        if road is None:
            return None
        if self._wide is None or self._wide[0] is not road.drawn:
            self._wide = road.drawn, *widened(road.drawn, WIDER, 0.0, float(road.drawn.place_m[-1]))
        return self._wide[1]

    def _paint_seconds(
        self, painter: QPainter, theme: Theme, view: _View, of: tuple[Scene, slice, FloatArray], who: Who
    ) -> None:
        """A short bar across a line for each half second: far apart where it is fast."""
        scene, near, line = of
        passage, places = scene.course.passage(who), scene.drawn.place_m
        ends = (passage.time_of(float(places[near][0])), passage.time_of(float(places[near][-1])))
        times = np.arange(np.ceil(ends[0] / TICK_S), np.floor(ends[1] / TICK_S) + 1.0) * TICK_S
        at = passage.place_at(times)
        (x0, y0), (x1, y1) = (
            view.px(np.stack([np.interp(at + d, places, line[:, k]) for k in (0, 1)], axis=1)) for d in (-1.0, 1.0)
        )
        long = np.maximum(np.hypot(x1 - x0, y1 - y0), 1e-6)
        nx, ny, x, y = (y1 - y0) / long, -(x1 - x0) / long, 0.5 * (x0 + x1), 0.5 * (y0 + y1)
        painter.setPen(QPen(theme.color(who, 190), 1))
        dx, dy = TICK_PX * nx, TICK_PX * ny
        bars = np.stack([x - dx, y - dy, x + dx, y + dy], axis=1)
        painter.drawLines([QLineF(*bar) for bar in bars.tolist()])  # type: ignore[call-overload]

    def _paint_key(self, painter: QPainter, theme: Theme) -> None:
        """What the bars on the lines are, and that the road is drawn wider than it is."""
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        wider = self._wide[2] if self._wide is not None else 1.0
        told = f"a bar each {TICK_S:g} s{f' · across × {wider:.1f}' if wider > TO_SCALE else ''}"
        painter.drawText(
            self.rect().adjusted(6, 0, 0, -4), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, told
        )

    def _paint_road(self, painter: QPainter, theme: Theme, view: _View, scene: Scene, near: slice) -> None:
        if scene.drawn.edges_m is None:
            return
        left, right = (view.px(e[near]) for e in scene.drawn.edges_m)
        painter.setPen(QPen(theme.color("rule"), 1))
        painter.setBrush(theme.color("faint"))
        painter.drawPolygon(
            polygon(np.concatenate([left[0], right[0][::-1]]), np.concatenate([left[1], right[1][::-1]]))
        )

    def _paint_trail(self, painter: QPainter, theme: Theme, view: _View, scene: Scene) -> None:
        """The last seconds, orange where the lap lost time and blue where it gained."""
        comparison = self._store.comparison
        if comparison is None:
            return
        passage, lap = scene.course.passage(scene.played.who), comparison.laps[0]
        now = scene.course.time_s(scene.played.who, scene.played.place_m)
        ends = passage.place_at(np.maximum(now - TRAIL_S * np.linspace(1.0, 0.0, TRAIL_CUTS + 1), 0.0))
        rates = np.diff(np.interp(ends, lap.trace_m, lap.trace_s)) / np.maximum(np.diff(ends), 1e-6)
        line, places = scene.played.line, scene.drawn.place_m
        x, y = view.px(np.stack([np.interp(ends, places, line[:, k]) for k in (0, 1)], axis=1))
        for k, rate in enumerate(rates.tolist()):
            role = "unexplained" if abs(rate) < 0.1 * FULL_TINT else "loss" if rate > 0.0 else "gain"
            painter.setPen(QPen(theme.color(role, 40 + round(140 * k / TRAIL_CUTS)), 7.0, cap=Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(x[k], y[k]), QPointF(x[k + 1], y[k + 1]))

    def _paint_landmarks(self, painter: QPainter, theme: Theme, view: _View, scene: Scene) -> None:
        road = self._store.road
        if road is None or road.circuit is None:
            return
        painter.setFont(font(SMALL_PX))
        reach = view.reach_m()
        for mark in (m for m in road.circuit.book.landmarks if abs(m.circuit_m - scene.played.place_m) < reach):
            spot = np.array([scene.drawn.beside(mark.circuit_m, mark.side, ASIDE_M)])
            x, y = view.px(spot)
            if 0.0 < x[0] < self.width() and SMALL_PX < y[0] < self.height() - 4.0:
                painter.setPen(QPen(theme.color("ink"), 1))
                painter.setBrush(theme.color("raised"))
                painter.drawRect(round(x[0]) - 3, round(y[0]) - 3, 6, 6)
                painter.setPen(theme.color("muted"))
                # Away from the road.
                words = landmark_short(mark)
                back = painter.fontMetrics().horizontalAdvance(words) + 7.0 if mark.side == "left" else -7.0
                painter.drawText(QPointF(x[0] - back, y[0] + 4), words)


class _View:
    """From metres to pixels: the played vehicle low in the middle, its way upwards."""

    def __init__(self, at: tuple[float, float], heading: float, scale: tuple[float, float, float]) -> None:
        self._at, self._turn = at, 0.5 * pi - heading
        self.px_per_m, self._x, self._y = scale

    @classmethod
    def of(cls, scene: Scene, width: int, height: int, shown_m: float) -> _View:
        place, line = scene.played.place_m, scene.played.line
        (x0, y0), (x1, y1) = (scene.drawn.point(place + d, line) for d in (-8.0, 8.0))
        return cls(
            scene.drawn.point(place, line),
            atan2(y1 - y0, x1 - x0),
            (height / shown_m, 0.5 * width, AHEAD_SHARE * height),
        )

    def px(self, xy: FloatArray) -> tuple[FloatArray, FloatArray]:
        dx, dy = xy[:, 0] - self._at[0], xy[:, 1] - self._at[1]
        c, s = cos(self._turn), sin(self._turn)
        return self._x + self.px_per_m * (c * dx - s * dy), self._y - self.px_per_m * (s * dx + c * dy)

    def reach_m(self) -> float:
        """How far along the road something may be and still be in the picture."""
        return 1.6 * max(self._x, self._y) / self.px_per_m + 40.0

    def near(self, scene: Scene) -> tuple[int, int]:
        """Which places may be in the picture."""
        place = scene.drawn.place_m
        reach = self.reach_m()
        lo, hi = np.searchsorted(place, [scene.played.place_m - reach, scene.played.place_m + reach])
        return int(lo), int(hi)


def _paint_vehicle(
    painter: QPainter, theme: Theme, view: _View, vehicle: Vehicle, scene: Scene, *, filled: bool
) -> None:
    """A box to scale with a pointed front: the played one filled, the other an outline."""
    (x0, y0), (x1, y1) = (scene.drawn.point(vehicle.place_m + d, vehicle.line) for d in (-3.0, 3.0))
    x, y = scene.drawn.point(vehicle.place_m, vehicle.line)
    heading = atan2(y1 - y0, x1 - x0)
    half, side = 0.5 * LENGTH_M, 0.5 * WIDTH_M
    shape = np.array([[half, 0.0], [half - 0.8, side], [-half, side], [-half, -side], [half - 0.8, -side]])
    c, s = cos(heading), sin(heading)
    px, py = view.px(np.stack([x + c * shape[:, 0] - s * shape[:, 1], y + s * shape[:, 0] + c * shape[:, 1]], axis=1))
    painter.setPen(QPen(theme.color(vehicle.role), 1))
    painter.setBrush(theme.color(vehicle.role, 210) if filled else theme.color("ground", 160))
    painter.drawPolygon(QPolygonF([QPointF(a, b) for a, b in zip(px.tolist(), py.tolist(), strict=True)]))
