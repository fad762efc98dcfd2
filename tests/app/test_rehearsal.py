"""Rehearsing as a hand does it: calls by key at known places, what is kept, what comes again."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from jete.main import Application
from jete.session import operations as ops

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

    from jete.core.causes.result import CornerLoss


@pytest.fixture
def page(shelf: Application, qtbot: QtBot) -> Application:
    shelf.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    qtbot.waitUntil(lambda: shelf.store.road is not None and shelf.tasks.idle, timeout=20000)
    qtbot.keyClick(shelf.window, "q")
    assert shelf.window.walk_page.rehearsal.isVisible()
    return shelf


def corners(app: Application) -> tuple[CornerLoss, ...]:
    assert app.store.comparison is not None
    return app.store.comparison.laps[0].corners


def call_all(app: Application, qtbot: QtBot, number: int, off: float) -> None:
    marks = corners(app)[number - 1].reference_marks
    for key, place in (("1", marks.brake_on_m), ("2", marks.turn_in_m), ("3", marks.throttle_on_m)):
        if place is not None:
            app.store.look_at(lambda s, p=place: ops.go_to(s, p + off))
            qtbot.keyClick(app.window, key)


def test_calls_at_known_errors_give_these_errors(page: Application, qtbot: QtBot) -> None:
    call_all(page, qtbot, 1, 6.0)
    panel = page.window.walk_page.rehearsal
    assert [round(c.metres, 3) for c in panel.rehearsal.calls] == [6.0, 6.0, 6.0]
    assert panel.said.text().endswith("pick-up 6 m late")
    assert [panel.table.item(0, k).text() for k in (1, 2, 3)] == ["6 m", "6 m", "6 m"]


def test_the_first_call_of_a_mark_counts(page: Application, qtbot: QtBot) -> None:
    call_all(page, qtbot, 1, -9.0)
    call_all(page, qtbot, 1, 0.0)
    assert {round(c.metres) for c in page.window.walk_page.rehearsal.rehearsal.calls} == {-9}


def test_what_is_known_is_kept_and_the_rest_comes_again(page: Application, qtbot: QtBot) -> None:
    rehearsal = page.window.walk_page.rehearsal.rehearsal
    call_all(page, qtbot, 1, 2.0)
    call_all(page, qtbot, 2, 40.0)
    page.window.walk_page.rehearsal.done.click()
    assert rehearsal.calls == []
    assert (rehearsal.memories[1].row, rehearsal.memories[2].row) == (1, 0)
    assert 1 not in rehearsal.due()
    assert rehearsal.due()[0] == 2
    assert page.window.walk_page.rehearsal.sheet.text().startswith("Not known yet, or due again: 2, 3")
    page.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    page.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    assert rehearsal.memories[1].row == 1


def test_the_cue_gives_nothing_away_while_rehearsing(page: Application) -> None:
    marks = corners(page)[0].reference_marks
    assert marks.brake_on_m is not None
    page.store.look_at(lambda s: ops.go_to(s, marks.brake_on_m - 20.0))
    assert "brake" not in page.window.walk_page.caption.text()
    assert not page.window.walk_page.above.isVisible()
    page.window.actions_by_id["rehearse"].trigger()
    assert "brake" in page.window.walk_page.caption.text()
    assert page.window.walk_page.above.isVisible()
