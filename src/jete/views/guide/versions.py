"""Versions of the guide: kept under a name, held beside what it is now, thrown away and taken back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QListWidget,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app import settings
from jete.report.guide import guide_document
from jete.report.guide_versions import differences, guide_from, version_words
from jete.session.state import Changed, Session
from jete.views.labels import plain

if TYPE_CHECKING:
    from jete.app.guide_keeper import GuideKeeper
    from jete.app.store import SessionStore
    from jete.library.guide_records import Version
    from jete.report.guide import Guide

AUTHOR = "guide-author"
COLUMNS = ("corner", "field", "this version", "now")


class VersionsDialog(QDialog):
    """The versions of a circuit's guide, and what the chosen one tells otherwise than the guide does now."""

    def __init__(self, store: SessionStore, keeper: GuideKeeper, guide: Guide, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._store, self._keeper, self._guide = store, keeper, guide
        self._versions: list[Version] = []
        self.list, self.table = QListWidget(), QTableWidget(0, len(COLUMNS))
        self.author, self.said = QLineEdit(settings.kept_text(AUTHOR)), plain(small=True, muted=True)
        self.keep, self.drop = QPushButton("Keep it as it is now"), QPushButton("Throw this version away")
        self.setWindowTitle("Versions of the guide")
        self.setObjectName("versions")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(900, 560)
        self._build()
        store.changed.connect(self._on_changed)
        self._fill()

    def _build(self) -> None:
        self.list.setAccessibleName("Versions, the newest first")
        self.list.currentRowChanged.connect(self._on_row)
        self.table.setAccessibleName("What this version tells otherwise than the guide now")
        self.table.setHorizontalHeaderLabels(COLUMNS)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setWordWrap(True)
        titles, rows = self.table.horizontalHeader(), self.table.verticalHeader()
        if titles is not None and rows is not None:
            rows.hide()
            titles.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            for narrow in (0, 1):
                titles.setSectionResizeMode(narrow, QHeaderView.ResizeMode.ResizeToContents)
            rows.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.author.setPlaceholderText("by whom")
        self.author.setAccessibleName("By whom this version is")
        self.keep.clicked.connect(self._on_keep)
        self.drop.clicked.connect(self._on_drop)
        row, column = QHBoxLayout(), QVBoxLayout(self)
        row.addWidget(self.author, 1)
        for widget in (self.keep, self.drop):
            row.addWidget(widget)
        column.addLayout(row)
        column.addWidget(self.list, 2)
        column.addWidget(self.said)
        column.addWidget(self.table, 3)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & Changed.GUIDE:
            self._fill()

    def _fill(self) -> None:
        self._keeper.versions(self._show)

    def _show(self, versions: list[Version]) -> None:
        if sip.isdeleted(self):
            # It was closed while they were read.
            return
        self._versions = versions
        self.list.clear()
        self.list.addItems([version_words(v) for v in self._versions])
        self.list.setCurrentRow(0 if self._versions else -1)
        self._on_row(self.list.currentRow())

    def _on_row(self, row: int) -> None:
        """What the chosen version tells otherwise."""
        known = 0 <= row < len(self._versions)
        self.drop.setEnabled(known)
        found = differences(guide_from(self._versions[row].document), self._guide) if known else []
        self.said.setText(_said(known=known, count=len(found)))
        self.table.setRowCount(len(found))
        for k, one in enumerate(found):
            for column, text in enumerate((one.corner, one.field, one.first or "–", one.second or "–")):
                self.table.setItem(k, column, QTableWidgetItem(text))

    def _on_keep(self) -> None:
        author = self.author.text().strip()
        settings.keep_text(AUTHOR, author)
        self._keeper.keep_version(author, guide_document(self._guide))

    def _on_drop(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._versions):
            self._keeper.drop_version(self._versions[row])


def _said(*, known: bool, count: int) -> str:
    if not known:
        return "No version is kept yet. A version is the guide as it is now, with date and name; later ones can be held beside it."
    return (
        f"{count} field{'s' if count != 1 else ''} differ from the guide as it is now."
        if count
        else "As the guide is now."
    )
