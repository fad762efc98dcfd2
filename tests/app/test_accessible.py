"""Every page and dialog by screen reader and Tab key: names of all that takes the focus, and its order."""

from __future__ import annotations

import functools
import itertools
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QAbstractButton, QApplication, QDialog, QWidget

from jete.app.pages import PAGE_IDS
from jete.formats.columns import UnknownColumnsError
from jete.main import Application
from jete.session import operations as ops
from jete.views.mapping import MappingSheet

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from pytestqt.qtbot import QtBot

    from jete.session.state import Session

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


def test_all_that_takes_the_focus_on_a_page_has_a_name(shelf: Application, qtbot: QtBot) -> None:
    for page, whole_run in itertools.product(PAGE_IDS, (False, True)):
        shown = functools.partial(_on_page, page=page, whole_run=whole_run)
        shelf.store.look_at(shown)
        qtbot.waitUntil(lambda: shelf.tasks.idle, timeout=30000)
        assert nameless(shelf.window) == [], (page, whole_run)


def _on_page(session: Session, *, page: str, whole_run: bool) -> Session:
    return ops.display(ops.go_to_page(session, page), whole_run=whole_run)


def test_all_that_takes_the_focus_on_the_empty_page_has_a_name(empty: Application) -> None:
    assert nameless(empty.window) == []


@pytest.fixture
def sheet(qtbot: QtBot, tmp_path: Path) -> Iterator[MappingSheet]:
    """A sheet that nothing else holds: it lives as long as the fixture, so that no sweep of Python's takes it while it paints."""
    from jete.formats.reader import read_log

    path = tmp_path / "odd.csv"
    path.write_text("a;b;c\n" + "".join(f"{k / 10};{50 + k % 7};{k % 3}\n" for k in range(80)), encoding="utf-8")
    with pytest.raises(UnknownColumnsError) as caught:
        read_log(path)
    made = MappingSheet(path, caught.value, "light")
    made.show()
    yield made
    made.close()
    made.deleteLater()


def test_the_mapping_sheet_has_names(sheet: MappingSheet) -> None:
    assert nameless(sheet) == []


def test_tab_reaches_all_of_a_page_from_left_to_right(shelf: Application) -> None:
    for page, body in (("laps", shelf.window.laps), ("ledger", shelf.window.page("ledger"))):
        shelf.store.look_at(functools.partial(_on_page, page=page, whole_run=False))
        order = [w for w in tabbed_through(shelf.window) if body.isAncestorOf(w)]
        assert set(order) == {w for w in tabbable(shelf.window) if body.isAncestorOf(w)}
        columns = [max(body.split.indexOf(p) for p in parts(w)) for w in order]
        assert columns == sorted(columns), page


def parts(widget: QWidget | None) -> list[QWidget]:
    """A widget and what it stands in, from the inside out."""
    out = []
    while widget is not None:
        out.append(widget)
        widget = widget.parentWidget()
    return out


def test_all_that_takes_the_focus_in_a_dialog_has_a_name_and_tab_goes_down_it(shelf: Application, qtbot: QtBot) -> None:
    for action in DIALOGS:
        dialog = opened(shelf, action, qtbot)
        QApplication.processEvents()
        assert nameless(dialog) == [], action
        heights = [w.mapTo(dialog, QPoint(0, w.height())).y() for w in tabbed_through(dialog)]
        assert heights, f"nothing takes the focus in {action}"
        assert all(b >= a - 8 for a, b in itertools.pairwise(heights)), (action, heights)
        dialog.close()
        qtbot.waitUntil(lambda: not [d for d in shelf.window.findChildren(QDialog) if d.isVisible()], timeout=5000)
