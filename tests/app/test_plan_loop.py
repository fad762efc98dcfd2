"""From a run to its aims to the next run: what came of them stands there by itself, aim by aim."""

from __future__ import annotations

import shutil
from dataclasses import replace
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt

from jete.app import demo
from jete.library.bring_in import bring_in
from jete.library.location import location_named, usual_location
from jete.library.opening import open_library
from jete.session import operations as ops
from jete.session.state import Choice, LapKey

if TYPE_CHECKING:
    from pathlib import Path

    from pytestqt.qtbot import QtBot

    from jete.main import Application
    from jete.views.next.page import NextPage

INES, SECOND, THIRD = "ines-karlsby-run-4", "hedda-ulvik-run-2", "hedda-ulvik-run-3"


@pytest.fixture(scope="module")
def planned_shelf(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A shelf with a plan after the second run of a driver."""
    folder = tmp_path_factory.mktemp("planned") / "shelf"
    library, _ = open_library(location_named(str(folder), ""))
    for name in (INES, SECOND):
        bring_in(library, demo.file_of(name), demo.RUNS[name])
    demo.note_plan(library)
    library.close()
    return folder


def still(application: Application, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: application.tasks.idle and not application.shelf.writer.pending, timeout=60000)


@pytest.fixture
def page(empty: Application, planned_shelf: Path, qtbot: QtBot) -> NextPage:
    """The page Next run on that shelf."""
    shutil.copytree(planned_shelf, usual_location().folder)
    with qtbot.waitSignal(empty.shelf.shown, timeout=30000):
        empty.shelf.open()
    runs = {r.sheet.driver: r for r in empty.store.session.runs}
    keys = [LapKey(runs[d].number, best.number) for d in ("Ines Karlsby", "Hedda Ulvik") if (best := runs[d].best)]
    empty.store.look_at(lambda s: ops.go_to_page(ops.settle(s, Choice(*keys)), "next"))
    qtbot.waitUntil(lambda: empty.store.plan is not None and empty.store.plans is not None, timeout=60000)
    still(empty, qtbot)
    return empty.window.page("next")


def bring_third(empty: Application, qtbot: QtBot, **other: str) -> None:
    with qtbot.waitSignal(empty.imports.ended, timeout=60000):
        empty.imports.open_files([demo.file_of(THIRD)], {**demo.RUNS[THIRD], **other})
    still(empty, qtbot)


def outcomes(page: NextPage) -> list[str]:
    return [card.outcome.text() for card in page.back.cards if card.isVisible()]


def test_the_next_run_is_looked_at_by_itself_and_says_what_came_of_each_aim(
    page: NextPage, empty: Application, qtbot: QtBot
) -> None:
    assert outcomes(page) == []
    assert page.take.text() == "Let the plan go"
    bring_third(empty, qtbot)
    qtbot.waitUntil(lambda: len(outcomes(page)) == 3, timeout=60000)
    forgotten, done, overdone = outcomes(page)
    assert forgotten == "Not done: as asked on 0 of 8 laps."
    assert done.startswith("Done on ")
    assert overdone.startswith("Overdone")
    assert "2026-05-10: 8 laps that count" in page.back.of_what.text()
    strip = page.back.cards[2].strip
    assert strip.isVisible()
    assert "lap 1: overdone (9" in strip.toolTip()
    (kept,) = empty.shelf.library().plans.all()
    assert kept.review is not None
    assert [a["outcome"] for a in kept.review["aims"]] == ["not_done", "worked", "overdone"]

    page.show_view(2)
    assert page.book.table.item(1, 7).text().startswith("1: not done (")  # type: ignore[union-attr]
    page.show_view(0)

    not_tried = page.back.cards[0].tried.buttons[2]
    qtbot.mouseClick(not_tried, Qt.MouseButton.LeftButton)
    still(empty, qtbot)
    assert empty.shelf.library().plans.all()[0].answers == {"1": False}
    assert page.back.cards[0].proposal.text() == "Now: try it in the next run."
    qtbot.keyClick(empty.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    still(empty, qtbot)
    assert empty.shelf.library().plans.all()[0].answers == {}
    assert page.back.cards[0].tried.chosen == "not said"

    third = next(r for r in empty.store.session.runs if r.sheet.date == "2026-05-10")
    empty.shelf.notebook.note_run(third.number, replace(third.sheet, tyres="soft"))
    qtbot.waitUntil(lambda: "soft" in page.back.cards[0].why.text(), timeout=60000)
    still(empty, qtbot)


def test_another_driver_s_run_is_not_taken_and_one_without_a_driver_is_asked_for(
    page: NextPage, empty: Application, qtbot: QtBot
) -> None:
    bring_third(empty, qtbot, driver="Tomasz Oryel")
    assert outcomes(page) == []
    assert "when this driver's next run comes in" in page.hint.text()
    third = next(r for r in empty.store.session.runs if r.sheet.date == "2026-05-10")
    empty.shelf.notebook.note_run(third.number, replace(third.sheet, driver=""))
    qtbot.waitUntil(lambda: "may have: choose it" in page.back.why.text(), timeout=60000)
    still(empty, qtbot)
    (action,) = page.back.menu.actions()
    assert "(who drove is not noted)" in action.text()
    action.setChecked(True)
    qtbot.waitUntil(lambda: len(outcomes(page)) == 3, timeout=60000)
    still(empty, qtbot)
    assert empty.shelf.library().plans.all()[0].judged_by == (third.number,)
    assert replace(third.sheet, driver="") == empty.store.session.run(third.number).sheet  # type: ignore[union-attr]
