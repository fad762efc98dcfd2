"""Which panels the traces show, and in which order."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import SPACE
from jete.session import operations as ops
from jete.views.traces.curves import TITLES

if TYPE_CHECKING:
    from jete.app.store import SessionStore


class PanelsDialog(QDialog):
    """A list to tick and to drag; every change shows at once and is remembered."""

    def __init__(self, store: SessionStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._store = store
        self.setWindowTitle("Panels of the traces")
        self.setObjectName("panels")
        self.list = QListWidget()
        self.list.setAccessibleName("Panels")
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        for name in store.session.display.panels:
            item = QListWidgetItem(TITLES[name])
            item.setData(Qt.ItemDataRole.UserRole, name)
            item.setCheckState(
                Qt.CheckState.Unchecked if name in store.session.display.hidden else Qt.CheckState.Checked
            )
            self.list.addItem(item)
        self.list.itemChanged.connect(self._apply)
        model = self.list.model()
        if model is not None:
            model.rowsMoved.connect(self._apply)
        self._build()

    def _build(self) -> None:
        buttons = QHBoxLayout()
        for text, step in (("Up", -1), ("Down", 1)):
            button = QPushButton(text)
            button.setAccessibleName(f"Move the panel {text.lower()}")
            button.clicked.connect(self._move_up if step < 0 else self._move_down)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.setSpacing(SPACE)
        column.addWidget(QLabel("Tick what is shown; drag, or use the buttons, to order."))
        column.addWidget(self.list)
        column.addLayout(buttons)

    def _move_up(self) -> None:
        self._move(-1)

    def _move_down(self) -> None:
        self._move(1)

    def _move(self, step: int) -> None:
        row = self.list.currentRow()
        if 0 <= row < self.list.count() and 0 <= row + step < self.list.count():
            item = self.list.takeItem(row)
            self.list.insertItem(row + step, item)
            self.list.setCurrentRow(row + step)
            self._apply()

    def _apply(self, *_: object) -> None:
        """Take the list over into the store."""
        items = [self.list.item(i) for i in range(self.list.count())]
        order = tuple(i.data(Qt.ItemDataRole.UserRole) for i in items if i)
        hidden = tuple(
            i.data(Qt.ItemDataRole.UserRole) for i in items if i and i.checkState() == Qt.CheckState.Unchecked
        )
        self._store.look_at(lambda s: ops.arrange_panels(s, order, hidden))
