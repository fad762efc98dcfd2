"""The guide as it will print, page under page."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPixmap
from PyQt6.QtWidgets import QLabel, QScrollArea, QVBoxLayout, QWidget

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

EDGE = 22


class Preview(QScrollArea):
    """Shows the pages of a PDF as wide as there is room."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The guide as it will print")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._pdf = b""
        self._wide = 0
        self.pages: list[QLabel] = []
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.addStretch(1)
        self.setWidget(inside)

    def show_pdf(self, pdf: bytes) -> None:
        """Show a document."""
        self._pdf, self._wide = pdf, 0
        self._draw()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Pages fill the width."""
        super().resizeEvent(event)
        self._draw()

    def _draw(self) -> None:
        wide = self.width() - EDGE - 24
        if not self._pdf or wide < 100 or wide == self._wide:
            return
        self._wide = wide
        for page in self.pages:
            page.deleteLater()
        self.pages = [_page(image) for image in _images(self._pdf, wide)]
        for k, page in enumerate(self.pages):
            page.setAccessibleName(f"Page {k + 1} of {len(self.pages)}")
            self._column.insertWidget(k, page)


def _page(image: QImage) -> QLabel:
    label = QLabel()
    label.setPixmap(QPixmap.fromImage(image))
    return label


def _images(pdf: bytes, wide: int) -> list[QImage]:
    """The pages of a document as pictures on white."""
    from PyQt6.QtPdf import QPdfDocument

    content = QByteArray(pdf)
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    document = QPdfDocument(None)
    document.load(buffer)
    out = []
    for k in range(document.pageCount()):
        points = document.pagePointSize(k)
        size = QSize(wide, round(wide * points.height() / points.width()))
        page = QImage(size, QImage.Format.Format_RGB32)
        page.fill(Qt.GlobalColor.white)
        painter = QPainter(page)
        painter.drawImage(0, 0, document.render(k, size))
        painter.end()
        out.append(page)
    document.close()
    return out
