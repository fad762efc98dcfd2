"""The walk from the seat, or from behind: the road ahead as ink on paper, with what can be seen beside it."""

from __future__ import annotations

from dataclasses import replace
from math import degrees, radians
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font, scale
from jete.core.circuit.landmarks import LandmarkKind
from jete.core.walk.seat import Camera, RoadAhead, eye_on, road_ahead, strips_of
from jete.report.seat import landmark_short
from jete.views.canvas import polygon
from jete.views.walk.own import paint_own
from jete.views.walk.scene import Scene, scene_of
from jete.views.walk.vehicle import paint_vehicle

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
# What moves by: joints of the asphalt every so many metres, so long; tufts beside the road, seen so far.
JOINT_M, JOINT_LONG_M, TUFT_M, NEAR_M = 12.0, 0.3, 4.0, 110.0
# The road is painted from so far behind the eye: a head that is turned sees it beside the vehicle.
BEFORE_M = 10.0
# The painted line along an edge: how far from it, how wide.
EDGE_FROM_M, EDGE_WIDE_M = 0.1, 0.18
# A rider's head leans by this share of the motorcycle's lean.
LEAN_SHARE = 0.7


class WalkSeat(QWidget):
    """The road ahead of the played lap."""

    def __init__(self, store: SessionStore, player: Player) -> None:
        super().__init__()
        self._store, self._player = store, player
        self.in_time, self.behind, self.with_line = True, False, False
        self._labels: list[tuple[float, QRectF, str, int, bool]] = []
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
        look = 0.0 if self.behind else display.look_m
        eye = eye_on(scene.drawn, scene.played.line, scene.played.place_m, above, behind, look)
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
        self._labels = []
        painter.fillRect(self.rect(), theme.color("sky"))
        painter.save()
        self._lean(painter, camera, scene)
        far = float(self.width() + self.height())
        painter.fillRect(QRectF(-far, camera.horizon_px, 3.0 * far, far), theme.color("verge"))
        painter.setPen(QPen(theme.color("rule"), 1))
        painter.drawLine(QPointF(-far, camera.horizon_px), QPointF(2.0 * far, camera.horizon_px))
        start = scene.played.place_m - (BEHIND_M + 4.0 if self.behind else BEFORE_M)
        ahead = road_ahead(scene.drawn, start, self._reach_m, self._height())
        self._paint_verge(painter, theme, camera, ahead)
        self._paint_road(painter, theme, camera, ahead)
        self._paint_strips(painter, theme, camera, scene, ahead)
        if self.with_line:
            self._paint_line(painter, theme, camera, scene, start)
        self._paint_things(painter, theme, camera, scene, ahead)
        self._paint_other(painter, theme, camera, scene)
        self._write_labels(painter, theme)
        painter.restore()
        if not self.behind:
            paint_own(painter, theme, self.width(), self.height(), rides=self._rides())

    def _rides(self) -> bool:
        """Whether the played lap leans."""
        return self._leans_rad(0.0) is not None

    def _leans_rad(self, place_m: float) -> float | None:
        """How far the played lap leans at a place, to the right positive; None where it has no such channel."""
        comparison = self._store.comparison
        if comparison is None:
            return None
        passage = comparison.reference if self._player.who == "reference" else comparison.laps[0].passage
        lean = passage.lap.get("lean")
        if lean is None:
            return None
        return float(np.interp(passage.time_of(place_m) + passage.lap.span.start_s, lean.time_s, lean.value))

    def _lean(self, painter: QPainter, camera: Camera, scene: Scene) -> None:
        """A rider's head leans along with the motorcycle, but less: the horizon tips the other way."""
        lean = None if self.behind else self._leans_rad(scene.played.place_m)
        if lean is not None:
            middle = QPointF(0.5 * self.width(), camera.horizon_px)
            painter.translate(middle)
            painter.rotate(-degrees(LEAN_SHARE * lean))
            painter.translate(-middle)

    def _paint_verge(self, painter: QPainter, theme: Theme, camera: Camera, ahead: RoadAhead) -> None:
        """Tufts beside the road, always at the same places: they come by as fast as one drives."""
        first, last = float(ahead.place_m[0]), min(float(ahead.place_m[-1]), float(ahead.place_m[0]) + NEAR_M)
        numbers = np.arange(np.ceil(first / TUFT_M), np.floor(last / TUFT_M), dtype=float)
        places = numbers * TUFT_M
        # The same number lies at the same distance each time it is passed.
        aside = 1.5 + 9.0 * np.mod(numbers * 0.618034, 1.0)
        left, right = (_at(ahead, edge, places) for edge in (ahead.left_m, ahead.right_m))
        across = (left - right) / np.maximum(np.hypot(*(left - right)[:, :2].T), 1e-6)[:, None]
        painter.setPen(QPen(theme.color("joint", 130), 1.2))
        for edge, side in ((left, 1.0), (right, -1.0)):
            foot = edge + side * aside[:, None] * across
            low, high = camera.seen(foot), camera.seen(foot + np.array([0.0, 0.0, 0.18]))
            ok = np.isfinite(low[2]) & np.isfinite(high[2])
            lines = np.stack([low[0][ok], low[1][ok], high[0][ok], high[1][ok]], axis=1).tolist()
            for ends in lines:
                painter.drawLine(QLineF(*ends))

    def _paint_road(self, painter: QPainter, theme: Theme, camera: Camera, ahead: RoadAhead) -> None:
        left, right = camera.seen(ahead.left_m), camera.seen(ahead.right_m)
        # Whose head is turned sees one edge from farther back than the other.
        edges = [(e[0][ok], e[1][ok]) for e in (left, right) if (ok := np.isfinite(e[2])).any()]
        if len(edges) < len((left, right)):
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("asphalt"))
        painter.drawPolygon(polygon(*(np.concatenate([a, b[::-1]]) for a, b in zip(*edges, strict=True))))
        self._paint_joints(painter, theme, camera, ahead)
        for edge in (ahead.left_m, ahead.right_m):
            self._paint_edge(painter, theme, camera, edge, ahead.middle_m)

    def _paint_joints(self, painter: QPainter, theme: Theme, camera: Camera, ahead: RoadAhead) -> None:
        """Where the asphalt was laid in pieces: bands across the road, that come by as fast as one drives."""
        first = float(ahead.place_m[0])
        places = JOINT_M * np.arange(np.ceil(first / JOINT_M), np.floor((first + NEAR_M) / JOINT_M), dtype=float)
        painter.setBrush(theme.color("joint"))
        ends = [(_at(ahead, e, places), _at(ahead, e, places + JOINT_LONG_M)) for e in (ahead.left_m, ahead.right_m)]
        (a, b), (d, c) = ends
        seen = [camera.seen(p) for p in (a, b, c, d)]
        ok = np.all([np.isfinite(s[2]) for s in seen], axis=0)
        for k in ok.nonzero()[0].tolist():
            painter.drawPolygon(QPolygonF([QPointF(s[0][k], s[1][k]) for s in seen]))

    def _paint_edge(
        self, painter: QPainter, theme: Theme, camera: Camera, outer: FloatArray, middle: FloatArray
    ) -> None:
        """The painted line along an edge, as wide as it is on the road."""
        inward = (middle - outer) / np.maximum(np.hypot(*(middle - outer)[:, :2].T), 1e-6)[:, None]
        ends = [camera.seen(outer + off * inward) for off in (EDGE_FROM_M, EDGE_FROM_M + EDGE_WIDE_M)]
        ok = np.isfinite(ends[0][2]) & np.isfinite(ends[1][2])
        if np.count_nonzero(ok) > 1:
            painter.setBrush(theme.color("paint"))
            painter.drawPolygon(
                polygon(*(np.concatenate([p[ok], q[ok][::-1]]) for p, q in zip(ends[0][:2], ends[1][:2], strict=True)))
            )

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
        size = min(max(round(camera.focal_px * 0.9 / far[0]), SMALL_PX), 20)
        painter.setPen(QPen(theme.color("ink"), 1))
        painter.drawLine(QPointF(x[0], y[0]), QPointF(x[1], y[1]))
        shown = words.removesuffix(" board") if board else words
        self._note_label(float(far[0]), QPointF(x[1], y[1]), shown, size, board=board)

    def _note_label(self, far: float, foot: QPointF, words: str, size: int, *, board: bool = False) -> None:
        """Keep a name for when all are written: how far off it is, and its room over a point."""
        width = QFontMetrics(font(size, bold=board)).horizontalAdvance(words) + 6
        high = 1.4 * size * scale()
        box = QRectF(foot.x() - 0.5 * width, foot.y() - high, width, high)
        self._labels.append((far, box, words, size, board))

    def _write_labels(self, painter: QPainter, theme: Theme) -> None:
        """The names of things, the nearest first; one that would lie on another is left out."""
        taken: list[QRectF] = []
        for _, box, words, size, board in sorted(self._labels, key=lambda x: x[0]):
            # All of a name, or none of it.
            if box.left() < 0.0 or box.right() > self.width() or any(box.intersects(other) for other in taken):
                continue
            taken.append(box)
            painter.setFont(font(size, bold=board))
            painter.setPen(QPen(theme.color("ink"), 1))
            if board:
                painter.setBrush(theme.color("raised" if theme.name == "dark" else "paint"))
                painter.drawRect(box)
            else:
                # A name is of the thing under it, and not of the wall behind it.
                painter.fillRect(box, theme.color("ground", 170))
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
        self._note_label(float(far.min()), QPointF(0.5 * (min(x) + max(x)), min(y) - 2.0), words, SMALL_PX)

    def _paint_other(self, painter: QPainter, theme: Theme, camera: Camera, scene: Scene) -> None:
        """The other lap's vehicle with its brake light, and one's own from behind."""
        apart = (scene.other.place_m - scene.played.place_m) % float(scene.drawn.place_m[-1])
        shown = [scene.other] if self.in_time and apart > CLOSE_M else []
        if self.behind:
            shown.append(scene.played)
        for vehicle in shown:
            ends = self._on_line(scene, vehicle.line, np.array([vehicle.place_m - 2.0, vehicle.place_m + 2.0]))
            braking = scene.brakes(vehicle)
            paint_vehicle(painter, theme, camera, ends, role=vehicle.role, rides=self._rides(), brakes=braking)


def _at(ahead: RoadAhead, edge: FloatArray, places: FloatArray) -> FloatArray:
    """Points of an edge at places, (n, 3)."""
    return np.stack([np.interp(places, ahead.place_m, edge[:, k]) for k in range(3)], axis=1)


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
