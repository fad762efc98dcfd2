"""The best laps of all runs of a circuit and class in order of time, a line a driver; a run that is clicked is shown."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font, scale
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.following import Following
from jete.views.labels import tip
from jete.views.laps.chart import LEAST_PX, round_values, rules_in

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent

    from jete.app.store import SessionStore
    from jete.session.state import Run

LEFT, RIGHT, TOP, BOTTOM = 70.0, 120.0, 12.0, 24.0
DOT, HIT_PX = 4.0, 12.0
ROOM = 0.12


@dataclass(frozen=True)
class RunDot:
    """One run: its place in order of time, its best lap."""

    run: Run
    at: int
    best_s: float


def dots_of(runs: Iterable[Run], shown: Run) -> list[RunDot]:
    """The runs of a run's circuit, layout and class that have a lap that counts, in order of time."""
    alike = [r for r in runs if r.place == shown.place and r.sheet.group == shown.sheet.group and r.best is not None]
    return [RunDot(r, k, r.best.time_s) for k, r in enumerate(ops.in_order_of_time(alike)) if r.best is not None]


class RunsChart(QWidget):
    """Paints all runs like the shown one; Up and Down go from run to run."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.dots: list[RunDot] = []
        self._span = (0.0, 1.0)
        self.setObjectName("runs-chart")
        self.setAccessibleName("Best laps of all runs here, in order of time")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(LEAST_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        Following(self, store, self._on_changed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Wide, and as high as there is room."""
        return QSize(420, 170)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.SHELF | Changed.CHOICE | Changed.DISPLAY):
            shown = ops.shown_run(session)
            self.dots = dots_of(session.runs, shown) if shown is not None else []
            times = [d.best_s for d in self.dots] or [0.0]
            room = ROOM * max(max(times) - min(times), 0.2)
            self._span = min(times) - room, max(times) + room
            self.setAccessibleDescription("; ".join(words_of(d) for d in self.dots))
            self.update()

    # --- painting

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Axis, the other drivers' lines, the shown driver's over them."""
        shown = ops.shown_run(self._store.session)
        if not self.dots or shown is None:
            return
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_axis(painter, theme)
        drivers = dict.fromkeys(d.run.sheet.driver for d in self.dots)
        names: list[QRectF] = []
        for driver in sorted(drivers, key=lambda d: d == shown.sheet.driver, reverse=True):
            own = [d for d in self.dots if d.run.sheet.driver == driver]
            self._paint_driver(painter, theme, own, names, own_line=driver == shown.sheet.driver)
        here = next((d for d in self.dots if d.run.number == shown.number), None)
        if here is not None:
            painter.setPen(QPen(theme.color("lap"), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self._point(here), DOT + 3.0, DOT + 3.0)

    def _point(self, dot: RunDot) -> QPointF:
        low, high = self._span
        wide, tall = self.width() - LEFT - RIGHT * scale(), self.height() - TOP - BOTTOM
        return QPointF(
            LEFT + (dot.at + 0.5) / len(self.dots) * wide,
            self.height() - BOTTOM - (dot.best_s - low) / (high - low) * tall,
        )

    def _paint_axis(self, painter: QPainter, theme: Theme) -> None:
        """Round times to the left; below, where a day begins, its date."""
        low, high = self._span
        painter.setFont(font(SMALL_PX))
        right = self.width() - RIGHT * scale()
        for value in round_values(low, high, rules_in(self.height() - TOP - BOTTOM)):
            y = self.height() - BOTTOM - (value - low) / (high - low) * (self.height() - TOP - BOTTOM)
            painter.fillRect(QRectF(LEFT, round(y), right - LEFT, 1), theme.color("faint"))
            painter.setPen(theme.color("muted"))
            box = QRectF(0, y - 9, LEFT - 8, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, lap_time(value)[:-2])
        free, day = 0.0, None
        for dot in self.dots:
            x, text = self._point(dot).x(), dot.run.sheet.date or "no date"
            wide = painter.fontMetrics().horizontalAdvance(text)
            if text != day and x - 8.0 >= free:
                painter.drawText(QPointF(x - 8.0, self.height() - 6.0), text)
                free = x + wide + 8.0
            day = text

    def _paint_driver(
        self, painter: QPainter, theme: Theme, own: Sequence[RunDot], names: list[QRectF], *, own_line: bool
    ) -> None:
        """A driver's runs as dots on a line, with the name behind the last where it covers no other."""
        color = theme.color("ink" if own_line else "muted")
        painter.setPen(QPen(theme.color("ink" if own_line else "rule"), 1.2))
        painter.drawPolyline(QPolygonF([self._point(d) for d in own]))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        for dot in own:
            painter.drawEllipse(self._point(dot), DOT, DOT)
        painter.setPen(color)
        painter.setFont(font(SMALL_PX, bold=own_line))
        name = own[-1].run.sheet.driver or "nobody noted"
        right, high = self.width() - RIGHT * scale() + 6.0, painter.fontMetrics().height()
        box = QRectF(right, self._point(own[-1]).y() - 0.5 * high, RIGHT * scale() - 8.0, high)
        if not any(box.intersects(other) for other in names):
            names.append(box)
            cut = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, round(box.width()))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, cut)

    # --- hands

    def _near(self, at: QPointF) -> RunDot | None:
        found = min(self.dots, key=lambda d: (self._point(d) - at).manhattanLength(), default=None)
        return found if found is not None and (self._point(found) - at).manhattanLength() < HIT_PX else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The run that a dot stands for, in words."""
        near = self._near(event.position()) if event is not None else None
        if event is not None and near is not None:
            QToolTip.showText(event.globalPosition().toPoint(), tip(words_of(near)), self)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Show a run."""
        near = self._near(event.position()) if event is not None else None
        if near is not None:
            self._store.look_at(lambda s: ops.select_run(s, near.run.number))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """The run before, or the next."""
        shown, steps = ops.shown_run(self._store.session), {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        at = next((d.at for d in self.dots if shown is not None and d.run.number == shown.number), None)
        if event is None or event.key() not in steps or at is None:
            super().keyPressEvent(event)
            return
        number = self.dots[(at + steps[Qt.Key(event.key())]) % len(self.dots)].run.number
        self._store.look_at(lambda s: ops.select_run(s, number))


def words_of(dot: RunDot) -> str:
    """A run as a line."""
    sheet = dot.run.sheet
    parts = (f"{sheet.date} {sheet.time}".strip(), sheet.driver, lap_time(dot.best_s), sheet.condition, sheet.tyres)
    return " · ".join(p for p in parts if p)
