"""The window as it was left: its size, splitters and page, the run and pair of the last time, and what was shown of them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt

from jete.app import last_view, memory
from jete.session import operations as ops

if TYPE_CHECKING:
    from collections.abc import Iterable

    from PyQt6.QtWidgets import QMainWindow

    from jete.app.open_shelf import Pinned
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.library.location import Location
    from jete.session.state import Run, Session
    from jete.views.page import Page

# A splitter whose parts come to less of the window's width has not been shown yet.
LAID_OUT_SHARE = 0.9


class AsLeft:
    """Takes up what was left when a window is made, and keeps it when it goes."""

    def __init__(self, window: QMainWindow, store: SessionStore, shelf: Shelf) -> None:
        self._window, self._store, self._shelf = window, store, shelf
        self._memory = memory.load()

    def take_up(self) -> None:
        """Size and page as they were left."""
        if self._memory.size is not None:
            self._window.resize(*self._memory.size)
        if self._memory.maximized:
            self._window.setWindowState(Qt.WindowState.WindowMaximized)
        self._store.look_at(lambda s: ops.go_to_page(s, self._memory.page))

    def take_up_splits(self, page: Page) -> None:
        """The splitters of a page that was just made."""
        for name, split in page.splits().items():
            sizes = self._memory.splits.get(name, [])
            if len(sizes) == split.count() and sum(sizes) > 0:
                split.setSizes(sizes)

    def take_up_shelf(self, session: Session, runs: tuple[Run, ...], pins: Pinned, place: str) -> Session:
        """The shelf of the last time begins with the run and the pair of the last time."""
        if place != self._memory.shelf:
            return ops.new_shelf(session, runs, pins)
        return ops.reopen(session, runs, pins, self._memory.run, self._memory.choice)

    def show_last_view(self, location: Location) -> None:
        """Paint at once what was shown of a shelf last, before it is open."""
        view = last_view.load(location) if location.shown == self._memory.shelf else None
        if view is not None:
            shown, road = view.comparison, view.road
            self._store.show(
                lambda r: replace(r, comparison=shown, road=road), lambda s: replace(view.session, display=s.display)
            )

    def keep_view(self, location: Location | None) -> None:
        """Keep what is shown for the next start."""
        session, comparison = self._store.session, self._store.comparison
        if location is not None and comparison is not None and not session.choice.over:
            last_view.save(location, last_view.LastView(session, comparison, self._store.road))

    def remember(self, pages: Iterable[Page]) -> None:
        """Keep size, splitters, page and pair."""
        place, session, window = self._shelf.location, self._store.session, self._window
        size = window.normalGeometry().size() if window.isMaximized() else window.size()
        memory.save(replace(
            memory.of_session(session, place.shown if place is not None else ""),
            size=(size.width(), size.height()), maximized=window.isMaximized(),
            splits={**self._memory.splits, **self._laid_out(pages)},
        ))  # fmt: skip

    def _laid_out(self, pages: Iterable[Page]) -> dict[str, list[int]]:
        """The sizes of the splitters that were shown: before that they have none."""
        sizes = {name: split.sizes() for page in pages for name, split in page.splits().items()}
        return {name: s for name, s in sizes.items() if sum(s) > LAID_OUT_SHARE * self._window.width()}
