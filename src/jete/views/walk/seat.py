"""The walk from the seat, or from behind: the road ahead as ink on paper, with what can be seen beside it."""

from __future__ import annotations

from dataclasses import replace
from math import radians
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font
from jete.core.circuit.landmarks import LandmarkKind
from jete.core.walk.seat import Camera, RoadAhead, eye_on, road_ahead, strips_of
from jete.report.seat import landmark_short
from jete.views.canvas import polygon, stroke
from jete.views.walk.scene import Scene, scene_of

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent

    from jete.app.player import Player
    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.circuit.landmarks import Landmark

BEHIND_EYE_M, BEHIND_M = 3.2, 9.0
# Things stand so far beside the edge, and are so high.
BESIDE_M = 1.6
HEIGHTS = {
    LandmarkKind.BOARD: 1.6, LandmarkKind.CONE: 0.7, LandmarkKind.POST: 3.0, LandmarkKind.TREE: 6.0, LandmarkKind.BUILDING: 8.0,
    LandmarkKind.TYRES: 1.2, LandmarkKind.WALL: 1.2,
}  # fmt: skip
ON_ROAD = (LandmarkKind.PATCH, LandmarkKind.MARK, LandmarkKind.SURFACE)
OVER = (LandmarkKind.GANTRY, LandmarkKind.BRIDGE)
KERBS = (LandmarkKind.KERB_BEGINS, LandmarkKind.KERB_ENDS)
# A kerb is so wide, in blocks so long; a wall stands so far from the edge, so high.
KERB_WIDTH_M, BLOCK_M = 1.0, 2.0
WALL_ASIDE_M, WALL_HIGH_M = 2.5, 1.1
OVER_M = 5.5
# A vehicle nearer than this would be all that is seen.
CLOSE_M = 5.0
# Dashes of the middle: drawn and left out, metres.
DASH_M = 6.0


