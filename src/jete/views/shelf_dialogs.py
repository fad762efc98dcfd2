"""Dialogs about a whole shelf: what is in its bin, and where one on a server lies."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QFormLayout, QLineEdit, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout

from jete.app.theme import scale
from jete.views.labels import plain

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

    from jete.app.shelf import Shelf
    from jete.library.records import RunRecord


class BinDialog(QDialog):
    """Runs that were put into the bin."""

    def __init__(self, shelf: Shelf, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._shelf = shelf
        self.setWindowTitle("The bin")
        self.setObjectName("bin")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(460, 320)
        self.list = QListWidget()
        self.list.setAccessibleName("Runs in the bin")
        self.back = QPushButton("Take out of the bin")
        self.back.clicked.connect(self._on_back)
        self.list.itemActivated.connect(self._on_back)
        column = QVBoxLayout(self)
        column.addWidget(plain("Nothing in the bin is deleted; a run that is taken out is as it was."))
        column.addWidget(self.list)
        column.addWidget(self.back)
        self._fill()

    def _fill(self) -> None:
        self._shelf.removed(self._show)

    def _show(self, records: list[RunRecord]) -> None:
        if sip.isdeleted(self):
            # It was closed while they were read.
            return
        self.list.clear()
        for record in records:
            sheet = record.sheet
            item = QListWidgetItem(
                " · ".join(p for p in (sheet.circuit, sheet.date, sheet.title or record.source) if p)
            )
            item.setData(Qt.ItemDataRole.UserRole, record.id)
            self.list.addItem(item)
        self.back.setEnabled(self.list.count() > 0)
        if self.list.count():
            self.list.setCurrentRow(0)

    def _on_back(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self._shelf.notebook.restore(int(item.data(Qt.ItemDataRole.UserRole)), self._fill)


class ServerDialog(QDialog):
    """The URL of a PostgreSQL database, and the shared folder for the channel data."""

    chosen = pyqtSignal(str, str)

    def __init__(self, place: str, folder: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("A shelf on a server")
        self.setObjectName("server")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(round(520 * scale()), round(220 * scale()))
        self.url, self.folder = QLineEdit(place if "://" in place else ""), QLineEdit(folder)
        self.url.setPlaceholderText("postgresql+psycopg://name@server/jete")
        self.folder.setPlaceholderText("/shared/jete")
        form = QFormLayout()
        for title, editor in (("database", self.url), ("shared folder", self.folder)):
            editor.setAccessibleName(title)
            form.addRow(title, editor)
        self.use = QPushButton("Open this shelf")
        self.use.clicked.connect(self._on_use)
        how = plain(
            "A team shares one shelf: notes in a database, channel data in a folder that all of them reach. "
            "A password does not belong into the address: the keyring and ~/.pgpass are asked for it.", wrap=True,
        )  # fmt: skip
        column = QVBoxLayout(self)
        column.addWidget(how)
        column.addLayout(form)
        column.addWidget(self.use)

    def _on_use(self) -> None:
        self.chosen.emit(self.url.text().strip(), self.folder.text().strip())
        self.accept()
