"""Pages: one table, made when first needed, and told only what is seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtWidgets import QWidget

from jete.app.actions import ACTIONS, BY_ID
from jete.app.pages import PAGE_IDS, PAGES
from jete.app.store import SessionStore
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.following import EVERYTHING, Following
from jete.views.page import Page

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

    from jete.main import Application


def made(app: Application) -> int:
    return len(app.window.findChildren(Page))


@pytest.mark.parametrize("page", PAGES, ids=PAGE_IDS)
def test_every_page_of_the_table_has_a_button_a_key_and_a_picture_of_its_own(empty: Application, page: object) -> None:
    entry = next(p for p in PAGES if p is page)
    assert BY_ID[f"page:{entry.id}"].keys == (entry.key,)
    empty.window.run_action(BY_ID[f"page:{entry.id}"])
    assert empty.window.page(entry.id).isVisible()
    assert empty.window.findChild(QWidget, f"page-{entry.id}").isChecked()


def test_every_action_of_a_page_is_done_by_it(empty: Application) -> None:
    missing = [a.id for a in ACTIONS if a.page and a.id not in empty.window.page(a.page).handlers()]
    assert missing == []


def test_a_page_is_made_when_it_is_first_gone_to(empty: Application) -> None:
    assert made(empty) == 1
    for _ in range(2):
        empty.store.look_at(lambda s: ops.go_to_page(s, "walk"))
        empty.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    assert made(empty) == 2


@pytest.fixture
def followed(qtbot: QtBot) -> tuple[QWidget, SessionStore, list[Changed]]:
    widget, store, told = QWidget(), SessionStore(), []
    qtbot.addWidget(widget)

    def tell(_: Session, flags: Changed) -> None:
        told.append(flags)

    Following(widget, store, tell)
    return widget, store, told


def test_what_is_not_seen_is_told_nothing(followed: tuple[QWidget, SessionStore, list[Changed]]) -> None:
    _, store, told = followed
    store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    assert told == []


def test_what_is_seen_first_has_missed_everything(followed: tuple[QWidget, SessionStore, list[Changed]]) -> None:
    widget, _, told = followed
    widget.show()
    assert told == [EVERYTHING]


def test_what_was_missed_is_told_once_when_it_is_seen_again(
    followed: tuple[QWidget, SessionStore, list[Changed]],
) -> None:
    widget, store, told = followed
    widget.show()
    widget.hide()
    store.look_at(lambda s: ops.display(s, theme="dark"))
    store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    widget.show()
    assert told[1:] == [Changed.DISPLAY | Changed.PAGE]


def test_what_is_seen_is_told_at_once(followed: tuple[QWidget, SessionStore, list[Changed]]) -> None:
    widget, store, told = followed
    widget.show()
    store.look_at(lambda s: ops.display(s, theme="dark"))
    assert told[-1] == Changed.DISPLAY
