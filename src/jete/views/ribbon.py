"""The lap ribbon: the whole lap as one strip that bulges as the road turns.

Left bends bulge up, right bends down; each corner carries its number and the tint of
what was lost or gained in its window; straights are a thin line.  Click or drag to move
the place.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font
from jete.report.words import difference
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views import canvas

if TYPE_CHECKING:
    from numpy.typing import NDArray
    from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent

    from jete.app.store import SessionStore
    from jete.core.causes.verdict.result import CornerLoss

HEIGHT_PX = 104
MARGIN_PX = 16
FULL_TINT_S = 0.3
LEAST_TINT_S = 0.015


class Ribbon(QWidget):
    """Overview, navigation and scrub bar under every page."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._pixmap: QPixmap | None = None
        self._shape: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None
        self.setObjectName("ribbon")
        self.setAccessibleName("Lap ribbon")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip("Click or drag: place. Corner before and after: B, N. Right click: corners and landmarks.")
        store.changed.connect(self._on_changed)
        self._load()

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """A strip along the whole window."""
        return QSize(800, HEIGHT_PX)

    def column(self, place_m: float) -> float:
        """Pixel column of a place."""
        length = max(self._store.session.lay.length_m, 1.0)
        return MARGIN_PX + place_m / length * (self.width() - 2 * MARGIN_PX)

    def place(self, x: float) -> float:
        """Place at a pixel column."""
        return (x - MARGIN_PX) / max(self.width() - 2 * MARGIN_PX, 1) * self._store.session.lay.length_m

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY):
            self._load()
            self._pixmap = None
        if flags & (Changed.RESULT | Changed.DISPLAY | Changed.PLACE | Changed.CORNER | Changed.RANGE):
            self.setAccessibleDescription(f"Place {session.look.place_m:.0f} m, corner {session.look.corner}")
            self.update()

    def _load(self) -> None:
        """Places and bulge −1..1 of the road's own curvature, eased so that gentle bends show."""
        comparison = self._store.comparison
        if comparison is None:
            self._shape = None
            return
        road = comparison.road
        places = np.linspace(0.0, road.length_m, 1600)
        bend = np.abs(road.curvature_at(places))
        bend[bend < 1.0 / 900.0] = 0.0
        eased = np.sqrt(bend / max(float(bend.max()), 1e-9)) * np.sign(road.curvature_at(places))
        kernel = np.hanning(13) / np.hanning(13).sum()
        self._shape = places, np.convolve(eased, kernel, mode="same")

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Painted anew at another size."""
        self._pixmap = None
        super().resizeEvent(event)

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The strip from its pixmap; range, corner and place over it."""
        theme = THEMES[self._store.session.display.theme]
        painter = QPainter(self)
        if self._shape is None:
            painter.setPen(QPen(theme.color("rule"), 1))
            painter.drawLine(
                QPointF(MARGIN_PX, self.height() / 2), QPointF(self.width() - MARGIN_PX, self.height() / 2)
            )
            return
        if self._pixmap is None:
            self._pixmap = self._painted()
        self._paint_look_behind(painter)
        painter.drawPixmap(0, 0, self._pixmap)
        x = self.column(self._store.session.look.place_m)
        painter.setPen(QPen(theme.color("ink"), 1))
        painter.drawLine(QPointF(x, 2), QPointF(x, self.height() - 2))

    def _paint_look_behind(self, painter: QPainter) -> None:
        """The visible range as a lighter piece of ground, the selected corner as a bar on top."""
        session, theme = self._store.session, THEMES[self._store.session.display.theme]
        painter.fillRect(self.rect(), theme.color("ground"))
        look = session.look
        if look.end_m - look.start_m < session.lay.length_m - 1.0:
            painter.fillRect(
                QRectF(
                    self.column(look.start_m), 0, self.column(look.end_m) - self.column(look.start_m), self.height()
                ),
                theme.color("selected"),
            )
        corner = session.lay.corner(look.corner)
        if corner:
            painter.fillRect(
                QRectF(self.column(corner.start_m), 0, self.column(corner.end_m) - self.column(corner.start_m), 3),
                theme.color("ink"),
            )

    def _painted(self) -> QPixmap:
        """The strip with its tints and numbers."""
        pixmap = canvas.blank(self, QColor(Qt.GlobalColor.transparent))
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_strip(painter)
        comparison = self._store.comparison
        self._paint_landmarks(painter)
        corners = comparison.laps[0].corners if comparison else ()
        taken = [self._paint_number(painter, loss) for loss in corners]
        for loss in corners:
            if abs(loss.gap_s) >= LEAST_TINT_S:
                self._paint_gap(painter, loss, taken)
        painter.end()
        return pixmap

    def _paint_landmarks(self, painter: QPainter) -> None:
        """Landmarks as short ticks on the road."""
        road, middle = self._store.road, self.height() / 2
        painter.setPen(QPen(THEMES[self._store.session.display.theme].color("muted"), 1))
        for mark in road.circuit.book.landmarks if road is not None and road.circuit is not None else ():
            x = self.column(mark.circuit_m)
            painter.drawLine(QPointF(x, middle - 3), QPointF(x, middle + 3))

    def _tip_of(self, loss: CornerLoss) -> tuple[float, float]:
        """Where the corner bends most by the drawn strip: its column, and the middle of the strip."""
        apex, middle = loss.corner.apex_m, self.height() / 2
        if self._shape is None:
            return self.column(apex), middle
        places, bulge = self._shape
        side = 1.0 if loss.corner.direction == "left" else -1.0
        lo, hi = np.searchsorted(places, [loss.corner.start_m, loss.corner.end_m]).tolist()
        near = slice(min(lo, len(places) - 1), max(hi, lo + 1))
        return self.column(float(places[near][int((side * bulge[near]).argmax())])), middle

    def _bulge_at(self, column: float) -> float:
        """How far the strip bulges at a column, −1 to 1."""
        if self._shape is None:
            return 0.0
        return float(np.interp(self.place(column), *self._shape))

    def _half(self) -> float:
        return self.height() / 2 - 27.0

    def _paint_strip(self, painter: QPainter) -> None:
        """Bulges filled by the tint of their window, and the thin line of the road."""
        comparison, theme = self._store.comparison, THEMES[self._store.session.display.theme]
        if self._shape is None or comparison is None:
            return
        places, bulge = self._shape
        middle, half = self.height() / 2, self._half()
        for loss in comparison.laps[0].corners:
            lo, hi = np.searchsorted(places, [loss.window.start_m, loss.window.end_m])
            top = [
                QPointF(self.column(p), middle - half * b)
                for p, b in zip(places[lo : hi + 1].tolist(), bulge[lo : hi + 1].tolist(), strict=True)
            ]
            if len(top) < 2:
                continue
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(tint(theme, loss.gap_s))
            painter.drawPolygon(QPolygonF([QPointF(top[0].x(), middle), *top, QPointF(top[-1].x(), middle)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.color("ink"), 1))
        painter.drawPolyline(
            QPolygonF(
                [
                    QPointF(self.column(p), middle - half * b)
                    for p, b in zip(places.tolist(), bulge.tolist(), strict=True)
                ]
            )
        )

    def _paint_number(self, painter: QPainter, loss: CornerLoss) -> QRectF:
        """The corner's number at the tip of its own bulge; where it was written."""
        x, middle = self._tip_of(loss)
        tip = middle - self._half() * self._bulge_at(x)
        up = loss.corner.direction == "left"
        top = max(tip - 19.0, 2.0) if up else min(tip + 3.0, self.height() - 18.0)
        painter.setFont(font(SMALL_PX, bold=True))
        painter.setPen(THEMES[self._store.session.display.theme].color("ink"))
        box = _box(painter, QPointF(x, top), loss.corner.shown)
        _write(painter, box, loss.corner.shown)
        return box

    def _paint_gap(self, painter: QPainter, loss: CornerLoss, numbers: list[QRectF]) -> None:
        """The corner's gap on the other side of the road, where no corner's number stands."""
        x, middle = self._tip_of(loss)
        top = middle + 6.0 if loss.corner.direction == "left" else middle - 22.0
        painter.setFont(font(SMALL_PX))
        text = difference(loss.gap_s, 2)
        box = _box(painter, QPointF(x, top), text)
        if not any(box.intersects(other) for other in numbers):
            painter.setPen(THEMES[self._store.session.display.theme].color("loss" if loss.gap_s > 0 else "gain"))
            _write(painter, box, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Move the place."""
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Drag the place along the lap."""
        if event is not None and self._shape is not None:
            place = self.place(event.position().x())
            self._store.look_at(lambda s: ops.go_to(s, place))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Fill the views with the corner under the pointer."""
        if event is None or self._shape is None:
            return
        number = self._store.session.lay.corner_at(self.place(event.position().x()))
        if number is not None:
            self._store.look_at(lambda s: ops.select_corner(s, number))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Home and End go to the line."""
        if event is not None and event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            place = 0.0 if event.key() == Qt.Key.Key_Home else self._store.session.lay.length_m
            self._store.look_at(lambda s: ops.go_to(s, place))
            return
        super().keyPressEvent(event)


def tint(theme: Theme, gap_s: float) -> QColor:
    """Orange for a loss, blue for a gain, stronger with its size; grey where there is none."""
    if abs(gap_s) < LEAST_TINT_S:
        return theme.color("rule", 150)
    strength = min(abs(gap_s) / FULL_TINT_S, 1.0)
    return theme.color("loss" if gap_s > 0 else "gain", round(70 + 185 * strength**0.7))


def _box(painter: QPainter, top: QPointF, text: str) -> QRectF:
    """The room of a text that stands in the middle under a point."""
    metrics = painter.fontMetrics()
    wide, high = metrics.horizontalAdvance(text), metrics.height()
    return QRectF(top.x() - 0.5 * wide, top.y() + 8.0 - 0.5 * high, wide, high)


def _write(painter: QPainter, box: QRectF, text: str) -> None:
    """Write a text into the room that it needs."""
    painter.drawText(box.adjusted(-2, 0, 2, 0), Qt.AlignmentFlag.AlignCenter, text)
