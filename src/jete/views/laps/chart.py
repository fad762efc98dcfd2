"""The lap times of a run over its laps: the fade as a line, laps that do not count hollow."""

from __future__ import annotations

from math import ceil, floor
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font
from jete.core.fade import Fade
from jete.report.words import difference, lap_time
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent

    from jete.app.store import SessionStore
    from jete.core.lap import LapSpan
    from jete.session.state import Run

LEFT, RIGHT, TOP, BOTTOM = 70.0, 14.0, 12.0, 24.0
DOT = 4.0
ROOM = 0.12
# Laps beyond this many spreads above the median are drawn at the upper edge.
REACH = 6.0


class RunChart(QWidget):
    """Paints the shown run; the words beside it say the same."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.setObjectName("run-chart")
        self.setAccessibleName("Lap times over the run")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        store.changed.connect(self._on_changed)
        self._on_changed(store.session, Changed.RUNS)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Wide and low."""
        return QSize(420, 170)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.CHOICE | Changed.SHELF | Changed.DISPLAY):
            run = ops.shown_run(session)
            self.setVisible(run is not None and run.best is not None)
            self.setAccessibleDescription(words_of(run) if run else "")
            self.update()

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Axis, line, reference and laps."""
        session = self._store.session
        run = ops.shown_run(session)
        if run is None or run.best is None:
            return
        theme, painter = THEMES[session.display.theme], QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL_PX))
        reference = _reference(session, run)
        frame = _Frame(self, run, reference.time_s if reference else None)
        _axis(painter, theme, frame)
        fade = run.fade
        if fade:
            _line(painter, theme, frame, fade)
        if reference is not None:
            painter.setPen(QPen(theme.color("reference"), 1, Qt.PenStyle.DashLine))
            y = frame.y(reference.time_s)
            painter.drawLine(QPointF(LEFT, y), QPointF(self.width() - RIGHT, y))
        _laps(painter, theme, frame, session, fade)


def _reference(session: Session, run: Run) -> LapSpan | None:
    """The reference where it is of the run's circuit and class: another's time says nothing here."""
    key = session.choice.reference
    other = session.run(key.run) if key else None
    return session.span(key) if other is not None and other.place == run.place else None


def round_values(low: float, high: float, most: int) -> list[float]:
    """Round values between two bounds, at most so many: steps of 1, 2 or 5 by powers of ten, no finer than a tenth.

    >>> round_values(110.95, 111.62, 4)
    [111.0, 111.2, 111.4, 111.6]
    """
    step = next(s for s in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 60.0, 1e9) if (high - low) / s <= most)
    return [round(k * step, 3) for k in range(ceil(low / step - 1e-9), floor(high / step + 1e-9) + 1)]


class _Frame:
    """Where laps and times lie."""

    def __init__(self, widget: QWidget, run: Run, reference_s: float | None) -> None:
        self.run, self.width, self.height = run, float(widget.width()), float(widget.height())
        self.laps = [s for s in run.laps if s.complete]
        times = sorted(s.time_s for s in self.laps)
        middle = times[len(times) // 2]
        spread = max(sorted(abs(t - middle) for t in times)[len(times) // 2], 0.05)
        near = [t for t in times if t - middle < REACH * 2.0 * spread]
        if reference_s is not None and abs(reference_s - middle) < 5.0 + REACH * spread:
            near.append(reference_s)
        self.low, self.high = min(near), max(near)
        room = ROOM * max(self.high - self.low, 0.2)
        self.low, self.high = self.low - room, self.high + room
        self.first, self.last = self.laps[0].number - 0.5, self.laps[-1].number + 0.5

    def x(self, lap: float) -> float:
        return LEFT + (lap - self.first) / max(self.last - self.first, 1e-9) * (self.width - LEFT - RIGHT)

    def y(self, time_s: float) -> float:
        share = (min(max(time_s, self.low), self.high) - self.low) / (self.high - self.low)
        return self.height - BOTTOM - share * (self.height - TOP - BOTTOM)


def _axis(painter: QPainter, theme: Theme, frame: _Frame) -> None:
    """Round times to the left, the laps' numbers below."""
    for value in round_values(frame.low, frame.high, 6):
        y = frame.y(value)
        painter.fillRect(QRectF(LEFT, round(y), frame.width - LEFT - RIGHT, 1), theme.color("faint"))
        painter.setPen(theme.color("muted"))
        box = QRectF(0, y - 9, LEFT - 8, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, lap_time(value)[:-2])
    every = max(1, round(len(frame.laps) / 24))
    for span in frame.laps[::every]:
        box = QRectF(frame.x(span.number) - 20, frame.height - BOTTOM + 4, 40, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(span.number))


def _line(painter: QPainter, theme: Theme, frame: _Frame, fade: Fade) -> None:
    painter.setPen(QPen(theme.color("unexplained"), 1))
    ends = (frame.first + 0.3, frame.last - 0.3)
    painter.drawLine(*(QPointF(frame.x(n), frame.y(fade.at_zero_s + fade.per_lap_s * n)) for n in ends))


def _laps(painter: QPainter, theme: Theme, frame: _Frame, session: Session, fade: Fade | None) -> None:
    """Each complete lap as a dot: hollow where it strays or is set aside."""
    choice = session.choice
    for span in frame.laps:
        key = LapKey(frame.run.number, span.number)
        role = "lap" if key == choice.lap else "reference" if key == choice.reference else "muted"
        color = theme.color(role)
        hollow = bool(frame.run.notes.of(span.number).aside) or (fade is not None and span.number in fade.strays)
        painter.setPen(QPen(color, 1))
        painter.setBrush(theme.color("ground") if hollow else color)
        size = DOT if role == "muted" else DOT + 1.5
        painter.drawEllipse(QPointF(frame.x(span.number), frame.y(span.time_s)), size, size)


def words_of(run: Run) -> str:
    """Best lap, best pieces together, spread and fade as one line."""
    best = run.best
    if best is None:
        return "No complete lap."
    words = [f"best {lap_time(best.time_s)} on lap {best.number}"]
    counted = [p for s, p in zip(run.laps, run.pieces, strict=False) if p and not run.notes.of(s.number).aside]
    if len(counted) > 1:
        together = sum(min(column) for column in zip(*counted, strict=True))
        words.append(f"best thirds together {lap_time(together)}")
    fade = run.fade
    if fade is not None:
        words.append(f"spread ±{fade.spread_s:.3f} s")
        words.append(f"{difference(fade.per_lap_s)} s a lap over the run")
    return " · ".join(words)
