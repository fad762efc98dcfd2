"""A car or a motorcycle on the road ahead, drawn from its corners in metres: what is near covers what is far."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

if TYPE_CHECKING:
    from jete.app.theme import Theme
    from jete.core.arrays import FloatArray
    from jete.core.walk.seat import Camera

# Boxes of a vehicle: from and to along it, half its width below and above, from and to in height, metres.
Box = tuple[float, float, float, float, float, float]
CAR: Final[tuple[Box, ...]] = (
    (-1.45, -0.95, 0.88, 0.88, 0.0, 0.62), (0.85, 1.4, 0.88, 0.88, 0.0, 0.62),
    (-2.1, 2.1, 0.85, 0.82, 0.28, 0.78), (-1.5, 0.7, 0.74, 0.55, 0.78, 1.25),
)  # fmt: skip
MOTORCYCLE: Final[tuple[Box, ...]] = (
    (-1.0, -0.4, 0.1, 0.1, 0.0, 0.62), (0.45, 1.0, 0.08, 0.08, 0.0, 0.6),
    (-0.9, 0.75, 0.2, 0.16, 0.35, 0.85), (-0.45, 0.25, 0.24, 0.2, 0.85, 1.3), (-0.1, 0.25, 0.14, 0.12, 1.3, 1.58),
)  # fmt: skip
WHEELS: Final = 2
# Lamps at the rear: along, from and to across (to both sides where they do not begin at the middle), from and to in height.
CAR_LAMPS, MOTORCYCLE_LAMPS = (-2.12, 0.42, 0.8, 0.56, 0.7), (-0.92, -0.12, 0.12, 0.66, 0.76)
# Faces of a box by its eight corners, clockwise where one sees them from outside: rear, front, left, right, top.
FACES: Final[tuple[tuple[int, ...], ...]] = ((0, 1, 2, 3), (7, 6, 5, 4), (4, 5, 1, 0), (3, 2, 6, 7), (1, 5, 6, 2))
# How much of the lap's colour a face has; the sides have more.
SHADES: Final[dict[tuple[int, ...], float]] = {FACES[4]: 0.25, FACES[0]: 0.5, FACES[1]: 0.5}


def paint_vehicle(
    painter: QPainter, theme: Theme, camera: Camera, ends_m: FloatArray, *, role: str, rides: bool, brakes: bool
) -> bool:
    """Paint a vehicle; returns whether all of it is in front of the eye.

    Args:
        painter: of the picture.
        theme: that it is in.
        camera: that sees it.
        ends_m: its rear and its front on the road, (2, 3).
        role: whose colour it has.
        rides: whether it is a motorcycle.
        brakes: whether its brake light is lit.
    """
    along = (ends_m[1] - ends_m[0]) / max(float(np.hypot(*(ends_m[1] - ends_m[0])[:2])), 1e-6)
    axes = np.stack([along, np.array([-along[1], along[0], 0.0]), np.array([0.0, 0.0, 1.0])])
    middle = 0.5 * (ends_m[0] + ends_m[1])
    boxes = [_corners(box) @ axes + middle for box in (MOTORCYCLE if rides else CAR)]
    seen = [camera.seen(corners) for corners in boxes]
    if not all(np.isfinite(far).all() for _, _, far in seen):
        return False
    color = theme.color(role)
    painter.setPen(QPen(color, 1))
    for k, (x, y, _) in enumerate(seen):
        for face in FACES:
            if _is_seen(x, y, face):
                # Wheels come first.
                painter.setBrush(theme.color("ink") if k < WHEELS else _shade(theme, color, face))
                painter.drawPolygon(_polygon(x, y, face))
    _paint_lamps(painter, theme, camera, (axes, middle), rides=rides, lit=brakes)
    return True


def _is_seen(x: FloatArray, y: FloatArray, face: tuple[int, ...]) -> bool:
    """Whether a face is turned to the eye: its corners go round clockwise in the picture."""
    at = list(face)
    u, v = x[at], y[at]
    return bool(np.sum(u * np.roll(v, -1) - v * np.roll(u, -1)) > 0.0)


def _corners(box: Box) -> FloatArray:
    """The eight corners of a box, rear before front, (8, 3): along, to the left, upwards."""
    rear, front, below, above, low, high = box
    return np.array([
        [at, s * w, z] for at in (rear, front) for s, w, z in ((1, below, low), (1, above, high), (-1, above, high), (-1, below, low))
    ])  # fmt: skip


def _shade(theme: Theme, color: QColor, face: tuple[int, ...]) -> QColor:
    """A face between paper and the lap's colour: the top is the lightest, the sides the darkest."""
    share = SHADES.get(face, 0.7)
    paper = theme.color("raised")
    mixed = (round(p + share * (c - p)) for p, c in zip(paper.getRgb()[:3], color.getRgb()[:3], strict=True))
    return QColor(*mixed)


def _paint_lamps(
    painter: QPainter, theme: Theme, camera: Camera, place: tuple[FloatArray, FloatArray], *, rides: bool, lit: bool
) -> None:
    """Brake lights: bright blocks in a dark frame when they are lit, frames alone when not."""
    axes, middle = place
    at, inner, outer, low, high = MOTORCYCLE_LAMPS if rides else CAR_LAMPS
    painter.setPen(QPen(theme.color("ink"), 1.6 if lit else 1.0))
    painter.setBrush(theme.color("paint") if lit else Qt.BrushStyle.NoBrush)
    for side in (1.0,) if rides else (1.0, -1.0):
        corners = np.array([[at, side * w, z] for w, z in ((inner, low), (inner, high), (outer, high), (outer, low))])
        x, y, far = camera.seen(corners @ axes + middle)
        if np.isfinite(far).all():
            painter.drawPolygon(_polygon(x, y, (0, 1, 2, 3)))


def _polygon(x: FloatArray, y: FloatArray, corners: tuple[int, ...]) -> QPolygonF:
    return QPolygonF([QPointF(float(x[i]), float(y[i])) for i in corners])
