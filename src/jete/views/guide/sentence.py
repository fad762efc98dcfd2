"""A sentence of a card, written where it stands: own words over what was measured, which stays small under them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from jete.app.theme import BODY_PX, SMALL_PX, font
from jete.views.labels import ElidedLabel

if TYPE_CHECKING:
    from PyQt6.QtGui import QMouseEvent

NOTHING = "write…"


class Sentence(QWidget):
    """What was measured as text; a click, or Enter, opens a field for own words."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.measured, self.own, self.stale = _Measured(title), QLineEdit(), Stale()
        slanted = QFont(font(BODY_PX))
        slanted.setItalic(True)
        self.own.setFont(slanted)
        self.own.setProperty("asText", True)
        self.own.setAccessibleName(f"Own words: {title}")
        self.own.hide()
        self.own.installEventFilter(self)
        self.measured.clicked.connect(self.open)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        for part in (self.own, self.measured, self.stale):
            column.addWidget(part)

    def show_words(self, measured: str, typed: str, over: str, *, there: bool) -> None:
        """Show what was measured, and own words; what is being typed stays.

        Args:
            measured: the sentence that was measured; may be empty.
            typed: own words in its place; empty for none.
            over: what was measured when they were written, where that has changed since.
            there: whether the card has such a sentence at all.
        """
        if self.own.text() != typed and not (self.own.hasFocus() and self.own.isModified()):
            self.own.setText(typed)
        self.own.setEnabled(there)
        self.measured.setEnabled(there)
        self.measured.setText(measured or NOTHING)
        self.stale.show_old(over)
        self._show_right()

    def open(self) -> QLineEdit:
        """Let own words be written."""
        if self.own.isEnabled():
            self.own.show()
            self.own.setFocus(Qt.FocusReason.OtherFocusReason)
            self._show_right()
        return self.own

    def _show_right(self) -> None:
        """Own words stand in the place of what was measured, which is small then."""
        own = bool(self.own.text()) or self.own.hasFocus()
        self.own.setVisible(own)
        empty = self.measured.text() == NOTHING
        self.measured.setVisible(not (own and empty))
        self.measured.show_as(quiet=own or empty)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802 - Qt's name
        """The field goes where nothing was written into it; Escape leaves it as it was."""
        if watched is self.own and event is not None:
            if event.type() == QEvent.Type.FocusOut:
                self.own.setVisible(bool(self.own.text()))
                self._show_right()
            elif (
                isinstance(event, QKeyEvent)
                and event.type() == QEvent.Type.KeyPress
                and event.key() == Qt.Key.Key_Escape
            ):
                self.own.undo()
                self.own.setModified(False)
                self.measured.setFocus()
                return True
        return False


class _Measured(QLabel):
    """A sentence that can be clicked on, or gone to by Tab and opened by Enter."""

    clicked = pyqtSignal()

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)
        self.setAccessibleName(f"Measured: {title}. Enter: write own words.")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.IBeamCursor)
        self.setProperty("sentence", True)
        self.setToolTip("Click, or Enter: write it in your own words")

    def show_as(self, *, quiet: bool) -> None:
        """In the size of text, or small and muted."""
        self.setFont(font(SMALL_PX if quiet else BODY_PX))
        if self.property("muted") is not quiet:
            self.setProperty("muted", quiet)
            style = self.style()
            if style is not None:
                style.polish(self)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Write."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Write."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)


class Stale(QWidget):
    """Says that something else was measured when own words were written, and asks which is to stand."""

    def __init__(self) -> None:
        super().__init__()
        self.was = ElidedLabel()
        self.was.setFont(font(SMALL_PX))
        self.was.setProperty("muted", True)
        self.take, self.leave = QPushButton("Take measured"), QPushButton("Keep mine")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.was, 1)
        for button in (self.take, self.leave):
            button.setFont(font(SMALL_PX))
            row.addWidget(button)
        self.hide()

    def show_old(self, over: str) -> None:
        """Show what was measured then; nothing where it is as it was."""
        self.was.setText(f"written over: {over}" if over else "")
        self.setVisible(bool(over))
