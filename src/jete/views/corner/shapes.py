"""Shapes: how both laps press, feed, steer and shift in a corner, and how much grip they use; with the coach's figures."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import THEMES, scale
from jete.core.log.channels import GRAVITY_MPS2
from jete.report.shapes import feed_words, grip_words, lean_words, press_words, shift_words, steering_words
from jete.report.units import units_of
from jete.session.state import Changed, Session
from jete.views.corner.small import SmallLine, SmallPanel, paint_small
from jete.views.following import Following

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent

    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.causes.verdict.result import Comparison, CornerLoss
    from jete.core.driving.passage import Passage

ROLES = ("reference", "lap")
# How much higher the picture of the grip is than the others.
SQUARE_WEIGHT = 1.2
# A picture with its axis is at least so high: 120 pixels for the curves.
LEAST_PX = 142


class Shapes(QWidget):
    """Six small panels of the selected corner."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.panels: list[SmallPanel] = []
        self._for: tuple[object, ...] = ()
        self._shown: tuple[Comparison, tuple[FloatArray, FloatArray]] | None = None
        self.setObjectName("shapes")
        self.setAccessibleName("Shapes of brake, throttle, steering and grip")
        self.setToolTip(
            "Brake in % of the hardest press over the seconds since the brake point; throttle over those since the pick-up; steering (shaded: against "
            "the bend on the way out) and engine over metres from the apex; grip: acceleration along over that across, dashed what these laps have shown."
        )
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        Following(self, store, self._on_changed)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Each picture as high as one can read it; more pictures than there is room for are scrolled to."""
        return QSize(360, round(scale() * sum(self._weights()) * LEAST_PX))

    def _weights(self) -> list[float]:
        return [SQUARE_WEIGHT if p.square else 1.0 for p in self.panels]

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.CORNER | Changed.DISPLAY):
            self._load()
            self.setAccessibleDescription(
                "; ".join(f"{p.title}: lap {p.figures[0]}, reference {p.figures[1]}" for p in self.panels)
            )
            self.setMinimumHeight(self.sizeHint().height())
            self.update()

    def _load(self) -> None:
        comparison, loss = self._store.comparison, self._store.corner
        key = (id(comparison), self._store.session.look.corner, self._store.session.display)
        if key == self._for:
            return
        self._for = key
        self.panels = [] if comparison is None or loss is None else self._made(comparison, loss)

    def _made(self, comparison: Comparison, loss: CornerLoss) -> list[SmallPanel]:
        passages = (comparison.reference, comparison.laps[0].passage)
        made = [
            _press(passages, loss, units_of(self._store.session.display).length_text), _feed(passages, loss), _steering(passages, loss),
            _revs(passages, loss), _grip(comparison, loss, self._shown_grip(comparison)),
        ]  # fmt: skip
        return [m for m in made if m is not None]

    def _shown_grip(self, comparison: Comparison) -> tuple[FloatArray, FloatArray]:
        """What both laps have shown: the same in every corner."""
        from jete.core.driving.shapes import shown_grip

        if self._shown is None or self._shown[0] is not comparison:
            passages = (comparison.reference, comparison.laps[0].passage)
            self._shown = comparison, shown_grip(passages, comparison.road)
        return self._shown[1]

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The panels one under the other."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.panels:
            painter.setPen(theme.color("muted"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No pedal, gear or steering was logged.")
            return
        weights, top = self._weights(), 0.0
        for weight, panel in zip(weights, self.panels, strict=True):
            height = self.height() * weight / sum(weights)
            paint_small(painter, theme, QRectF(0, top, self.width() - 4, height - 2), panel)
            top += height


def _press(passages: tuple[Passage, Passage], loss: CornerLoss, length: object) -> SmallPanel | None:
    from jete.core.driving.shapes import press_of

    found = [press_of(p, m) for p, m in zip(passages, (loss.reference_marks, loss.lap_marks), strict=True)]
    lines = tuple(
        SmallLine(f[0].time_s, 100.0 * f[0].share, r) for f, r in zip(found, ROLES, strict=True) if f is not None
    )
    if not lines:
        return None
    words = [press_words(f[1], length) if f is not None else "" for f in found]  # type: ignore[arg-type]
    end = max(float(x.x[-1]) for x in lines)
    return SmallPanel(
        "brake % · s",
        lines,
        (-0.2, end),
        (0.0, 105.0),
        (words[1], words[0]),
    )


def _feed(passages: tuple[Passage, Passage], loss: CornerLoss) -> SmallPanel | None:
    from jete.core.driving.shapes import feed_of

    found = [feed_of(p, m) for p, m in zip(passages, (loss.reference_marks, loss.lap_marks), strict=True)]
    lines = tuple(
        SmallLine(f[0].time_s, 100.0 * f[0].share, r) for f, r in zip(found, ROLES, strict=True) if f is not None
    )
    if not lines:
        return None
    words = [feed_words(f[1]) if f is not None else "" for f in found]
    end = max(float(x.x[-1]) for x in lines)
    return SmallPanel("throttle % · s", lines, (-0.2, end), (0.0, 105.0), (words[1], words[0]))


def _channel_line(passage: Passage, times: FloatArray, values: FloatArray, loss: CornerLoss, role: str) -> SmallLine:
    """A channel over metres from the apex."""
    place = passage.place_at(times)
    marks = (loss.reference_marks, loss.lap_marks)
    first = min([*(m.slowing_m for m in marks if m.slowing_m is not None), loss.corner.start_m])
    last = max([*(m.full_throttle_m for m in marks if m.full_throttle_m is not None), loss.corner.end_m])
    inside = (place >= first) & (place <= last + 40.0)
    return SmallLine(place[inside] - loss.corner.apex_m, values[inside], role)


def _steering(passages: tuple[Passage, Passage], loss: CornerLoss) -> SmallPanel | None:
    """Steering over metres from the apex; where it is turned against the bend on the way out it is shaded."""
    lines, words = [], ["", ""]
    for k, passage in enumerate(passages):
        if (centred := passage.centred_steering) is None:
            lean = passage.lap.get("lean")
            if lean is None or len(lean) < 20:
                continue
            centred = lean.time_s, lean.value
        line = _channel_line(passage, centred[0], np.degrees(centred[1]), loss, ROLES[k])
        if len(line.x) < 4:
            continue
        if passage.centred_steering is None:
            times = np.interp(line.x + loss.corner.apex_m, passage.alignment.place_m, passage.motion.time_s)
            lines.append(line)
            words[k] = lean_words(times, line.y)
            continue
        side = np.sign(line.y[int(np.argmax(np.abs(line.y)))])
        against = (line.x > 0.0) & (line.y * side < -2.0)
        spans = ((float(line.x[against].min()), float(line.x[against].max())),) if against.any() else ()
        lines.append(SmallLine(line.x, line.y, line.role, spans))
        words[k] = steering_words(line.y, corrected=bool(spans))
    if not lines:
        return None
    low, high = min(float(x.y.min()) for x in lines), max(float(x.y.max()) for x in lines)
    room = 0.08 * max(high - low, 10.0)
    what = "steering" if any(p.centred_steering is not None for p in passages) else "lean"
    bounds = min(float(x.x[0]) for x in lines), max(float(x.x[-1]) for x in lines)
    return SmallPanel(f"{what} ° · m", tuple(lines), bounds, (low - room, high + room), (words[1], words[0]))


def _revs(passages: tuple[Passage, Passage], loss: CornerLoss) -> SmallPanel | None:
    """Engine speed over metres from the apex; the shifts in words."""
    lines, words = [], ["", ""]
    for k, (passage, marks) in enumerate(zip(passages, (loss.reference_marks, loss.lap_marks), strict=True)):
        rpm = passage.lap.get("rpm")
        if rpm is not None and len(rpm) > 4:
            lines.append(_channel_line(passage, rpm.time_s, rpm.value / 1000.0, loss, ROLES[k]))
        words[k] = shift_words(passage, marks, loss.corner)
    lines = [x for x in lines if len(x.x) > 3]
    if not lines:
        return None
    low, high = min(float(x.y.min()) for x in lines), max(float(x.y.max()) for x in lines)
    bounds = min(float(x.x[0]) for x in lines), max(float(x.x[-1]) for x in lines)
    return SmallPanel("engine 1000/min · m", tuple(lines), bounds, (low - 0.2, high + 0.2), (words[1], words[0]))


def _grip(comparison: Comparison, loss: CornerLoss, shown: tuple[FloatArray, FloatArray]) -> SmallPanel | None:
    """Lateral against longitudinal acceleration, over the hull of what these laps have ``shown``."""
    from jete.core.driving.shapes import grip_of, used_share

    passages = (comparison.reference, comparison.laps[0].passage)
    if not comparison.road.measured:
        return None
    angle, reach = shown
    parts = [grip_of(p, comparison.road, loss.corner.start_m - 60.0, loss.corner.end_m + 20.0) for p in passages]
    lines = tuple(
        SmallLine(g.lateral_mps2 / GRAVITY_MPS2, g.longitudinal_mps2 / GRAVITY_MPS2, r)
        for g, r in zip(parts, ROLES, strict=True)
    )
    outline = SmallLine(reach * np.cos(angle) / GRAVITY_MPS2, reach * np.sin(angle) / GRAVITY_MPS2, "muted")
    most = 1.08 * float(np.max(reach)) / GRAVITY_MPS2
    words = [grip_words(used_share(g, shown)) for g in parts]
    return SmallPanel(
        "grip g",
        lines,
        (-most, most),
        (-most, most),
        (words[1], words[0]),
        square=True,
        outline=outline,
    )
