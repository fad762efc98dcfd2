"""The corner from above: both lines to scale with their marks, edges, landmarks, and time lost and gained along the way."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, cos, hypot, pi, sin
from typing import TYPE_CHECKING, Literal

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font
from jete.core.circuit.landmarks import Landmark
from jete.report.corner import shown_marks
from jete.report.seat import landmark_short
from jete.report.units import units_of
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.canvas import polygon

if TYPE_CHECKING:
    from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QWheelEvent

    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.causes.result import CornerLoss
    from jete.core.circuit.drawn import Drawn

MARGIN_PX = 22
GRAB_PX = 9
ZOOM = 1.25
# Shown beyond the piece that matters.
BEYOND_M = 12.0
# Time lost over so many metres makes the tint; so much of it makes the full one (s per m).
TINT_M, FULL_TINT = 15.0, 0.004
CUTS = 40
# Which marks stand on the lines, by the letter of their name.
SHOWN = {"brake_on_m": "b", "turn_in_m": "t", "slow_point_m": "s", "throttle_on_m": "p"}
ASIDE_M = 7.5
# Half of the bar across the road where a corner begins or ends.
END_M = 9.0

End = Literal["start", "end"]


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


class FromAbove(QWidget):
    """Follows the selected corner; landmarks and the corner's ends can be dragged along the road."""

    landmark_moved = pyqtSignal(object, float)
    end_moved = pyqtSignal(str, float)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._zoom, self._moved = 1.0, (0.0, 0.0)
        self._north_up = False
        self._pressed: tuple[float, float, tuple[float, float]] | None = None
        self._held: tuple[Landmark | End, float] | None = None
        self.setObjectName("from-above")
        self.setAccessibleName("The corner from above")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip(
            "Click: place. Wheel: closer or wider. Drag: move; a landmark or an end of the corner: along the road. "
            "Double click: the whole corner."
        )
        store.changed.connect(self._on_changed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Room for a bend."""
        return QSize(360, 260)

    def turn_north_up(self, north_up: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """North up, or turned with the travel."""
        self._north_up = north_up
        self.update()

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.CORNER):
            self._zoom, self._moved = 1.0, (0.0, 0.0)
        if flags & (Changed.RESULT | Changed.CORNER | Changed.PLACE | Changed.DISPLAY):
            if self.isVisible():
                self.setAccessibleDescription(self.words())
            self.update()

    def _drawn(self) -> Drawn | None:
        road = self._store.road
        return road.drawn if road is not None else None

    def piece(self) -> tuple[float, float] | None:
        """From where to where the corner is drawn, metres of the axis."""
        loss, drawn = self._store.corner, self._drawn()
        if loss is None or drawn is None:
            return None
        marks = (loss.reference_marks, loss.lap_marks)
        first = min([*(m.slowing_m for m in marks if m.slowing_m is not None), loss.corner.start_m])
        last = max([*(m.full_throttle_m for m in marks if m.full_throttle_m is not None), loss.corner.end_m])
        return max(first - BEYOND_M, 0.0), min(last + BEYOND_M, float(drawn.place_m[-1]))

    def words(self) -> str:
        """How far the lines lie apart at the place: what is painted, and read aloud."""
        drawn, place = self._drawn(), self._store.session.look.place_m
        beside = drawn.beside_m(0, place) if drawn is not None else None
        if drawn is not None and drawn.schematic:
            return "by its bends: no positions"
        if beside is None:
            return ""
        size = units_of(self._store.session.display).length_text(abs(beside), 1)
        return f"lap {size} further {'left' if beside > 0.0 else 'right'}"

    def view(self) -> View | None:
        """How metres become pixels at present."""
        piece, drawn = self.piece(), self._drawn()
        if piece is None or drawn is None:
            return None
        inside = (drawn.place_m >= piece[0]) & (drawn.place_m <= piece[1])
        x, y = drawn.reference_xy_m[inside].T
        if len(x) < 2:
            return None
        turn = 0.0 if self._north_up else 0.5 * pi - atan2(y[-1] - y[0], x[-1] - x[0])
        c, s = cos(turn), sin(turn)
        u, v = c * x - s * y, s * x + c * y
        width, height = self.width() - 2 * MARGIN_PX, self.height() - 2 * MARGIN_PX
        per_m = min(width / max(float(np.ptp(u)), 10.0), height / max(float(np.ptp(v)), 10.0))
        mu, mv = 0.5 * (u.max() + u.min()), 0.5 * (v.max() + v.min())
        middle = (c * mu + s * mv, -s * mu + c * mv)
        at = (0.5 * self.width() + self._moved[0], 0.5 * self.height() + self._moved[1])
        return View(turn, per_m * self._zoom, (float(middle[0]), float(middle[1])), at)

    # --- painting

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Road, lines, marks, landmarks, place."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view, drawn, piece, loss = self.view(), self._drawn(), self.piece(), self._store.corner
        if view is None or drawn is None or piece is None or loss is None:
            return
        self._paint_road(painter, theme, view, drawn)
        self._paint_lines(painter, theme, view, drawn, piece)
        self._paint_ends(painter, theme, view, drawn)
        self._paint_marks(painter, theme, view, drawn, loss)
        self._paint_landmarks(painter, theme, view, drawn, piece)
        self._paint_place(painter, theme, view, drawn)
        painter.setFont(font(SMALL_PX - 2))
        self._paint_scale(painter, theme, view)

    def _paint_road(self, painter: QPainter, theme: Theme, view: View, drawn: Drawn) -> None:
        """The road between its edges; those that only laps tell are dashed."""
        if drawn.edges_m is None:
            return
        left, right = (view.px(*e.T) for e in drawn.edges_m)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("faint"))
        painter.drawPolygon(
            polygon(np.concatenate([left[0], right[0][::-1]]), np.concatenate([left[1], right[1][::-1]]))
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        style = Qt.PenStyle.SolidLine if drawn.told_edges else Qt.PenStyle.DashLine
        painter.setPen(QPen(theme.color("rule"), 1, style))
        for edge in (left, right):
            painter.drawPolyline(polygon(*edge))

    def _paint_lines(
        self, painter: QPainter, theme: Theme, view: View, drawn: Drawn, piece: tuple[float, float]
    ) -> None:
        """The reference in ink, the lap over a band of time lost and gained."""
        inside = (drawn.place_m >= piece[0] - 80.0) & (drawn.place_m <= piece[1] + 80.0)
        line = drawn.laps_xy_m[0] if drawn.laps_xy_m else None
        band = drawn.reference_xy_m if line is None else line
        self._paint_time(painter, theme, view, drawn.place_m[inside], band[inside])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for xy, role in ((drawn.reference_xy_m, "reference"), (line, "lap")):
            if xy is not None:
                painter.setPen(QPen(theme.color(role), 1.6))
                painter.drawPolyline(polygon(*view.px(*xy[inside].T)))

    def _paint_time(self, painter: QPainter, theme: Theme, view: View, place: FloatArray, xy: FloatArray) -> None:
        comparison = self._store.comparison
        if comparison is None or len(place) < 3:
            return
        lap = comparison.laps[0]
        ends = np.linspace(place[0], place[-1], CUTS + 1)
        lost = np.diff(np.interp(ends, lap.trace_m, lap.trace_s)) / np.diff(ends)
        for start, end, rate in zip(ends[:-1], ends[1:], lost, strict=True):
            part = (place >= start - 2.1) & (place <= end + 2.1)
            strength = min(abs(rate) / FULL_TINT, 1.0)
            if strength < 0.08 or np.count_nonzero(part) < 2:
                continue
            color = theme.color("loss" if rate > 0.0 else "gain", round(150 * strength))
            painter.setPen(QPen(color, 7.0, cap=Qt.PenCapStyle.FlatCap))
            painter.drawPolyline(polygon(*view.px(*xy[part].T)))

    def _paint_marks(self, painter: QPainter, theme: Theme, view: View, drawn: Drawn, loss: CornerLoss) -> None:
        """Marks as short bars across each line with a letter: b brake, t turn-in, s slowest, p pick-up."""
        lines = (drawn.reference_xy_m, drawn.laps_xy_m[0] if drawn.laps_xy_m else None)
        painter.setFont(font(SMALL_PX - 2, bold=True))
        comparison = self._store.comparison
        if comparison is not None:
            loss = shown_marks(loss, (comparison.reference, comparison.laps[0].passage))
        for line, marks, role, side in zip(
            lines, (loss.reference_marks, loss.lap_marks), ("reference", "lap"), (1.0, -1.0), strict=True
        ):
            if line is None:
                continue
            for name, letter in SHOWN.items():
                place = getattr(marks, name)
                if place is not None:
                    self._paint_bar(painter, theme, view, (drawn, line), (place, letter, role, side))

    def _ends(self) -> dict[End, float]:
        """Where the corner begins and ends, the one that is being dragged where it is held."""
        loss = self._store.corner
        if loss is None or loss.corner.id is None:
            return {}
        ends: dict[End, float] = {"start": loss.corner.start_m, "end": loss.corner.end_m}
        if self._held is not None and not isinstance(self._held[0], Landmark):
            ends[self._held[0]] = self._held[1]
        return ends

    def _paint_ends(self, painter: QPainter, theme: Theme, view: View, drawn: Drawn) -> None:
        """The corner's ends as dotted bars across the road, with a knob to take hold of."""
        for place in self._ends().values():
            a, b = self._across(view, drawn, place)
            painter.setPen(QPen(theme.color("muted"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(a, b)
            painter.setPen(QPen(theme.color("muted"), 1))
            painter.setBrush(theme.color("raised"))
            painter.drawEllipse(b, 3.5, 3.5)

    def _across(self, view: View, drawn: Drawn, place: float) -> tuple[QPointF, QPointF]:
        """Both ends of a bar across the road, the knob to the right."""
        (x0, y0), (x1, y1) = drawn.point(place - 1.0), drawn.point(place + 1.0)
        long = max(hypot(x1 - x0, y1 - y0), 1e-6)
        nx, ny = -(y1 - y0) / long * END_M, (x1 - x0) / long * END_M
        x, y = 0.5 * (x0 + x1), 0.5 * (y0 + y1)
        px, py = view.px(np.array([x + nx, x - nx]), np.array([y + ny, y - ny]))
        return QPointF(float(px[0]), float(py[0])), QPointF(float(px[1]), float(py[1]))

    def _paint_bar(
        self,
        painter: QPainter,
        theme: Theme,
        view: View,
        on: tuple[Drawn, FloatArray],
        mark: tuple[float, str, str, float],
    ) -> None:
        drawn, line = on
        place, letter, role, side = mark
        a, b = drawn.point(place - 1.0, line), drawn.point(place + 1.0, line)
        (x0, x1), (y0, y1) = view.px(np.array([a[0], b[0]]), np.array([a[1], b[1]]))
        long = max(hypot(x1 - x0, y1 - y0), 1e-6)
        nx, ny = -(y1 - y0) / long * side, (x1 - x0) / long * side
        x, y = 0.5 * (x0 + x1), 0.5 * (y0 + y1)
        painter.setPen(QPen(theme.color(role), 1.6))
        painter.drawLine(QPointF(x, y), QPointF(x - 11 * nx, y - 11 * ny))
        painter.drawText(QRectF(x - 18 * nx - 8, y - 18 * ny - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, letter)

    def _landmarks(self, piece: tuple[float, float]) -> list[Landmark]:
        road = self._store.road
        found = road.circuit.book.landmarks if road is not None and road.circuit is not None else ()
        return [m for m in found if piece[0] - 40.0 <= m.circuit_m <= piece[1] + 40.0]

    def _spot(self, view: View, drawn: Drawn, mark: Landmark) -> QPointF:
        """Where a landmark is painted: beside the road on its side."""
        held = self._held[0] if self._held is not None else None
        dragged = isinstance(held, Landmark) and held.id == mark.id
        place = self._held[1] if self._held is not None and dragged else mark.circuit_m
        a, b = drawn.point(place - 1.0), drawn.point(place + 1.0)
        long = max(hypot(b[0] - a[0], b[1] - a[1]), 1e-6)
        aside = {"left": ASIDE_M, "right": -ASIDE_M}.get(mark.side, 0.0)
        x = 0.5 * (a[0] + b[0]) - (b[1] - a[1]) / long * aside
        y = 0.5 * (a[1] + b[1]) + (b[0] - a[0]) / long * aside
        px, py = view.px(np.array([x]), np.array([y]))
        return QPointF(float(px[0]), float(py[0]))

    def _paint_landmarks(
        self, painter: QPainter, theme: Theme, view: View, drawn: Drawn, piece: tuple[float, float]
    ) -> None:
        """Landmarks as small open squares with their names, where they do not cover each other."""
        painter.setFont(font(SMALL_PX - 2))
        taken: list[QRectF] = []
        for mark in self._landmarks(piece):
            spot, words = self._spot(view, drawn, mark), landmark_short(mark)
            painter.setPen(QPen(theme.color("ink"), 1))
            painter.setBrush(theme.color("raised"))
            painter.drawRect(QRectF(spot.x() - 3, spot.y() - 3, 6, 6))
            width = painter.fontMetrics().horizontalAdvance(words) + 4
            box = QRectF(
                spot.x() + 6 if spot.x() + 8 + width < self.width() else spot.x() - 8 - width, spot.y() - 8, width, 16
            )
            if not any(box.intersects(t) for t in taken):
                taken.append(box)
                painter.setPen(theme.color("muted"))
                painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_place(self, painter: QPainter, theme: Theme, view: View, drawn: Drawn) -> None:
        place = self._store.session.look.place_m
        for line, role in (
            (drawn.reference_xy_m, "reference"),
            (drawn.laps_xy_m[0] if drawn.laps_xy_m else None, "lap"),
        ):
            if line is not None:
                x, y = view.px(*(np.array([v]) for v in drawn.point(place, line)))
                painter.setPen(QPen(theme.color(role), 1.5))
                painter.setBrush(theme.color("ground"))
                painter.drawEllipse(QPointF(float(x[0]), float(y[0])), 4.5, 4.5)

    def _paint_scale(self, painter: QPainter, theme: Theme, view: View) -> None:
        """A bar of ten or fifty metres, and where north is."""
        metres = next((m for m in (10.0, 20.0, 50.0, 100.0) if m * view.px_per_m > 36.0), 200.0)
        left, y = 8.0, self.height() - 8.0
        painter.setPen(QPen(theme.color("muted"), 1))
        painter.drawLine(QPointF(left, y), QPointF(left + metres * view.px_per_m, y))
        text = units_of(self._store.session.display).length_text(metres)
        painter.drawText(QRectF(left, y - 17, 80, 16), Qt.AlignmentFlag.AlignLeft, text)
        tip = QPointF(18.0 - 11.0 * sin(view.turn_rad), 22.0 - 11.0 * cos(view.turn_rad))
        painter.drawLine(QPointF(18.0, 22.0), tip)
        painter.setBrush(theme.color("muted"))
        turned = view.turn_rad
        head = [QPointF(tip.x() + 5 * sin(turned + a), tip.y() + 5 * cos(turned + a)) for a in (0.45, -0.45)]
        painter.drawPolygon(QPolygonF([tip, *head]))
        painter.drawText(QRectF(26, 8, 16, 16), Qt.AlignmentFlag.AlignCenter, "N")

    # --- hands

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Take hold of a landmark, of an end of the corner, or of the picture."""
        view, drawn, piece = self.view(), self._drawn(), self.piece()
        if (
            event is None
            or view is None
            or drawn is None
            or piece is None
            or event.button() != Qt.MouseButton.LeftButton
        ):
            return
        at = event.position()
        self._held = self._under(at, view, drawn, piece)
        self._pressed = (at.x(), at.y(), self._moved)

    def _under(
        self, at: QPointF, view: View, drawn: Drawn, piece: tuple[float, float]
    ) -> tuple[Landmark | End, float] | None:
        """The landmark or the knob of an end under the pointer, and where it is."""
        marks = ((m, m.circuit_m, self._spot(view, drawn, m)) for m in self._landmarks(piece))
        ends = ((e, place, self._across(view, drawn, place)[1]) for e, place in self._ends().items())
        return next((h[:2] for h in (*marks, *ends) if (h[2] - at).manhattanLength() < GRAB_PX), None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Drag it."""
        view, drawn, piece = self.view(), self._drawn(), self.piece()
        if event is None or self._pressed is None or view is None or drawn is None or piece is None:
            return
        at = event.position()
        if self._held is not None:
            point = view.metres(at.x(), at.y())
            self._held = (self._held[0], drawn.nearest_m(*point, piece[0] - 40.0, piece[1] + 40.0))
        else:
            x, y, before = self._pressed
            self._moved = (before[0] + at.x() - x, before[1] + at.y() - y)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Let go of what was held where it is now; a click without a drag sets the place."""
        view, drawn, piece, pressed = self.view(), self._drawn(), self.piece(), self._pressed
        held, self._held, self._pressed = self._held, None, None
        if event is None or view is None or drawn is None or piece is None or pressed is None:
            return
        at = event.position()
        still = abs(at.x() - pressed[0]) + abs(at.y() - pressed[1]) < 4
        if held is not None and not still:
            (self.landmark_moved if isinstance(held[0], Landmark) else self.end_moved).emit(*held)
        elif still:
            place = held[1] if held is not None else drawn.nearest_m(*view.metres(at.x(), at.y()), *piece)
            self._store.look_at(lambda s: ops.go_to(s, place))

    def mouseDoubleClickEvent(self, _: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The whole corner."""
        self._zoom, self._moved = 1.0, (0.0, 0.0)
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """Closer or wider about the middle."""
        if event is not None and event.angleDelta().y():
            self._zoomed(ZOOM if event.angleDelta().y() > 0 else 1.0 / ZOOM)
            event.accept()

    def _zoomed(self, by: float) -> None:
        self._zoom = min(max(self._zoom * by, 0.4), 12.0)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Plus and minus, and Home for the whole corner."""
        keys = {Qt.Key.Key_Plus: ZOOM, Qt.Key.Key_Minus: 1.0 / ZOOM}
        if event is not None and event.key() in keys:
            self._zoomed(keys[Qt.Key(event.key())])
        elif event is not None and event.key() == Qt.Key.Key_Home:
            self.mouseDoubleClickEvent(None)
        else:
            super().keyPressEvent(event)
