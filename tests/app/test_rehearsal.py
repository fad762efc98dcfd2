"""Rehearsing as a hand does it: calls by key at known places, what is kept, what comes again."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPoint, Qt

from jete.core.driving.passage import Passage
from jete.main import Application
from jete.report.seat import landmark_short
from jete.session import operations as ops
from jete.views.walk.say import SayDialog
from known_laps import DEMO

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

    from jete.core.causes.verdict.result import CornerLoss


@pytest.fixture
def page(shelf: Application, qtbot: QtBot) -> Application:
    shelf.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    qtbot.waitUntil(lambda: shelf.store.road is not None and shelf.tasks.idle, timeout=20000)
    qtbot.keyClick(shelf.window, "q")
    assert shelf.window.page("walk").rehearsal.isVisible()
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
    panel = page.window.page("walk").rehearsal
    assert [round(c.metres, 3) for c in panel.rehearsal.calls] == [6.0, 6.0, 6.0]
    assert panel.said.text().endswith("pick-up 6 m late")
    assert [panel.table.item(0, k).text() for k in (1, 2, 3)] == ["6 m late", "6 m late", "6 m late"]


def test_the_first_call_of_a_mark_counts(page: Application, qtbot: QtBot) -> None:
    call_all(page, qtbot, 1, -9.0)
    call_all(page, qtbot, 1, 0.0)
    assert {round(c.metres) for c in page.window.page("walk").rehearsal.rehearsal.calls} == {-9}


def test_what_is_known_is_kept_and_the_rest_comes_again(page: Application, qtbot: QtBot) -> None:
    rehearsal = page.window.page("walk").rehearsal.rehearsal
    call_all(page, qtbot, 1, 2.0)
    call_all(page, qtbot, 2, 40.0)
    page.window.page("walk").rehearsal.done.click()
    assert rehearsal.calls == []
    assert (rehearsal.memories[1].row, rehearsal.memories[2].row) == (1, 0)
    assert 1 not in rehearsal.due()
    assert rehearsal.due()[0] == 2
    assert page.window.page("walk").rehearsal.sheet.text().startswith("Not known yet, or due again: 2, 3")
    page.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    page.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    assert rehearsal.memories == {}
    qtbot.waitUntil(lambda: bool(rehearsal.memories), timeout=4000)
    assert rehearsal.memories[1].row == 1


def test_the_cue_gives_nothing_away_while_rehearsing(page: Application) -> None:
    marks = corners(page)[0].reference_marks
    assert marks.brake_on_m is not None
    page.store.look_at(lambda s: ops.go_to(s, marks.brake_on_m - 20.0))
    assert "brake" not in page.window.page("walk").caption.text()
    assert not page.window.page("walk").above.isVisible()
    page.window.actions_by_id["rehearse"].trigger()
    assert "brake" in page.window.page("walk").caption.text()
    assert page.window.page("walk").above.isVisible()


def test_how_hard_is_called_by_the_second_row_of_keys(page: Application, qtbot: QtBot) -> None:
    panel = page.window.page("walk").rehearsal
    braked = [c for c in corners(page) if c.reference_marks.brake_on_m is not None]
    for loss, key in zip(braked[:3], "456", strict=True):
        page.store.look_at(lambda s, p=loss.reference_marks.brake_on_m: ops.go_to(s, p))
        qtbot.keyClick(page.window, key)
    calls = panel.rehearsal.calls
    assert [c.hard for c in calls] == ["light", "firm", "hard"]
    assert all(c.wanted in ("light", "firm", "hard") for c in calls)
    assert ("as hard as the reference" in panel.said.text()) is calls[-1].as_hard


def test_a_call_is_told_by_what_is_seen_there(page: Application, qtbot: QtBot) -> None:
    assert page.shelf.circuits.take_in(DEMO / "kestrel-sands.geojson")
    qtbot.waitUntil(lambda: page.tasks.idle and corners(page)[0].corner.name == "Harbour", timeout=20000)
    call_all(page, qtbot, 1, 12.0)
    assert (
        "board" in page.window.page("walk").rehearsal.said.text()
        or "kerb" in page.window.page("walk").rehearsal.said.text()
    )


def test_blind_there_are_the_names_of_places_alone(page: Application, qtbot: QtBot) -> None:
    walk = page.window.page("walk")
    assert page.shelf.circuits.take_in(DEMO / "kestrel-sands.geojson")
    qtbot.waitUntil(lambda: page.tasks.idle and corners(page)[0].corner.name == "Harbour", timeout=20000)
    qtbot.mouseClick(walk.rehearsal.blind.buttons[1], Qt.MouseButton.LeftButton)
    assert not walk.seat.isVisible()
    assert page.store.road is not None
    assert page.store.road.circuit is not None
    board = page.store.road.circuit.book.landmarks[0]
    page.store.look_at(lambda s: ops.go_to(s, board.circuit_m - 20.0))
    assert landmark_short(board) in walk.caption.text()
    assert "m before" not in walk.caption.text()
    qtbot.keyClick(page.window, "q", Qt.KeyboardModifier.ShiftModifier)
    assert walk.seat.isVisible()
    qtbot.keyClick(page.window, "q")
    assert walk.above.isVisible()


def test_the_lap_is_said_and_checked(page: Application, qtbot: QtBot) -> None:
    qtbot.mouseClick(page.window.page("walk").rehearsal.say, Qt.MouseButton.LeftButton)
    dialog = page.window.findChild(SayDialog)
    assert dialog is not None
    dialog.activateWindow()
    qtbot.waitUntil(dialog.isActiveWindow, timeout=4000)
    qtbot.mouseClick(dialog.check, Qt.MouseButton.LeftButton)
    assert dialog.sum.text() == "Nothing was said yet."
    first = dialog.rows[0]
    gear = first.truth.gear
    assert gear is not None
    first.boxes["gear"].setFocus()
    qtbot.keyClicks(first.boxes["gear"], str(gear))
    qtbot.keyClicks(dialog.rows[1].boxes["gear"], str(gear % 6 + 1 if dialog.rows[1].truth.gear == gear else gear))
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert first.told.text() == "right"
    assert dialog.rows[1].told.text() == f"no: gear {dialog.rows[1].truth.gear}"
    assert dialog.sum.text() == "1 of 2 right."
    dialog.close()


def test_calls_are_said_aloud_where_there_is_a_voice(page: Application, qtbot: QtBot) -> None:
    panel = page.window.page("walk").rehearsal
    spoken: list[str] = []
    panel.speech.ready = lambda: True  # type: ignore[method-assign]
    panel.speech.say = lambda text: spoken.append(text) is None  # type: ignore[method-assign]
    qtbot.mouseClick(panel.aloud, Qt.MouseButton.LeftButton, pos=QPoint(8, panel.aloud.height() // 2))
    assert panel.aloud.isChecked()
    call_all(page, qtbot, 1, 6.0)
    assert spoken[-1].endswith("pick-up 6 m late")


def test_without_a_voice_it_is_written(page: Application, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "PyQt6.QtTextToSpeech", None)
    panel = page.window.page("walk").rehearsal
    assert not panel.speech.say("hello")
    page.window.run_action(page.window.actions_by_id["rehearse:aloud"].data())
    assert not panel.aloud.isChecked()
    assert "no voice" in panel.sheet.text()


def test_without_pedals_turn_in_and_the_slowest_point_are_asked_for(
    page: Application, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(Passage, "inferred", property(lambda _: ("throttle", "brake")))
    panel = page.window.page("walk").rehearsal
    panel.fill()
    titles = [panel.table.horizontalHeaderItem(k).text() for k in range(panel.table.columnCount())]
    assert titles == ["corner", "turn-in", "slowest", "known"]
    assert "brake" not in panel.how.text()
    marks = corners(page)[0].reference_marks
    page.store.look_at(lambda s: ops.go_to(s, marks.slow_point_m - 5.0))
    qtbot.keyClick(page.window, "1")
    assert panel.rehearsal.calls == []
    qtbot.keyClick(page.window, "7")
    assert panel.said.text().endswith("slowest 5 m early")
