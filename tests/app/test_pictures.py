"""The painters by their pixels: tints, themes, what is painted anew and what is not."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QColor, QImage

from jete.app.theme import DARK, LIGHT
from jete.main import Application
from jete.session import operations as ops
from jete.views.canvas import ticks
from jete.views.ribbon import tint
from jete.views.traces.painter import ON_LINE_PX, ROUNDS, Frame, straightened, thin

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


def count(image: QImage, color: str, within: int = 12) -> int:
    """Pixels close to a colour."""
    converted = image.convertToFormat(QImage.Format.Format_RGB32)
    bits = converted.constBits()
    assert bits is not None
    bits.setsize(converted.sizeInBytes())
    pixels = np.frombuffer(bits, np.uint8).reshape(converted.height(), converted.bytesPerLine() // 4, 4)[..., 2::-1]
    want = QColor(color)
    away = np.abs(pixels.astype(int) - [want.red(), want.green(), want.blue()]).max(axis=2)
    return int((away <= within).sum())


def test_the_traces_draw_both_laps_in_their_colours(ledger: Application) -> None:
    image = ledger.window.page("ledger").traces.grab().toImage()
    assert count(image, LIGHT.lap, 40) > 2000
    assert count(image, LIGHT.reference, 40) > 400


def test_the_ribbon_is_tinted_by_loss(ledger: Application) -> None:
    image = ledger.window.ribbon.grab().toImage()
    assert count(image, LIGHT.loss, 25) > 150


def test_the_dark_sheet_is_dark(ledger: Application, qtbot: QtBot) -> None:
    ledger.store.look_at(lambda s: ops.display(s, theme="dark"))
    qtbot.wait(20)
    image = ledger.window.grab().toImage()
    assert count(image, DARK.ground) > 0.5 * image.width() * image.height()
    ledger.store.look_at(lambda s: ops.display(s, theme="light"))


def test_moving_the_place_does_not_paint_the_panels_anew(ledger: Application, qtbot: QtBot) -> None:
    traces = ledger.window.page("ledger").traces
    traces.grab()
    before = traces._pixmap
    ledger.store.look_at(lambda s: ops.go_to(s, s.look.place_m + 30.0))
    traces.grab()
    assert traces._pixmap is before


def test_tints_grow_with_the_loss() -> None:
    assert tint(LIGHT, 0.05).alpha() < tint(LIGHT, 0.2).alpha() <= tint(LIGHT, 0.9).alpha()
    assert tint(LIGHT, -0.2).blue() > tint(LIGHT, -0.2).red()
    assert tint(LIGHT, 0.2).red() > tint(LIGHT, 0.2).blue()


def test_ticks_are_round_and_inside() -> None:
    assert ticks(0.0, 100.0, 4) == [0.0, 50.0, 100.0]
    assert ticks(-3.0, 7.0, 5) == [-2.0, 0.0, 2.0, 4.0, 6.0]


def test_thinning_keeps_the_least_and_the_greatest() -> None:
    y = np.zeros(10_000)
    y[4321], y[8765] = 5.0, -5.0
    _, thinned = thin(np.arange(10_000.0), y, 20)
    assert len(thinned) == 1000
    assert (thinned.max(), thinned.min()) == (5.0, -5.0)


def test_thinning_a_slope_goes_neither_back_nor_in_steps() -> None:
    x = np.arange(1003.0)
    places, values = thin(x, 300.0 - x, 10)
    assert np.allclose(values, 300.0 - places)


def test_straightening_keeps_the_shape_with_fewer_points() -> None:
    x = np.linspace(0.0, 500.0, 1001)
    y = 50.0 * np.sin(x / 40.0)
    fewer_x, fewer_y = straightened(x, y)
    assert len(fewer_x) < len(x) / 3
    assert np.abs(np.interp(x, fewer_x, fewer_y) - y).max() < ROUNDS * ON_LINE_PX


def test_a_frame_maps_places_and_back() -> None:
    frame = Frame(50.0, 550.0, 1000.0, 2000.0)
    assert frame.x(1500.0) == 300.0
    assert frame.place(frame.x(1234.5)) == 1234.5
