"""A switch that shows all its ends; the chosen one is underlined."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSizePolicy, QWidget

if TYPE_CHECKING:
    from collections.abc import Sequence


class Switch(QWidget):
    """Tells which end a person turned it to: by number, and for two ends False the first, True the second."""

    turned = pyqtSignal(bool)
    moved = pyqtSignal(int)

    def __init__(self, name: str, ends: Sequence[str], tooltip: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self._group = QButtonGroup(self)
        self.buttons = tuple(QPushButton(text) for text in ends)
        for number, button in enumerate(self.buttons):
            button.setCheckable(True)
            button.setProperty("switch", True)
            button.setAccessibleName(f"{name}: {ends[number]}")
            button.setToolTip(tooltip)
            self._group.addButton(button, number)
            row.addWidget(button)
        self.buttons[0].setChecked(True)
        self._group.idClicked.connect(self._on_clicked)

    def _on_clicked(self, number: int) -> None:
        self.turned.emit(number == 1)
        self.moved.emit(number)

    def show_end(self, second: bool) -> None:  # noqa: FBT001 - as the signal has it
        """Show the end of two that is chosen, without telling."""
        self.show_at(1 if second else 0)

    def show_at(self, number: int) -> None:
        """Show the end that is chosen, without telling."""
        self.buttons[number].setChecked(True)

    @property
    def chosen(self) -> str:
        """The chosen end."""
        return next((b.text() for b in self.buttons if b.isChecked()), "")
