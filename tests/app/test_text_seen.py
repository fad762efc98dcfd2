"""All pages at several sizes, themes and sizes of text: nothing that is written is cut off, or lies on something else."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QFont, QPainter
from PyQt6.QtWidgets import QLabel, QWidget

from jete.app import theme
from jete.app.pages import PAGE_IDS
from jete.main import Application
from jete.session import operations as ops
from text_seen import let_settle, of_painters, of_widgets, painted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from PyQt6.QtGui import QPaintEvent
    from pytestqt.qtbot import QtBot

# With large text a window of 1024 by 700 has no room for what is needed.
SIZES = {1.0: ((1024, 700), (1280, 800), (1920, 1080)), 1.5: ((1280, 800), (1920, 1080))}


@pytest.fixture
def text(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> Iterator[float]:
    """How large the system asks text to be, against the usual."""
    asked = QFont()
    asked.setPointSizeF(10.0 * request.param)
    monkeypatch.setattr(theme.QFontDatabase, "systemFont", staticmethod(lambda *_: asked))
    for kept in (theme.scale, theme.font):
        kept.cache_clear()
    yield request.param
    monkeypatch.undo()
    for kept in (theme.scale, theme.font):
        kept.cache_clear()


@pytest.mark.parametrize("text", [1.0, 1.5], indirect=True)
def test_no_text_is_cut_off_or_lies_on_other_text(text: float, landmarked: Application, qtbot: QtBot) -> None:
    window, store, told = landmarked.window, landmarked.store, []
    for page in PAGE_IDS:
        store.look_at(lambda s, p=page: ops.go_to_page(s, p))
        qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=60000)
        for number, size in enumerate(SIZES[text]):
            window.resize(*size)
            shown = ("light", "dark", "contrast")[number]
            store.look_at(lambda s, n=number, t=shown: ops.select_corner(ops.display(s, theme=t), (1, 6, 9)[n]))
            let_settle()
            told += [f"{page} at {size}: {m}" for m in (*of_widgets(window), *of_painters(window))]
    assert told == []


class _Overlapping(QWidget):
    """Two texts on each other, and one over the edge."""

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        painter = QPainter(self)
        for left in (10.0, 14.0, 92.0):
            painter.drawText(QRectF(left, 10.0, 60.0, 20.0), 0, f"from {left:.0f}")


def test_what_lies_on_other_text_or_is_cut_off_is_found(qtbot: QtBot) -> None:
    widget = QWidget()
    qtbot.addWidget(widget)
    widget.resize(100, 60)
    _Overlapping(widget).resize(100, 60)
    label = QLabel("a name that is much too long for its place", widget)
    label.setGeometry(0, 40, 40, 16)
    widget.show()
    told = " ".join(of_painters(widget))
    assert "'from 10' lies on 'from 14'" in told
    assert "'from 92' is cut off" in told
    assert "px, and has 40" in of_widgets(widget)[0]


def test_a_row_of_the_ledger_says_that_there_are_more_causes_than_fit(landmarked: Application) -> None:
    landmarked.window.resize(1024, 700)
    landmarked.store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    let_settle()
    table, found = landmarked.window.page("ledger").table, []
    with painted(found):
        table.grab()
    rows = [r for r in landmarked.window.page("ledger").model.rows if len(r.told) > 1]
    written = [d.text for d in found]
    for row in rows:
        if row.told[0].in_words in written and row.told[1].in_words not in written:
            assert "…" in written
            return
    pytest.fail(f"every row has room for all of its causes: {written}")
