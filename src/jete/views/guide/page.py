"""The Guide page: left the corners with a line each, or the guide as it prints; right the card of the selected corner, written over where it stands."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import key_hint
from jete.app.theme import LEAD_PX, SMALL_PX, SPACE, font
from jete.report.guide import CARE, FIELDS, guide_in_words, kept_words
from jete.report.units import units_of
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.asked_file import ask_save
from jete.views.following import Following
from jete.views.guide.drawings import CardDrawings
from jete.views.guide.photos import CardPhotos, jpeg_of
from jete.views.guide.preview import Preview
from jete.views.guide.rows import CornerRows
from jete.views.guide.sentence import Sentence
from jete.views.guide.versions import VersionsDialog
from jete.views.labels import ElidedLabel, plain
from jete.views.page import Page
from jete.views.switch import Switch

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.film_keeper import FilmKeeper
    from jete.app.guide_keeper import GuideKeeper
    from jete.app.parts import Parts
    from jete.app.store import SessionStore
    from jete.core.axis.road.corners import CornerId
    from jete.report.guide import Field, Guide, GuideCard

SIZES = [700, 580]
BAGS = "PDF on A5 (*.pdf)", "PDF on A4 (*.pdf)"
FILES = "Web page (*.html);;PDF (*.pdf);;Markdown (*.md);;JSON (*.json)"


def make(parts: Parts) -> GuidePage:
    """The page on what stands behind the window."""
    return GuidePage(parts.store, parts.guides, parts.films)


class GuidePage(Page):
    """Shows the guide in the store; what is typed over a sentence stands in its place, the measured small under it."""

    def __init__(self, store: SessionStore, keeper: GuideKeeper, films: FilmKeeper) -> None:
        super().__init__()
        self._store, self._keeper, self._films = store, keeper, films
        self._guide: Guide | None = None
        # What the preview shows, or will when it is laid out.
        self._printed: Guide | None = None
        self.title, self.care = ElidedLabel(), ElidedLabel()
        self.corners = CornerRows(store)
        self.card_title = plain()
        self.write, self.bag = QPushButton("Write the guide…"), QPushButton("Page for the helmet bag…")
        self.versions = QPushButton("Versions…")
        self.source = Switch("Written from", ("This lap", "The middle of the best"), key_hint("guide:middle"))
        self.side = Switch("On the left", ("Corners", "As it prints"), key_hint("guide:prints"))
        self.preview, self.drawings, self.photos = Preview(), CardDrawings(store), CardPhotos()
        self.sentences = {key: Sentence(title) for key, title in FIELDS.items()}
        self._titles = {key: plain(title, small=True, muted=True) for key, title in FIELDS.items()}
        self._typed_for: GuideCard | None = None
        self._saving = False
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self._build()
        Following(self, store, self._on_changed)

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.title.setObjectName("guide-title")
        self.card_title.setFont(font(LEAD_PX, bold=True))
        self.corners.currentRowChanged.connect(self._on_row)
        self.write.clicked.connect(self._on_write)
        self.bag.clicked.connect(self._on_bag)
        self.care.setText(CARE)
        self.care.setProperty("muted", True)
        self.care.setFont(font(SMALL_PX))
        self.versions.clicked.connect(self.show_versions)
        self.versions.setToolTip(key_hint("guide:versions"))
        self.source.turned.connect(self._keeper.set_middle)
        self.side.turned.connect(self.show_prints)
        self.preview.hide()
        self.photos.added.connect(self._on_photo)
        self.photos.dropped.connect(self._keeper.drop_photo)
        self.photos.refused.connect(self._keeper.failed)
        self.photos.still_wanted.connect(self._on_still)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        for widget in (self.versions, self.bag, self.write):
            head.addWidget(widget)
        switches = QHBoxLayout()
        switches.addWidget(self.side)
        switches.addStretch(1)
        switches.addWidget(self.source)
        left = QWidget()
        beside = QVBoxLayout(left)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addLayout(switches)
        beside.addWidget(self.corners)
        beside.addWidget(self.preview)
        self.split.addWidget(left)
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
        """The corner's pictures, and a sentence under each title, written over where it stands."""
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(SPACE, 0, SPACE, 0)
        grid.setColumnStretch(1, 1)
        grid.addWidget(self.card_title, 0, 0, 1, 2)
        grid.addWidget(self.drawings, 1, 0, 1, 2)
        for row, (key, sentence) in enumerate(self.sentences.items(), start=2):
            sentence.own.setObjectName(f"guide-{key}")
            sentence.own.editingFinished.connect(self._on_typed)
            sentence.stale.take.clicked.connect(self._on_take)
            sentence.stale.leave.clicked.connect(self._on_leave)
            grid.addWidget(self._titles[key], row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(sentence, row, 1, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(self.photos, len(FIELDS) + 2, 0, 1, 2)
        grid.setRowStretch(len(FIELDS) + 3, 1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        return scroll

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.GUIDE | Changed.DISPLAY | Changed.RESULT):
            self._fill()
        if flags & (Changed.GUIDE | Changed.CORNER | Changed.FILM):
            self._follow()
        if Changed.DISPLAY in flags:
            self.drawings.update()

    def _fill(self) -> None:
        """The guide in words: its title, and a line a corner."""
        made = self._store.guide
        self._guide = guide_in_words(made, units_of(self._store.session.display)) if made is not None else None
        for button in (self.write, self.bag):
            button.setEnabled(self._guide is not None)
        self.corners.blockSignals(True)
        self.corners.show_rows(())
        if self._guide is None:
            self.title.setText("Choose a reference on the page Laps (Ctrl+1): the guide is written from it.")
        else:
            whose = self._store.session.label(self._store.session.choice.reference)
            self.title.setText(f"{self._guide.circuit or 'Lap guide'} · {_source(self._guide, whose)}")
            cards = zip(self._guide.cards, self._kept(), strict=True)
            self.corners.show_rows([(card.title, card.line, kept_words(kept)) for card, kept in cards])
        self.corners.blockSignals(False)
        self.source.show_end(self._guide is not None and self._guide.middle)
        self._print()

    def show_prints(self, prints: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Left: the guide as it prints, or its corners."""
        self.side.show_end(prints)
        self.corners.setVisible(not prints)
        self.preview.setVisible(prints)
        self._print()

    def handlers(self) -> dict[str, Callable[[], object]]:
        """What the actions of the table do here."""
        return {
            "guide:versions": self.show_versions,
            "guide:prints": self.turn_side,
            "guide:middle": self.turn_source,
            "guide:write": lambda: self.write_file(bag=False),
            "guide:bag": lambda: self.write_file(bag=True),
        }

    def splits(self) -> dict[str, QSplitter]:
        """The corners, and the card of one."""
        return {"guide": self.split}

    def write_file(self, *, bag: bool) -> None:
        """Go here, so that the guide is looked at, and write it, or its page for the helmet bag."""
        self._store.look_at(lambda s: ops.go_to_page(s, "guide"))
        self.ask_where_to(bag=bag)

    def turn_side(self) -> None:
        """The other end, by key."""
        self.show_prints(not self.side.buttons[1].isChecked())

    def turn_source(self) -> None:
        """The other end, by key."""
        self._keeper.set_middle(not self.source.buttons[1].isChecked())

    def _print(self) -> None:
        if self._guide is not None and self.side.buttons[1].isChecked() and self._guide != self._printed:
            self._printed = self._guide
            self._keeper.printed(self._guide, self.preview.show_pdf)

    def show_versions(self) -> VersionsDialog | None:
        """The versions of this circuit's guide."""
        if self._guide is None:
            return None
        dialog = VersionsDialog(self._store, self._keeper, self._guide, self)
        dialog.show()
        return dialog

    def _kept(self) -> list[dict[str, bool]]:
        """What the compared lap kept of each card."""
        made, comparison = self._store.guide, self._store.comparison
        none: list[dict[str, bool]] = [{} for _ in self._guide.cards] if self._guide is not None else []
        if made is None or comparison is None or comparison.reference.lap.span != made.lap.span:
            return none
        lap = comparison.laps[0]
        if len(lap.corners) != len(made.cards) or lap.passage.coarse:
            return none
        from jete.core.guide.cards import kept_of

        return kept_of(made.cards, lap)

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

    def _save_typed(self) -> None:
        """Words that are being typed are saved to the card that they were typed for, before another is shown."""
        card = self._typed_for
        for key, sentence in self.sentences.items():
            if card is not None and sentence.own.isModified():
                sentence.own.setModified(False)
                self._keeper.write(card.corner, key, sentence.own.text().strip(), card.measured(key))

    def _show_card(self) -> None:
        card = self.shown_card()
        other = card is None or self._typed_for is None or card.corner != self._typed_for.corner
        if other and not self._saving:
            self._saving = True
            try:
                self._save_typed()
            finally:
                self._saving = False
        self._typed_for = card
        self.card_title.setText(f"{card.title} ({card.direction})" if card is not None else "")
        for key in FIELDS:
            self._show_field(key, next((f for f in card.fields if f.key == key), None) if card is not None else None)
        self.drawings.show_drawings(card.drawings if card is not None else ())
        self.photos.show_photos(card.photos if card is not None else ())
        self.photos.still.setEnabled(self._store.films[0] is not None)

    def _show_field(self, key: str, found: Field | None) -> None:
        """What was measured, and own words."""
        measured, typed = (found.measured, found.typed) if found is not None else ("", "")
        over = found.over if found is not None and found.changed else ""
        self.sentences[key].show_words(measured, typed, over, there=found is not None)

    def _key_of(self, part: Callable[[Sentence], object]) -> str:
        """The title of the sentence that a part which sends a signal belongs to."""
        sender = self.sender()
        return next(key for key, sentence in self.sentences.items() if part(sentence) is sender)

    def _on_typed(self) -> None:
        """What was typed is kept when the field is left."""
        if self.sentences[self._key_of(lambda s: s.own)].own.isModified():
            self._save_typed()

    def _on_take(self) -> None:
        """What is measured now takes the place of the own words."""
        key, card = self._key_of(lambda s: s.stale.take), self.shown_card()
        if card is not None:
            self._keeper.write(card.corner, key, "")

    def _on_leave(self) -> None:
        """The own words stay over what is measured now."""
        key, card = self._key_of(lambda s: s.stale.leave), self.shown_card()
        if card is not None:
            self._keeper.leave(card.corner, key, card.measured(key))

    def _on_photo(self, caption: str, jpeg: bytes) -> None:
        card = self.shown_card()
        if card is not None:
            self._keeper.add_photo(card.corner, caption, jpeg)

    def _on_still(self, caption: str) -> None:
        """What the reference's film shows at the place line becomes a picture of the card."""
        card = self.shown_card()
        if card is not None:
            corner = card.corner
            self._films.still("reference", lambda image, when: self._put_still(corner, caption or when, image))

    def _put_still(self, corner: CornerId, caption: str, image: QImage) -> None:
        self._keeper.add_photo(corner, caption, jpeg_of(image))

    def _on_write(self) -> None:
        self.ask_where_to(bag=False)

    def _on_bag(self) -> None:
        self.ask_where_to(bag=True)

    def ask_where_to(self, *, bag: bool) -> None:
        """Choose where the guide, or its page for the helmet bag, is written."""
        if self._guide is None:
            return
        name = "helmet-bag.pdf" if bag else "lap-guide.html"
        chosen, kind = ask_save(self, "Write the guide", name, ";;".join(BAGS) if bag else FILES)
        if chosen:
            self._keeper.write_file(Path(chosen), bag=bag, small=kind != BAGS[1])


def _source(guide: Guide, whose: str) -> str:
    """What the guide was written from."""
    if guide.middle:
        return f"the middle of {guide.laps} good laps around {whose}"
    good = f", spread of {guide.laps} good laps" if guide.laps > 1 else ""
    return f"{whose} · {lap_time(guide.time_s)}{good}"
