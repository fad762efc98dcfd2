"""The compared lap and its vehicle, worked out in the background while a person asks what a change would do."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.app.results import KnownLap
from jete.session.state import IDEAL, Changed, LapKey, Session

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap

LEARNING = "learning the vehicle"
ABOUT = Changed.PAGE | Changed.CHOICE | Changed.DISPLAY | Changed.RESULT | Changed.RUNS


class WhatIfKeeper(Follower):
    """Follows the page Corner where it asks *what if*: puts the compared lap with its vehicle into the store."""

    WORKS = (LEARNING,)
    # Why nothing can be learnt.
    failed = pyqtSignal(object)

    def _forget(self) -> None:
        if self._store.what_if is not None:
            self._show(None)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if Changed.RUNS in flags and self._store.what_if is not None:
            # Laps that were set aside, or split anew, tell another vehicle; another corner list has other corners.
            self._show(None)
        if session.look.page not in shown_on("what_if") or session.display.beside != "what_if" or not flags & ABOUT:
            return
        key, known = session.choice.lap, self._store.what_if
        if key is not None and (known is None or known.key != key or Changed.RESULT in flags):
            self._learn(key)

    def _learn(self, key: LapKey) -> None:
        run = self._store.session.run(key.run)
        lap = self._shelf.lap_loader(key)
        if run is None or lap is None or self._shelf.location is None or key.lap == IDEAL:
            return
        loads = [load for s in run.counted if (load := self._shelf.lap_loader(LapKey(key.run, s.number)))]
        find = self._shelf.circuit_finder(key)
        self._tasks.start(LEARNING, lambda _: _known(key, lap, loads, find), self._show, self.failed.emit)

    def _show(self, found: KnownLap | None) -> None:
        self._store.show(lambda r: replace(r, what_if=found), also=Changed.WHAT_IF)


def _known(
    key: LapKey,
    lap: Callable[[], Lap],
    run: Sequence[Callable[[], Lap]],
    find: Callable[[Lap], CircuitOnAxis | None],
) -> KnownLap:
    """The lap beside its circuit, with the vehicle by its run (off the window's thread)."""
    from jete.desk.changes import MOST_LAPS, held_beside, vehicle_of_run

    own = lap()
    laps = [load() for load in run[-MOST_LAPS:]] or [own]
    return KnownLap(key, held_beside(own, find(own)), vehicle_of_run(laps))
