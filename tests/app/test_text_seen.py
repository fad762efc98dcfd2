"""All pages at several sizes, themes and sizes of text: nothing that is written is cut off, or lies on something else."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QFont, QPainter
from PyQt6.QtWidgets import QDialog, QLabel, QWidget

from jete.app import theme
from jete.app.pages import PAGE_IDS
from jete.main import Application
from jete.session import operations as ops
from jete.session.display import choices
from text_seen import let_settle, of_painters, of_widgets, painted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from PyQt6.QtGui import QPaintEvent
    from pytestqt.qtbot import QtBot

SIZES = ((1024, 700), (1280, 800), (1920, 1080))
SHOWN = ("light", "dark", "contrast")
# What else a page shows: how it is displayed, or what is pressed on it.
OTHERWISE: dict[str, tuple[str, dict[str, object]]] = {
    "the run": ("ledger", {"whole_run": True}),
    "by phase": ("ledger", {"whole_run": False, "by_phase": True}),
    "most to gain first": ("ledger", {"by_phase": False, "by_loss": True}),
    **{f"beside: {name}": ("corner", {"beside": name}) for name in choices("beside")},
    "the team": ("next", {}),
    "the book": ("next", {}),
    "rehearsing": ("walk", {}),
}
DIALOGS = ("keys", "panels", "bin", "line", "server", "help", "corner:note", "tag", "landmark", "hazard", "rules")


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


def cut_or_covered(app: Application, qtbot: QtBot, where: str) -> list[str]:
    """What is found at three sizes, each with a theme and a corner of its own."""
    told = []
    for size, theme_name, corner in zip(SIZES, SHOWN, (1, 6, 9), strict=True):
        app.window.resize(*size)
        app.store.look_at(lambda s, c=corner, t=theme_name: ops.select_corner(ops.display(s, theme=t), c))
        qtbot.waitUntil(lambda: app.tasks.idle, timeout=60000)
        let_settle()
        told += [f"{where} at {size}: {m}" for m in (*of_widgets(app.window), *of_painters(app.window))]
    return told


def press_for(app: Application, state: str) -> None:
    """Show what no setting shows."""
    if state in ("the team", "the book"):
        app.window.page("next").view.buttons[1 if state == "the team" else 2].click()
    elif state == "rehearsing":
        app.window.page("walk").rehearse(True)


@pytest.mark.many
@pytest.mark.parametrize("text", [1.0, 1.5], indirect=True)
def test_no_text_of_a_page_is_cut_off_or_lies_on_other_text(text: float, landmarked: Application, qtbot: QtBot) -> None:
    told = []
    for page in PAGE_IDS:
        landmarked.store.look_at(lambda s, p=page: ops.go_to_page(s, p))
        told += cut_or_covered(landmarked, qtbot, page)
    assert told == []


@pytest.mark.long
@pytest.mark.parametrize("text", [1.0, 1.5], indirect=True)
@pytest.mark.parametrize("state", OTHERWISE)
def test_no_text_of_what_else_a_page_shows_is_cut_off_or_lies_on_other_text(
    text: float, state: str, landmarked: Application, qtbot: QtBot
) -> None:
    page, shown = OTHERWISE[state]
    landmarked.store.look_at(lambda s: ops.display(ops.go_to_page(s, page), **shown))
    press_for(landmarked, state)
    assert cut_or_covered(landmarked, qtbot, state) == []


@pytest.mark.long
@pytest.mark.parametrize("text", [1.0, 1.5], indirect=True)
def test_no_text_of_a_dialog_is_cut_off_or_lies_on_other_text(
    text: float, landmarked: Application, qtbot: QtBot
) -> None:
    told = []
    landmarked.store.look_at(lambda s: ops.go_to_page(s, "corner"))
    for action in DIALOGS:
        landmarked.window.actions_by_id[action].trigger()
        qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=60000)
        shown = [d for d in landmarked.window.findChildren(QDialog) if d.isVisible()]
        assert shown, action
        let_settle()
        told += [f"{action}: {m}" for d in shown for m in (*of_widgets(d), *of_painters(d))]
        for dialog in shown:
            dialog.close()
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
