"""The pictures on a card: photographs and stills of the film, with what they show."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QImage, QImageReader, QPixmap
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jete.core.errors import InputError
from jete.views.asked_file import ask_open

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.library.guide_records import Photo

# A picture on a card is as large as it is printed, no larger.
MOST_PX, QUALITY = 1280, 82
THUMB = QSize(150, 96)
PICTURES = "Pictures (*.jpg *.jpeg *.png *.webp *.bmp);;All files (*)"


class CardPhotos(QWidget):
    """Shows the pictures of a card and asks for new ones."""

    added = pyqtSignal(str, object)
    dropped = pyqtSignal(object)
    refused = pyqtSignal(object)
    still_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._photos: tuple[Photo, ...] = ()
        self.list = QListWidget()
        self.caption = QLineEdit()
        self.add, self.still, self.drop = (
            QPushButton("Add a picture…"), QPushButton("Still from the film"), QPushButton("Take it off"),
        )  # fmt: skip
        self._build()

    def _build(self) -> None:
        self.list.setAccessibleName("Pictures on this card")
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(THUMB)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setFixedHeight(THUMB.height() + 44)
        self.list.setWrapping(False)
        self.caption.setPlaceholderText("what the picture shows")
        self.caption.setAccessibleName("What the next picture shows")
        self.add.setToolTip("A photograph of the corner, kept in the shelf and in its backups.")
        self.still.setToolTip("What the reference's film shows at the place line.")
        self.drop.setToolTip("Take the chosen picture off this card; that can be undone.")
        self.add.clicked.connect(self.ask)
        self.still.clicked.connect(self._on_still)
        self.drop.clicked.connect(self._on_drop)
        self.list.currentRowChanged.connect(self._on_row)
        row, column = QHBoxLayout(), QVBoxLayout(self)
        for widget in (self.add, self.still, self.drop):
            row.addWidget(widget)
        row.addWidget(self.caption, 1)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.list)
        column.addLayout(row)

    def show_photos(self, photos: Sequence[Photo]) -> None:
        """Show the pictures of a card."""
        self._photos = tuple(photos)
        self.list.clear()
        for photo in self._photos:
            pixmap = QPixmap.fromImage(QImage.fromData(photo.jpeg, "JPEG"))
            self.list.addItem(QListWidgetItem(QIcon(pixmap), photo.caption))
        self.list.setVisible(bool(self._photos))
        self._on_row(self.list.currentRow())

    def _on_row(self, row: int) -> None:
        self.drop.setEnabled(0 <= row < len(self._photos))

    def ask(self) -> None:
        """Choose a photograph."""
        name = ask_open(self, "A picture for this card", PICTURES)
        if not name:
            return
        try:
            jpeg = jpeg_from(Path(name))
        except InputError as error:
            self.refused.emit(error)
            return
        self.added.emit(self.caption.text().strip() or Path(name).stem, jpeg)
        self.caption.clear()

    def _on_still(self) -> None:
        self.still_wanted.emit(self.caption.text().strip())
        self.caption.clear()

    def _on_drop(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._photos):
            self.dropped.emit(self._photos[row])


def jpeg_from(path: Path) -> bytes:
    """A picture from a file, small enough for a card and upright.

    Raises:
        InputError: what is no picture.
    """
    if not path.is_file():
        # A pipe would be waited for without end.
        raise InputError(path.name, "it is no file.", "Choose a JPEG or PNG.")
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    reader.setDecideFormatFromContent(True)
    size = reader.size()
    if size.isValid() and max(size.width(), size.height()) > MOST_PX:
        # Read small: a large photograph takes more memory than reading it allows.
        reader.setScaledSize(size.scaled(MOST_PX, MOST_PX, Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    if image.isNull():
        raise InputError(path.name, "it is no picture that can be read.", "Use JPEG or PNG.")
    return jpeg_of(image)


def jpeg_of(image: QImage) -> bytes:
    """A picture as JPEG, small enough for a card."""
    if max(image.width(), image.height()) > MOST_PX:
        image = image.scaled(
            MOST_PX, MOST_PX, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "JPEG", QUALITY)
    return bytes(content.data())
