"""Text and pictures laid out on pages by Qt, and written as PDF: vectors, words that can be searched for, fonts inside."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
from PyQt6.QtGui import QFontDatabase, QGuiApplication, QPageLayout, QPageSize, QPdfWriter, QTextDocument

from jete.formats.whole_file import written_wholly
from jete.paper.placed import Placed

FONTS = Path(__file__).parents[1] / "app/assets/fonts"
# Qt's application must outlive what it drew.
_KEPT: list[QGuiApplication] = []
MARGIN_MM = 14.0
DPI = 300
STYLE = "body { font-family: 'B612'; color: black } h1 { font-size: 17pt } h2 { font-size: 12pt } td { padding-right: 10px }"


def write_fitted(path: Path, body: str, size: QPageSize.PageSizeId, title: str, points: range) -> int:
    """Write a text on one page, in the largest type that fits (of ``points``, the largest first); returns how many pages it has."""
    _ready()
    fits = (p for p in points if _document(body, _page(size), p).pageCount() == 1)
    return write_pages(path, body, size, next(fits, points[-1]), Placed(), title)


def _page(size: QPageSize.PageSizeId) -> QSizeF:
    """The room for text, points."""
    whole = QPageSize(size).sizePoints()
    margin = 2.0 * MARGIN_MM * 72.0 / 25.4
    return QSizeF(whole.width() - margin, whole.height() - margin)


def _document(body: str, page: QSizeF, points: int) -> QTextDocument:
    document = QTextDocument()
    document.setDefaultStyleSheet(STYLE)
    font = document.defaultFont()
    font.setFamily("B612")
    font.setPointSize(points)
    document.setDefaultFont(font)
    document.setHtml(f"<body>{body}</body>")
    document.setPageSize(page)
    return document


def _ready() -> None:
    """An application that draws, and the fonts that ship; without a window it needs no screen."""
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        _KEPT.append(QGuiApplication(["jete"]))
    if "B612" not in QFontDatabase.families():
        for file in sorted(FONTS.glob("*.otf")):
            QFontDatabase.addApplicationFont(str(file))


def write_pages(path: Path, body: str, size: QPageSize.PageSizeId, points: int, put: Placed, title: str) -> int:
    """Write a document; the file is there wholly or not at all.  Returns how many pages it has.

    It is made in memory: Qt does not say that a disk is full.

    Raises:
        OSError: a place that can't be written to, or has no room.
    """
    _ready()
    content = QBuffer()
    content.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(content)
    writer.setResolution(DPI)
    writer.setTitle(title)
    writer.setPageLayout(
        QPageLayout(
            QPageSize(size),
            QPageLayout.Orientation.Portrait,
            QMarginsF(*(MARGIN_MM,) * 4),
            QPageLayout.Unit.Millimeter,
        )
    )
    document = _document(body, QSizeF(writer.width(), writer.height()), points)
    document.documentLayout().setPaintDevice(writer)  # type: ignore[union-attr]
    put.place(document)
    document.setPageSize(QSizeF(writer.width(), writer.height()))
    pages = document.pageCount()
    document.print(writer)
    del writer
    with written_wholly(path) as part:
        part.write_bytes(content.data().data())
    return pages
