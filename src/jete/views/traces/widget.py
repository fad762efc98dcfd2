"""The traces: panels of both laps with one place line, zoom, pan and a read-out."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import BODY_PX, SMALL_PX, THEMES, font, scale
from jete.report.read_off import apart
from jete.report.shown import offered, sensible, shown
from jete.report.units import plain, signed, units_of
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views import canvas
from jete.views.canvas import ticks
from jete.views.following import Following
from jete.views.traces.curves import Panel, panels_of, since
from jete.views.traces.painter import Frame, Strip, paint, room, rule

if TYPE_CHECKING:
    from PyQt6.QtGui import QMouseEvent, QPaintEvent, QResizeEvent, QWheelEvent

    from jete.app.store import SessionStore

DRAG_PX = 4
ZOOM = 0.8
# A lower panel says nothing.
LEAST_PANEL_PX = 14.0


class Traces(QWidget):
    """Draws from the store and moves place and range in it.

    The panels are painted into a pixmap, and their rows kept, when range, size, theme or
    data change; the place line and the read-out are painted over it.
    """

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._panels: dict[str, Panel] = {}
        self._gap: tuple[tuple[int, float], Panel] | None = None
        self._pixmap: QPixmap | None = None
        self._strips: list[Strip] = []
        self._pressed: tuple[float, float, float] | None = None
        self._dragged = False
        self.setObjectName("traces")
        self.setAccessibleName("Traces of both laps over distance")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip("Wheel: closer or wider. Drag: move. Click: place. Double click: the whole lap (W).")
        Following(self, store, self._on_changed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Room for all panels."""
        return QSize(620, 520)

    def shown_panels(self) -> list[Panel]:
        """The panels in their order; where one corner is shown, its gap begins at zero."""
        return [self._since_corner(p) if p.name == "gap" else p for p in self._panels.values()]

    def _since_corner(self, gap: Panel) -> Panel:
        session = self._store.session
        look, corner = session.look, session.lay.corner(session.look.corner)
        if corner is None or look.start_m < corner.start_m - 1.0 or look.end_m > corner.end_m + 1.0:
            return gap
        if self._gap is None or self._gap[0] != (corner.number, corner.start_m):
            self._gap = (corner.number, corner.start_m), since(gap, corner.start_m, corner.label)
        return self._gap[1]

    def span(self) -> tuple[float, float]:
        """From where to where the axis is shown, in its own metres."""
        look = self._store.session.look
        return look.start_m, max(look.end_m, look.start_m + 1.0)

    def along(self, place_m: float) -> float:
        """Where a place of the lap lies on the axis that is shown."""
        return place_m

    def place_of(self, along_m: float) -> float:
        """The place of the lap that lies somewhere on the axis that is shown."""
        return along_m

    def top_px(self) -> float:
        """Room above the panels."""
        return 2.0 + room().numbers

    def floor_px(self) -> float:
        """Room between the panels and the axis."""
        return 0.0

    def frame(self) -> Frame:
        """Where the axis lies at present."""
        return Frame(room().left, max(self.width() - room().right, room().left + 50), *self.span())

    def strips(self) -> list[Strip]:
        """The panels' rows at the present size."""
        panels = self._with_room(self.shown_panels())
        # What was not logged keeps its title, and leaves its room to the others.
        weights = [0.0 if p.empty else shown(p.name).weight for p in panels]
        total = sum(weights) or 1.0
        titles = room().line * sum(p.empty for p in panels)
        free = self.height() - room().axis - room().head * len(panels) - titles - self.top_px() - self.floor_px() - 2
        out, top = [], self.top_px()
        for panel, weight in zip(panels, weights, strict=True):
            height = max(free * weight / total, room().line if panel.empty else 12.0)
            out.append(Strip(panel, top + room().head, top + room().head + height, *panel.bounds(*self.span())))
            top += room().head + height
        return out

    def _with_room(self, panels: list[Panel]) -> list[Panel]:
        """As many panels as can be read at the present height: the last ones go first."""
        free = self.height() - room().axis - self.top_px() - self.floor_px() - 2
        return panels[: max(int(free / (room().head + LEAST_PANEL_PX * scale())), 1)]

    def read_out(self) -> list[tuple[str, float | None, float | None]]:
        """Panel, reference's and lap's value at the place: what is painted, and read aloud."""
        place = self.along(self._store.session.look.place_m)
        return [
            (p.name, p.reference.at(place) if p.reference else None, p.lap.at(place) if p.lap else None)
            for p in self.shown_panels()
        ]

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY):
            self._load()
        if flags & (Changed.RESULT | Changed.DISPLAY | Changed.RANGE):
            self._pixmap = None
        if flags & (Changed.RESULT | Changed.DISPLAY | Changed.RANGE | Changed.PLACE | Changed.CORNER):
            self.setAccessibleDescription(self._spoken())
            self.update()

    def _load(self) -> None:
        comparison, session = self._store.comparison, self._store.session
        self._gap = None
        if comparison is None:
            self._panels = {}
            return
        laps = [comparison.reference.lap, *(c.passage.lap for c in comparison.laps)]
        kind = ops.vehicle_kind(session)
        names = [n for n in session.display.panels_for(kind) if n in offered(laps)] or sensible(kind, laps)
        self._panels = panels_of(comparison, units_of(session.display), names)

    def _spoken(self) -> str:
        values = (
            f"{shown(n).title} {'' if a is None else plain(a, 1)} {'' if b is None else plain(b, 1)}"
            for n, a, b in self.read_out()
        )
        return f"At {self._store.session.look.place_m:.0f} m: " + "; ".join(values)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """The panels are painted anew at another size."""
        self._pixmap = None
        super().resizeEvent(event)

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Panels from the pixmap, place line and read-out over them."""
        theme = THEMES[self._store.session.display.theme]
        painter = QPainter(self)
        if not self._panels:
            painter.setPen(theme.color("muted"))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "Choose a reference and a lap to see their traces."
            )
            return
        if self._pixmap is None:
            self._pixmap = self._painted()
        painter.drawPixmap(0, 0, self._pixmap)
        self._paint_place(painter)

    def _painted(self) -> QPixmap:
        """All panels at the screen's own resolution."""
        theme = THEMES[self._store.session.display.theme]
        pixmap = canvas.blank(self, theme.color("ground"))
        painter = QPainter(pixmap)
        strips = self._strips = self.strips()
        self._paint_corners(painter, strips)
        paint(painter, theme, self.frame(), strips)
        self._paint_axis(painter)
        painter.end()
        return pixmap

    def _paint_corners(self, painter: QPainter, strips: list[Strip]) -> None:
        """Thin rules where the windows of the corners begin, and their numbers on top."""
        theme, frame, session = THEMES[self._store.session.display.theme], self.frame(), self._store.session
        if not strips:
            return
        painter.setFont(font(SMALL_PX))
        free = 0.0
        for corner in session.lay.corners:
            x = frame.x(corner.start_m)
            if frame.left < x < frame.right:
                rule(painter, theme.color("faint"), QPointF(x, strips[0].top), QPointF(x, strips[-1].bottom))
            apex = frame.x(corner.apex_m)
            half = 0.5 * painter.fontMetrics().horizontalAdvance(corner.label)
            if frame.left + 8 < apex < frame.right - 8 and apex - half >= free:
                free = apex + half + 3.0
                painter.setPen(theme.color("muted"))
                painter.drawText(QRectF(apex - 16, 2, 32, room().numbers), Qt.AlignmentFlag.AlignCenter, corner.label)

    def _paint_axis(self, painter: QPainter) -> None:
        """Distances under the panels, in the chosen unit."""
        theme, frame = THEMES[self._store.session.display.theme], self.frame()
        units = units_of(self._store.session.display)
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        y = self.height() - room().axis
        per_unit, after = units.length_of(1.0), frame.right + 8.0
        for value in ticks(
            frame.start_m * per_unit, frame.end_m * per_unit, max(2, int((frame.right - frame.left) / (90 * scale())))
        ):
            x, text = frame.x(value / per_unit), plain(value, 0)
            painter.drawText(QRectF(x - 60, y, 120, room().axis), Qt.AlignmentFlag.AlignCenter, text)
            after = max(after, x + 0.5 * painter.fontMetrics().horizontalAdvance(text) + 4.0)
        painter.drawText(
            QRectF(after, y, room().right - 10, room().axis),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            units.length,
        )

    def _paint_place(self, painter: QPainter) -> None:
        """The place line, and both laps' values with their difference to the right."""
        theme, frame, look = THEMES[self._store.session.display.theme], self.frame(), self._store.session.look
        strips = self._strips
        if not strips:
            return
        x = frame.x(self.along(look.place_m))
        if frame.left <= x <= frame.right:
            painter.setPen(QPen(theme.color("ink"), 1))
            painter.drawLine(QPointF(x, strips[0].top - 2), QPointF(x, strips[-1].bottom + 3))
        for strip in strips:
            self._paint_values(painter, strip, self.along(look.place_m))

    def _paint_values(self, painter: QPainter, strip: Strip, place: float) -> None:
        theme, panel = THEMES[self._store.session.display.theme], strip.panel
        lines: list[tuple[str, QColor]] = []
        if panel.name == "gap" and panel.lap:
            value = panel.lap.at(place)
            lines = [
                (signed(value, 3), theme.color("muted" if abs(value) < 0.0005 else "loss" if value > 0 else "gain"))
            ]
        else:
            values = [line.at(place) if line else None for line in (panel.reference, panel.lap)]
            lines = [
                (plain(v, panel.digits), theme.color(r))
                for v, r in zip(values, ("reference", "lap"), strict=True)
                if v is not None
            ]
            if values[0] is not None and values[1] is not None:
                lines.append((signed(apart(values[0], values[1], panel.digits), panel.digits), theme.color("muted")))
        self._paint_column(painter, strip, lines)

    def _paint_column(self, painter: QPainter, strip: Strip, lines: list[tuple[str, QColor]]) -> None:
        """Values one under the other beside their own panel; what has no room there is left out, the reference's first."""
        painter.setFont(font(BODY_PX))
        fit = max(int((strip.bottom - strip.top + room().head) / room().line), 1)
        top = strip.top - room().head / 2
        for k, (text, color) in enumerate(lines[-fit:] if fit > 1 else lines[1:2] or lines[:1]):
            painter.setPen(color)
            box = QRectF(self.width() - room().right + 8, top + room().line * k, room().right - 18, room().line)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Begin a click or a drag."""
        if event and event.button() == Qt.MouseButton.LeftButton and self._panels:
            look = self._store.session.look
            self._pressed, self._dragged = (event.position().x(), look.start_m, look.end_m), False

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Pan while dragging."""
        if event is None or self._pressed is None:
            return
        x, start, end = self._pressed
        moved = event.position().x() - x
        if self._dragged or abs(moved) > DRAG_PX:
            self._dragged = True
            by = -moved * self.frame().metres_per_px
            self._store.look_at(lambda s: ops.show_range(s, start + by, end + by))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """A click without a drag sets the place."""
        if event and self._pressed is not None and not self._dragged:
            place = self.place_of(self.frame().place(event.position().x()))
            self._store.look_at(lambda s: ops.go_to(s, place))
        self._pressed = None

    def mouseDoubleClickEvent(self, _: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The whole lap."""
        self._store.look_at(ops.show_whole)

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """Zoom about the pointer."""
        if event is None or not self._panels:
            return
        about = self.frame().place(event.position().x())
        factor = ZOOM if event.angleDelta().y() > 0 else 1.0 / ZOOM
        self._store.look_at(lambda s: ops.zoom(s, about, factor))
        event.accept()
