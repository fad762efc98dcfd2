"""The Walk page: two pictures, what the feet do, what comes next, and the hands on the clock."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.player import RATES, Player
from jete.app.rehearsal import HARD
from jete.app.theme import LEAD_PX, SPACE, font
from jete.core.walk.rehearse import CALLS
from jete.report.guide_words import corner_cue
from jete.report.seat import landmark_short
from jete.report.units import units_of
from jete.session.state import Changed, Session
from jete.views.following import Following
from jete.views.labels import ElidedLabel, plain
from jete.views.page import Page
from jete.views.switch import Switch
from jete.views.walk.above import WalkAbove
from jete.views.walk.eye import EyeDialog
from jete.views.walk.feet import WalkFeet
from jete.views.walk.film import FilmPanel
from jete.views.walk.rehearsal import RehearsalPanel
from jete.views.walk.say import SayDialog
from jete.views.walk.seat import WalkSeat

if TYPE_CHECKING:
    from jete.app.film_keeper import FilmKeeper
    from jete.app.parts import Parts
    from jete.app.rehearsal import Rehearsal
    from jete.app.store import SessionStore
    from jete.core.causes.verdict.result import CornerLoss

SIZES = [520, 760, 420]
# The cue of the next corner is read from so long before its first mark.
CUE_S = 5.0
# A landmark is named from so far before it until it is passed.
NAMED_M = 40.0


# What the menu Walk does with the film in hand.
FILM_ACTS: Final[dict[str, Callable[[FilmPanel], object]]] = {
    "add": lambda f: f.ask_for_film(),
    "tie": lambda f: f.tie_here(),
    "alone": lambda f: f.set_alone(not f.moves_alone),
    "later": lambda f: f.nudge(1),
    "earlier": lambda f: f.nudge(-1),
    "on": lambda f: f.leap(1.0),
    "back": lambda f: f.leap(-1.0),
    "find": lambda f: f.seek_place(),
    "loose": lambda f: f.loosen(),
    "off": lambda f: f.take_off(),
}


def make(parts: Parts) -> WalkPage:
    """The page on what stands behind the window."""
    return WalkPage(parts.store, parts.player, parts.rehearsal, parts.films)


class WalkPage(Page):
    """Follows the player; the player follows the place."""

    def __init__(self, store: SessionStore, player: Player, rehearsal: Rehearsal, films: FilmKeeper) -> None:
        super().__init__()
        self._store, self.player, self.films = store, player, films
        self.rehearsal = RehearsalPanel(store, rehearsal)
        self.above, self.seat, self.feet = WalkAbove(store, player), WalkSeat(store, player), WalkFeet(store, player)
        self.caption, self.stop = ElidedLabel(), plain()
        self.play = QPushButton("Play")
        self.rate = Switch("How fast", ("1", "½", "¼"), key_hint("walk:rate"))
        self.who = Switch("Whose lap is played", ("Lap", "Reference"), key_hint("walk:who"))
        self.together = Switch("The other lap", ("At the same time", "At the same place"), key_hint("walk:together"))
        self.left = Switch("The left picture", ("From above", "Lap's film"), key_hint("walk:left"))
        self.eye = Switch("The right picture", ("Seat", "Behind", "Reference's film"), key_hint("walk:eye"))
        self.film, self.reference_film = (FilmPanel(store, player, films, who) for who in ("lap", "reference"))
        self._touched = self.film
        self.line = Switch("The reference's line on the road", ("No line", "Line"), key_hint("walk:line"))
        self.loop = Switch("How much", ("Lap", "Corner"), key_hint("walk:loop"))
        self.marks = Switch("With marks, or to rehearse", ("Marks", "Rehearse"), key_hint("rehearse"))
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self._build()
        player.moved.connect(self._on_moved)
        player.turned.connect(self._on_turned)
        Following(self, store, self._on_changed)
        self._on_turned()

    def _build(self) -> None:
        self.caption.setFont(font(LEAD_PX, bold=True))
        self.caption.setObjectName("walk-caption")
        self.caption.setAccessibleName("What comes next")
        self.stop.setFont(font(LEAD_PX, bold=True))
        self.stop.setObjectName("walk-stop")
        self.play.setToolTip(key_hint("walk:play"))
        self.play.setAccessibleName("Play or stop")
        self.play.clicked.connect(self.player.play)
        self.rate.moved.connect(self._on_rate)
        self.who.turned.connect(self._on_who)
        self.together.turned.connect(self._on_together)
        self.left.moved.connect(self.show_left)
        self.eye.moved.connect(self.show_right)
        for panel in (self.film, self.reference_film):
            panel.touched.connect(self._on_touched)
        self.line.turned.connect(self._on_line)
        self.loop.turned.connect(self.player.set_looped)
        self.marks.turned.connect(self.rehearse)
        self.rehearsal.blind.turned.connect(self.blind)
        self.rehearsal.say.clicked.connect(self.say_the_lap)
        self.rehearsal.hide()
        row = QHBoxLayout()
        for widget in (self.play, self.rate, self.who, self.together, self.loop, self.marks):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.stop)
        self.beside = _picture([self.left], [self.above, self.film])
        self.ahead = _picture([self.eye, self.line], [self.seat, self.reference_film])
        self.film.hide()
        self.reference_film.hide()
        for part in (self.beside, self.ahead, self.rehearsal):
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

    def show_left(self, at: int) -> None:
        """The left picture: from above, or the lap's film."""
        self.left.show_at(at)
        self.above.setVisible(at == 0)
        self.film.setVisible(at == 1)

    def show_right(self, at: int) -> None:
        """The right picture: from the seat, from behind, or the reference's film."""
        self.eye.show_at(at)
        self.seat.behind = at == 1
        self.seat.setVisible(at < 2)
        self.line.setVisible(at < 2)
        self.reference_film.setVisible(at == 2)
        self.seat.update()

    def next_right(self) -> None:
        """The next right picture, by key."""
        at = next(k for k, b in enumerate(self.eye.buttons) if b.isChecked())
        self.show_right((at + 1) % len(self.eye.buttons))

    def _on_touched(self, panel: FilmPanel) -> None:
        self._touched = panel

    def do_with_film(self, what: str) -> None:
        """Do something with the film in hand, by key or menu."""
        FILM_ACTS[what](self.film_in_hand())

    def film_in_hand(self) -> FilmPanel:
        """The film that keys are for: the one that was touched last of those that are seen; the lap's is shown where none is."""
        seen = [p for p in (self.film, self.reference_film) if p.isVisible()]
        if not seen:
            self.show_left(1)
            return self.film
        return self._touched if self._touched in seen else seen[0]

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
        self.beside.setVisible(not on)
        self.feet.setVisible(not on)
        self.rehearsal.setVisible(on)
        if on:
            self.player.set_who("reference")
            self._on_line(with_line=False)
        self.ahead.setVisible(not (on and self.is_blind))
        self._tell_next()

    @property
    def is_blind(self) -> bool:
        """Whether only the names of places are shown while rehearsing."""
        return self.rehearsal.blind.buttons[1].isChecked()

    def blind(self, blind: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Rehearse with the road in sight, or by the names of places alone."""
        self.rehearsal.blind.show_end(blind)
        self.rehearse(on=True)

    def set_eye(self) -> EyeDialog:
        """Height of the eye, angle of view, how far ahead."""
        dialog = EyeDialog(self._store, self)
        dialog.show()
        return dialog

    def say_the_lap(self) -> SayDialog | None:
        """Say gear, landmark and kind of each corner from the head."""
        if self._store.comparison is None or self._store.road is None:
            return None
        self.player.pause()
        dialog = SayDialog(self._store, self)
        dialog.show()
        return dialog

    def splits(self) -> dict[str, QSplitter]:
        """The two pictures and the rehearsal."""
        return {"walk": self.split}

    def handlers(self) -> dict[str, Callable[[], object]]:
        """What the actions of the table do here."""
        player, call = self.player, self.rehearsal.rehearsal.call
        return {
            "walk:play": player.play, "walk:rate": self.next_rate, "walk:back": player.back, "walk:next": lambda: player.step(1),
            "walk:before": lambda: player.step(-1), "walk:eye": self.next_right, "walk:view": self.set_eye,
            **{f"walk:{name}": partial(self.turn, name) for name in ("loop", "who", "together", "left", "line")},
            **{f"film:{name}": partial(self.do_with_film, name) for name in FILM_ACTS},
            **{f"call:{name}": partial(call, name) for name in CALLS},
            **{f"call:{hard}": partial(call, "brake", hard) for hard in HARD},
            "rehearse": lambda: self.turn("rehearse"), "rehearse:blind": lambda: self.turn("blind"),
            "rehearse:say": self.say_the_lap, "rehearse:aloud": self.rehearsal.turn_aloud,
        }  # fmt: skip

    def next_rate(self) -> None:
        """The next slower rate, or full speed again."""
        self.player.set_rate(RATES[(RATES.index(self.player.rate) + 1) % len(RATES)])

    def turn(self, what: str) -> None:
        """Turn one of the switches to its other end, by key."""
        switch, act = {
            "who": (self.who, self._on_who), "together": (self.together, self._on_together),
            "left": (self.left, self.show_left), "line": (self.line, self._on_line), "loop": (self.loop, self.player.set_looped), "rehearse": (self.marks, self.rehearse), "blind": (self.rehearsal.blind, self.blind),
        }[what]  # fmt: skip
        act(not switch.buttons[1].isChecked())

    def _on_turned(self) -> None:
        self.play.setText("Stop" if self.player.playing else "Play")
        self.rate.show_at(RATES.index(self.player.rate))
        self.who.show_end(self.player.who == "reference")
        self.loop.show_end(self.player.looped)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.DISPLAY | Changed.GUIDE | Changed.PAGE):
            self._tell_next()
        if Changed.DISPLAY in flags:
            self.seat.update()

    def _on_moved(self) -> None:
        if self.isVisible():
            self._tell_next()

    def _tell_next(self) -> None:
        """What comes next, early enough to be read, and the marks at the place."""
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
                return loss.corner.called + (self._name_at(place_m) if self.is_blind else "")
            early = course.time_s(self.player.who, first) - now <= CUE_S
            return self._words(loss) if early else f"next: {loss.corner.called}"
        return ""

    def _name_at(self, place_m: float) -> str:
        """The landmark that is next, for those who see no road."""
        road = self._store.road
        marks = road.circuit.book.landmarks if road is not None and road.circuit is not None else ()
        ahead = next((m for m in marks if 0.0 <= m.circuit_m - place_m < NAMED_M), None)
        return f" · {landmark_short(ahead)}" if ahead is not None else ""

    def _words(self, loss: CornerLoss) -> str:
        road = self._store.road
        circuit = road.circuit if road is not None and self._store.session.display.by_landmark else None
        made, corner = self._store.guide, loss.corner.lasting
        own = {f: w.text for (c, f), w in made.typed.items() if c == corner} if made is not None else {}
        return corner_cue(loss.corner, loss.reference_marks, circuit, units_of(self._store.session.display), own)


def _picture(switches: list[Switch], pictures: list[QWidget]) -> QWidget:
    """One half of the page: what it may show, and what it shows."""
    half = QWidget()
    column, row = QVBoxLayout(half), QHBoxLayout()
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(3)
    for switch in switches:
        row.addWidget(switch)
    row.addStretch(1)
    column.addLayout(row)
    for picture in pictures:
        column.addWidget(picture, 1)
    return half
