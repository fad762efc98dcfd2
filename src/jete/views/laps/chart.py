"""The lap times of a run over its laps: the fade as a line, laps that do not count hollow."""

from __future__ import annotations

from math import ceil, floor
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import SMALL_PX, THEMES, Theme, font, scale
from jete.notes.fade import Fade
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views.following import Following
from jete.views.laps.model import counted_pieces, told_pieces

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent

    from jete.app.store import SessionStore
    from jete.core.log.lap import LapSpan
    from jete.session.state import Run

MOST_RULES, RULE_PX = 6, 24
LEFT, RIGHT, TOP, BOTTOM = 70.0, 14.0, 12.0, 24.0
DOT = 4.0
LEAST_PX = 120
ROOM = 0.12
# Laps beyond this many spreads above the median are drawn at the upper edge.
REACH = 6.0
# A reference that is so many seconds off, or twice as far as the laps spread, would squeeze them.
REFERENCE_S = 3.0
LEAST_TREND_S = 0.01


class RunChart(QWidget):
    """Paints the shown run; the words beside it say the same."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.setObjectName("run-chart")
        self.setAccessibleName("Lap times over the run")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(LEAST_PX)
        Following(self, store, self._on_changed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Wide, and as high as there is room."""
        return QSize(420, 170)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.CHOICE | Changed.SHELF | Changed.DISPLAY | Changed.RUN_RESULT):
            run = ops.shown_run(session)
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
        way = self._store.target
        target_s = way.target.time_s if way is not None and way.target.holds_for(run.sheet) else None
        frame = _Frame(self, run, [t for t in (reference.time_s if reference else None, target_s) if t is not None])
        _axis(painter, theme, frame)
        fade = run.fade
        if fade:
            _line(painter, theme, frame, fade)
        if reference is not None:
            _time_line(painter, theme, frame, reference.time_s, "reference")
        if target_s is not None:
            _time_line(painter, theme, frame, target_s, "target")
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


def rules_in(height_px: float) -> int:
    """How many rules with a number each have room, six at the most."""
    return max(1, min(MOST_RULES, int(height_px / (RULE_PX * scale()))))


