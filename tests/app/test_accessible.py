"""Every page and dialog by screen reader and Tab key: names of all that takes the focus, and its order."""

from __future__ import annotations

import itertools
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QAbstractButton, QApplication, QDialog, QWidget

from jete.formats.columns import UnknownColumnsError
from jete.main import Application
from jete.session import operations as ops
from jete.views.mapping import MappingSheet

if TYPE_CHECKING:
    from pathlib import Path

    from pytestqt.qtbot import QtBot

PAGES = ("laps", "ledger")
DIALOGS = ("bin", "keys", "panels", "line", "server")
# Qt's own parts that take the focus for what they are in.
WITHIN = ("QMenuBar", "QSplitter", "QStackedWidget", "QTableCornerButton")


def focusable(window: QWidget) -> list[QWidget]:
    """What can take the focus in a window, but for what a part of Qt's own keeps for itself."""
    return [
        w
        for w in window.findChildren(QWidget)
        if w.focusPolicy() != Qt.FocusPolicy.NoFocus
        and w.isVisible()
        and w.window() is window.window()
        and not w.objectName().startswith("qt_")
        and type(w).__name__ not in WITHIN
    ]


def nameless(window: QWidget) -> list[str]:
    return [
        f"{type(w).__name__} {w.objectName()}"
        for w in focusable(window)
        if not (w.accessibleName() or (isinstance(w, QAbstractButton) and w.text()))
    ]


def tabbed_through(window: QWidget) -> list[QWidget]:
    """The widgets that Tab goes through from the first on, once around."""
    seen: list[QWidget] = []
    at = window.nextInFocusChain()
    while at is not None and at is not window and at not in seen:
        seen.append(at)
        at = at.nextInFocusChain()
    return [w for w in seen if w in tabbable(window)]


def tabbable(window: QWidget) -> list[QWidget]:
    return [w for w in focusable(window) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isEnabled()]


def opened(shelf: Application, action: str, qtbot: QtBot) -> QDialog:
    def shown() -> list[QDialog]:
        return [d for d in shelf.window.findChildren(QDialog) if d.isVisible()]

    shelf.window.actions_by_id[action].trigger()
    qtbot.waitUntil(lambda: len(shown()) == 1, timeout=10000)
    return shown()[0]


@pytest.mark.parametrize("page", PAGES)
@pytest.mark.parametrize("whole_run", [False, True])
def test_all_that_takes_the_focus_on_a_page_has_a_name(
    shelf: Application,
    page: str,
    whole_run: bool,  # noqa: FBT001
    qtbot: QtBot,
) -> None:
    shelf.store.look_at(lambda s: ops.display(ops.go_to_page(s, page), whole_run=whole_run))
    qtbot.waitUntil(lambda: shelf.tasks.idle, timeout=30000)
    assert nameless(shelf.window) == []


def test_all_that_takes_the_focus_on_the_empty_page_has_a_name(empty: Application) -> None:
    assert nameless(empty.window) == []


@pytest.mark.parametrize("action", DIALOGS)
def test_all_that_takes_the_focus_in_a_dialog_has_a_name(shelf: Application, action: str, qtbot: QtBot) -> None:
    dialog = opened(shelf, action, qtbot)
    assert nameless(dialog) == []
    dialog.close()


def test_the_mapping_sheet_has_names(qtbot: QtBot, tmp_path: Path) -> None:
    from jete.formats.reader import read_log

    path = tmp_path / "odd.csv"
    path.write_text("a;b;c\n" + "".join(f"{k / 10};{50 + k % 7};{k % 3}\n" for k in range(80)), encoding="utf-8")
    with pytest.raises(UnknownColumnsError) as caught:
        read_log(path)
    sheet = MappingSheet(path, caught.value, "light")
    qtbot.addWidget(sheet)
    sheet.show()
    assert nameless(sheet) == []


@pytest.mark.parametrize("page", PAGES)
def test_tab_reaches_all_of_a_page_from_left_to_right(shelf: Application, page: str) -> None:
    shelf.store.look_at(lambda s: ops.go_to_page(s, page))
    body = shelf.window.laps if page == "laps" else shelf.window.ledger
    order = [w for w in tabbed_through(shelf.window) if body.isAncestorOf(w)]
    assert set(order) == {w for w in tabbable(shelf.window) if body.isAncestorOf(w)}
    columns = [max(body.split.indexOf(p) for p in parts(w)) for w in order]
    assert columns == sorted(columns)


def parts(widget: QWidget | None) -> list[QWidget]:
    """A widget and what it stands in, from the inside out."""
    out = []
    while widget is not None:
        out.append(widget)
        widget = widget.parentWidget()
    return out


@pytest.mark.parametrize("action", DIALOGS)
def test_tab_goes_down_a_dialog(shelf: Application, action: str, qtbot: QtBot) -> None:
    dialog = opened(shelf, action, qtbot)
    QApplication.processEvents()
    heights = [w.mapTo(dialog, QPoint(0, w.height())).y() for w in tabbed_through(dialog)]
    assert heights, "nothing takes the focus"
    assert all(b >= a - 8 for a, b in itertools.pairwise(heights)), heights
    dialog.close()
