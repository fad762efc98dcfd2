"""The lap guide of the reference, made in the background while its page is looked at; what is written into it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from jete.core.errors import InputError
from jete.session.state import Changed, LapKey, Session

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.library.guide_book import Made

GUIDING = "making the guide"
# Of fewer good laps there is no spread.
FEWEST = 3


class GuideKeeper(QObject):
    """Follows the page Guide and writes its fields, as steps of undo."""

    failed = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._tasks, self._shelf = store, tasks, shelf
        self._of: LapKey | None = None
        store.changed.connect(self._on_changed)
        shelf.closing.connect(self._on_shelf_closing)
        tasks.closing.connect(self._on_closing)

    def _on_closing(self) -> None:
        self._store.changed.disconnect(self._on_changed)

    def _on_shelf_closing(self) -> None:
        self._tasks.cancel(GUIDING)
        self._of = None
        if self._store.guide is not None:
            self._store.show(lambda r: replace(r, guide=None), also=Changed.GUIDE)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        about = Changed.PAGE | Changed.CHOICE | Changed.RESULT | Changed.PASSES
        if session.look.page != "guide" or not flags & about:
            return
        known = self._store.passes
        more = Changed.PASSES in flags and known is not None and known.left == 0 and self._store.guide is not None
        if session.choice.reference != self._of or Changed.RESULT in flags or (more and self._lacks_spread()):
            self.make()

    def _lacks_spread(self) -> bool:
        """Whether the guide was made before the passes of the good laps were."""
        made = self._store.guide
        return made is not None and made.laps < FEWEST

    def make(self) -> None:
        """Make the guide of the reference."""
        key = self._store.session.choice.reference
        load = self._shelf.lap_loader(key)
        if key is None or load is None or self._shelf.location is None:
            return
        self._of = key
        library = self._shelf.library()
        self._tasks.start(GUIDING, lambda _: library.guides.guide(key.run, load()), self._on_made, self.failed.emit)

    def _on_made(self, made: Made) -> None:
        self._store.show(lambda r: replace(r, guide=made), also=Changed.GUIDE)

    def write(self, corner: int, field: str, text: str) -> bool:
        """Put own words in the place of a field; empty ones bring the measured back."""
        made, key = self._store.guide, self._store.session.choice.reference
        if made is None or key is None:
            return False
        before = made.typed.get((corner, field), "")
        if before == text or not self._put(key.run, (corner, field), text):
            return False
        self._store.did(
            "words of the guide",
            lambda: self._put(key.run, (corner, field), before),
            lambda: self._put(key.run, (corner, field), text),
        )
        return True

    def _put(self, run: int, at: tuple[int, str], text: str) -> bool:
        try:
            library = self._shelf.library()
            place = library.circuits.place(run)
        except InputError as error:
            self.failed.emit(error)
            return False
        if place is None:
            return False
        done = self._shelf.write(lambda x: x.guides.write(place, *at, text))
        made = self._store.guide
        if done and made is not None:
            typed = {k: v for k, v in {**made.typed, at: text}.items() if v}
            self._store.show(lambda r: replace(r, guide=replace(made, typed=typed)), also=Changed.GUIDE)
        return done

    def write_file(self, path: Path, *, bag: bool) -> None:
        """Write the guide as a file; what the ending says."""
        from jete.paper.guide_files import write_guide_file

        made = self._store.guide
        if made is None:
            return
        try:
            write_guide_file(path, made, bag=bag)
        except InputError as error:
            self.failed.emit(error)
            return
        self._shelf.told.emit(f"The guide is in {path.name}.")
