"""What the feet and hands do: the last seconds of brake, throttle and wheel, the reference as an outline, and the figures of now."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jete.app.theme import LARGE_PX, SMALL_PX, THEMES, Theme, font, scale
from jete.report.units import plain, units_of
from jete.report.words import difference
from jete.views.canvas import polygon, stroke
from jete.views.walk.scene import scene_of

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent

    from jete.app.player import Player
    from jete.app.store import SessionStore
    from jete.core.driving.passage import Passage
    from jete.views.walk.scene import Scene

TRAIL_S, POINTS = 3.0, 90
HEIGHT_PX = 92

# What goes to the left and to the right of zero; the brakes of a motorcycle, by their channels.
BOTH_WAYS = ("steering", "lean")
# Room between two figures, and which go first where there is not enough.
LEAST_APART_PX, LEAST_NEEDED = 6.0, ("1/min", "gear")
BRAKES = {"front brake": "brake_front", "rear brake": "brake_rear"}
# Trails and figures are painted anew after so long.
LEAST_MS = 44


class WalkFeet(QWidget):
    """Three small trails of the last three seconds, and speed, gear, engine speed and gap."""

    def __init__(self, store: SessionStore, player: Player) -> None:
        super().__init__()
        self._store, self._player = store, player
        self.in_time = True
        self._shown = QElapsedTimer()
        self.setObjectName("walk-feet")
        self.setAccessibleName("Pedals, wheel, gear, speed and gap")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        player.moved.connect(self._on_moved)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """A strip."""
        return QSize(800, round(HEIGHT_PX * scale()))

    def _on_moved(self) -> None:
        """While it plays twenty times a second will do: nobody reads figures faster."""
        if not self._player.playing:
            self.setAccessibleDescription(" · ".join(" ".join(f) for f in self.figures()))
        elif self._shown.isValid() and self._shown.elapsed() < LEAST_MS:
            return
        self._shown.start()
        self.update()

    def figures(self) -> list[tuple[str, str]]:
        """Title and value of speed, gear, engine, gap and distance, as they are painted."""
        scene = scene_of(self._store, self._player, in_time=self.in_time)
        if scene is None:
            return []
        units, place = units_of(self._store.session.display), scene.played.place_m
        passage, time = scene.course.passage(scene.played.who), scene.course.time_s(scene.played.who, place)
        speed = float(np.interp(time, passage.motion.time_s, passage.motion.quiet_mps))
        out = [(units.speed, plain(units.speed_of(speed), 0))]
        for name, title, digits in (("gear", "gear", 0), ("rpm", "1/min", 0)):
            channel = passage.lap.get(name)
            if channel is not None and len(channel):
                value = (
                    channel.value[min(int(channel.time_s.searchsorted(time)), len(channel) - 1)]
                    if name == "gear"
                    else channel.at(np.array([time]))[0]
                )
                out.append((title, plain(float(value), digits)))
        comparison = self._store.comparison
        if comparison is not None:
            lap = comparison.laps[0]
            out.append(("gap s", difference(float(np.interp(place, lap.trace_m, lap.trace_s)))))
        apart = scene.course.apart_m(scene.played.who, place)
        other = "reference" if scene.played.who == "lap" else "lap"
        out.append((f"{other} {'ahead' if apart >= 0.0 else 'behind'}", units.length_text(abs(apart))))
        return out

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """Trails to the left, figures to the right."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        scene = scene_of(self._store, self._player, in_time=self.in_time)
        if scene is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        names = _trails(scene.course.passage(scene.played.who))
        width = 0.56 * self.width() / len(names)
        for k, name in enumerate(names):
            self._paint_trail(painter, theme, QRectF(k * width + 8, 4, width - 22, self.height() - 10), (scene, name))
        self._paint_figures(painter, theme, 0.58 * self.width())

    def _paint_trail(self, painter: QPainter, theme: Theme, box: QRectF, what: tuple[Scene, str]) -> None:
        """The played lap filled, the other one as a line, at the same places."""
        scene, name = what
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        head = 15 * scale()
        painter.drawText(QRectF(box.left(), box.top(), box.width(), head), Qt.AlignmentFlag.AlignLeft, name)
        plot = box.adjusted(0, head, 0, 0)
        painter.fillRect(QRectF(plot.left(), plot.bottom(), plot.width(), 1), theme.color("rule"))
        now = scene.course.time_s(scene.played.who, scene.played.place_m)
        times = np.linspace(now - TRAIL_S, now, POINTS)
        places = scene.course.passage(scene.played.who).place_at(times)
        other = scene.course.passage(scene.other.who)
        for passage, at, role, filled in (
            (scene.course.passage(scene.played.who), times, scene.played.role, True), (other, other.time_at(places), scene.other.role, False),
        ):  # fmt: skip
            values = _values(passage, name, np.maximum(at, 0.0))
            if values is None:
                continue
            low, high = (-1.0, 1.0) if name in BOTH_WAYS else (0.0, 1.0)
            x = np.linspace(plot.left(), plot.right(), POINTS)
            y = plot.bottom() - (np.clip(values, low, high) - low) / (high - low) * plot.height()
            floor = plot.center().y() if name in BOTH_WAYS else plot.bottom()
            if filled:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color(role, 60))
                around = np.concatenate([[x[0]], x, [x[-1]]]), np.concatenate([[floor], y, [floor]])
                painter.drawPolygon(polygon(*around))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            stroke(painter, theme.color(role), polygon(x, y))

    def _paint_figures(self, painter: QPainter, theme: Theme, left: float) -> None:
        titles, values = font(SMALL_PX), font(LARGE_PX, bold=True)

        def needs(figure: tuple[str, str]) -> float:
            return max(QFontMetricsF(f).horizontalAdvance(t) for f, t in zip((titles, values), figure, strict=True))

        room = self.width() - left - 8
        asked = _that_fit({f: needs(f) for f in self.figures()}, room)
        # Each has the room that its words need; what is left over is shared.
        spare = max((room - sum(asked.values())) / max(len(asked), 1), LEAST_APART_PX)
        right = left
        for (title, value), width in asked.items():
            right += width + spare
            box = QRectF(right - width - 2, 8, width + 2, self.height() - 12)
            painter.setFont(titles)
            painter.setPen(theme.color("muted"))
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, title)
            painter.setFont(values)
            role = "ink" if title != "gap s" else "loss" if value.startswith("+") else "gain"
            painter.setPen(theme.color(role))
            painter.drawText(
                box.adjusted(0, 18 * scale(), 0, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, value
            )


def _that_fit(asked: dict[tuple[str, str], float], room: float) -> dict[tuple[str, str], float]:
    """As many figures as have room, each with the width that it needs; engine speed and gear are needed least."""
    for title in LEAST_NEEDED:
        if sum(asked.values()) + LEAST_APART_PX * len(asked) > room:
            asked = {f: wide for f, wide in asked.items() if f[0] != title}
    return asked


def _trails(passage: Passage) -> tuple[str, ...]:
    """What is shown of a lap: a motorcycle has two brakes, and leans."""
    get = passage.lap.get
    two = all((c := get(name)) is not None and len(c) > 1 for name in BRAKES.values())
    lean = get("lean")
    hands = "lean" if lean is not None and len(lean) > 1 else "steering"
    return (*(BRAKES if two else ("brake",)), "throttle", hands)


def _values(passage: Passage, name: str, times: np.ndarray) -> np.ndarray | None:
    """A pedal as share of its travel, a brake of its hardest press, wheel or lean of the most of the lap; None where it was not logged."""
    if name == "throttle":
        return np.asarray(passage.throttle.at(times))
    if name == "brake":
        return np.asarray(passage.brake.at(times) / max(float(passage.brake.value.max()), 1e-3))
    if name == "steering":
        centred = passage.centred_steering
        return (
            None
            if centred is None
            else np.asarray(np.interp(times, *centred) / max(float(np.abs(centred[1]).max()), 1e-3))
        )
    channel = passage.lap.get(BRAKES.get(name, name))
    if channel is None or len(channel) < 2:
        return None
    return np.asarray(channel.at(times) / max(float(np.abs(channel.value).max()), 1e-3))
