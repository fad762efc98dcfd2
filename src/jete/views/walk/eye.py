"""How the road is seen from the seat: the height of the eye, the angle of view, how far ahead."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QDoubleSpinBox, QFormLayout, QPushButton, QVBoxLayout

from jete.session import operations as ops
from jete.session.display import Display, bounds

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

    from jete.app.store import SessionStore

# Title, unit, step and decimals of each.
FIELDS: Final = {
    "eye_m": ("height of the eye", " m", 0.05, 2), "view_deg": ("angle of view", "°", 2.0, 0), "ahead_m": ("road ahead", " m", 20.0, 0),
    "look_m": ("looks ahead into the bend (0: straight on)", " m", 5.0, 0),
}  # fmt: skip


class EyeDialog(QDialog):
    """What is set is seen at once."""

    def __init__(self, store: SessionStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._store = store
        self.setWindowTitle("The eye")
        self.setObjectName("eye")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.boxes = {name: QDoubleSpinBox() for name in FIELDS}
        self.usual = QPushButton("As usual")
        form = QFormLayout()
        for name, (title, unit, step, digits) in FIELDS.items():
            box = self.boxes[name]
            box.setRange(*bounds(name))
            box.setSingleStep(step)
            box.setDecimals(digits)
            box.setSuffix(unit)
            box.setAccessibleName(title)
            form.addRow(title, box)
        self._show(store.session.display)
        for box in self.boxes.values():
            box.valueChanged.connect(self._on_set)
        self.usual.clicked.connect(self._on_usual)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.usual)

    def _show(self, display: Display) -> None:
        for name, box in self.boxes.items():
            box.setValue(getattr(display, name))

    def _on_set(self) -> None:
        values = {name: box.value() for name, box in self.boxes.items()}
        self._store.look_at(lambda s: ops.display(s, **values))

    def _on_usual(self) -> None:
        self._show(Display())
