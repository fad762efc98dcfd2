"""All passes of the corner as dots of any two of their numbers; a dot that is clicked is looked at."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font, scale
from jete.report.passes import number_of, title_of
from jete.report.units import Units, plain, units_of
from jete.views import canvas
from jete.views.canvas import ticks
from jete.views.corner.pass_dot import FILLED, HIT_PX, Way, paint_pass

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent

    from jete.app.store import SessionStore
    from jete.library.pass_book import KeptPass

MARGINS = (46, 10, 34, 14)
# Numbers at the axis stand no nearer to each other.
NEAREST_PX = 16
# A few wild passes must not press all others together: the axes hold all but these.
WILD_SHARE = 0.02


class Dots(QWidget):
    """Paints passes; those of the two compared laps are ringed in their colours."""

    chosen = pyqtSignal(object)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._passes: Sequence[KeptPass] = ()
        self._ways: Sequence[Way] = ()
        self._points: list[tuple[QPointF, KeptPass]] = []
        self._at = -1
        self._pixmap: QPixmap | None = None
        self.setObjectName("dots")
        self.setAccessibleName("All passes of the corner")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self.setToolTip("Click a dot to compare that lap. Up, Down: from dot to dot; Enter: compare it.")

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Room for a cloud."""
        return QSize(360, 240)

    def show_passes(self, passes: Sequence[KeptPass], ways: Sequence[Way] = ()) -> None:
        """Show passes; with the way of each, those of the second way are open dots, those that do not count pale."""
        self._passes, self._ways, self._at = passes, ways, -1
        self._pixmap = None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Painted anew at another size."""
        self._pixmap = None
        super().resizeEvent(event)

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The cloud from its pixmap, the chosen dot over it."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        if self._pixmap is None:
            self._pixmap = self._painted(theme)
        painter.drawPixmap(0, 0, self._pixmap)
        if 0 <= self._at < len(self._points):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.color("ink"), 1.5))
            painter.drawEllipse(self._points[self._at][0], 7.0, 7.0)

    def _painted(self, theme: Theme) -> QPixmap:
        pixmap = canvas.blank(self, theme.color("ground"))
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        units, names = units_of(self._store.session.display), self._store.session.display.dots
        known = [(p, w, x, y) for p, w, x, y in self._numbers(units, names) if x is not None and y is not None]
        self._points = []
        if len(known) < 2:
            painter.setPen(theme.color("muted"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No passes to show yet.")
            painter.end()
            return pixmap
        xs, ys = (np.array([k[i] for k in known], dtype=float) for i in (2, 3))
        bounds = _bounds(xs), _bounds(ys)
        plot = self._plot()
        self._paint_axes(painter, theme, plot, bounds, [title_of(n, units) for n in names])
        px = plot.left() + (xs - bounds[0][0]) / (bounds[0][1] - bounds[0][0]) * plot.width()
        py = plot.bottom() - (ys - bounds[1][0]) / (bounds[1][1] - bounds[1][0]) * plot.height()
        for (kept, way, _, _), x, y in zip(known, px.tolist(), py.tolist(), strict=True):
            if plot.adjusted(-2, -2, 2, 2).contains(x, y):
                self._points.append((QPointF(x, y), kept))
                paint_pass(painter, theme, QPointF(x, y), (kept, self._store.session.choice), way)
        self._points.sort(key=lambda p: p[0].x())
        painter.end()
        return pixmap

    def _numbers(self, units: Units, names: tuple[str, str]) -> list[tuple[KeptPass, Way, float | None, float | None]]:
        ways = self._ways or [FILLED] * len(self._passes)
        return [
            (p, w, number_of(p.numbers, names[0], units), number_of(p.numbers, names[1], units))
            for p, w in zip(self._passes, ways, strict=True)
        ]

    def _plot(self) -> QRectF:
        left, top, bottom, right = (m * scale() for m in MARGINS)
        return QRectF(left, top, max(self.width() - left - right, 20.0), max(self.height() - top - bottom, 20.0))

    def _paint_axes(
        self,
        painter: QPainter,
        theme: Theme,
        plot: QRectF,
        bounds: tuple[tuple[float, float], tuple[float, float]],
        titles: list[str],
    ) -> None:
        painter.setFont(font(SMALL_PX))
        above = plot.bottom() + NEAREST_PX * scale()
        for value in ticks(*bounds[1], max(2, int(plot.height() / (30 * scale())))):
            y = plot.bottom() - (value - bounds[1][0]) / (bounds[1][1] - bounds[1][0]) * plot.height()
            if above - y < NEAREST_PX * scale():
                continue
            above = y
            painter.fillRect(QRectF(plot.left(), round(y), plot.width(), 1), theme.color("faint"))
            painter.setPen(theme.color("muted"))
            painter.drawText(
                QRectF(0, y - 9, plot.left() - 6, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                plain(value, _digits(bounds[1])),
            )
        for value in ticks(*bounds[0], max(2, int(plot.width() / (60 * scale())))):
            x = plot.left() + (value - bounds[0][0]) / (bounds[0][1] - bounds[0][0]) * plot.width()
            painter.drawText(
                QRectF(x - 30, plot.bottom() + 2, 60, 14 * scale()),
                Qt.AlignmentFlag.AlignCenter,
                plain(value, _digits(bounds[0])),
            )
        painter.fillRect(QRectF(plot.left(), plot.bottom(), plot.width(), 1), theme.color("rule"))
        painter.drawText(
            QRectF(plot.left(), plot.bottom() + 16 * scale(), plot.width(), 16 * scale()),
            Qt.AlignmentFlag.AlignRight,
            f"→ {titles[0]}",
        )
        painter.drawText(
            QRectF(plot.left() + 4, plot.top() - 2, plot.width(), 16 * scale()),
            Qt.AlignmentFlag.AlignLeft,
            f"↑ {titles[1]}",
        )

    def _near(self, at: QPointF) -> int:
        away = [(p - at).manhattanLength() for p, _ in self._points]
        return int(np.argmin(away)) if away and min(away) < HIT_PX else -1

    def words_of(self, kept: KeptPass) -> str:
        """A pass in a line: who, which lap, both numbers."""
        session, units = self._store.session, units_of(self._store.session.display)
        why = next((w.why for p, w in zip(self._passes, self._ways, strict=False) if p is kept and w.why), "")
        run = session.run(kept.run)
        told = [run.name if run is not None else f"run {kept.run}", f"lap {kept.lap}"]
        for name in session.display.dots:
            value = number_of(kept.numbers, name, units)
            told.append(
                f"{title_of(name, units).split(',')[0]} {'–' if value is None else plain(value, 3 if name.endswith('_s') else 1)}"
            )
        return " · ".join([*told, why] if why else told)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The lap that a dot stands for, in words."""
        if event is not None:
            at = self._near(event.position())
            if at >= 0:
                QToolTip.showText(event.globalPosition().toPoint(), self.words_of(self._points[at][1]), self)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Look at a pass."""
        at = self._near(event.position()) if event is not None else -1
        if at >= 0:
            self._at = at
            self.chosen.emit(self._points[at][1])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """From dot to dot by key."""
        if event is None or not self._points:
            return
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
        if step:
            self._at = (self._at + step) % len(self._points) if self._at >= 0 else 0
            self.setAccessibleDescription(self.words_of(self._points[self._at][1]))
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at >= 0:
            self.chosen.emit(self._points[self._at][1])
        else:
            super().keyPressEvent(event)


def _bounds(values: np.ndarray) -> tuple[float, float]:
    """Bounds that hold most values, with some room."""
    low, high = (float(v) for v in np.quantile(values, [WILD_SHARE, 1.0 - WILD_SHARE]))
    spread = max(high - low, 1e-3)
    inside = values[(values >= low - spread) & (values <= high + spread)]
    low, high = float(inside.min()), float(inside.max())
    room = 0.07 * max(high - low, 1e-2)
    return low - room, high + room


def _digits(bounds: tuple[float, float]) -> int:
    span = bounds[1] - bounds[0]
    return 0 if span > 6.0 else 1 if span > 0.6 else 2
