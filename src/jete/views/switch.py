"""A two-way switch that shows both ends; the chosen one is underlined."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget


class Switch(QWidget):
    """Tells which end a person turned it to: False the first, True the second."""

    turned = pyqtSignal(bool)

    def __init__(self, name: str, ends: tuple[str, str], tooltip: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
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
        self._group.idClicked.connect(self._on_clicked)

    def _on_clicked(self, number: int) -> None:
        self.turned.emit(number == 1)

    def show_end(self, second: bool) -> None:  # noqa: FBT001 - as the signal has it
        """Show the end that is chosen, without telling."""
        self.buttons[1 if second else 0].setChecked(True)

    @property
    def chosen(self) -> str:
        """The chosen end."""
        return next((b.text() for b in self.buttons if b.isChecked()), "")
