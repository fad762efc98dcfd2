"""Make the demo's films: what a camera beside the driver's head would have seen on one lap of each of the pair.

python tools/demo_film.py FOLDER    (make demo-film)

The road is that of the demo's shelf, the lines are those of the laps, the wheel turns as logged. All of it is made up.
"""

from __future__ import annotations

import os
import sys
import tempfile
from fractions import Fraction
from math import radians
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import av
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QApplication

from jete.app import demo
from jete.app.theme import font, load_fonts
from jete.core.circuit.drawn import Drawn
from jete.core.circuit.landmarks import LandmarkKind
from jete.core.walk.seat import Camera, Eye, RoadAhead, eye_on, road_ahead

if TYPE_CHECKING:
    from jete.core.circuit.landmarks import Landmark
    from jete.core.walk.course import Course, Who
    from jete.main import Application

WIDTH, HEIGHT = 640, 360
REACH_M, EYE_M, STAKES_M = 300.0, 1.1, 20.0
SKY, SEA, SAND, ROAD, LINE, CAR = "#cfdce4", "#7f9fb0", "#d8c7a0", "#6d6a66", "#efeae0", "#2c3338"
KERB, DARK, PALE = "#a8553a", "#57544f", "#fbf7ee"
DUNE = "#bfae86"
# What stands far away: in which direction (rad), how wide and high in the picture, in which colour.
FAR = (
    (0.2, 14, 12, "#8d8a84"), (0.9, 5, 34, "#efeae0"), (1.3, 26, 9, "#9c6b58"), (2.1, 3, 26, "#57544f"), (2.9, 18, 11, "#7d8790"),
    (3.6, 4, 20, "#57544f"), (4.2, 22, 8, "#a89878"), (4.8, 3, 30, "#57544f"), (5.3, 12, 14, "#8d8a84"), (5.9, 30, 7, "#9c6b58"),
)  # fmt: skip
POSTS = (LandmarkKind.POST, LandmarkKind.TREE, LandmarkKind.BUILDING, LandmarkKind.WALL, LandmarkKind.TYRES)
OVER = (LandmarkKind.GANTRY, LandmarkKind.BRIDGE)


def main() -> int:
    """Open the demo's shelf, and film both laps of its pair."""
    folder = Path(sys.argv[1])
    with tempfile.TemporaryDirectory(prefix="jete-film-") as cache:
        for name in ("XDG_CACHE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"):
            os.environ[name] = cache
        app = QApplication(["jete"])
        load_fonts(app)
        parts = _demo(app)
        for who, name in zip(("reference", "lap"), demo.PAIR, strict=True):
            _film(parts, who, folder / f"{name}.mp4")
        parts.window.close()
    return 0


def _demo(app: QApplication) -> Application:
    """The demo's pair, compared, with its circuit's landmarks."""
    from jete.main import build

    parts = build(app)
    parts.window.show()
    parts.window.open_demo()

    def ready() -> bool:
        road = parts.store.road
        return parts.tasks.idle and road is not None and road.circuit is not None and bool(road.circuit.book.landmarks)

    while not ready():
        app.processEvents()
    return parts


def _film(parts: Application, who: Who, path: Path) -> None:
    course, road = parts.window.page("walk").player.course, parts.store.road
    assert course is not None
    assert road is not None
    assert road.circuit is not None
    line = road.drawn.reference_xy_m if who == "reference" else road.drawn.laps_xy_m[0]
    assert line is not None
    height = (road.profile.place_m, road.profile.height_m) if road.profile is not None else None
    seen = _Seen(road.drawn, line, height, road.circuit.book.landmarks)
    steering = course.passage(who).lap.get("steering")
    assert steering is not None
    length = course.duration_s(who) + 2.0 * demo.FILM_LEAD_S
    with av.open(str(path), "w") as out:
        stream = out.add_stream(
            "libx264", rate=demo.FILM_HZ, options={"crf": "31", "preset": "slower", "tune": "animation"}
        )
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        stream.gop_size = 50
        for k in range(int(length * demo.FILM_HZ)):
            lap_s = (k / demo.FILM_HZ - demo.FILM_LEAD_S) / demo.FILM_RATE
            turned = float(np.interp(lap_s, steering.time_s, steering.value))
            image = seen.picture(_place(course, who, lap_s), turned)
            frame = av.VideoFrame.from_ndarray(_pixels(image), format="bgra")
            frame.pts, frame.time_base = k, Fraction(1, demo.FILM_HZ)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    print(path, f"{path.stat().st_size / 1e6:.2f} MB")


