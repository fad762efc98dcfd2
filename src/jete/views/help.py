"""Help without a network: the guides and the glossary to the left, what is read to the right."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QCursor, QTextCursor
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from jete.app.help import GLOSSARY, GUIDES, text_of
from jete.app.theme import BODY_PX, font, scale

if TYPE_CHECKING:
    from PyQt6.QtCore import QUrl

TITLE = "Help"
GUIDE = Qt.ItemDataRole.UserRole + 1


class HelpDialog(QDialog):
    """Stays open beside the window; shows one guide, at a word where one is asked for."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(TITLE)
        self.setObjectName("help")
        self.resize(round(860 * scale()), round(640 * scale()))
        self.list, self.page, self.search = QListWidget(), QTextBrowser(), QLineEdit()
        self.list.setAccessibleName("Guides")
        self.list.setFixedWidth(round(220 * scale()))
        for guide, title in GUIDES.items():
            item = QListWidgetItem(title)
            item.setData(GUIDE, guide)
            self.list.addItem(item)
        self.list.currentItemChanged.connect(self._on_guide)
        self.page.setAccessibleName("What the guide says")
        self.page.setFont(font(BODY_PX))
        self.page.setOpenLinks(False)
        self.page.anchorClicked.connect(self._on_link)
        self.search.setPlaceholderText("Find in this guide (Enter: the next place)")
        self.search.setAccessibleName("Find in this guide")
        self.search.returnPressed.connect(self._on_find)
        right = QVBoxLayout()
        right.addWidget(self.search)
        right.addWidget(self.page, 1)
        row = QHBoxLayout(self)
        row.addWidget(self.list)
        row.addLayout(right, 1)

    def show_guide(self, guide: str, word: str = "") -> None:
        """Show a guide; with a word, where it is explained."""
        at = list(GUIDES).index(guide)
        if self.list.currentRow() == at:
            self._show(guide)
        self.list.setCurrentRow(at)
        if word:
            self._go_to(word)

    @property
    def guide(self) -> str:
        """Which guide is shown."""
        item = self.list.currentItem()
        return str(item.data(GUIDE)) if item is not None else ""

    def _on_guide(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._show(str(item.data(GUIDE)))

    def _show(self, guide: str) -> None:
        self.page.setMarkdown(text_of(guide))
        self.page.moveCursor(QTextCursor.MoveOperation.Start)

    def _go_to(self, word: str) -> None:
        """To the heading that is a word."""
        block, document = None, self.page.document()
        if document is not None:
            block = document.begin()
            while block.isValid() and not (block.blockFormat().headingLevel() and block.text().casefold() == word):
                block = block.next()
        if block is None or not block.isValid():
            return
        # From the end back up: so the heading stands at the top.
        self.page.moveCursor(QTextCursor.MoveOperation.End)
        self.page.setTextCursor(QTextCursor(block))

    def _on_find(self) -> None:
        """The next place of a word, from the top again after the last."""
        if not self.page.find(self.search.text()):
            self.page.moveCursor(QTextCursor.MoveOperation.Start)
            self.page.find(self.search.text())

    def _on_link(self, url: QUrl) -> None:
        """Another guide, where it ships; what lies elsewhere is left."""
        name = url.fileName().removesuffix(".md")
        if name in GUIDES:
            self.show_guide(name)


def ask_about(parent: QWidget, guide: str, word: str) -> HelpDialog:
    """The one help of a window, at a guide, or at a word of the glossary."""
    dialog = parent.findChild(HelpDialog) or HelpDialog(parent)
    dialog.show_guide(GLOSSARY if word else guide, word)
    dialog.show()
    dialog.raise_()
    return dialog


def text_under_pointer() -> str:
    """What is written where the pointer rests: of a label, a button or a heading of a table."""
    at = QCursor.pos()
    widget = QApplication.widgetAt(at)
    if isinstance(widget, (QLabel, QAbstractButton)):
        return widget.text()
    head = widget.parent() if widget is not None else None
    if isinstance(head, QHeaderView):
        model, column = head.model(), head.logicalIndexAt(head.mapFromGlobal(at))
        return str(model.headerData(column, head.orientation()) or "") if model is not None else ""
    return ""
