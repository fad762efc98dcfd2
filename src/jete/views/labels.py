"""Labels and tips that show text as it was typed: a name with angle brackets is a name, no picture and no link."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QTextLayout
from PyQt6.QtWidgets import QLabel, QSizePolicy

from jete.app.theme import SMALL_PX, font


def plain(text: str = "", *, wrap: bool = False, small: bool = False, muted: bool = False) -> QLabel:
    """A label for text that may hold names.

    Args:
        text: to begin with.
        wrap: whether it goes on in the next line.
        small: in the smaller size.
        muted: in the muted colour.
    """
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setWordWrap(wrap)
    if small:
        label.setFont(font(SMALL_PX))
    if muted:
        label.setProperty("muted", True)
    return label


def colour(label: QLabel, told: str) -> None:
    """Show a label as a ``gain``, as a ``loss``, or in ink where it tells neither."""
    if label.property("told") != told:
        label.setProperty("told", told)
        style = label.style()
        if style is not None:
            style.polish(label)


def tip(text: str) -> str:
    """A tooltip that shows text as it is: Qt reads anything that looks like HTML as HTML.

    >>> tip("corner 3"), tip("<b>Ines</b>")
    ('corner 3', "<span style='white-space: pre-wrap'>&lt;b&gt;Ines&lt;/b&gt;</span>")
    """
    if "<" not in text and "&" not in text:
        return text
    return f"<span style='white-space: pre-wrap'>{escape(text)}</span>"


class ToldByTip(QLabel):
    """Text that may be cut where it has no room: its tip is the whole."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)

    def setText(self, text: str | None) -> None:  # noqa: N802 - Qt's name
        """Show a text; one that is shown already costs nothing."""
        if text != self.text():
            super().setText(text)
            self.setToolTip(tip(text or ""))


class ElidedLabel(ToldByTip):
    """One line that is cut with an ellipsis where it has no room, and never asks for more."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def minimumSizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As high as a line, as narrow as there is room."""
        return QSize(40, super().minimumSizeHint().height())

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """As much of the text as there is room for."""
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(self.palette().windowText().color())
        text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


class ElidedLines(ToldByTip):
    """Text in as many lines as there is room for, the last one cut with an ellipsis."""

    def __init__(self, *, small: bool = False) -> None:
        super().__init__()
        self.setWordWrap(True)
        if small:
            self.setFont(font(SMALL_PX))

    def minimumSizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """As high as a line, as narrow as there is room."""
        return QSize(40, self.fontMetrics().lineSpacing())

    def shown_lines(self) -> list[str]:
        """The lines that have room; the last one takes what is left, and is cut where that is too much."""
        lines, metrics = _broken(self.text(), self.font(), self.width()), self.fontMetrics()
        whole = max((self.height() + metrics.leading()) // metrics.lineSpacing(), 1) - 1
        shown = [*lines[:whole], "".join(lines[whole:])] if len(lines) > whole else lines
        return [metrics.elidedText(line.strip(), Qt.TextElideMode.ElideRight, self.width()) for line in shown]

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """As much of the text as there is room for."""
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(self.palette().windowText().color())
        high = self.fontMetrics().lineSpacing()
        for number, line in enumerate(self.shown_lines()):
            room = QRectF(0.0, number * high, self.width(), high)
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, line)


def _broken(text: str, own_font: QFont, wide: float) -> list[str]:
    """A text in lines of a width, broken between words; together they are the text."""
    layout, lines = QTextLayout(text, own_font), []
    layout.beginLayout()
    while (line := layout.createLine()).isValid():
        line.setLineWidth(wide)
        lines.append(text[line.textStart() : line.textStart() + line.textLength()])
    layout.endLayout()
    return lines
