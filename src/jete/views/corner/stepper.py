"""A row that steps one change up and down: its name, two buttons and the value between them, and its seconds alone."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QWidget

from jete.app.theme import SMALL_PX, font
from jete.report.words import MINUS
from jete.views.labels import plain
from jete.views.switch import Switch

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PyQt6.QtGui import QKeyEvent

BUTTON_PX = 26


class Stepper(QWidget):
    """Tells by how many steps a person moved it, and which end of what stays was chosen."""

    stepped = pyqtSignal(int)
    stays = pyqtSignal(int)

    def __init__(self, name: str, ends: Sequence[str], tip: str) -> None:
        super().__init__()
        self.setObjectName(f"step-{name}".replace(" ", "-"))
        self.setAccessibleName(f"{name}: left and right step it")
        self.setToolTip(tip)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.value, self.seconds = plain(), plain(small=True)
        self.keep = Switch(f"What stays with another {name}", ends, "") if len(ends) > 1 else None
        self._less, self._more = (QPushButton(text) for text in (MINUS, "+"))
        self._build(name)

    def _build(self, name: str) -> None:
        title = plain(name)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(0)
        for button, step, word in ((self._less, -1, "less"), (self._more, 1, "more")):
            button.setFixedWidth(BUTTON_PX)
            button.setProperty("step", True)
            button.setAutoRepeat(True)
            button.setAccessibleName(f"{name}: {word}")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(self._on_more if step > 0 else self._on_less)
        self.value.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.value.setMinimumWidth(78)
        self.seconds.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        cells: tuple[QLabel | QPushButton, ...] = (title, self._less, self.value, self._more, self.seconds)
        for column, widget in enumerate(cells):
            grid.addWidget(widget, 0, column)
        grid.setColumnStretch(4, 1)
        title.setMinimumWidth(92)
        if self.keep is not None:
            self.keep.moved.connect(self.stays)
            for button in self.keep.buttons:
                button.setFont(font(SMALL_PX))
            grid.addWidget(self.keep, 1, 0, 1, 5)

    def _on_less(self) -> None:
        self.stepped.emit(-1)

    def _on_more(self) -> None:
        self.stepped.emit(1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802 - Qt's name
        """Left and right step; with Shift by five."""
        if event is None or event.key() not in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            super().keyPressEvent(event)
            return
        size = 5 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        self.stepped.emit(size if event.key() == Qt.Key.Key_Right else -size)

    def event(self, event: QEvent | None) -> bool:
        """The arrows are this row's while it has the focus, not the window's."""
        if event is not None and event.type() == QEvent.Type.ShortcutOverride:
            key = getattr(event, "key", lambda: None)()
            if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
                event.accept()
                return True
        return super().event(event)