def _place(course: Course, who: Who, lap_s: float) -> float:
    """Where the lap is; before and after it at the speed it has at the line."""
    end = course.duration_s(who)
    if 0.0 <= lap_s <= end:
        return course.place_m(who, lap_s)
    if lap_s < 0.0:
        return lap_s * course.place_m(who, 0.1) / 0.1
    return course.length_m + (lap_s - end) * (course.length_m - course.place_m(who, end - 0.1)) / 0.1


def _pixels(image: QImage) -> np.ndarray:
    bits = image.bits()
    assert bits is not None
    return np.frombuffer(bits.asstring(image.sizeInBytes()), np.uint8).reshape(HEIGHT, WIDTH, 4)


class _Seen:
    """Paints what the camera sees."""

    def __init__(
        self, drawn: Drawn, line: np.ndarray, height: tuple[np.ndarray, np.ndarray] | None, marks: tuple[Landmark, ...]
    ) -> None:
        self.drawn, self.line, self.height, self.marks = drawn, line, height, marks
        self.length = float(drawn.place_m[-1])

    def picture(self, place: float, turned_deg: float) -> QImage:
        image = QImage(WIDTH, HEIGHT, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        camera = self._camera(place)
        horizon = camera.horizon_px
        image.fill(QColor(SKY))
        heading = camera.eye.heading_rad
        # The sea lies to the west of the circuit.
        sea = WIDTH * (0.5 + 1.4 * np.sin(heading))
        painter.fillRect(QRectF(sea - WIDTH, horizon - 7, 2 * WIDTH, 8), QColor(SEA))
        self._skyline(painter, camera)
        painter.fillRect(QRectF(0, horizon, WIDTH, HEIGHT), QColor(SAND))
        ahead = road_ahead(self.drawn, place + 0.5, REACH_M, self.height)
        left, right = camera.seen(ahead.left_m), camera.seen(ahead.right_m)
        ok = np.isfinite(left[2]) & np.isfinite(right[2])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(ROAD))
        x = np.concatenate([left[0][ok], right[0][ok][::-1]])
        y = np.concatenate([left[1][ok], right[1][ok][::-1]])
        painter.drawPolygon(_polygon(x, y))
        painter.setPen(QPen(QColor(LINE), 1.6))
        for edge in (left, right):
            painter.drawPolyline(_polygon(edge[0][ok], edge[1][ok]))
        self._stakes(painter, camera, ahead)
        near = [(m, (m.circuit_m - ahead.place_m[0]) % self.length) for m in self.marks]
        for mark, off in sorted(((m, d) for m, d in near if d < REACH_M - 4.0), key=lambda n: -n[1]):
            self._thing(painter, camera, ahead, mark, float(ahead.place_m[0]) + off)
        _cockpit(painter, turned_deg)
        painter.end()
        return image

    def _camera(self, place: float) -> Camera:
        eye = eye_on(self.drawn, self.line, place % self.length, EYE_M)
        z = EYE_M + (float(np.interp(place % self.length, *self.height)) if self.height is not None else 0.0)
        return Camera(Eye(eye.x_m, eye.y_m, z, eye.heading_rad, 0.05, radians(70.0)), WIDTH, HEIGHT)

    def _skyline(self, painter: QPainter, camera: Camera) -> None:
        """Dunes inland, and sheds, masts and the lighthouse on them: far away, so that they turn with the car alone."""
        x = np.arange(0.0, WIDTH + 1.0, 4.0)
        azimuth = camera.eye.heading_rad - np.arctan((x - 0.5 * WIDTH) / camera.focal_px)
        inland = np.clip(0.55 + np.cos(azimuth), 0.0, 1.0)
        high = inland * (
            9.0 + 5.0 * np.sin(5.0 * azimuth) + 3.0 * np.sin(13.0 * azimuth + 1.0) + 1.5 * np.sin(31.0 * azimuth)
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(DUNE))
        top = camera.horizon_px - np.maximum(high, 0.0)
        painter.drawPolygon(
            _polygon(np.concatenate([x, x[::-1]]), np.concatenate([top, np.full_like(x, camera.horizon_px + 1)]))
        )
        for at, wide, tall, colour in FAR:
            off = (at - camera.eye.heading_rad + np.pi) % (2.0 * np.pi) - np.pi
            if abs(off) < 0.9:
                px = 0.5 * WIDTH - camera.focal_px * np.tan(off)
                painter.fillRect(QRectF(px - 0.5 * wide, camera.horizon_px - tall, wide, tall), QColor(colour))

    def _stakes(self, painter: QPainter, camera: Camera, ahead: RoadAhead) -> None:
        """Low stakes in the sand, every twenty metres: they show how fast it goes."""
        at = np.arange(np.ceil(ahead.place_m[0] / STAKES_M) * STAKES_M, ahead.place_m[-1], STAKES_M)[::-1]
        for edge, other in ((ahead.left_m, ahead.right_m), (ahead.right_m, ahead.left_m)):
            feet = np.stack(
                [np.interp(at, ahead.place_m, (edge + 0.35 * (edge - other))[:, k]) for k in range(3)], axis=1
            )
            for foot in feet:
                self._post(painter, camera, foot, 0.5, DARK, "")

    def _thing(self, painter: QPainter, camera: Camera, ahead: RoadAhead, mark: Landmark, at: float) -> None:

        left, right = (
            np.array([np.interp(at, ahead.place_m, e[:, j]) for j in range(3)]) for e in (ahead.left_m, ahead.right_m)
        )
        across = (left - right) / max(float(np.hypot(*(left - right)[:2])), 1e-6)
        foot = left + 1.6 * across if mark.side == "left" else right - 1.6 * across
        if mark.kind in OVER:
            self._box(painter, camera, (left + across, right - across), 5.5, DARK)
        elif mark.kind is LandmarkKind.BOARD:
            self._post(painter, camera, foot, 1.7, PALE, mark.text)
        elif mark.kind is LandmarkKind.CONE:
            self._post(painter, camera, foot, 0.6, KERB, "")
        elif mark.kind in POSTS:
            self._post(painter, camera, foot, 3.0, DARK, "")
        elif mark.kind in (LandmarkKind.KERB_BEGINS, LandmarkKind.KERB_ENDS):
            edge = left if mark.side == "left" else right
            self._post(painter, camera, edge, 0.2, KERB, "")

    def _box(
        self, painter: QPainter, camera: Camera, feet: tuple[np.ndarray, np.ndarray], high: float, colour: str
    ) -> None:
        tops = [f + np.array([0.0, 0.0, high]) for f in feet]
        x, y, far = camera.seen(np.array([feet[0], tops[0], tops[1], feet[1]]))
        if np.isfinite(far).all():
            painter.setPen(QPen(QColor(colour), min(max(camera.focal_px * 0.4 / far.min(), 1.0), 14.0)))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(_polygon(x, y))

    def _post(self, painter: QPainter, camera: Camera, foot: np.ndarray, high: float, colour: str, words: str) -> None:
        x, y, far = camera.seen(np.array([foot, foot + np.array([0.0, 0.0, high])]))
        if not np.isfinite(far).all():
            return
        wide = camera.focal_px * (0.9 if words else 0.35) / far[0]
        painter.setPen(QPen(QColor(DARK), 0.6))
        painter.setBrush(QColor(colour))
        top = y[1]
        painter.drawRect(QRectF(x[0] - 0.5 * wide, top, wide, max(y[0] - top, 1.0) if not words else wide * 0.8))
        if words and wide > 9.0:
            painter.setFont(font(max(round(wide * 0.4), 4), bold=True))
            painter.setPen(QColor(CAR))
            painter.drawText(QRectF(x[0] - wide, top, 2 * wide, wide * 0.8), Qt.AlignmentFlag.AlignCenter, words)


def _cockpit(painter: QPainter, turned_deg: float) -> None:
    """Dashboard and the upper half of the wheel, turned as logged."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(CAR))
    painter.drawPolygon(
        _polygon(
            np.array([0, 0.12, 0.4, 0.6, 0.88, 1, 1, 0]) * WIDTH,
            np.array([0.86, 0.83, 0.81, 0.81, 0.83, 0.86, 1, 1]) * HEIGHT,
        )
    )
    painter.save()
    painter.translate(WIDTH * 0.5, HEIGHT + 36.0)
    painter.rotate(-turned_deg)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor("#14181b"), 9.0))
    painter.drawEllipse(QPointF(0, 0), 100.0, 100.0)
    painter.setPen(QPen(QColor(SAND), 9.0))
    painter.drawArc(QRectF(-100, -100, 200, 200), 86 * 16, 8 * 16)
    painter.restore()


def _polygon(x: np.ndarray, y: np.ndarray) -> QPolygonF:
    return QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)])


if __name__ == "__main__":
    sys.exit(main())
