"""What is seen when nothing is on the shelf: where logs are dropped, the three steps from there, and what comes of them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.theme import BODY_PX, LEAD_PX, SMALL_PX, SPACE, THEMES, Theme, font, scale
from jete.report.words import difference
from jete.views.labels import plain

if TYPE_CHECKING:
    from PyQt6.QtGui import QPaintEvent

    from jete.app.store import SessionStore

EMPTY = "Nothing is on the shelf yet."
FORMATS = "CSV, Parquet, Arrow, MDF 4, GPX, NMEA, JSON Lines, packed or not. They stay on the shelf; the files are not changed."
STEPS: Final = (
    ("Drop your logs", "a file, a card or a whole folder"),
    ("Choose two laps", "yours, and a quicker one: a team mate's, or your own best"),
    ("See where the time goes", "corner by corner, and what to try in the next run"),
)
# A ledger as it may look: corner, seconds, what was done there.
EXAMPLE: Final = (
    ("1", 0.44, "slowed 41 m too soon"), ("2", 0.01, ""), ("3", 0.02, ""), ("4", 0.11, "overslowing"),
    ("5", 0.33, "early braking"), ("6", 0.46, "overslowing"), ("7", -0.11, "early throttle"),
)  # fmt: skip
EXAMPLE_PX, ROW_PX = 420, 26
LONGEST_S = 0.5


class EmptyShelf(QScrollArea):
    """Tells which action a button asks for."""

    wanted = pyqtSignal(str)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        title, demo = plain(EMPTY), plain("To look around first: a club team's car and a motorcycle at Kestrel Sands.")
        title.setFont(font(LEAD_PX, bold=True))
        left = QVBoxLayout()
        left.setSpacing(2 * SPACE)
        left.addWidget(title)
        left.addWidget(self._field())
        for number, (what, how) in enumerate(STEPS, 1):
            left.addLayout(_step(number, what, how))
        left.addWidget(demo)
        left.addWidget(self._button("Open the demo", "demo"), 0, Qt.AlignmentFlag.AlignLeft)
        left.addStretch(1)
        inside = QWidget()
        row = QHBoxLayout(inside)
        row.setContentsMargins(6 * SPACE, 6 * SPACE, 6 * SPACE, 2 * SPACE)
        row.setSpacing(8 * SPACE)
        row.addLayout(left, 3)
        row.addWidget(ExampleLedger(store), 2)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setWidget(inside)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def _field(self) -> QWidget:
        """Where logs are dropped; the whole window takes them, this says so."""
        field = QWidget()
        field.setObjectName("drop-field")
        field.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(field)
        column.setContentsMargins(3 * SPACE, 3 * SPACE, 3 * SPACE, 3 * SPACE)
        drop = plain("Drop logs or folders here")
        drop.setFont(font(LEAD_PX, bold=True))
        column.addWidget(drop)
        column.addWidget(plain(FORMATS, wrap=True, small=True, muted=True))
        column.addWidget(self._button("Open logs…", "open"), 0, Qt.AlignmentFlag.AlignLeft)
        return field

    def _button(self, text: str, action: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(key_hint(action))
        button.setAccessibleName(text)
        button.setObjectName(f"do-{action}")
        button.clicked.connect(lambda: self.wanted.emit(action))
        return button


def _step(number: int, what: str, how: str) -> QHBoxLayout:
    """One of the three steps: its number large, what to do, and with what."""
    row, words = QHBoxLayout(), QVBoxLayout()
    figure, title = plain(str(number)), plain(what)
    figure.setFont(font(LEAD_PX, bold=True))
    figure.setFixedWidth(round(28 * scale()))
    title.setFont(font(BODY_PX, bold=True))
    words.setSpacing(1)
    words.addWidget(title)
    words.addWidget(plain(how, wrap=True, muted=True))
    row.addWidget(figure, 0, Qt.AlignmentFlag.AlignTop)
    row.addLayout(words, 1)
    return row


class ExampleLedger(QWidget):
    """A picture of a ledger, so that one knows what to expect."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.setAccessibleName("A ledger as it may look: corners with what each lost, and by what")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """All rows of the example."""
        return QSize(EXAMPLE_PX, round((len(EXAMPLE) + 2) * ROW_PX * scale()))

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """A row a corner: its number, a bar, the seconds, what was done."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        high = ROW_PX * scale()
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(0, 0, self.width(), high), Qt.AlignmentFlag.AlignLeft, "What comes of it")
        for k, row in enumerate(EXAMPLE):
            self._paint_row(painter, theme, QRectF(0, (k + 1) * high, self.width(), high), row)
        total = sum(seconds for _, seconds, _ in EXAMPLE)
        self._paint_row(painter, theme, QRectF(0, (len(EXAMPLE) + 1) * high, self.width(), high), ("sum", total, ""))

    def _paint_row(self, painter: QPainter, theme: Theme, rect: QRectF, row: tuple[str, float, str]) -> None:
        name, seconds, what = row
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(QPen(theme.color("faint"), 1))
        painter.drawLine(rect.topLeft(), rect.topRight())
        painter.setFont(font(BODY_PX, bold=True))
        painter.setPen(theme.color("ink"))
        painter.drawText(rect, middle, name)
        color = theme.color("loss" if seconds > 0.0 else "gain")
        left, figures = rect.left() + 40 * scale(), 64 * scale()
        zero, wide = left + 0.2 * (rect.width() - left - figures), 0.8 * (rect.width() - left - figures)
        if name != "sum":
            long = seconds / LONGEST_S * wide
            painter.fillRect(QRectF(min(zero, zero + long), rect.top() + 4, abs(long), 7 * scale()), color)
            painter.setFont(font(SMALL_PX))
            painter.setPen(theme.color("muted"))
            words = QRectF(zero, rect.top() + 10 * scale(), wide, rect.height() - 10 * scale())
            painter.drawText(words, middle, what)
        painter.setFont(font(BODY_PX))
        painter.setPen(color)
        painter.drawText(rect, middle | Qt.AlignmentFlag.AlignRight, difference(seconds))
