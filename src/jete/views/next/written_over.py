"""A line of text that a click lets a person write over; theirs is slanted, and empty words bring the program's back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QCompleter, QLineEdit, QVBoxLayout, QWidget

from jete.views.labels import plain

if TYPE_CHECKING:
    from collections.abc import Sequence


class WrittenOver(QWidget):
    """Tells what was written; Enter or leaving the field takes it, Esc leaves it as it was."""

    written = pyqtSignal(str)

    def __init__(self, name: str, font: QFont) -> None:
        super().__init__()
        self._name, self._font, self._own, self._words = name, font, "", ""
        self.label, self.field = plain(wrap=True), QLineEdit()
        self.label.setFont(font)
        self.label.setCursor(Qt.CursorShape.IBeamCursor)
        self.label.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.label.installEventFilter(self)
        self.field.setAccessibleName(name)
        self.field.setMaxLength(120)
        self.field.hide()
        self.field.installEventFilter(self)
        self.field.editingFinished.connect(self._on_done)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.label)
        column.addWidget(self.field)

    def show_words(self, words: str, own: str, phrases: Sequence[str] = ()) -> None:
        """Show the program's words, and a person's own over them; ``phrases`` are offered while one writes."""
        self._words, self._own = words, own
        shown = own or words
        self.label.setText(f"{shown[:1].upper()}{shown[1:]}")
        slanted = QFont(self._font)
        slanted.setItalic(bool(own))
        self.label.setFont(slanted)
        self.label.setToolTip(f"Click to write it in your own words.{f' Measured: {words}' if own else ''}")
        self.label.setAccessibleName(f"{self._name}: {shown}; Enter writes it in own words")
        completer = QCompleter(list(phrases), self.field)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.field.setCompleter(completer)
        self.field.setPlaceholderText(words)

    def begin(self) -> None:
        """Let a person write."""
        self.field.setText(self._own or self._words)
        self.label.hide()
        self.field.show()
        self.field.setFocus()
        self.field.selectAll()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802 - Qt's name
        """A click or Enter on the text begins; Esc in the field leaves it."""
        if watched is self.label and _begins(event):
            self.begin()
            return True
        if watched is self.field and _leaves(event):
            self._leave()
            return True
        return super().eventFilter(watched, event)

    def _leave(self) -> None:
        self.field.blockSignals(True)
        self.field.hide()
        self.label.show()
        self.label.setFocus()
        self.field.blockSignals(False)

    def _on_done(self) -> None:
        if not self.label.isHidden():
            return
        text = self.field.text().strip()
        self._leave()
        own = "" if text == self._words else text
        if own != self._own:
            self.written.emit(own)


def _begins(event: QEvent | None) -> bool:
    if isinstance(event, QMouseEvent):
        return event.type() == QEvent.Type.MouseButtonRelease and event.button() == Qt.MouseButton.LeftButton
    if isinstance(event, QKeyEvent):
        keys = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2)
        return event.type() == QEvent.Type.KeyPress and event.key() in keys
    return False


def _leaves(event: QEvent | None) -> bool:
    key = event.key() if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress else None
    return key == Qt.Key.Key_Escape
