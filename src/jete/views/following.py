"""What a widget is told of the session, and when: what cannot be seen is not worked out."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject

from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from collections.abc import Callable

    from PyQt6.QtWidgets import QWidget

    from jete.app.store import SessionStore

    Told = Callable[[Session, Changed], None]

EVERYTHING = ~Changed.NOTHING
NAME = "following"


class Following(QObject):
    """Tells a widget what changed while it can be seen; what changed meanwhile is told at once when it is shown.

    A widget that was never shown has missed everything.
    """

    def __init__(self, widget: QWidget, store: SessionStore, told: Told) -> None:
        super().__init__(widget)
        # Found among all children of a page by its name: by its class each of them is looked at.
        self.setObjectName(NAME)
        self._widget, self._store, self._told = widget, store, told
        self._missed = EVERYTHING
        widget.installEventFilter(self)
        store.changed.connect(self._on_changed)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        self._missed |= flags
        if self._widget.isVisible():
            self.catch_up()

    def catch_up(self) -> None:
        """Tell what was missed, seen or not."""
        missed, self._missed = self._missed, Changed.NOTHING
        if missed:
            self._told(self._store.session, missed)

    def eventFilter(self, _: QObject | None, event: QEvent | None) -> bool:  # noqa: N802 - Qt's name
        """The widget is about to be seen."""
        if event is not None and event.type() == QEvent.Type.Show:
            self.catch_up()
        return False
