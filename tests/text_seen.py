"""Finds text that is cut off or lies on other text: of widgets by their own metrics, of painters by what they draw."""

from __future__ import annotations

import re
from contextlib import contextmanager
from dataclasses import dataclass
from html import unescape
from itertools import product
from typing import TYPE_CHECKING, Any

from PyQt6 import sip
from PyQt6.QtCore import QModelIndex, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel, QTableView, QWidget

from jete.views.labels import ToldByTip

if TYPE_CHECKING:
    from collections.abc import Iterator

# Letters may reach over their box by so much; boxes may touch by so much without a letter touching another.
SLACK_PX, TOUCH_PX = 2.0, 3.0
LISTS = ("QPaintDevice", "QWidget")


@dataclass(frozen=True)
class Drawn:
    """A text that was painted: where on its device, and what."""

    device: int
    name: str
    box: QRectF
    text: str
    room: QRectF


def _box_of(painter: QPainter, args: tuple[Any, ...]) -> tuple[QRectF, str] | None:
    """Where a text goes, in the painter's own pixels."""
    text = next((a for a in args if isinstance(a, str)), "")
    if not text.strip():
        return None
    if isinstance(args[0], QPointF):
        metrics = painter.fontMetrics()
        at, wide = args[0], metrics.horizontalAdvance(text)
        return QRectF(at.x(), at.y() - metrics.ascent(), wide, metrics.height() - metrics.descent()), text
    rect = QRectF(args[0])
    flags = next((int(getattr(a, "value", a)) for a in args[1:] if not isinstance(a, str)), 0)
    return QRectF(painter.boundingRect(rect, flags, text)), text


@contextmanager
def painted(found: list[Drawn]) -> Iterator[None]:
    """Note every text that is painted meanwhile."""
    plain = vars(QPainter)["drawText"]

    def noted(painter: QPainter, *args: Any) -> Any:
        told, device = _box_of(painter, args), painter.device()
        if told is not None and device is not None:
            room = QRectF(0, 0, device.width(), device.height())
            name = type(device).__name__
            found.append(Drawn(sip.unwrapinstance(device), name, painter.transform().mapRect(told[0]), told[1], room))
        return plain.__get__(painter)(*args)

    QPainter.drawText = noted  # type: ignore[method-assign,assignment]
    try:
        yield
    finally:
        QPainter.drawText = plain  # type: ignore[method-assign]


def of_painters(window: QWidget) -> list[str]:
    """Texts that are painted over each other, or beyond the edge of what they are painted on."""
    for widget in window.findChildren(QWidget):
        if getattr(widget, "_pixmap", None) is not None:
            # What is kept from the last time is painted anew.
            widget._pixmap = None  # type: ignore[attr-defined]
    found: list[Drawn] = []
    with painted(found):
        window.grab()
    bars = [t.horizontalScrollBar() for t in window.findChildren(QTableView) if t.isVisible()]
    scrolls = any(bar is not None and bar.isVisible() and bar.maximum() > 0 for bar in bars)
    told, seen = [], list({(d.device, d.text, d.box.x(), d.box.y()): d for d in found}.values())
    for k, one in enumerate(seen):
        # Rows that are scrolled to are cut by the edge of their list, and columns where there is a bar to reach them.
        more = 1e6 if one.name in LISTS else SLACK_PX
        beside = more if scrolls else SLACK_PX
        if not one.room.adjusted(-beside, -more, beside, more).contains(one.box):
            told.append(f"{one.name}: '{one.text}' is cut off at {_rounded(one.box)} of {_rounded(one.room)}")
        for other in seen[k + 1 :]:
            both = one.box.intersected(other.box)
            if one.device == other.device and both.width() > TOUCH_PX and both.height() > TOUCH_PX:
                told.append(f"{one.name}: '{one.text}' lies on '{other.text}' at {_rounded(both)}")
    return told


def _rounded(box: QRectF) -> tuple[int, ...]:
    return tuple(round(v) for v in box.getRect())  # type: ignore[arg-type]


def of_widgets(top: QWidget) -> list[str]:
    """Labels and buttons whose text has no room."""
    told = []
    for label in top.findChildren(QLabel):
        if not label.isVisible() or isinstance(label, ToldByTip) or not label.text() or label.pixmap().width():
            continue
        if label.wordWrap():
            needed = label.heightForWidth(label.width())
            if needed > label.height() + SLACK_PX:
                told.append(f"'{label.text()[:60]}' needs {needed} px of height, and has {label.height()}")
            continue
        plain = unescape(re.sub(r"<[^>]*>", "", label.text()))
        wide = max(label.fontMetrics().horizontalAdvance(line) for line in plain.splitlines())
        if wide > label.width() + SLACK_PX:
            told.append(f"'{plain[:60]}' needs {wide} px, and has {label.width()}")
    buttons = (b for b in top.findChildren(QAbstractButton) if b.isVisible() and b.text())
    told += [
        f"button '{b.text()}' needs {b.sizeHint().width()} px, and has {b.width()}"
        for b in buttons
        if b.sizeHint().width() > b.width() + SLACK_PX
    ]
    return [*told, *_of_tables(top)]


def _of_tables(top: QWidget) -> list[str]:
    """Cells and titles of tables that are cut, where no tip says the whole."""
    told = []
    for view in top.findChildren(QTableView):
        model, titles = view.model(), view.horizontalHeader()
        if not view.isVisible() or model is None or titles is None:
            continue
        shown = [c for c in range(model.columnCount()) if not view.isColumnHidden(c)]
        for column in () if titles.isHidden() else shown:
            title = str(model.headerData(column, Qt.Orientation.Horizontal) or "")
            whole = model.headerData(column, Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole)
            wide = max((titles.fontMetrics().horizontalAdvance(line) for line in title.splitlines()), default=0)
            if not whole and wide > view.columnWidth(column) - 2 * TOUCH_PX:
                told.append(f"title '{title}' needs more than {view.columnWidth(column)} px")
        for row, column in product(range(model.rowCount()), shown):
            index = model.index(row, column)
            if index.data() and not index.data(Qt.ItemDataRole.ToolTipRole) and _is_cut(view, index):
                told.append(f"cell '{index.data()}' is cut off")
    return told


def _is_cut(view: QTableView, index: QModelIndex) -> bool:
    """Whether a cell's text has no room in one line, nor in as many as its row is high."""
    has = view.columnWidth(index.column())
    if view.sizeHintForIndex(index).width() <= has + SLACK_PX:
        return False
    room = QRect(0, 0, has - 4, 10_000)
    lines = view.fontMetrics().boundingRect(room, int(Qt.TextFlag.TextWordWrap.value), str(index.data()))
    return not view.wordWrap() or lines.height() > view.rowHeight(index.row()) + SLACK_PX


def let_settle() -> None:
    """Let layouts and paints come to rest."""
    for _ in range(6):
        QApplication.processEvents()
