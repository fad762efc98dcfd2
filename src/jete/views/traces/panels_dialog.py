"""Which panels the traces show, and in which order."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import SPACE
from jete.report.shown import offered, sensible, shown
from jete.session import operations as ops
from jete.views.labels import plain

if TYPE_CHECKING:
    from jete.app.store import SessionStore


class PanelsDialog(QDialog):
    """A list to tick and to drag: every channel of the log; each change shows at once and is remembered."""

    def __init__(self, store: SessionStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._store = store
        self._kind = ops.vehicle_kind(store.session)
        self.setWindowTitle(f"Panels of the traces: {self._kind}")
        self.setObjectName("panels")
        self.list = QListWidget()
        self.list.setAccessibleName("Panels")
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.usual = QPushButton("Usual panels")
        self._fill()
        self.list.itemChanged.connect(self._apply)
        model = self.list.model()
        if model is not None:
            model.rowsMoved.connect(self._apply)
        self._build()

    def _fill(self) -> None:
        """What is shown first, in its order; then what else the laps hold."""
        comparison = self._store.comparison
        laps = [] if comparison is None else [comparison.reference.lap, *(c.passage.lap for c in comparison.laps)]
        there = offered(laps)
        chosen = [n for n in self._store.session.display.panels_for(self._kind) if n in there]
        ticked = chosen or list(sensible(self._kind, laps))
        self.list.blockSignals(True)
        self.list.clear()
        for name in (*ticked, *(n for n in there if n not in ticked)):
            item = QListWidgetItem(shown(name).title)
            item.setData(Qt.ItemDataRole.UserRole, name)
            item.setCheckState(Qt.CheckState.Checked if name in ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.blockSignals(False)

    def _build(self) -> None:
        buttons = QHBoxLayout()
        for text, step in (("Up", -1), ("Down", 1)):
            button = QPushButton(text)
            button.setAccessibleName(f"Move the panel {text.lower()}")
            button.clicked.connect(self._move_up if step < 0 else self._move_down)
            buttons.addWidget(button)
        buttons.addStretch(1)
        self.usual.setAccessibleName("The usual panels for this kind of vehicle")
        self.usual.clicked.connect(self._on_usual)
        buttons.addWidget(self.usual)
        column = QVBoxLayout(self)
        column.setSpacing(SPACE)
        column.addWidget(plain("Tick what is shown; drag, or use the buttons, to order."))
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
        """Take the list over into the store; at least one panel stays."""
        items = [item for i in range(self.list.count()) if (item := self.list.item(i)) is not None]
        ticked = [i.data(Qt.ItemDataRole.UserRole) for i in items if i.checkState() == Qt.CheckState.Checked]
        if ticked:
            self._store.look_at(lambda s: ops.arrange_panels(s, self._kind, ticked))

    def _on_usual(self) -> None:
        self._store.look_at(lambda s: ops.arrange_panels(s, self._kind, ()))
        self._fill()
