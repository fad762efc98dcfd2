"""The Walk page: two pictures, what the feet do, what comes next, and the hands on the clock."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.player import RATES, Player
from jete.app.theme import BODY_PX, SMALL_PX, SPACE, font
from jete.report.guide import corner_cue
from jete.report.units import units_of
from jete.session.state import Changed, Session
from jete.views.labels import ElidedLabel, plain
from jete.views.switch import Switch
from jete.views.walk.above import WalkAbove
from jete.views.walk.feet import WalkFeet
from jete.views.walk.rehearsal import RehearsalPanel
from jete.views.walk.seat import WalkSeat

if TYPE_CHECKING:
    from jete.app.rehearsal import Rehearsal
    from jete.app.store import SessionStore
    from jete.core.causes.result import CornerLoss

SIZES = [520, 760, 420]
# The cue of the next corner is read from so long before its first mark.
CUE_S = 5.0


class WalkPage(QWidget):
    """Follows the player; the player follows the place."""

    def __init__(self, store: SessionStore, player: Player, rehearsal: Rehearsal) -> None:
        super().__init__()
        self._store, self.player = store, player
        self.rehearsal = RehearsalPanel(store, rehearsal)
        self.above, self.seat, self.feet = WalkAbove(store, player), WalkSeat(store, player), WalkFeet(store, player)
        self.caption, self.stop = ElidedLabel(), plain()
        self.play = QPushButton("Play")
        self.rate = Switch("How fast", ("1", "½", "¼"), key_hint("walk:rate"))
        self.who = Switch("Whose lap is played", ("Lap", "Reference"), key_hint("walk:who"))
        self.together = Switch("The other lap", ("At the same time", "At the same place"), key_hint("walk:together"))
        self.eye = Switch("From where", ("Seat", "Behind"), key_hint("walk:eye"))
        self.line = Switch("The reference's line on the road", ("No line", "Line"), key_hint("walk:line"))
        self.loop = Switch("How much", ("Lap", "Corner"), key_hint("walk:loop"))
        self.marks = Switch("With marks, or to rehearse", ("Marks", "Rehearse"), key_hint("rehearse"))
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self._build()
        player.moved.connect(self._on_moved)
        player.turned.connect(self._on_turned)
        store.changed.connect(self._on_changed)
        self._on_turned()

    def _build(self) -> None:
        self.caption.setFont(font(BODY_PX + 5, bold=True))
        self.caption.setObjectName("walk-caption")
        self.caption.setAccessibleName("What comes next")
        self.stop.setFont(font(SMALL_PX))
        self.stop.setObjectName("walk-stop")
        self.play.setToolTip(key_hint("walk:play"))
        self.play.setAccessibleName("Play or stop")
        self.play.clicked.connect(self.player.play)
        self.rate.moved.connect(self._on_rate)
        self.who.turned.connect(self._on_who)
        self.together.turned.connect(self._on_together)
        self.eye.turned.connect(self._on_eye)
        self.line.turned.connect(self._on_line)
        self.loop.turned.connect(self.player.set_looped)
        self.marks.turned.connect(self.rehearse)
        self.rehearsal.hide()
        row = QHBoxLayout()
        for widget in (self.play, self.rate, self.who, self.together, self.loop, self.eye, self.line, self.marks):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.stop)
        for part in (self.above, self.seat, self.rehearsal):
            self.split.addWidget(part)
        self.split.setSizes(SIZES)
        self.split.setHandleWidth(1)
        self.split.setChildrenCollapsible(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, 4, SPACE, 0)
        column.setSpacing(4)
        column.addLayout(row)
        column.addWidget(self.caption)
        column.addWidget(self.split, 1)
        column.addWidget(self.feet)

    def _on_rate(self, at: int) -> None:
        self.player.set_rate(RATES[at])

    def _on_who(self, reference: bool) -> None:  # noqa: FBT001 - the switch's two ends
        self.player.set_who("reference" if reference else "lap")

    def _on_together(self, in_place: bool) -> None:  # noqa: FBT001 - the switch's two ends
        for part in (self.above, self.seat, self.feet):
            part.in_time = not in_place
            part.update()
        self.together.show_end(in_place)

    def _on_eye(self, behind: bool) -> None:  # noqa: FBT001 - the switch's two ends
        self.seat.behind = behind
        self.eye.show_end(behind)
        self.seat.update()

    def _on_line(self, with_line: bool) -> None:  # noqa: FBT001 - the switch's two ends
        self.seat.with_line = with_line
        self.line.show_end(with_line)
        self.seat.update()

    @property
    def rehearsing(self) -> bool:
        """Whether marks are hidden and calls are judged."""
        return self.marks.buttons[1].isChecked()

    def rehearse(self, on: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Hide what gives marks away, and judge calls; or back."""
        self.marks.show_end(on)
        self.above.setVisible(not on)
        self.feet.setVisible(not on)
        self.rehearsal.setVisible(on)
        if on:
            self.player.set_who("reference")
            self._on_line(with_line=False)
        self._on_moved()

    def next_rate(self) -> None:
        """The next slower rate, or full speed again."""
        self.player.set_rate(RATES[(RATES.index(self.player.rate) + 1) % len(RATES)])

    def turn(self, what: str) -> None:
        """Turn one of the switches to its other end, by key."""
        switch, act = {
            "who": (self.who, self._on_who), "together": (self.together, self._on_together), "eye": (self.eye, self._on_eye),
            "line": (self.line, self._on_line), "loop": (self.loop, self.player.set_looped), "rehearse": (self.marks, self.rehearse),
        }[what]  # fmt: skip
        act(not switch.buttons[1].isChecked())

    def _on_turned(self) -> None:
        self.play.setText("Stop" if self.player.playing else "Play")
        self.rate.show_at(RATES.index(self.player.rate))
        self.who.show_end(self.player.who == "reference")
        self.loop.show_end(self.player.looped)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if session.look.page == "walk" and flags & (Changed.PAGE | Changed.RESULT | Changed.DISPLAY):
            self._on_moved()

    def _on_moved(self) -> None:
        """What comes next, early enough to be read, and the marks at the place."""
        if self._store.session.look.page != "walk":
            return
        course = self.player.course
        if course is None:
            self.caption.setText("Choose a reference and a lap on the page Laps (Ctrl+1), or open the demo (Ctrl+D).")
            self.stop.setText("")
            return
        place = self._store.session.look.place_m
        self.caption.setText(self.cue(place))
        words = (f"{s.words} ({'reference' if s.who == 'reference' else 'lap'})" for s in course.near(place))
        hidden = self.player.playing or self.rehearsing
        self.stop.setText("" if hidden else " · ".join(words))

    def cue(self, place_m: float) -> str:
        """The cue for the corner that comes next, or that one is in, up to its slow point."""
        comparison, course = self._store.comparison, self.player.course
        if comparison is None or course is None:
            return ""
        now = course.time_s(self.player.who, place_m)
        for loss in comparison.laps[0].corners:
            if place_m > loss.reference_marks.slow_point_m:
                continue
            first = (
                loss.reference_marks.slowing_m if loss.reference_marks.slowing_m is not None else loss.corner.start_m
            )
            if self.rehearsing:
                return f"{loss.corner.shown} {loss.corner.name}".rstrip()
            early = course.time_s(self.player.who, first) - now <= CUE_S
            return self._words(loss) if early else f"next: {loss.corner.shown} {loss.corner.name}".rstrip()
        return ""

    def _words(self, loss: CornerLoss) -> str:
        road = self._store.road
        circuit = road.circuit if road is not None and self._store.session.display.by_landmark else None
        return corner_cue(loss.corner, loss.reference_marks, circuit, units_of(self._store.session.display))
