"""Drawings and photographs in a text that is printed: painted as lines and words where a mark stands in the text.

Qt lays an object of the text out by its size and asks for it to be painted (QTextObjectInterface), so drawings
stay vectors, and their words can be searched for.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import (
    QColor,
    QFont,
    QImage,
    QPainter,
    QPen,
    QPolygonF,
    QTextCharFormat,
    QTextCursor,
    QTextFormat,
    QTextObjectInterface,
)

if TYPE_CHECKING:
    from PyQt6.QtGui import QTextDocument

    from jete.library.guide_records import Photo
    from jete.report.drawings import Drawing, Words

KIND = int(QTextFormat.ObjectTypes.UserObject) + 7
NUMBER = int(QTextFormat.Property.UserProperty) + 7
# What stands in the text where a picture goes: nobody types it.
MARK = "\ue000{}\ue001"
OBJECT = "\ufffc"
# A photograph is so high, in the units of drawings.
PHOTO_HEIGHT = 150.0
# A drawing's unit on paper, as a share of the page's width.
UNIT = 1.0 / 760.0


class Placed(QObject, QTextObjectInterface):
    """Collects pictures, and puts them into a document where their marks stand."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pictures: list[tuple[Drawing | QImage, float]] = []
        self._width = 0.0

    def drawing(self, drawing: Drawing, share: float = 1.0) -> str:
        """The mark of a drawing, which is shown at a share of its size."""
        self._pictures.append((drawing, share))
        return MARK.format(len(self._pictures) - 1)

    def photo(self, photo: Photo) -> str:
        """The mark of a photograph."""
        self._pictures.append((QImage.fromData(photo.jpeg, "JPEG"), 1.0))
        return MARK.format(len(self._pictures) - 1)

    def place(self, document: QTextDocument) -> None:
        """Put the pictures into a document that is as wide as its page."""
        self._width = document.textWidth() if document.textWidth() > 0.0 else document.pageSize().width()
        layout = document.documentLayout()
        assert layout is not None
        layout.registerHandler(KIND, self)
        for k in range(len(self._pictures)):
            found = document.find(MARK.format(k))
            if found.isNull():
                continue
            form = QTextCharFormat()
            form.setObjectType(KIND)
            form.setProperty(NUMBER, k)
            QTextCursor(found).insertText(OBJECT, form)

    def intrinsicSize(self, _: QTextDocument | None, __: int, form: QTextFormat) -> QSizeF:  # noqa: N802 - Qt's name
        """How large a picture is on the page."""
        picture, share = self._pictures[form.intProperty(NUMBER)]
        unit = self._width * UNIT * share
        if isinstance(picture, QImage):
            return QSizeF(PHOTO_HEIGHT * unit * picture.width() / max(picture.height(), 1), PHOTO_HEIGHT * unit)
        return QSizeF(picture.width * unit, picture.height * unit)

    def drawObject(  # noqa: N802 - Qt's name
        self, painter: QPainter | None, rect: QRectF, _: QTextDocument | None, __: int, form: QTextFormat
    ) -> None:
        """Paint a picture where it was laid out."""
        if painter is None:
            return
        picture, _share = self._pictures[form.intProperty(NUMBER)]
        if isinstance(picture, QImage):
            painter.drawImage(rect, picture)
        else:
            paint_drawing(painter, picture, rect)


def paint_drawing(painter: QPainter, drawing: Drawing, rect: QRectF, ink: QColor | None = None) -> None:
    """Paint a drawing into a box of its own shape.

    Args:
        painter: on any paper.
        drawing: to be painted.
        rect: where.
        ink: instead of the drawing's own colours; None for those.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(rect.topLeft())
    painter.scale(rect.width() / drawing.width, rect.height() / drawing.height)
    for line in drawing.lines:
        colour = ink or QColor(line.colour)
        style = Qt.PenStyle.DashLine if line.dashed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(colour, line.width, style))
        painter.setBrush(colour if line.filled else Qt.BrushStyle.NoBrush)
        points = QPolygonF([QPointF(x, y) for x, y in line.points])
        if line.filled:
            painter.drawPolygon(points)
        else:
            painter.drawPolyline(points)
    painter.setPen(ink or QColor("#1d1b18"))
    for words in drawing.words:
        _paint_words(painter, words)
    painter.restore()


def _paint_words(painter: QPainter, words: Words) -> None:
    font = QFont("B612")
    font.setPixelSize(round(words.size))
    font.setBold(words.bold)
    painter.setFont(font)
    wide = painter.fontMetrics().horizontalAdvance(words.text)
    back = {"start": 0.0, "middle": 0.5, "end": 1.0}[words.anchor] * wide
    painter.drawText(QPointF(words.x - back, words.y), words.text)
