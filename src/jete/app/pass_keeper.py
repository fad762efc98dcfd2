"""Passes of the shown corner from the shelf; those that are missing are made in the background, once a lap."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.app.results import CornerPasses
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.axis.road.corners import CornerId
    from jete.library.circuits import Place
    from jete.library.library import Library

READING_PASSES, MAKING_PASSES = "reading passes", "making passes"
# The pages that need passes.
SHOWN_ON = shown_on("passes")
# Who steps through the corners does not stop at each of them.
STAYED_MS = 60


class PassKeeper(Follower):
    """Follows the pages Corner and Guide: puts the passes of the selected corner into the store, and has missing ones made."""

    WORKS = (READING_PASSES, MAKING_PASSES)
    made = pyqtSignal(int, int)
    _so_far = pyqtSignal(int, int)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__(store, tasks, shelf)
        self._stayed = self._waiting(STAYED_MS, self.read_again)
        self._so_far.connect(self.made)

    def _forget(self) -> None:
        if self._store.passes is not None:
            self._store.show(lambda r: replace(r, passes=None), also=Changed.PASSES)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        about = Changed.PAGE | Changed.CORNER | Changed.RESULT | Changed.RUNS
        if session.look.page in SHOWN_ON and flags & about and self._corner() is not None:
            self._stayed.start()

    def _corner(self) -> CornerId | None:
        """The id of the shown corner."""
        loss = self._store.corner
        return loss.corner.id if loss is not None else None

    def read_again(self) -> None:
        """Show the passes as the shelf has them now."""
        choice, corner = self._store.session.choice, self._corner()
        if choice.lap is None or corner is None or self._shelf.location is None:
            return
        library, run = self._shelf.library(), choice.lap.run
        self._tasks.start(
            READING_PASSES,
            lambda _: _kept(library, run, corner),
            self._on_read,
            lambda _: self._on_read((None, CornerPasses(corner, ()))),
        )

    def _on_read(self, found: tuple[Place | None, CornerPasses]) -> None:
        place, passes = found
        if passes.corner == self._corner():
            self._store.show(lambda r: replace(r, passes=passes), also=Changed.PASSES)
        if place is not None and passes.left and not self._shelf.read_only and not self._tasks.runs(MAKING_PASSES):
            self._make(place)

    def _make(self, place: Place) -> None:
        library = self._shelf.library()

        def work(token: Token) -> int:
            from jete.desk.passes import make_passes

            return make_passes(library, place, self._so_far.emit, token.cancelled)

        self._tasks.start(MAKING_PASSES, work, self._on_made, lambda _: self._on_made(0))

    def _on_made(self, count: int) -> None:
        self.made.emit(0, 0)
        if count and self._store.session.look.page in SHOWN_ON:
            self._stayed.start()


def _kept(library: Library, run: int, corner: CornerId) -> tuple[Place | None, CornerPasses]:
    """The passes of a corner of a run's circuit (off the window's thread)."""
    place = library.circuits.place(run)
    if place is None:
        return None, CornerPasses(corner, ())
    left = sum(len(laps) for laps in library.passes.missing(place).values())
    notes = tuple(library.circuits.corner_notes(place, corner).items())
    return place, CornerPasses(corner, tuple(library.passes.of_corner(place, corner)), left, notes)
