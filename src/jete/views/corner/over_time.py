"""One corner over runs and days: a row a run with the passes on one scale, their middle and time, and the set-up beside it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font, scale
from jete.core.passes.by_run import RunPasses, by_run
from jete.report.over_time import beside_words, middle_words, run_before, when_who
from jete.report.passes import number_of, title_of
from jete.report.units import plain, units_of
from jete.views.canvas import kept_in, ticks
from jete.views.corner.pass_dot import HIT_PX, paint_pass
from jete.views.labels import tip

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPaintEvent

    from jete.app.store import SessionStore
    from jete.library.pass_book import KeptPass
    from jete.notes.sheet import RunSheet

ROW_PX, HEAD_PX = 54, 40
# What stands right of the passes: the middle of the number, and the time.
FIGURES_PX = 108


@dataclass(frozen=True)
class Row:
    """A run: its passes, and what is written over and under them."""

    of: RunPasses
    title: str
    beside: str


class OverTime(QWidget):
    """Paints the runs in order of time, the last one last; a pass that is clicked is looked at."""

    chosen = pyqtSignal(object)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self._passes: Sequence[KeptPass] = ()
        self.rows: tuple[Row, ...] = ()
        self._span = (0.0, 1.0)
        self._at = -1
        self.setObjectName("over-time")
        self.setAccessibleName("The corner over runs, in order of time")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        self.setToolTip(
            "Click a pass to compare that lap. Up, Down: from run to run; Enter: compare its quickest pass."
        )

    def show_passes(self, passes: Sequence[KeptPass], sheets: Sequence[tuple[int, RunSheet]]) -> None:
        """Show the passes of runs.

        Args:
            passes: of one corner.
            sheets: of the runs, by number, in order of time.
        """
        name, units = self._store.session.display.dots[1], units_of(self._store.session.display)
        order = {number: k for k, (number, _) in enumerate(sheets)}
        self._passes, self._at = sorted(passes, key=lambda p: (order.get(p.run, len(order)), p.lap)), -1
        found = by_run(
            [p.run for p in self._passes],
            [number_of(p.numbers, name, units) for p in self._passes],
            [p.numbers.whole_s for p in self._passes],
        )
        known = dict(sheets)
        self.rows = tuple(
            Row(one, when_who(known[one.run]), beside_words(known[one.run], run_before(one.run, sheets)))
            for one in found
        )
        values = [v for row in self.rows for v in row.of.values] or [0.0]
        room = 0.05 * max(max(values) - min(values), 1e-2)
        self._span = min(values) - room, max(values) + room
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As high as its rows."""
        return QSize(340, round(scale() * (HEAD_PX + ROW_PX * max(len(self.rows), 1))))

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Scale, then row by row."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color("ground"))
        if not self.rows:
            painter.setPen(theme.color("muted"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No passes to show yet.")
            return
        self._paint_head(painter, theme)
        for k, row in enumerate(self.rows):
            self._paint_row(painter, theme, k, row)

    def _x(self, value: float) -> float:
        low, high = self._span
        return 8.0 + (value - low) / (high - low) * (self.width() - FIGURES_PX * scale() - 16.0)

    def _row(self, number: int) -> QRectF:
        return QRectF(0.0, scale() * (HEAD_PX + ROW_PX * number), self.width(), scale() * ROW_PX)

    def _strip_y(self, number: int) -> float:
        return self._row(number).top() + 26.0 * scale()

    def _of_time(self) -> bool:
        return self._store.session.display.dots[1] == "whole_s"

    def _decimals(self) -> int:
        if self._store.session.display.dots[1].endswith("_s"):
            return 3
        low, high = self._span
        return 0 if high - low > 20.0 else 1

    def _paint_head(self, painter: QPainter, theme: Theme) -> None:
        """What is shown, and its scale."""
        units, name = units_of(self._store.session.display), self._store.session.display.dots[1]
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        line, right = 18.0 * scale(), Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, 0, self.width(), line), Qt.AlignmentFlag.AlignLeft, title_of(name, units))
        if not self._of_time():
            painter.drawText(QRectF(0, 0, self.width(), line), right, title_of("whole_s", units))
        low, high = self._span
        for value in ticks(low, high, max(2, int((self.width() - FIGURES_PX * scale()) / (70 * scale())))):
            x = self._x(value)
            painter.fillRect(QRectF(round(x), scale() * HEAD_PX, 1, self.height()), theme.color("faint"))
            text = plain(value, min(self._decimals(), 2))
            left, wide = kept_in(x, painter.fontMetrics().horizontalAdvance(text), self.width())
            painter.drawText(QRectF(left, line, wide, line), Qt.AlignmentFlag.AlignLeft, text)

    def _paint_row(self, painter: QPainter, theme: Theme, number: int, row: Row) -> None:
        place, y, line = self._row(number), self._strip_y(number), 16.0 * scale()
        if number == self._at:
            painter.fillRect(place, theme.color("selected"))
        painter.fillRect(QRectF(0.0, place.top(), self.width(), 1.0), theme.color("rule"))
        over = QRectF(0, place.top() + 2, self.width() - FIGURES_PX * scale(), line)
        self._write(painter, theme.color("ink"), over, row.title)
        self._write(painter, theme.color("muted"), QRectF(0, place.bottom() - line - 2, self.width(), line), row.beside)
        choice = self._store.session.choice
        for value, at in zip(row.of.values, row.of.at, strict=True):
            paint_pass(painter, theme, QPointF(self._x(value), y), (self._passes[at], choice))
        painter.fillRect(QRectF(round(self._x(row.of.value.middle)), y - 7.0, 2.0, 14.0), theme.color("ink"))
        self._paint_figures(painter, theme, place, row)

    def _paint_figures(self, painter: QPainter, theme: Theme, place: QRectF, row: Row) -> None:
        """The middle of the number and of the time, each with its spread."""
        line = 16.0 * scale()
        painter.setPen(theme.color("ink"))
        painter.setFont(font(SMALL_PX))
        time = middle_words(row.of.time_s, 3)
        figures = [time] if self._of_time() else [middle_words(row.of.value, self._decimals()), time]
        for k, text in enumerate(figures):
            painter.drawText(
                QRectF(0, place.top() + 2 + k * line, self.width(), line), Qt.AlignmentFlag.AlignRight, text
            )

    @staticmethod
    def _write(painter: QPainter, color: QColor, rect: QRectF, text: str) -> None:
        painter.setFont(font(SMALL_PX))
        painter.setPen(color)
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()))
        painter.drawText(rect, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)

    def _row_at(self, y: float) -> int | None:
        number = int((y / scale() - HEAD_PX) // ROW_PX)
        return number if 0 <= number < len(self.rows) else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """A row in whole words, where it is cut."""
        number = self._row_at(event.position().y()) if event is not None else None
        if event is not None and number is not None:
            QToolTip.showText(event.globalPosition().toPoint(), tip(self.words_of(number)), self)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Look at a pass."""
        if event is None or not self.rows:
            return
        number = self._row_at(event.position().y())
        if number is None:
            return
        self._at = number
        of = self.rows[number].of
        away = [abs(self._x(v) - event.position().x()) for v in of.values]
        nearest = min(range(len(away)), key=away.__getitem__)
        if away[nearest] < HIT_PX and abs(event.position().y() - self._strip_y(number)) < HIT_PX:
            self.chosen.emit(self._passes[of.at[nearest]])
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """From run to run by key."""
        if event is None or not self.rows:
            return
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
        if step:
            self._at = (self._at + step) % len(self.rows) if self._at >= 0 else 0
            self.setAccessibleDescription(self.words_of(self._at))
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at >= 0:
            self.chosen.emit(min((self._passes[k] for k in self.rows[self._at].of.at), key=lambda p: p.numbers.whole_s))
        else:
            super().keyPressEvent(event)

    def words_of(self, number: int) -> str:
        """A row as a line."""
        row, name = self.rows[number], self._store.session.display.dots[1]
        title = title_of(name, units_of(self._store.session.display))
        value = f"{title} {middle_words(row.of.value, self._decimals())}"
        time = "" if self._of_time() else f"time {middle_words(row.of.time_s, 3)} s"
        return " · ".join(p for p in (row.title, value, time, row.beside) if p)
