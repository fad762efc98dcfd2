"""Plays a lap: one clock, from the data, that the place follows; rates, stops, a corner over and over."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QElapsedTimer, QObject, Qt, QTimer, pyqtSignal

from jete.session import operations as ops
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.core.walk.course import Course, Who

RATES = (1.0, 0.5, 0.25)
# Sixty pictures a second: a timer counts whole milliseconds.
FRAME_MS = 17
BACK_S = 3.0


class Player(QObject):
    """Moves the place of the store in time with one of the laps; who else moves the place moves the player."""

    moved = pyqtSignal()
    turned = pyqtSignal()

    def __init__(self, store: SessionStore, tasks: Tasks) -> None:
        super().__init__()
        self._store = store
        self.course: Course | None = None
        self.who: Who = "lap"
        self.rate, self.looped = 1.0, False
        self._clock = QElapsedTimer()
        self._began_s = 0.0
        self._moving = False
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(FRAME_MS)
        self._timer.timeout.connect(self._tick)
        store.changed.connect(self._on_changed)
        tasks.closing.connect(self._on_closing)

    def _on_closing(self) -> None:
        self._timer.stop()
        self._store.changed.disconnect(self._on_changed)

    @property
    def playing(self) -> bool:
        """Whether the clock runs."""
        return self._timer.isActive()

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if Changed.RESULT in flags:
            self.pause()
            self.course = self._course()
            self.moved.emit()
        if Changed.PAGE in flags and session.look.page != "walk":
            self.pause()
        if Changed.PLACE in flags:
            if not self._moving and self.playing:
                self._start_clock()
            self.moved.emit()

    def _course(self) -> Course | None:
        comparison = self._store.comparison
        if comparison is None:
            return None
        from jete.core.walk.course import course_of

        return course_of(comparison)

    def time_s(self) -> float:
        """Where the played lap is by its own clock."""
        return self.course.time_s(self.who, self._store.session.look.place_m) if self.course is not None else 0.0

    def play(self) -> None:
        """Let it run, or stop it; at the end it begins anew."""
        if self.playing:
            self.pause()
            return
        if self.course is None:
            return
        if self.time_s() >= self.course.duration_s(self.who) - 1e-3:
            self._go_to(0.0)
        self._start_clock()
        self._timer.start()
        self.turned.emit()

    def pause(self) -> None:
        """Stop the clock."""
        if self.playing:
            self._timer.stop()
            self.turned.emit()

    def _start_clock(self) -> None:
        self._began_s = self.time_s()
        self._clock.restart()

    def set_rate(self, rate: float) -> None:
        """Faster or slower, from where it is."""
        self.rate = rate
        self._start_clock()
        self.turned.emit()

    def set_looped(self, looped: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """One corner over and over, or the whole lap once."""
        self.looped = looped
        self.turned.emit()

    def set_who(self, who: Who) -> None:
        """Play the reference or the lap, from the same place."""
        self.who = who
        self._start_clock()
        self.turned.emit()
        self.moved.emit()

    def back(self) -> None:
        """Three seconds back: "let me run that back"."""
        self._to_time(max(self.time_s() - BACK_S, 0.0))

    def step(self, step: int) -> None:
        """To the next mark of either lap, or the one before."""
        stop = self.course.next_stop(self._store.session.look.place_m, step) if self.course is not None else None
        self.pause()
        if stop is not None:
            self._go_to(stop.place_m)

    def _tick(self) -> None:
        """Where the clock says it is: it never counts frames."""
        if self.course is None:
            return
        time = self._began_s + self.rate * self._clock.nsecsElapsed() * 1e-9
        place, corner = self.course.place_m(self.who, time), self._corner()
        if self.looped and corner is not None and not corner[0] <= place < corner[1]:
            self._go_to(corner[0])
            self._start_clock()
            return
        if time >= self.course.duration_s(self.who):
            self._go_to(self.course.length_m)
            self.pause()
            return
        self._go_to(place)

    def _corner(self) -> tuple[float, float] | None:
        """From where to where the looped corner is played."""
        session = self._store.session
        corner = session.lay.corner(session.look.corner)
        return (max(corner.from_m, corner.start_m), corner.end_m) if corner is not None else None

    def _to_time(self, time_s: float) -> None:
        if self.course is not None:
            self._go_to(self.course.place_m(self.who, time_s))
            self._start_clock()

    def _go_to(self, place_m: float) -> None:
        self._moving = True
        try:
            self._store.look_at(lambda s: ops.go_to(s, place_m))
        finally:
            self._moving = False
