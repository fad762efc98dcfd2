"""The traces of one corner: counted from its apex, the straight behind it compressed, its marks as pairs of flags.

brake     ▸───9 m earlier───▸          one row a mark: both flags, and between them how far apart they are
pick-up              ▸▸ 2 m later
─────────────────────────────────────
speed, brake, throttle … over metres from the apex | straight, compressed
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jete.app.theme import SMALL_PX, THEMES, font, scale
from jete.report.corner import shown_marks
from jete.report.marks import PLACES
from jete.report.read_off import apart_m
from jete.report.seat import landmark_short, told_apart
from jete.report.units import plain, units_of
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.canvas import polygon, ticks
from jete.views.traces.curves import Panel, since
from jete.views.traces.painter import Strip, room, rule
from jete.views.traces.piece import Piece, laid, piece_of
from jete.views.traces.widget import Traces

if TYPE_CHECKING:
    from PyQt6.QtGui import QMouseEvent, QWheelEvent

    from jete.app.store import SessionStore
    from jete.app.theme import Theme
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.circuit.landmarks import Landmark

# A row of flags.
ROW_PX = 15
# The strip of the road's height; a road that rises by less than this over the piece is level for the eye.
HEIGHT_PX, LEAST_RISE_M, LEVEL_M = 24, 2.0, 0.5
# The row of the landmarks under the panels.
LANDMARKS_PX = 17


def row_y(row: int) -> float:
    """The middle of a row of flags."""
    return 2.0 + (row + 0.5) * ROW_PX * scale()


class CornerTraces(Traces):
    """The selected corner of the comparison, large."""

    def __init__(self, store: SessionStore) -> None:
        self._piece: Piece | None = None
        self._drawn: dict[str, Panel] = {}
        self._origin_words = "apex"
        super().__init__(store)
        self.setObjectName("corner-traces")
        self.setAccessibleName("Traces of the corner, counted from its apex")
        self.setToolTip("Click or drag: place. Corner before and after: B, N.")

    def loss(self) -> CornerLoss | None:
        """The selected corner."""
        return self._store.corner

    def _load(self) -> None:
        super()._load()
        self._lay_piece()

    def _lay_piece(self) -> None:
        """Lay the panels of the selected corner on its own axis."""
        loss = self.loss()
        self._origin_words, origin = self._counted_from(loss) if loss is not None else ("apex", 0.0)
        self._piece = piece_of(loss, origin) if loss is not None else None
        self._pixmap = None
        if loss is None or self._piece is None:
            self._drawn = {}
            return
        panels = {
            n: since(p, loss.window.start_m, loss.corner.shown) if n == "gap" else p for n, p in self._panels.items()
        }
        self._drawn = {n: laid(p, self._piece) for n, p in panels.items()}

    def _counted_from(self, loss: CornerLoss) -> tuple[str, float]:
        """What metres count from: the apex, or the landmark by which the reference brakes."""
        road, mark = self._store.road, loss.reference_marks.slowing_m
        circuit = road.circuit if road is not None else None
        told = circuit.told(mark) if circuit is not None and mark is not None else None
        if self._store.session.display.from_apex or told is None:
            return "apex", loss.corner.apex_m
        return landmark_short(told.landmark), told.landmark.circuit_m

    def _on_changed(self, session: Session, flags: Changed) -> None:
        super()._on_changed(session, flags)
        if Changed.CORNER in flags and not flags & (Changed.RESULT | Changed.DISPLAY):
            self._lay_piece()
            self.update()

    def shown_panels(self) -> list[Panel]:
        """The panels of the corner; its gap begins at zero."""
        return list(self._drawn.values())

    def span(self) -> tuple[float, float]:
        """The whole piece."""
        piece = self._piece
        return (piece.start_m, piece.along(piece.end_m)) if piece is not None else (0.0, 1.0)

    def along(self, place_m: float) -> float:
        """Where a place of the lap lies on the axis that is shown."""
        return self._piece.along(place_m) if self._piece is not None else place_m

    def place_of(self, along_m: float) -> float:
        """The place of the lap that lies somewhere on the axis that is shown."""
        return self._piece.place(along_m) if self._piece is not None else along_m

    def pairs(self) -> list[tuple[str, float | None, float | None]]:
        """Each mark with the place of the reference and of the lap: the rows of flags."""
        loss = self.loss()
        if loss is None:
            return []
        comparison = self._store.comparison
        if comparison is not None:
            loss = shown_marks(loss, (comparison.reference, comparison.laps[0].passage))
        found = [(title, getattr(loss.reference_marks, n), getattr(loss.lap_marks, n)) for n, title in PLACES]
        return [f for f in found if f[1] is not None or f[2] is not None]

    def top_px(self) -> float:
        """Room for the rows of flags."""
        return 4.0 + ROW_PX * scale() * max(len(self.pairs()), 1)

    def _paint_corners(self, painter: QPainter, strips: list[Strip]) -> None:
        """The rows of flags, and faint rules where the apex lies and where the compression begins."""
        theme, frame = THEMES[self._store.session.display.theme], self.frame()
        if self._piece is None or not strips:
            return
        for place, role in ((self._piece.origin_m, "rule"), (self._piece.bend_m, "faint")):
            x = frame.x(self.along(place))
            if frame.left < x < frame.right:
                rule(painter, theme.color(role), QPointF(x, self.top_px()), QPointF(x, strips[-1].bottom))
        for row, (title, reference, lap) in enumerate(self.pairs()):
            self._paint_pair(painter, theme, (row_y(row), title), (reference, lap))

    def _paint_pair(
        self, painter: QPainter, theme: Theme, row: tuple[float, str], places: tuple[float | None, float | None]
    ) -> None:
        """One mark: both flags, the line between them, and how far apart they are in words."""
        y, title = row
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        painter.drawText(
            QRectF(0, y - 9 * scale(), room().left - 10, 18 * scale()),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            title,
        )
        frame = self.frame()
        # A turn-in may lie before the piece that is shown: its flag stands at the edge.
        columns = [None if p is None else max(frame.x(self.along(p)), frame.left) for p in places]
        for x, role in zip(columns, ("reference", "lap"), strict=True):
            if x is not None:
                painter.setPen(QPen(theme.color(role), 1))
                painter.setBrush(theme.color(role))
                painter.drawPolygon(QPolygonF([QPointF(x, y - 5), QPointF(x + 6, y), QPointF(x, y + 5)]))
        self._paint_apart(painter, theme, y, (columns, places))

    def _paint_apart(
        self,
        painter: QPainter,
        theme: Theme,
        y: float,
        pair: tuple[list[float | None], tuple[float | None, float | None]],
    ) -> None:
        (columns, (reference, lap)), frame = pair, self.frame()
        if columns[0] is None or columns[1] is None or reference is None or lap is None:
            text, right = (
                "the reference only" if lap is None else "this lap only",
                max(c for c in columns if c is not None),
            )
        else:
            units = units_of(self._store.session.display)
            apart = apart_m(reference, lap, units)
            later = f"{units.length_text(abs(apart))} {'later' if apart > 0.0 else 'earlier'}"
            text = later if apart else "at the same place"
            right = max(columns[0], columns[1])
            painter.setPen(QPen(theme.color("muted"), 1))
            painter.drawLine(QPointF(min(columns[0], columns[1]) + 6, y), QPointF(right, y))
        painter.setPen(theme.color("ink"))
        width = painter.fontMetrics().horizontalAdvance(text)
        left = right + 10.0
        if left + 4 + width > self.width() - 4:
            left = min(c for c in columns if c is not None) - width - 8
        # Never over the mark's own name.
        if left < frame.left:
            return
        painter.drawText(
            QRectF(left, y - 9 * scale(), width + 4, 18 * scale()),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            text,
        )

    def _paint_axis(self, painter: QPainter) -> None:
        """Metres from the apex; the compressed straight says how long it is; landmarks as ticks."""
        theme, frame, piece = THEMES[self._store.session.display.theme], self.frame(), self._piece
        if piece is None:
            return
        units = units_of(self._store.session.display)
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        y, per_unit = self.height() - room().axis, units.length_of(1.0)
        count = max(2, int((frame.x(piece.bend_m) - frame.left) / (64 * scale())))
        for value in ticks(
            (piece.start_m - piece.origin_m) * per_unit, (piece.bend_m - piece.origin_m) * per_unit, count
        ):
            x = frame.x(self.along(piece.origin_m + value / per_unit))
            painter.drawText(
                QRectF(x - 40, y, 80, room().axis),
                Qt.AlignmentFlag.AlignCenter,
                self._origin_words if value == 0.0 else plain(value, 0),
            )
        if piece.share < 1.0:
            left = frame.x(piece.bend_m) + 4
            short = f"+{units.length_text(piece.end_m - piece.bend_m)}"
            wide, whole = frame.right + room().right - left, f"{short} of straight"
            text = whole if painter.fontMetrics().horizontalAdvance(whole) <= wide else short
            box = QRectF(left, y, wide, room().axis)
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        self._paint_landmarks(painter, theme)
        self._paint_height(painter, theme)

    def floor_px(self) -> float:
        """Room for the landmarks and for the road's height, where they are known."""
        road = self._store.road
        known = road is not None and road.profile is not None and road.profile.source == "altitude"
        return LANDMARKS_PX * scale() * bool(self._landmarks()) + (HEIGHT_PX * scale() if known else 0.0)

    def _paint_height(self, painter: QPainter, theme: Theme) -> None:
        """The road's height as a thin profile under the panels, with how much it goes up or down."""
        road, piece, frame = self._store.road, self._piece, self.frame()
        if road is None or road.profile is None or piece is None or road.profile.source != "altitude":
            return
        places = np.linspace(piece.start_m, piece.end_m, 120)
        height = np.interp(places, road.profile.place_m, road.profile.height_m)
        top, room_px = self.height() - room().axis - HEIGHT_PX * scale() + 2, HEIGHT_PX * scale() - 6
        rise = max(float(np.ptp(height)), LEAST_RISE_M)
        x = np.array([frame.x(self.along(p)) for p in places.tolist()])
        y = top + room_px - (height - float(height.min())) / rise * room_px
        painter.setPen(QPen(theme.color("muted"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(polygon(x, y))
        painter.setFont(font(SMALL_PX))
        fall, words = float(np.ptp(height)), units_of(self._store.session.display).length_text(float(np.ptp(height)), 1)
        title = "level" if fall < LEVEL_M else f"height {words}"
        painter.drawText(
            QRectF(frame.right + 8, top - 4, room().right, 16 * scale()), Qt.AlignmentFlag.AlignLeft, title
        )

    def _paint_landmarks(self, painter: QPainter, theme: Theme) -> None:
        """Landmarks as short ticks under the panels, named where there is room."""
        frame, marks = self.frame(), self._landmarks()
        if not self._strips or not marks:
            return
        painter.setFont(font(SMALL_PX))
        floor, free = self._strips[-1].bottom, frame.left
        for mark, words in zip(marks, told_apart(marks, units_of(self._store.session.display)), strict=True):
            x = frame.x(self.along(mark.circuit_m))
            rule(painter, theme.color("muted"), QPointF(x, floor), QPointF(x, floor + 6))
            width = painter.fontMetrics().horizontalAdvance(words)
            if x + 4 >= free and x + width + 4 < frame.right:
                painter.setPen(theme.color("muted"))
                painter.drawText(QPointF(x + 4, floor + 13 * scale()), words)
                free = x + width + 12

    def _landmarks(self) -> list[Landmark]:
        """The landmarks of the piece, in order."""
        road, piece = self._store.road, self._piece
        if road is None or road.circuit is None or piece is None:
            return []
        return [m for m in road.circuit.book.landmarks if piece.start_m <= m.circuit_m <= piece.bend_m]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Drag the place."""
        if event is not None and self._pressed is not None:
            place = self.place_of(self.frame().place(event.position().x()))
            self._go_to(place)

    def _go_to(self, place_m: float) -> None:
        """Move the place within the corner that is shown: another corner is not chosen by a slip of the hand."""
        loss = self.loss()
        if loss is None:
            return
        inside = float(np.clip(place_m, loss.window.start_m, np.nextafter(loss.window.end_m, 0.0)))
        self._store.look_at(lambda s: ops.go_to(s, inside))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """A click sets the place."""
        if event is not None and self._pressed is not None:
            self._go_to(self.place_of(self.frame().place(event.position().x())))
        self._pressed = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The same as a click: the piece is always whole."""

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """The next corner, or the one before."""
        if event is not None and event.angleDelta().y():
            step = -1 if event.angleDelta().y() > 0 else 1
            self._store.look_at(lambda s: ops.step_corner(s, step))
            event.accept()
