"""Text and pictures laid out on pages by Qt, and written as PDF: vectors, words that can be searched for, fonts inside."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
from PyQt6.QtGui import QFontDatabase, QGuiApplication, QPageLayout, QPageSize, QPdfWriter, QTextDocument

from jete.formats.whole_file import written_wholly
from jete.paper.placed import Placed

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.library.guide_records import Photo
    from jete.report.drawings import Drawing

FONTS = Path(__file__).parents[1] / "app/assets/fonts"
# Qt's application must outlive what it drew.
_KEPT: list[QGuiApplication] = []
MARGIN_MM = 14.0
DPI = 300
# Higher than any block, in the writer's units.
UNENDING = 1e6
# What may lie between two blocks besides, in the same.
BETWEEN = 24.0
STYLE = "body { font-family: 'B612'; color: black } h1 { font-size: 17pt } h2 { font-size: 12pt; margin-top: 8px; margin-bottom: 4px } p { margin-top: 3px; margin-bottom: 5px } td { padding-right: 10px }"


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


@dataclass(frozen=True)
class Block:
    """What stays on one page where it fits on one: a text as HTML, and the pictures under it, at a share of their size."""

    body: str
    drawings: tuple[Drawing, ...] = ()
    photos: tuple[Photo, ...] = ()
    share: float = 1.0

    def html(self, put: Placed) -> str:
        """The whole of it, its pictures as marks: in a row where there is room."""
        marks = [put.drawing(d, self.share) for d in self.drawings] + [put.photo(p) for p in self.photos]
        return f"{self.body}<p>{''.join(marks)}</p>" if marks else self.body


def write_blocks(path: Path, blocks: Sequence[Block], size: QPageSize.PageSizeId, points: int, title: str) -> int:
    """Write blocks one below the other, each on one page where it fits on one; returns how many pages there are.

    Qt breaks a text where a page ends: blocks are laid out by themselves first, to be told where to begin a page.

    Raises:
        OSError: as :func:`write_pages`.
    """
    _ready()
    content = QBuffer()
    writer = _writer(content, size, title)
    put, parts, filled = Placed(), [], 0.0
    for block in blocks:
        alone = Placed()
        laid = _laid(block.html(alone), writer, points, alone)
        laid.setPageSize(QSizeF(writer.width(), UNENDING))
        high = laid.size().height() + BETWEEN
        breaks = filled > 0.0 and filled + high > writer.height()
        filled = high if breaks else filled + high
        filled = filled % writer.height() if filled > writer.height() else filled
        parts.append(f"<div style='page-break-before:{'always' if breaks else 'auto'}'>{block.html(put)}</div>")
    return _print(path, _laid("".join(parts), writer, points, put), writer, content)


def write_pages(path: Path, body: str, size: QPageSize.PageSizeId, points: int, put: Placed, title: str) -> int:
    """Write a document; the file is there wholly or not at all.  Returns how many pages it has.

    Raises:
        OSError: a place that can't be written to, or has no room.
    """
    _ready()
    content = QBuffer()
    writer = _writer(content, size, title)
    return _print(path, _laid(body, writer, points, put), writer, content)


def _writer(content: QBuffer, size: QPageSize.PageSizeId, title: str) -> QPdfWriter:
    """What writes into memory: Qt does not say that a disk is full."""
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
    return writer


def _laid(body: str, writer: QPdfWriter, points: int, put: Placed) -> QTextDocument:
    """A text laid out for a writer's pages, with its pictures."""
    page = QSizeF(writer.width(), writer.height())
    document = _document(body, page, points)
    document.documentLayout().setPaintDevice(writer)  # type: ignore[union-attr]
    put.place(document)
    document.setPageSize(page)
    return document


def _print(path: Path, document: QTextDocument, writer: QPdfWriter, content: QBuffer) -> int:
    pages = document.pageCount()
    document.print(writer)
    with written_wholly(path) as part:
        part.write_bytes(content.data().data())
    return pages
