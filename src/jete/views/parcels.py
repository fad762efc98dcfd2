"""Handing a lap on, and taking one in: what goes along, and what comes with it, before anything is written."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QPushButton, QVBoxLayout

from jete.report.parcels import brought_words
from jete.views.labels import plain

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

    from jete.formats.parcel import Parcel
    from jete.library.parcels import Brings


class HandOnDialog(QDialog):
    """What goes along with a lap: names and notes may stay here."""

    chosen = pyqtSignal(bool, bool)

    def __init__(self, label: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Hand this lap on")
        self.setObjectName("hand-on")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.names, self.notes = QCheckBox("with who drove, coached, and in what"), QCheckBox("with what was noted")
        for box in (self.names, self.notes):
            box.setChecked(True)
        self.write = QPushButton("Write the file…")
        self.write.setDefault(True)
        self.write.clicked.connect(self._on_write)
        what = (
            f"{label}: the lap, its circuit with corners and landmarks, and its lap guide with your own words, as one zip "
            "that other tools can read too. Films and pictures stay here."
        )
        column = QVBoxLayout(self)
        column.addWidget(plain(what, wrap=True))
        column.addWidget(self.names)
        column.addWidget(self.notes)
        column.addWidget(self.write, 0, Qt.AlignmentFlag.AlignRight)
        self.setMinimumWidth(460)

    def _on_write(self) -> None:
        self.accept()
        self.chosen.emit(self.names.isChecked(), self.notes.isChecked())


class TakeInDialog(QDialog):
    """What was handed on brings; nothing of it is stored yet."""

    wanted = pyqtSignal(bool)

    def __init__(self, parcel: Parcel, brings: Brings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("What was handed on")
        self.setObjectName("take-in")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.words = [plain(line, wrap=True) for line in brought_words(parcel, brings)]
        self.circuit = QCheckBox("its corners, landmarks, hazards and rules take the place of those here")
        self.circuit.setChecked(not brings.set_here)
        self.circuit.setVisible(parcel.circuit is not None)
        self.take, self.leave = QPushButton("Take it in"), QPushButton("Leave it")
        self.take.setDefault(True)
        self.take.clicked.connect(self._on_take)
        self.leave.clicked.connect(self.reject)
        column, row = QVBoxLayout(self), QHBoxLayout()
        for line in self.words:
            column.addWidget(line)
        column.addWidget(self.circuit)
        row.addStretch(1)
        row.addWidget(self.leave)
        row.addWidget(self.take)
        column.addLayout(row)
        self.setMinimumWidth(520)

    def _on_take(self) -> None:
        self.accept()
        self.wanted.emit(self.circuit.isChecked())
