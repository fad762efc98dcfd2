"""What the window asks of each of its pages, and the stack in which they are made when they are first needed."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QSplitter, QStackedWidget, QWidget

from jete.views.following import NAME, Following

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from jete.app.parts import Parts


class Page(QWidget):
    """A page; it says which actions of the table it does, and which splitters are as they were left.

    ``wanted`` asks for an action of the table that may be another's.
    """

    wanted = pyqtSignal(str)

    def handlers(self) -> dict[str, Callable[[], object]]:
        """What the actions that are this page's do, by their ids."""
        return {}

    def splits(self) -> dict[str, QSplitter]:
        """Its splitters, by the names under which their sizes are kept."""
        return {}


class Pages(QStackedWidget):
    """Holds the pages that were needed so far; ``made`` is told of each new one."""

    def __init__(self, parts: Parts, made: Callable[[Page], None]) -> None:
        super().__init__()
        self._parts, self._made = parts, made
        self._pages: dict[str, Page] = {}
        self._followings: dict[str, list[Following]] = {}

    def __iter__(self) -> Iterator[Page]:
        """The pages that were made."""
        return iter(self._pages.values())

    def page(self, name: str) -> Page:
        """A page as it would be seen now; it is made if it was not needed before."""
        page = self._there(name)
        for following in self._followings[name]:
            following.catch_up()
        return page

    def show_page(self, name: str) -> None:
        """Let a page be seen; what of it is not seen even now stays as it is."""
        self.setCurrentWidget(self._there(name))

    def _there(self, name: str) -> Page:
        if name not in self._pages:
            page: Page = import_module(f"jete.views.{name}.page").make(self._parts)
            self._pages[name] = page
            # A page has all its parts from the beginning; among all its children they are long to find.
            self._followings[name] = page.findChildren(Following, NAME)
            self.addWidget(page)
            self._made(page)
        return self._pages[name]
