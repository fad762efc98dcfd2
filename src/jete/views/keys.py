"""The list of keys, made from the table of actions."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import ACTIONS, MENUS
from jete.app.theme import scale

TITLE = "All keys"


class KeysDialog(QDialog):
    """One row an action that has a key."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(TITLE)
        self.setObjectName("keys")
        self.resize(round(680 * scale()), round(640 * scale()))
        rows = [a for menu in MENUS for a in ACTIONS if a.menu == menu and a.keys]
        table = QTableWidget(len(rows), 3)
        table.setAccessibleName(TITLE)
        table.setHorizontalHeaderLabels(["", "what it does", "keys"])
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        table.setShowGrid(False)
        for i, action in enumerate(rows):
            keys = "   ".join(QKeySequence(k).toString(QKeySequence.SequenceFormat.NativeText) for k in action.keys)
            first = i == 0 or rows[i - 1].menu != action.menu
            for column, text in enumerate((action.menu if first else "", action.text, keys)):
                table.setItem(i, column, QTableWidgetItem(text))
        for column in (1, 2):
            title = table.horizontalHeaderItem(column)
            if title is not None:
                title.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header, side = table.horizontalHeader(), table.verticalHeader()
        if header is not None and side is not None:
            side.hide()
            for column in (0, 2):
                header.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        QVBoxLayout(self).addWidget(table)