class _Frame:
    """Where laps and times lie; what is too far off for the scale lies at its edge, and is marked as such."""

    def __init__(self, widget: QWidget, run: Run, lines_s: list[float]) -> None:
        self.run, self.width, self.height = run, float(widget.width()), float(widget.height())
        self.laps = [s for s in run.laps if s.complete]
        times = sorted(s.time_s for s in self.laps)
        middle = times[len(times) // 2]
        spread = max(sorted(abs(t - middle) for t in times)[len(times) // 2], 0.05)
        near = [t for t in times if t - middle < REACH * 2.0 * spread]
        self.first, self.last = self.laps[0].number - 0.5, self.laps[-1].number + 0.5
        if run.fade is not None:
            near += [run.fade.at_zero_s + run.fade.per_lap_s * n for n in self.fade_ends]
        reach = max(REFERENCE_S, 2.0 * (max(near) - min(near)))
        near += [t for t in lines_s if abs(t - middle) < reach]
        self.low, self.high = min(near), max(near)
        room = ROOM * max(self.high - self.low, 0.2)
        self.low, self.high = self.low - room, self.high + room

    @property
    def fade_ends(self) -> tuple[float, float]:
        """The laps at which the line of the trend begins and ends."""
        return self.first + 0.3, self.last - 0.3

    def x(self, lap: float) -> float:
        return LEFT + (lap - self.first) / max(self.last - self.first, 1e-9) * (self.width - LEFT - RIGHT)

    def y(self, time_s: float) -> float:
        share = (min(max(time_s, self.low), self.high) - self.low) / (self.high - self.low)
        return self.height - BOTTOM - share * (self.height - TOP - BOTTOM)

    def off(self, time_s: float) -> int:
        """−1 below the scale, 1 above it, 0 on it."""
        return int(time_s > self.high) - int(time_s < self.low)


def _axis(painter: QPainter, theme: Theme, frame: _Frame) -> None:
    """Round times to the left, the laps' numbers below."""
    for value in round_values(frame.low, frame.high, rules_in(frame.height - BOTTOM)):
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
    ends = (QPointF(frame.x(n), frame.y(fade.at_zero_s + fade.per_lap_s * n)) for n in frame.fade_ends)
    painter.drawLine(*ends)


def _time_line(painter: QPainter, theme: Theme, frame: _Frame, time_s: float, name: str) -> None:
    """A line at a time, dashed for the reference, dotted for the target; off the scale its time and which way it lies."""
    off = frame.off(time_s)
    if off == 0:
        style = Qt.PenStyle.DashLine if name == "reference" else Qt.PenStyle.DotLine
        painter.setPen(QPen(theme.color("reference"), 1, style))
        painter.drawLine(QPointF(LEFT, frame.y(time_s)), QPointF(frame.width - RIGHT, frame.y(time_s)))
        if name == "target":
            box = QRectF(LEFT, frame.y(time_s) - 17, frame.width - LEFT - RIGHT, 16)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, f"target {lap_time(time_s)}"
            )
        return
    side = Qt.AlignmentFlag.AlignTop if off > 0 else Qt.AlignmentFlag.AlignBottom
    box = QRectF(LEFT, TOP - 8, frame.width - LEFT - RIGHT - 16, frame.height - TOP - BOTTOM + 6)
    painter.setPen(theme.color("reference"))
    # The reference's at the right edge, the target's at the left: both may be off.
    edge = Qt.AlignmentFlag.AlignRight if name == "reference" else Qt.AlignmentFlag.AlignLeft
    painter.drawText(box, side | edge, f"{name} {lap_time(time_s)}{' below' if name == 'target' and off < 0 else ''}")
    if name == "target":
        return
    _wedge(painter, theme.color("reference"), QPointF(frame.width - RIGHT - 6, frame.y(time_s)), off)


def _wedge(painter: QPainter, color: QColor, tip: QPointF, off: int) -> None:
    """A wedge at the edge that points to where something lies."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    base = tip.y() + 8.0 * off
    painter.drawPolygon(QPolygonF([tip, QPointF(tip.x() - 5, base), QPointF(tip.x() + 5, base)]))


def _laps(painter: QPainter, theme: Theme, frame: _Frame, session: Session, fade: Fade | None) -> None:
    """Each complete lap as a dot: hollow where it strays or is set aside."""
    choice = session.choice
    for span in frame.laps:
        key = LapKey(frame.run.number, span.number)
        role = "lap" if key == choice.lap else "reference" if key == choice.reference else "muted"
        color = theme.color(role)
        hollow = bool(frame.run.notes.of(span.number).aside) or (fade is not None and span.number in fade.strays)
        if frame.off(span.time_s):
            _wedge(painter, color, QPointF(frame.x(span.number), frame.y(span.time_s)), frame.off(span.time_s))
            continue
        painter.setPen(QPen(color, 1))
        painter.setBrush(theme.color("ground") if hollow else color)
        size = DOT if role == "muted" else DOT + 1.5
        painter.drawEllipse(QPointF(frame.x(span.number), frame.y(span.time_s)), size, size)


def _trend(per_lap_s: float) -> str:
    """How the times change from lap to lap, in words.

    >>> _trend(-1.322), _trend(0.06), _trend(0.001)
    ('1.3 s quicker each lap', '0.06 s slower each lap', 'as quick at the end as at the start')
    """
    size = abs(per_lap_s)
    if size < LEAST_TREND_S:
        return "as quick at the end as at the start"
    return f"{size:.{1 if size >= 1.0 else 2}f} s {'quicker' if per_lap_s < 0.0 else 'slower'} each lap"


def words_of(run: Run) -> str:
    """Best lap, best pieces together, consistency and trend as one line."""
    best = run.best
    if best is None:
        return "No complete lap."
    words = [f"best {lap_time(best.time_s)} on lap {best.number}"]
    pieces = counted_pieces(run, told_pieces(run))
    if len(pieces) > 1:
        together = sum(min(column) for column in zip(*pieces, strict=True))
        words.append(f"best thirds together {lap_time(together)}")
    fade = run.fade
    if fade is not None:
        words.append(f"consistency ±{fade.spread_s:.2f} s")
        words.append(_trend(fade.per_lap_s))
    return " · ".join(words)
