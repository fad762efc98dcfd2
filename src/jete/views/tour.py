"""A first look around: six steps over the pages, each with what is seen there framed; it can be left at any point."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jete.app.theme import BODY_PX, LEAD_PX, SPACE, THEMES, font, scale
from jete.session import operations as ops
from jete.views.labels import plain

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.store import SessionStore

CARD_PX = 400


@dataclass(frozen=True)
class Step:
    """One step: the page, the name of what is framed there, a title, and what to know."""

    page: str
    what: str
    title: str
    words: str


STEPS: Final = (
    Step("laps", "laps", "1  Choose two laps", "Left the shelf, here the laps of a run. Enter compares a lap, R makes it the reference; drop logs anywhere."),
    Step("ledger", "answers", "2  Where the time goes", "The three corners that matter, with what was done there and what the reference does. Below, every thousandth of the gap, corner by corner."),
    Step("corner", "from-above", "3  One corner", "The road from above with both lines and marks; beside it what both laps did, and what a change would be worth."),
    Step("walk", "walk-seat", "4  The lap from the seat", "Space plays it, at full or quarter speed; the other lap drives ahead. Q rehearses: call your marks before they come."),
    Step("guide", "guide-corners", "5  The lap guide", "A line a corner, written from the reference; click a sentence to write it in your own words. It prints for the helmet bag."),
    Step("next", "aim-1", "6  The next run", "At most three small steps, each with one cue. When the next run comes in, it stands here what came of them. Closed circuits only; a qualified instructor decides."),
)  # fmt: skip


class Tour(QWidget):
    """Lies over a window: a frame around what is meant, and a card that says what it is; the window stays in use."""

    def __init__(self, window: QWidget, store: SessionStore, widget_named: Callable[[str], QWidget | None]) -> None:
        super().__init__(window)
        self._store, self._widget_named = store, widget_named
        self.step = 0
        self.setObjectName("tour")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.card = QFrame(window)
        self.card.setObjectName("tour-card")
        self.title, self.words = plain(), plain(wrap=True)
        self.back, self.on, self.leave = QPushButton("Back"), QPushButton("Next"), QPushButton("Leave")
        self._build()

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.words.setFont(font(BODY_PX))
        self.back.clicked.connect(lambda: self.go_to(self.step - 1))
        self.on.clicked.connect(lambda: self.go_to(self.step + 1))
        self.leave.clicked.connect(self.end)
        self.leave.setToolTip("Leave the tour (Escape); it stays in the menu Help.")
        column, row = QVBoxLayout(self.card), QHBoxLayout()
        for label in (self.title, self.words):
            column.addWidget(label)
        row.addWidget(self.leave)
        row.addStretch(1)
        row.addWidget(self.back)
        row.addWidget(self.on)
        column.addLayout(row)
        self.card.setFixedWidth(round(CARD_PX * scale()))
        self.card.installEventFilter(self)

    def begin(self) -> None:
        """From the first step on."""
        self.go_to(0)

    def go_to(self, step: int) -> None:
        """Show a step; past the last the tour is over."""
        if step >= len(STEPS):
            self.end()
            return
        self.step = max(step, 0)
        shown = STEPS[self.step]
        self._store.look_at(lambda s: ops.go_to_page(s, shown.page))
        self.title.setText(shown.title)
        self.words.setText(shown.words)
        self.back.setEnabled(self.step > 0)
        self.on.setText("Next" if self.step < len(STEPS) - 1 else "Done")
        self._lay()
        self.on.setFocus()

    def end(self) -> None:
        """Leave it."""
        self.card.hide()
        self.hide()

    def framed(self) -> QRect:
        """What is framed, in the window; nothing where it is not seen."""
        widget, window = self._widget_named(STEPS[self.step].what), self.parentWidget()
        if widget is None or window is None or not widget.isVisible():
            return QRect()
        return QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()).adjusted(-3, -3, 3, 3)

    def _lay(self) -> None:
        """Over the whole window; the card where it covers least of what is framed."""
        window = self.parentWidget()
        if window is None:
            return
        self.setGeometry(window.rect())
        self.card.adjustSize()
        frame, size = self.framed(), self.card.size()
        corners = [
            QPoint(x, y)
            for y in (window.height() - size.height() - 2 * SPACE, 12 * SPACE)
            for x in (window.width() - size.width() - 2 * SPACE, 2 * SPACE)
        ]
        covered = [QRect(c, size).intersected(frame) for c in corners]
        best = min(range(len(corners)), key=lambda k: covered[k].width() * covered[k].height())
        self.card.move(corners[best])
        for part in (self, self.card):
            part.show()
            part.raise_()
        self.update()

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The frame."""
        frame = self.framed()
        if not frame.isNull():
            painter = QPainter(self)
            painter.setPen(QPen(THEMES[self._store.session.display.theme].color("ink"), 2))
            painter.drawRoundedRect(frame, 4, 4)

    def eventFilter(self, watched: object, event: object) -> bool:  # noqa: N802 - Qt's name
        """Escape leaves."""
        if watched is self.card and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            self.end()
            return True
        return False
