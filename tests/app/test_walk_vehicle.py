"""The vehicle that is seen from the seat: which faces show, how large it is, and when its brake light is lit."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtGui import QColor, QImage, QPainter

from jete.app.theme import THEMES
from jete.core.walk.seat import Camera, Eye
from jete.views.walk.vehicle import paint_vehicle

WIDE, HIGH = 400, 300


def painted(ends: list[list[float]], *, rides: bool = False, brakes: bool = False) -> tuple[QImage, bool]:
    """A vehicle on a flat road before an eye that looks along x, on a blank picture."""
    image = QImage(WIDE, HIGH, QImage.Format.Format_RGB32)
    image.fill(QColor("#123456"))
    camera = Camera(Eye(x_m=0.0, y_m=0.0, z_m=1.15, heading_rad=0.0, down_rad=0.0, view_rad=1.0), WIDE, HIGH)
    painter = QPainter(image)
    whole = paint_vehicle(painter, THEMES["light"], camera, np.array(ends), role="lap", rides=rides, brakes=brakes)
    painter.end()
    return image, whole


def covered(image: QImage) -> np.ndarray:
    """Which pixels are not blank, (rows, columns)."""
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    pixels = np.frombuffer(bits, dtype=np.uint8).reshape(HIGH, WIDE, 4)[:, :, :3]
    return np.any(pixels != pixels[0, 0], axis=2)


def straight(at_m: float, left_m: float = 0.0) -> list[list[float]]:
    return [[at_m - 2.0, left_m, 0.0], [at_m + 2.0, left_m, 0.0]]


def test_twice_as_far_is_half_as_wide() -> None:
    near, far = (np.flatnonzero(covered(painted(straight(at))[0]).any(axis=0)) for at in (12.0, 22.0))
    focal = 0.5 * WIDE / np.tan(0.5)
    assert np.ptp(near) == pytest.approx(1.7 / 9.9 * focal, rel=0.1), "its rear is 1.7 m wide"
    assert np.ptp(far) / np.ptp(near) == pytest.approx(9.9 / 19.9, rel=0.1)


def test_it_stands_where_it_is_and_a_motorcycle_is_slim() -> None:
    left = np.flatnonzero(covered(painted(straight(15.0, 3.0))[0]).any(axis=0)).mean()
    middle = np.flatnonzero(covered(painted(straight(15.0))[0]).any(axis=0))
    assert left < middle.mean() - 30.0
    slim = np.flatnonzero(covered(painted(straight(15.0), rides=True)[0]).any(axis=0))
    assert np.ptp(slim) < 0.45 * np.ptp(middle)


def test_a_lit_brake_light_is_bright() -> None:
    paint = THEMES["light"].color("paint").rgb()

    def bright(*, brakes: bool) -> int:
        image, _ = painted(straight(8.0), brakes=brakes)
        return sum(image.pixel(x, y) == paint for x in range(WIDE) for y in range(HIGH))

    assert bright(brakes=True) > 40
    assert bright(brakes=False) == 0


def test_what_is_not_wholly_in_front_is_not_painted() -> None:
    image, whole = painted(straight(1.0))
    assert not whole
    assert not covered(image).any()
