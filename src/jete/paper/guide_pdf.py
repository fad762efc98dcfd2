"""The lap guide as PDF: the full guide on A4, and one page for the helmet bag with a line a corner in large type."""

from __future__ import annotations

import os
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
from PyQt6.QtGui import QFontDatabase, QGuiApplication, QPageLayout, QPageSize, QPdfWriter, QTextDocument

from jete.formats.whole_file import written_wholly
from jete.paper.placed import Placed
from jete.report.guide import CARE, FIELDS
from jete.report.words import lap_time

if TYPE_CHECKING:
    from jete.report.guide import Guide, GuideCard

FONTS = Path(__file__).parents[1] / "app/assets/fonts"
# Qt's application must outlive what it drew.
_KEPT: list[QGuiApplication] = []
MARGIN_MM = 14.0
DPI = 300
# The type of the full guide: twelve corners with their pictures stay within six pages.
GUIDE_PT = 8
# The most and the least type of the page for the helmet bag, points.
LARGEST_PT, SMALLEST_PT = 15, 7
STYLE = "body { font-family: 'B612'; color: black } h1 { font-size: 17pt } h2 { font-size: 12pt } td { padding-right: 10px }"


def write_guide(path: Path, guide: Guide) -> int:
    """Write the full guide on A4; returns how many pages it has."""
    put = Placed()
    body = [
        f"<h1>{escape(guide.circuit or 'Lap guide')}</h1>",
        f"<p>By {escape(guide.made_from)}, {lap_time(guide.time_s)}.</p>",
    ]
    body.append(f"<p><small>{escape(CARE)}</small></p>")
    if guide.rules:
        body.append("<ul>" + "".join(f"<li>{escape(r)}</li>" for r in guide.rules) + "</ul>")
    if guide.map is not None:
        body.append(f"<p>{put.drawing(guide.map, 0.9)}</p>")
    body += [_card(c, put) for c in guide.cards]
    return _write(path, "".join(body), QPageSize.PageSizeId.A4, GUIDE_PT, put)


def write_bag(path: Path, guide: Guide, *, small: bool = True) -> int:
    """Write the page for the helmet bag on A5 (or A4): one line a corner, as large as one page allows."""
    size = QPageSize.PageSizeId.A5 if small else QPageSize.PageSizeId.A4
    rows = "".join(f"<tr><td><b>{escape(c.title)}</b></td><td>{escape(c.line)}</td></tr>" for c in guide.cards)
    body = f"<h1>{escape(guide.circuit or 'Lap guide')}</h1><table cellspacing='3'>{rows}</table><p><small>{escape(CARE)}</small></p>"
    _ready()
    for points in range(LARGEST_PT, SMALLEST_PT, -1):
        if _document(body, _page(size), points).pageCount() == 1:
            return _write(path, body, size, points, Placed())
    return _write(path, body, size, SMALLEST_PT, Placed())


def _card(card: GuideCard, put: Placed) -> str:
    rows = "".join(
        f"<tr><td>{FIELDS[f.key]}</td><td>{f'<i>{escape(f.typed)}</i>' if f.typed else escape(f.measured)}</td></tr>"
        for f in card.fields
        if f.shown
    )
    pictures = "".join(put.drawing(d) for d in card.drawings) + "".join(put.photo(p) for p in card.photos)
    drawn = f"<p>{pictures}</p>" if pictures else ""
    return (
        f"<h2>{escape(card.title)} ({card.direction})</h2><p><b>{escape(card.line)}</b></p><table>{rows}</table>{drawn}"
    )


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


def _write(path: Path, body: str, size: QPageSize.PageSizeId, points: int, put: Placed) -> int:
    """Write a document; the file is there wholly or not at all.

    It is made in memory: Qt does not say that a disk is full.

    Raises:
        OSError: a place that can't be written to, or has no room.
    """
    _ready()
    content = QBuffer()
    content.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(content)
    writer.setResolution(DPI)
    writer.setTitle("Lap guide")
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
