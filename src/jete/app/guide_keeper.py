"""The lap guide of the reference, made in the background while its page is looked at; what is written into it."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any, NamedTuple

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.core.errors import InputError
from jete.library.guide_records import OwnWords, Photo
from jete.session.state import Changed, LapKey, Session

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.axis.road.corners import CornerId
    from jete.desk.guide import Made
    from jete.library.circuits import Place
    from jete.library.guide_records import Version
    from jete.library.library import Library
    from jete.report.guide import Guide

GUIDING, VERSIONS = "making the guide", "reading the guide's versions"
PRINTING, WRITING = "laying the guide out", "writing the guide"
# Of fewer good laps there is no spread.
FEWEST = 3

# The walk's cues are in the guide's own words.
SHOWN_ON = shown_on("guide")


class _Act(NamedTuple):
    """Something done to a guide: its name for a person, how it is written, what the guide is then, and what was typed.

    What was typed is shown before it is in.
    """

    text: str
    write: Callable[[Library, Place], object]
    shown: Callable[[Made], Made] = lambda made: made
    typed: str = ""


def _typed(
    at: tuple[CornerId, str], words: OwnWords | None
) -> tuple[Callable[[Library, Place], object], Callable[[Made], Made], str]:
    """Own words at a corner's field, or none any more: written, and shown while they are on their way."""

    def shown(made: Made) -> Made:
        known = {k: v for k, v in made.typed.items() if k != at}
        return replace(made, typed=known if words is None else {**known, at: words})

    told = f'corner {at[0]}, {at[1]} "{words.text if words is not None else ""}"'
    return lambda x, place: x.guides.write(place, *at, words), shown, told


def _dropped(number: Callable[[], int]) -> tuple[Callable[[Library, Place], object], Callable[[Made], Made]]:
    """A picture taken off its card."""

    def shown(made: Made) -> Made:
        return replace(made, photos=tuple(p for p in made.photos if p.id != number()))

    return lambda x, _: x.guides.drop_photo(number()), shown