class WalkSeat(QWidget):
    """The road ahead of the played lap."""

    def __init__(self, store: SessionStore, player: Player) -> None:
        super().__init__()
        self._store, self._player = store, player
        self.in_time, self.behind, self.with_line = True, False, False
        self.setObjectName("walk-seat")
        self.setAccessibleName("The walk from the seat")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        player.moved.connect(self.update)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """A wide picture."""
        return QSize(560, 360)

    def camera(self, scene: Scene) -> Camera:
        """The eye of the driver, or one that follows the vehicle."""
        display = self._store.session.display
        above, behind = (BEHIND_EYE_M, BEHIND_M) if self.behind else (display.eye_m, 0.0)
        eye = eye_on(scene.drawn, scene.played.line, scene.played.place_m, above, behind)
        profile = self._height()
        if profile is not None:
            eye = replace(eye, z_m=above + float(np.interp(scene.played.place_m, *profile)))
        return Camera(replace(eye, view_rad=radians(display.view_deg)), float(self.width()), float(self.height()))

    @property
    def _reach_m(self) -> float:
        """How far the road is seen."""
        return self._store.session.display.ahead_m

    def _height(self) -> tuple[FloatArray, FloatArray] | None:
        road = self._store.road
        profile = road.profile if road is not None else None
        return (profile.place_m, profile.height_m) if profile is not None and profile.source == "altitude" else None

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Sky, ground, road, what stands beside it, the other vehicle."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        scene = scene_of(self._store, self._player, in_time=self.in_time)
        if scene is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        camera = self.camera(scene)
        painter.fillRect(self.rect(), theme.color("raised"))
        painter.fillRect(
            QRectF(0, camera.horizon_px, self.width(), self.height() - camera.horizon_px), theme.color("ground")
        )
        painter.setPen(QPen(theme.color("rule"), 1))
        painter.drawLine(QPointF(0, camera.horizon_px), QPointF(self.width(), camera.horizon_px))
        start = scene.played.place_m - (BEHIND_M + 4.0 if self.behind else 1.0)
        ahead = road_ahead(scene.drawn, start, self._reach_m, self._height())
        self._paint_road(painter, theme, camera, ahead)
        self._paint_strips(painter, theme, camera, scene, ahead)
        if self.with_line:
            self._paint_line(painter, theme, camera, scene, start)
        self._paint_things(painter, theme, camera, scene, ahead)
        self._paint_other(painter, theme, camera, scene)

    def _paint_road(self, painter: QPainter, theme: Theme, camera: Camera, ahead: RoadAhead) -> None:
        left, right = camera.seen(ahead.left_m), camera.seen(ahead.right_m)
        ok = np.isfinite(left[2]) & np.isfinite(right[2])
        edges = [(e[0][ok], e[1][ok]) for e in (left, right)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("selected"))
        painter.drawPolygon(polygon(*(np.concatenate([a, b[::-1]]) for a, b in zip(*edges, strict=True))))
        for edge in edges:
            stroke(painter, theme.color("ink"), polygon(*edge))
        x, y, far = camera.seen(ahead.middle_m)
        dashed = ((ahead.place_m[:-1] // DASH_M) % 2 == 0) & np.isfinite(far[:-1]) & np.isfinite(far[1:])
        painter.setPen(QPen(theme.color("rule"), 1))
        at = dashed.nonzero()[0]
        for ends in np.stack([x[at], y[at], x[at + 1], y[at + 1]], axis=1).tolist():
            painter.drawLine(QLineF(*ends))

    def _paint_strips(self, painter: QPainter, theme: Theme, camera: Camera, scene: Scene, ahead: RoadAhead) -> None:
        """Kerbs as blocks along the edge, walls beside it."""
        road, length = self._store.road, float(scene.drawn.place_m[-1])
        if road is None or road.circuit is None:
            return
        first = float(ahead.place_m[0])
        for strip in strips_of(road.circuit.book, length):
            starts = first + (strip.start_m - first) % length
            starts = starts - length if starts + 2.0 * self._reach_m > first + length else starts
            span = max(starts, first), min(starts + strip.end_m - strip.start_m, float(ahead.place_m[-1]))
            if span[1] > span[0] and strip.side in ("left", "right"):
                paint = self._paint_kerb if strip.kind == "kerb" else self._paint_wall
                paint(painter, theme, camera, _beside(ahead, strip.side, span))

    def _paint_kerb(
        self, painter: QPainter, theme: Theme, camera: Camera, beside: tuple[FloatArray, FloatArray]
    ) -> None:
        edge, out = beside
        x, y, far = camera.seen(np.concatenate([edge, edge + KERB_WIDTH_M * out]))
        n = len(edge)
        painter.setPen(Qt.PenStyle.NoPen)
        for k in range(n - 1):
            corners = (k, k + 1, n + k + 1, n + k)
            if np.isfinite(far[list(corners)]).all():
                painter.setBrush(theme.color("ink", 170) if k % 2 else theme.color("raised"))
                painter.drawPolygon(QPolygonF([QPointF(x[i], y[i]) for i in corners]))

    def _paint_wall(
        self, painter: QPainter, theme: Theme, camera: Camera, beside: tuple[FloatArray, FloatArray]
    ) -> None:
        edge, out = beside
        foot = edge + WALL_ASIDE_M * out
        low, high = camera.seen(foot), camera.seen(foot + np.array([0.0, 0.0, WALL_HIGH_M]))
        ok = np.isfinite(low[2]) & np.isfinite(high[2])
        if np.count_nonzero(ok) > 1:
            around = [np.concatenate([a[ok], b[ok][::-1]]) for a, b in zip(low[:2], high[:2], strict=True)]
            painter.setPen(QPen(theme.color("ink"), 1))
            painter.setBrush(theme.color("rule"))
            painter.drawPolygon(polygon(*around))

    def _on_line(self, scene: Scene, line: FloatArray, places: FloatArray) -> FloatArray:
        """Points of a line, on the road's height, (n, 3)."""
        at = np.mod(places, float(scene.drawn.place_m[-1]))
        xy = np.stack([np.interp(at, scene.drawn.place_m, line[:, k]) for k in (0, 1)], axis=1)
        profile = self._height()
        z = np.zeros(len(at)) if profile is None else np.interp(at, *profile)
        return np.column_stack([xy, z])

    def _paint_line(self, painter: QPainter, theme: Theme, camera: Camera, scene: Scene, start: float) -> None:
        """The reference's path on the road: a full bar across it where it brakes, an open one where it picks up."""
        places = np.arange(start + 3.0, start + self._reach_m, 2.0)
        x, y, far = camera.seen(self._on_line(scene, scene.drawn.reference_xy_m, places))
        ok = np.isfinite(far)
        painter.setPen(QPen(theme.color("reference", 110), 1.4, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in zip(x[ok].tolist(), y[ok].tolist(), strict=True)]))
        for stop in scene.course.stops:
            if (
                stop.who == "reference"
                and stop.words in ("brake point", "pick-up")
                and start + 3.0 < stop.place_m < start + self._reach_m
            ):
                self._paint_bar(painter, theme, camera, scene, stop.place_m, full=stop.words == "brake point")

    def _paint_bar(
        self, painter: QPainter, theme: Theme, camera: Camera, scene: Scene, place: float, *, full: bool
    ) -> None:
        ends = self._on_line(scene, scene.drawn.reference_xy_m, np.array([place, place + 1.2]))
        along = (ends[1, :2] - ends[0, :2]) / max(float(np.hypot(*(ends[1, :2] - ends[0, :2]))), 1e-6)
        across = np.array([-along[1], along[0]]) * 1.6
        corners = np.array(
            [[*(e[:2] + s * across), e[2]] for e, s in ((ends[0], 1), (ends[0], -1), (ends[1], -1), (ends[1], 1))]
        )
        x, y, far = camera.seen(corners)
        if np.isfinite(far).all():
            painter.setPen(QPen(theme.color("reference"), 1.2))
            painter.setBrush(theme.color("reference", 200) if full else theme.color("raised", 200))
            painter.drawPolygon(QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)]))

    def _paint_things(self, painter: QPainter, theme: Theme, camera: Camera, scene: Scene, ahead: RoadAhead) -> None:
        """What stands beside the road, the farthest first."""
        road = self._store.road
        marks = road.circuit.book.landmarks if road is not None and road.circuit is not None else ()
        length = float(scene.drawn.place_m[-1])
        near = [(m, (m.circuit_m - ahead.place_m[0]) % length) for m in marks]
        for mark, off in sorted(((m, d) for m, d in near if d < self._reach_m - 4.0), key=lambda x: -x[1]):
            self._paint_thing(painter, theme, camera, ahead, mark, float(ahead.place_m[0]) + off)

    def _paint_thing(
        self, painter: QPainter, theme: Theme, camera: Camera, ahead: RoadAhead, mark: Landmark, at: float
    ) -> None:
        def point(edge: FloatArray) -> FloatArray:
            return np.array([np.interp(at, ahead.place_m, edge[:, j]) for j in range(3)])

        left, right = point(ahead.left_m), point(ahead.right_m)
        across = (left - right) / max(float(np.hypot(*(left - right)[:2])), 1e-6)
        if mark.kind in OVER:
            self._paint_over(painter, theme, camera, (left + across, right - across), landmark_short(mark))
            return
        if mark.kind is LandmarkKind.STATE:
            return
        if mark.kind in ON_ROAD:
            self._paint_label(painter, theme, camera, 0.5 * (left + right), landmark_short(mark), 0.0)
            return
        edge = left + BESIDE_M * across if mark.side == "left" else right - BESIDE_M * across
        if mark.kind in KERBS:
            edge = left if mark.side == "left" else right
        self._paint_label(
            painter,
            theme,
            camera,
            edge,
            landmark_short(mark),
            HEIGHTS.get(mark.kind, 0.0),
            board=mark.kind is LandmarkKind.BOARD,
        )

    def _paint_label(
        self,
        painter: QPainter,
        theme: Theme,
        camera: Camera,
        foot: FloatArray,
        words: str,
        high: float,
        *,
        board: bool = False,
    ) -> None:
        x, y, far = camera.seen(np.array([foot, [foot[0], foot[1], foot[2] + max(high, 0.25)]]))
        if not np.isfinite(far).all() or not -60 < x[0] < self.width() + 60:
            return
        size = min(max(round(camera.focal_px * 0.9 / far[0]), SMALL_PX - 3), 20)
        painter.setFont(font(size, bold=board))
        painter.setPen(QPen(theme.color("ink"), 1))
        painter.drawLine(QPointF(x[0], y[0]), QPointF(x[1], y[1]))
        width = painter.fontMetrics().horizontalAdvance(words.removesuffix(" board") if board else words) + 6
        box = QRectF(x[1] - 0.5 * width, y[1] - size * 1.4, width, size * 1.4)
        if board:
            painter.setBrush(theme.color("raised"))
            painter.drawRect(box)
            words = words.removesuffix(" board")
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_over(
        self, painter: QPainter, theme: Theme, camera: Camera, feet: tuple[FloatArray, FloatArray], words: str
    ) -> None:
        """A gantry or a bridge: two posts and a beam."""
        tops = [np.array([f[0], f[1], f[2] + OVER_M]) for f in feet]
        x, y, far = camera.seen(np.array([feet[0], tops[0], tops[1], feet[1]]))
        if not np.isfinite(far).all():
            return
        painter.setPen(QPen(theme.color("ink"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)]))
        painter.setFont(font(SMALL_PX - 1))
        painter.drawText(
            QRectF(min(x) - 40, min(y) - 18, max(x) - min(x) + 80, 16), Qt.AlignmentFlag.AlignCenter, words
        )

    def _paint_other(self, painter: QPainter, theme: Theme, camera: Camera, scene: Scene) -> None:
        """The other lap's vehicle as a plain outline, and one's own from behind."""
        apart = (scene.other.place_m - scene.played.place_m) % float(scene.drawn.place_m[-1])
        shown = [scene.other] if self.in_time and apart > CLOSE_M else []
        if self.behind:
            shown.append(scene.played)
        for vehicle in shown:
            ends = self._on_line(scene, vehicle.line, np.array([vehicle.place_m - 2.0, vehicle.place_m + 2.0]))
            along = (ends[1, :2] - ends[0, :2]) / max(float(np.hypot(*(ends[1, :2] - ends[0, :2]))), 1e-6)
            across = np.array([-along[1], along[0]]) * 0.9
            box = [
                [*(e[:2] + s * across), e[2] + z] for e in ends for s, z in ((1, 0.2), (-1, 0.2), (-1, 1.25), (1, 1.25))
            ]
            x, y, far = camera.seen(np.array(box))
            if not np.isfinite(far).all():
                continue
            painter.setPen(QPen(theme.color(vehicle.role), 1))
            painter.setBrush(theme.color("ground", 120))
            for face in ((4, 5, 6, 7), (0, 1, 2, 3)):
                painter.drawPolygon(QPolygonF([QPointF(x[i], y[i]) for i in face]))
            for i in range(4):
                painter.drawLine(QPointF(x[i], y[i]), QPointF(x[i + 4], y[i + 4]))


def _beside(ahead: RoadAhead, side: str, span: tuple[float, float]) -> tuple[FloatArray, FloatArray]:
    """Points of an edge from one place to another, (n, 3), and the unit vectors that lead away from the road there."""
    places = np.append(np.arange(span[0], span[1], BLOCK_M), span[1])
    left, right = (
        np.stack([np.interp(places, ahead.place_m, e[:, k]) for k in range(3)], axis=1)
        for e in (ahead.left_m, ahead.right_m)
    )
    across = left - right
    across = across / np.maximum(np.hypot(across[:, 0], across[:, 1]), 1e-6)[:, None]
    across[:, 2] = 0.0
    return (left, across) if side == "left" else (right, -across)
