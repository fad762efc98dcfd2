"""The Guide page: the corners with their one line to the left, the card of the selected one to the right, to be written over."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import SMALL_PX, SPACE, TITLE_PX, font
from jete.report.guide import CARE, FIELDS, guide_in_words, kept_words
from jete.report.units import units_of
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.labels import ElidedLabel, plain

if TYPE_CHECKING:
    from jete.app.guide_keeper import GuideKeeper
    from jete.app.store import SessionStore
    from jete.report.guide import Guide, GuideCard

SIZES = [560, 720]
FILES = "Web page (*.html);;PDF (*.pdf);;Markdown (*.md);;JSON (*.json)"


class GuidePage(QWidget):
    """Shows the guide in the store; what is typed into a field stands in its place, the measured beside it."""

    def __init__(self, store: SessionStore, keeper: GuideKeeper) -> None:
        super().__init__()
        self._store, self._keeper = store, keeper
        self._guide: Guide | None = None
        self.title, self.care = plain(), ElidedLabel()
        self.corners = QListWidget()
        self.card_title = plain()
        self.write, self.bag = QPushButton("Write the guide…"), QPushButton("Page for the helmet bag…")
        self.measured = {key: plain(wrap=True, small=True) for key in FIELDS}
        self.typed = {key: QLineEdit() for key in FIELDS}
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self._build()
        store.changed.connect(self._on_changed)

    def _build(self) -> None:
        self.title.setFont(font(TITLE_PX, bold=True))
        self.title.setObjectName("guide-title")
        self.card_title.setFont(font(TITLE_PX, bold=True))
        self.corners.setAccessibleName("Corners, a line each")
        self.corners.setObjectName("guide-corners")
        self.corners.setWordWrap(True)
        self.corners.currentRowChanged.connect(self._on_row)
        self.write.clicked.connect(self._on_write)
        self.bag.clicked.connect(self._on_bag)
        self.care.setText(CARE)
        self.care.setProperty("muted", True)
        self.care.setFont(font(SMALL_PX - 1))
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.bag)
        head.addWidget(self.write)
        self.split.addWidget(self.corners)
        self.split.addWidget(self._card())
        self.split.setSizes(SIZES)
        self.split.setHandleWidth(1)
        self.split.setChildrenCollapsible(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE, SPACE, 0)
        column.addLayout(head)
        column.addWidget(self.split, 1)
        column.addWidget(self.care)

    def _card(self) -> QWidget:
        """Titles, what was measured, and fields for own words."""
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(SPACE, 0, SPACE, 0)
        grid.setColumnStretch(1, 3)
        grid.setColumnStretch(2, 2)
        grid.addWidget(self.card_title, 0, 0, 1, 2)
        grid.addWidget(plain("own words", small=True, muted=True), 0, 2)
        italic = QFont(font(SMALL_PX))
        italic.setItalic(True)
        for row, (key, title) in enumerate(FIELDS.items(), start=1):
            name, field = plain(title, small=True, muted=True), self.typed[key]
            field.setAccessibleName(f"Own words: {title}")
            field.setObjectName(f"guide-{key}")
            field.setFont(italic)
            field.editingFinished.connect(self._on_typed)
            grid.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(self.measured[key], row, 1)
            grid.addWidget(field, row, 2, Qt.AlignmentFlag.AlignTop)
        grid.setRowStretch(len(FIELDS) + 1, 1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        return scroll

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if session.look.page != "guide":
            return
        if flags & (Changed.GUIDE | Changed.DISPLAY | Changed.PAGE | Changed.RESULT):
            self._fill()
        if flags & (Changed.GUIDE | Changed.CORNER | Changed.PAGE):
            self._follow()

    def _fill(self) -> None:
        """The guide in words: its title, and a line a corner."""
        made = self._store.guide
        self._guide = guide_in_words(made, units_of(self._store.session.display)) if made is not None else None
        for button in (self.write, self.bag):
            button.setEnabled(self._guide is not None)
        self.corners.blockSignals(True)
        self.corners.clear()
        if self._guide is None:
            self.title.setText("Choose a reference on the page Laps (Ctrl+1): the guide is written from it.")
        else:
            whose = self._store.session.label(self._store.session.choice.reference)
            good = f", spread of {self._guide.laps} good laps" if self._guide.laps > 1 else ""
            self.title.setText(f"{self._guide.circuit or 'Lap guide'} · {whose} · {lap_time(self._guide.time_s)}{good}")
            for card, kept in zip(self._guide.cards, self._kept(), strict=True):
                words = kept_words(kept)
                self.corners.addItem(QListWidgetItem(f"{card.title}{f'   · {words}' if words else ''}\n{card.line}"))
        self.corners.blockSignals(False)

    def _kept(self) -> list[dict[str, bool]]:
        """What the compared lap kept of each card."""
        made, comparison = self._store.guide, self._store.comparison
        none: list[dict[str, bool]] = [{} for _ in self._guide.cards] if self._guide is not None else []
        if made is None or comparison is None or comparison.reference.lap.span != made.lap.span:
            return none
        lap = comparison.laps[0]
        if len(lap.corners) != len(made.cards) or lap.passage.coarse:
            return none
        from jete.core.driving.technique import technique_of
        from jete.core.guide.cards import keeps

        return [
            keeps(card, technique_of(lap.passage, loss.corner, loss.lap_marks), loss.lap_marks)
            for card, loss in zip(made.cards, lap.corners, strict=True)
        ]

    def shown_card(self) -> GuideCard | None:
        """The card of the selected corner."""
        row = self.corners.currentRow()
        return self._guide.cards[row] if self._guide is not None and 0 <= row < len(self._guide.cards) else None

    def _follow(self) -> None:
        """Select the corner of the state without saying so again, and show its card."""
        number = self._store.session.look.corner
        if self._guide is not None and self.corners.count():
            self.corners.blockSignals(True)
            self.corners.setCurrentRow(min(max((number or 1) - 1, 0), self.corners.count() - 1))
            self.corners.blockSignals(False)
        self._show_card()

    def _on_row(self, row: int) -> None:
        if row >= 0:
            self._store.look_at(lambda s: ops.select_corner(s, row + 1))
            self._show_card()

    def _show_card(self) -> None:
        card = self.shown_card()
        self.card_title.setText(f"{card.title} ({card.direction})" if card is not None else "")
        for key in FIELDS:
            found = next((f for f in card.fields if f.key == key), None) if card is not None else None
            self.measured[key].setText(found.measured if found is not None else "")
            self.typed[key].setText(found.typed if found is not None else "")
            self.typed[key].setEnabled(card is not None)

    def _on_typed(self) -> None:
        """What was typed is kept when the field is left."""
        card, sender = self.shown_card(), self.sender()
        key = next((k for k, f in self.typed.items() if f is sender), None)
        if card is not None and key is not None:
            self._keeper.write(card.corner, key, self.typed[key].text().strip())

    def _on_write(self) -> None:
        self.ask_where_to(bag=False)

    def _on_bag(self) -> None:
        self.ask_where_to(bag=True)

    def ask_where_to(self, *, bag: bool) -> None:
        """Choose where the guide, or its page for the helmet bag, is written."""
        if self._guide is None:
            return
        name = "helmet-bag.pdf" if bag else "lap-guide.html"
        chosen, _ = QFileDialog.getSaveFileName(self, "Write the guide", name, "PDF (*.pdf)" if bag else FILES)
        if chosen:
            self._keeper.write_file(Path(chosen), bag=bag)