class GuideKeeper(Follower):
    """Makes the guide where it is read, on the pages Guide and Walk, and writes its fields, as steps of undo."""

    WORKS = (GUIDING,)
    failed = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__(store, tasks, shelf)
        self._of: LapKey | None = None
        self.middle = False

    def _forget(self) -> None:
        self._of = None
        if self._store.guide is not None:
            self._store.show(lambda r: replace(r, guide=None), also=Changed.GUIDE)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if Changed.RUNS in flags:
            self._rename(session)
        about = Changed.PAGE | Changed.CHOICE | Changed.RESULT | Changed.PASSES
        if session.look.page not in SHOWN_ON or not flags & about:
            return
        known = self._store.passes
        more = Changed.PASSES in flags and known is not None and known.left == 0 and self._store.guide is not None
        if session.choice.reference != self._of or Changed.RESULT in flags or (more and self._lacks_spread()):
            self.make()

    def _rename(self, session: Session) -> None:
        """The guide goes under the name that its driver has now."""
        made, run = self._store.guide, session.run(self._of.run) if self._of is not None else None
        if made is not None and run is not None and made.lap.driver != run.sheet.driver:
            renamed = replace(made, lap=replace(made.lap, driver=run.sheet.driver))
            self._store.show(lambda r: replace(r, guide=renamed), also=Changed.GUIDE)

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
        library, middle = self._shelf.library(), self.middle

        def work(_: Token) -> Made:
            from jete.desk.guide import guide_in

            return guide_in(library, key.run, load(), middle=middle)

        self._tasks.start(GUIDING, work, self._on_made, self.failed.emit)

    def _on_made(self, made: Made) -> None:
        self._store.show(lambda r: replace(r, guide=made), also=Changed.GUIDE)

    def set_middle(self, middle: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Write it from the reference, or from the middle one of the run's best laps."""
        self.middle = middle
        self.make()

    # --- own words

    def write(self, corner: CornerId, field: str, text: str, measured: str = "") -> bool:
        """Put own words in the place of a field, over what is measured there; empty ones bring the measured back."""
        before = self._words(corner, field)
        if (before.text if before is not None else "") == text:
            return False
        return self._replace("words of the guide", (corner, field), OwnWords(text, measured) if text else None)

    def leave(self, corner: CornerId, field: str, measured: str) -> bool:
        """Let own words stand over what is measured now."""
        before = self._words(corner, field)
        return before is not None and self._replace("words left", (corner, field), replace(before, over=measured))

    def _words(self, corner: CornerId, field: str) -> OwnWords | None:
        made = self._store.guide
        return made.typed.get((corner, field)) if made is not None else None

    def _replace(self, text: str, at: tuple[CornerId, str], words: OwnWords | None) -> bool:
        before = self._words(*at)
        return self._do(_Act(text, *_typed(at, words)), _Act(text, *_typed(at, before)))

    def _do(self, act: _Act, back: _Act) -> bool:
        """Do something that can be undone."""
        return self._change(
            act, lambda: self._store.did(act.text, lambda: self._change(back), lambda: self._change(act))
        )

    def _change(self, act: _Act, did: Callable[[], object] = lambda: None) -> bool:
        """Write something about the circuit's guide, and show the guide with it: at once, since it may be what was typed."""
        key = self._store.session.choice.reference
        if key is None or self._shelf.location is None:
            return False

        def show() -> None:
            if self._store.guide is not None and self._of == key:
                made = act.shown(self._store.guide)
                self._store.show(lambda r: replace(r, guide=made), also=Changed.GUIDE)

        def write(library: Library) -> None:
            place = library.circuits.place(key.run)
            if place is None:
                raise InputError(
                    "The guide", "no circuit is known here.", "Give the run a circuit on the page Laps first."
                )
            act.write(library, place)

        def then(_: object) -> None:
            show()
            did()

        words = f"{act.text}: {act.typed}" if act.typed else act.text
        taken = self._shelf.write(words, write, then=then)
        if taken and act.typed:
            # A guide that was made anew meanwhile shows it again once it is in.
            show()
        return taken

    # --- versions

    def versions(self, then: Callable[[list[Version]], None]) -> None:
        """Read the versions of the circuit's guide, the newest first."""
        key = self._store.session.choice.reference
        if key is None or self._shelf.location is None:
            return
        library = self._shelf.library()

        def work(_: Token) -> list[Version]:
            place = library.circuits.place(key.run)
            return library.guides.versions(place) if place is not None else []

        self._tasks.start(VERSIONS, work, then, self.failed.emit)

    def keep_version(self, author: str, document: dict[str, Any]) -> bool:
        """Keep the guide as it is now, under a name."""
        key = self._store.session.choice.reference
        if key is None:
            return False
        number: list[int | None] = [None]

        def keep(library: Library, place: Place) -> None:
            number[0] = library.guides.keep_version(place, key.run, author, document, number[0])

        text = "version of the guide"
        return self._do(_Act(text, keep), _Act(text, lambda x, _: x.guides.drop_version(number[0] or 0)))

    def drop_version(self, version: Version) -> bool:
        """Throw a version away."""

        def back(library: Library, place: Place) -> None:
            library.guides.put_version_back(place, version)

        text = "version thrown away"
        return self._do(_Act(text, lambda x, _: x.guides.drop_version(version.id)), _Act(text, back))

    # --- pictures

    def add_photo(self, corner: CornerId, caption: str, jpeg: bytes) -> bool:
        """Put a picture on a card."""
        number: list[int | None] = [None]

        def add(library: Library, place: Place) -> None:
            number[0] = library.guides.add_photo(place, corner, caption, jpeg, number[0])

        def shown(made: Made) -> Made:
            return replace(made, photos=(*made.photos, Photo(number[0] or 0, corner, caption, jpeg)))

        text = "picture on a card"
        return self._do(_Act(text, add, shown), _Act(text, *_dropped(lambda: number[0] or 0)))

    def drop_photo(self, photo: Photo) -> bool:
        """Take a picture off its card."""

        def back(library: Library, place: Place) -> None:
            library.guides.add_photo(place, photo.corner, photo.caption, photo.jpeg, photo.id)

        def shown(made: Made) -> Made:
            return replace(made, photos=tuple(sorted((*made.photos, photo), key=lambda p: p.id)))

        text = "picture off its card"
        return self._do(_Act(text, *_dropped(lambda: photo.id)), _Act(text, back, shown))

    # --- as a file

    def printed(self, guide: Guide, then: Callable[[bytes], None]) -> None:
        """Lay the guide out as it prints, in the background."""
        from jete.paper.apart import printed

        self._tasks.start(PRINTING, lambda _: printed(guide), then, self.failed.emit)

    def write_file(self, path: Path, *, bag: bool, small: bool = True) -> None:
        """Write the guide as a file; what the ending says."""
        from jete.paper.guide_files import write_guide_file

        made = self._store.guide
        if made is None:
            return
        self._tasks.start(
            WRITING,
            lambda _: write_guide_file(path, made, bag=bag, small=small, apart=True),
            lambda _: self._shelf.told.emit(f"The guide is in {path.name}."),
            self.failed.emit,
        )
