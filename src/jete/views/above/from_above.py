"""The corner from above: both lines, drawn apart, with their marks, edges, landmarks, and time lost and gained along the way."""

from __future__ import annotations

from math import atan2, cos, pi, sin
from typing import TYPE_CHECKING, Literal

import numpy as np
from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import THEMES
from jete.core.circuit.drawn import widened
from jete.core.circuit.landmarks import Landmark
from jete.report.corner import shown_marks
from jete.report.seat import told_apart
from jete.report.units import units_of
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views import canvas
from jete.views.above.plan import Plan, View
from jete.views.following import Following

if TYPE_CHECKING:
    from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent, QWheelEvent

    from jete.app.store import SessionStore
    from jete.app.theme import Theme
    from jete.core.arrays import FloatArray
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.circuit.drawn import Drawn

MARGIN_PX = 22
GRAB_PX = 9
ZOOM = 1.25
# Shown beyond the piece that matters.
BEYOND_M = 12.0
ASIDE_M = 2.5
# What lies beside the road's middle is drawn so many times as far out, at the most.
WIDER = 3.0

End = Literal["start", "end"]


class FromAbove(QWidget):
    """Follows the selected corner; landmarks and the corner's ends can be dragged along the road."""

    landmark_moved = pyqtSignal(object, float)
    end_moved = pyqtSignal(str, float)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._zoom, self._moved = 1.0, (0.0, 0.0)
        self._north_up = False
        self._pixmap: QPixmap | None = None
        self._wide: tuple[Drawn, tuple[float, float], Drawn, float] | None = None
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
        Following(self, store, self._on_changed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Room for a bend."""
        return QSize(360, 260)

    def turn_north_up(self, north_up: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """North up, or turned with the travel: to the right, as in the traces, or upwards where there is more room."""
        self._north_up = north_up
        self.paint_anew()

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.CORNER):
            self._zoom, self._moved = 1.0, (0.0, 0.0)
        if flags & (Changed.RESULT | Changed.CORNER | Changed.DISPLAY):
            self._pixmap = None
        if flags & (Changed.RESULT | Changed.CORNER | Changed.PLACE | Changed.DISPLAY):
            self.setAccessibleDescription(self.words())
            self.update()

    def paint_anew(self) -> None:
        """Paint all of it again."""
        self._pixmap = None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Painted anew at another size."""
        self._pixmap = None
        super().resizeEvent(event)

    def loss(self) -> CornerLoss | None:
        """The corner that is drawn."""
        return self._store.corner

    def _true(self) -> Drawn | None:
        """The lines to scale."""
        road = self._store.road
        return road.drawn if road is not None else None

    def _drawn(self) -> Drawn | None:
        """The lines as they are drawn: farther apart than they are."""
        true, piece = self._true(), self.piece()
        if true is None or piece is None:
            return None
        if self._wide is None or self._wide[0] is not true or self._wide[1] != piece:
            self._wide = true, piece, *widened(true, WIDER, *piece)
        return self._wide[2]

    @property
    def wider(self) -> float:
        """How many times as far apart they are drawn."""
        return self._wide[3] if self._wide is not None else 1.0

    def piece(self) -> tuple[float, float] | None:
        """From where to where the corner is drawn, metres of the axis."""
        loss, drawn = self.loss(), self._true()
        if loss is None or drawn is None:
            return None
        marks = (loss.reference_marks, loss.lap_marks)
        first = min([*(m.slowing_m for m in marks if m.slowing_m is not None), loss.corner.start_m])
        last = max([*(m.full_throttle_m for m in marks if m.full_throttle_m is not None), loss.corner.end_m])
        return max(first - BEYOND_M, 0.0), min(last + BEYOND_M, float(drawn.place_m[-1]))

    def words(self) -> str:
        """How far the lines lie apart at the place: what is painted, and read aloud."""
        drawn, place = self._true(), self._store.session.look.place_m
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
        if np.count_nonzero(inside) < 2:
            return None
        shown = drawn.edges_m if drawn.edges_m is not None else (drawn.reference_xy_m,)
        x, y = np.concatenate([line[inside] for line in shown]).T
        first, last = drawn.reference_xy_m[inside][[0, -1]]
        turn = 0.0 if self._north_up else self._turn(x, y, atan2(last[1] - first[1], last[0] - first[0]))
        c, s = cos(turn), sin(turn)
        u, v = c * x - s * y, s * x + c * y
        width, height = self.width() - 2 * MARGIN_PX, self.height() - 2 * MARGIN_PX
        per_m = min(width / max(float(np.ptp(u)), 10.0), height / max(float(np.ptp(v)), 10.0))
        mu, mv = 0.5 * (u.max() + u.min()), 0.5 * (v.max() + v.min())
        middle = (c * mu + s * mv, -s * mu + c * mv)
        at = (0.5 * self.width() + self._moved[0], 0.5 * self.height() + self._moved[1])
        return View(turn, per_m * self._zoom, (float(middle[0]), float(middle[1])), at)

    def _turn(self, x: FloatArray, y: FloatArray, travel: float) -> float:
        """How the picture is turned: with the travel to the right or upwards, whichever lets the corner be larger."""
        width, height = self.width() - 2 * MARGIN_PX, self.height() - 2 * MARGIN_PX

        def scale_of(turn: float) -> float:
            c, s = cos(turn), sin(turn)
            return min(width / max(float(np.ptp(c * x - s * y)), 1.0), height / max(float(np.ptp(s * x + c * y)), 1.0))

        return max((-travel, 0.5 * pi - travel), key=scale_of)

    # --- painting

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The picture from its pixmap, the place over it."""
        theme, painter, view, drawn = (
            THEMES[self._store.session.display.theme],
            QPainter(self),
            self.view(),
            self._drawn(),
        )
        if view is None or drawn is None:
            return
        if self._pixmap is None:
            self._pixmap = canvas.blank(self, theme.color("ground"))
            inner = QPainter(self._pixmap)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_corner(inner, theme, view, drawn)
            inner.end()
        painter.drawPixmap(0, 0, self._pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        Plan(painter, theme, view, drawn).place(self._store.session.look.place_m)

    def _paint_corner(self, painter: QPainter, theme: Theme, view: View, drawn: Drawn) -> None:
        """Road, lines, marks, landmarks."""
        piece, loss = self.piece(), self.loss()
        if piece is None or loss is None:
            return
        plan, comparison = Plan(painter, theme, view, drawn), self._store.comparison
        units = units_of(self._store.session.display)
        plan.road()
        plan.lines(piece, comparison.laps[0] if comparison is not None else None)
        plan.ends(self._ends().values())
        if comparison is not None:
            loss = shown_marks(loss, (comparison.reference, comparison.laps[0].passage))
        marks = self._landmarks(piece)
        spots = [self._spot(view, drawn, m) for m in marks]
        plan.scale(self.height(), units, self.wider)
        plan.squares(spots)
        plan.marks(loss)
        plan.landmarks(zip(spots, told_apart(marks, units), strict=True), self.width())

    def _ends(self) -> dict[End, float]:
        """Where the corner begins and ends, the one that is being dragged where it is held."""
        loss = self.loss()
        if loss is None or loss.corner.id is None:
            return {}
        ends: dict[End, float] = {"start": loss.corner.start_m, "end": loss.corner.end_m}
        if self._held is not None and not isinstance(self._held[0], Landmark):
            ends[self._held[0]] = self._held[1]
        return ends

    def _landmarks(self, piece: tuple[float, float]) -> list[Landmark]:
        road = self._store.road
        found = road.circuit.book.landmarks if road is not None and road.circuit is not None else ()
        return [m for m in found if piece[0] - 40.0 <= m.circuit_m <= piece[1] + 40.0]

    def _spot(self, view: View, drawn: Drawn, mark: Landmark) -> QPointF:
        """Where a landmark is painted: beside the road on its side."""
        held = self._held[0] if self._held is not None else None
        dragged = isinstance(held, Landmark) and held.id == mark.id
        place = self._held[1] if self._held is not None and dragged else mark.circuit_m
        x, y = drawn.beside(place, mark.side, ASIDE_M * self.wider)
        px, py = view.px(np.array([x]), np.array([y]))
        return QPointF(float(px[0]), float(py[0]))

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
        ends = ((e, place, view.across(drawn, place)[1]) for e, place in self._ends().items())
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
        self.paint_anew()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Let go of what was held where it is now; a click without a drag sets the place."""
        view, drawn, piece, pressed = self.view(), self._drawn(), self.piece(), self._pressed
        held, self._held, self._pressed = self._held, None, None
        if held is not None:
            self.paint_anew()
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
        self.paint_anew()

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """Closer or wider about the middle."""
        if event is not None and event.angleDelta().y():
            self._zoomed(ZOOM if event.angleDelta().y() > 0 else 1.0 / ZOOM)
            event.accept()

    def _zoomed(self, by: float) -> None:
        self._zoom = min(max(self._zoom * by, 0.4), 12.0)
        self.paint_anew()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Plus and minus, and Home for the whole corner."""
        keys = {Qt.Key.Key_Plus: ZOOM, Qt.Key.Key_Minus: 1.0 / ZOOM}
        if event is not None and event.key() in keys:
            self._zoomed(keys[Qt.Key(event.key())])
        elif event is not None and event.key() == Qt.Key.Key_Home:
            self.mouseDoubleClickEvent(None)
        else:
            super().keyPressEvent(event)
