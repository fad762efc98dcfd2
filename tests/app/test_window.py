"""The main flows through the window by keys, mouse and files."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox, QPushButton, QTableWidget

from jete.app.actions import ACTIONS, MENUS
from jete.main import Application
from jete.notes.sheet import LapNote
from jete.report.words import difference
from jete.session import operations as ops
from jete.session.state import LapKey
from jete.views.keys import KeysDialog
from jete.views.ledger.model import GAP, RUNNING
from jete.views.traces.painter import room
from jete.views.traces.panels_dialog import PanelsDialog

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

PHASES = {"approach", "braking", "turning", "exit", "straight"}
Pair = tuple[Path, Path]


def press(
    qtbot: QtBot, parts: Application, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    qtbot.keyClick(QApplication.focusWidget() or parts.window, key, modifier)


def act(parts: Application, action: str) -> None:
    parts.window.actions_by_id[action].trigger()


def test_the_empty_window_says_what_to_do(empty: Application) -> None:
    texts = [b.text() for b in empty.window.laps.findChildren(QPushButton) if b.isVisible()]
    assert texts == ["Open logs…", "Open the demo"]
    assert "Ctrl+D" in empty.window.page("ledger").balance.text()


def test_dropped_files_are_opened_and_a_pair_is_chosen(empty: Application, pair_files: Pair, qtbot: QtBot) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in pair_files])
    drop = QDropEvent(
        QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    empty.window.dropEvent(drop)
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 2, timeout=20000)
    assert empty.store.session.choice.reference is not None
    assert empty.store.session.choice.lap is not None


def test_the_same_file_is_opened_once(opened: Application, pair_files: Pair, qtbot: QtBot) -> None:
    opened.imports.open_files(pair_files)
    qtbot.waitUntil(lambda: opened.tasks.idle, timeout=20000)
    assert len(opened.store.session.runs) == 2


def test_the_ledger_balances_with_the_lap_times(ledger: Application) -> None:
    session, model = ledger.store.session, ledger.window.page("ledger").model
    spans = [session.span(k) for k in (session.choice.reference, session.choice.lap)]
    assert spans[0] is not None
    assert spans[1] is not None
    gap = spans[1].time_s - spans[0].time_s
    last = model.rowCount() - 1
    assert model.index(last, GAP).data() == difference(gap)
    assert model.index(last - 1, RUNNING).data() == difference(gap)
    written = [model.index(row, GAP).data().replace("\N{MINUS SIGN}", "-") for row in range(last)]
    assert sum(map(float, written)) == pytest.approx(round(gap, 3), abs=1e-9)
    assert difference(gap) in ledger.window.page("ledger").balance.text()


def test_each_row_balances_with_its_parts(ledger: Application) -> None:
    for row in ledger.window.page("ledger").model.rows:
        assert sum(p.seconds for p in row.parts) == pytest.approx(row.gap_s, abs=1e-9)


def test_three_corners_at_the_most_stand_out(ledger: Application) -> None:
    worst = [r for r in ledger.window.page("ledger").model.rows if r.worst]
    assert 1 <= len(worst) <= 3
    assert min(r.gap_s for r in worst) >= max(
        r.gap_s for r in ledger.window.page("ledger").model.rows[:-1] if not r.worst
    )


def test_a_row_selects_its_corner_everywhere(ledger: Application, qtbot: QtBot) -> None:
    table = ledger.window.page("ledger").table
    qtbot.mouseClick(
        table.viewport(),
        Qt.MouseButton.LeftButton,
        pos=table.visualRect(ledger.window.page("ledger").model.index(3, 1)).center(),
    )
    corner = ledger.store.session.lay.corner(4)
    assert corner is not None
    look = ledger.store.session.look
    assert (look.corner, look.start_m, look.end_m) == (4, corner.start_m, corner.end_m)
    frame = ledger.window.page("ledger").traces.frame()
    assert (frame.start_m, frame.end_m) == (corner.start_m, corner.end_m)
    assert ledger.window.ribbon.accessibleDescription().endswith("corner 4")


def test_keys_step_through_the_corners_and_the_row_follows(ledger: Application, qtbot: QtBot) -> None:
    press(qtbot, ledger, Qt.Key.Key_N)
    press(qtbot, ledger, Qt.Key.Key_N)
    press(qtbot, ledger, Qt.Key.Key_B)
    corner = ledger.store.session.look.corner
    assert corner == 2
    assert ledger.window.page("ledger").table.currentIndex().row() == ledger.window.page("ledger").model.row_of(corner)


def test_what_was_not_logged_leaves_its_room_to_the_other_panels(ledger: Application) -> None:
    traces = ledger.window.page("ledger").traces
    heights = {s.panel.name: s.bottom - s.top for s in traces.strips()}
    traces._panels["gear"] = replace(traces._panels["gear"], reference=None, lap=None)
    without = {s.panel.name: s.bottom - s.top for s in traces.strips()}
    assert without["gear"] <= room().line, "its title alone"
    assert without["speed"] > heights["speed"]


def test_the_row_stays_chosen_when_something_is_noted_of_the_run(ledger: Application) -> None:
    ledger.store.look_at(lambda s: ops.select_corner(s, 3))
    lap = ledger.store.session.choice.lap
    assert lap is not None
    ledger.shelf.notebook.note_lap(lap, LapNote(note="calm"))
    rows = [i.row() for i in ledger.window.page("ledger").table.selectedIndexes()]
    assert set(rows) == {ledger.window.page("ledger").model.row_of(3)}


def test_the_ribbon_moves_the_place_by_click_and_drag(ledger: Application, qtbot: QtBot) -> None:
    ribbon = ledger.window.ribbon
    for share in (0.25, 0.5, 0.75):
        place = share * ledger.store.session.lay.length_m
        qtbot.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(round(ribbon.column(place)), 50))
        assert ledger.store.session.look.place_m == pytest.approx(place, abs=5.0)
        assert ledger.store.session.look.corner == ledger.store.session.lay.corner_at(ledger.store.session.look.place_m)
    qtbot.mousePress(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(100, 50))
    qtbot.mouseMove(ribbon, QPoint(300, 50))
    assert ledger.store.session.look.place_m == pytest.approx(ribbon.place(300), abs=5.0)


def test_a_double_click_on_the_ribbon_fills_the_range_with_the_corner(ledger: Application, qtbot: QtBot) -> None:
    ribbon, corner = ledger.window.ribbon, ledger.store.session.lay.corners[4]
    qtbot.mouseDClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(round(ribbon.column(corner.apex_m)), 50))
    assert ledger.store.session.look.corner == corner.number
    assert ledger.store.session.look.start_m == corner.start_m


def test_arrows_move_the_place_and_all_views_show_the_same(ledger: Application, qtbot: QtBot) -> None:
    before = ledger.store.session.look.place_m
    ledger.window.page("ledger").traces.setFocus()
    press(qtbot, ledger, Qt.Key.Key_Right)
    press(qtbot, ledger, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    place = ledger.store.session.look.place_m
    assert place == pytest.approx(before + 22.0)
    assert f"{place:.0f} m" in ledger.window.page("ledger").traces.accessibleDescription()
    assert f"{place:.0f} m" in ledger.window.ribbon.accessibleDescription()


def test_the_read_out_has_both_laps_at_the_place(ledger: Application) -> None:
    corner = ledger.store.session.lay.corners[2]
    ledger.store.look_at(lambda s: ops.go_to(s, corner.apex_m))
    values = {name: (a, b) for name, a, b in ledger.window.page("ledger").traces.read_out()}
    comparison = ledger.store.comparison
    assert comparison is not None
    expected = float(comparison.reference.speed_at_scale(np.array(corner.apex_m))) * 3.6
    assert values["speed"][0] == pytest.approx(expected, abs=0.01)
    assert values["gap"][0] is None


def test_the_wheel_zooms_about_the_pointer(ledger: Application) -> None:
    traces = ledger.window.page("ledger").traces
    at = QPointF(500.0, 200.0)
    under = traces.frame().place(500.0)
    wheel = QWheelEvent(
        at, traces.mapToGlobal(at), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    traces.wheelEvent(wheel)
    assert traces.frame().place(500.0) == pytest.approx(under, abs=0.5)
    assert traces.frame().end_m - traces.frame().start_m < 0.85 * ledger.store.session.lay.length_m


def test_dragging_pans_clicking_places_and_a_double_click_shows_all(ledger: Application, qtbot: QtBot) -> None:
    traces = ledger.window.page("ledger").traces
    ledger.store.look_at(lambda s: ops.show_range(s, 1000.0, 1500.0))
    qtbot.mousePress(traces, Qt.MouseButton.LeftButton, pos=QPoint(400, 200))
    qtbot.mouseMove(traces, QPoint(300, 200))
    qtbot.mouseRelease(traces, Qt.MouseButton.LeftButton, pos=QPoint(300, 200))
    look = ledger.store.session.look
    assert look.start_m > 1000.0
    assert look.end_m - look.start_m == pytest.approx(500.0)
    qtbot.mouseClick(traces, Qt.MouseButton.LeftButton, pos=QPoint(350, 200))
    assert ledger.store.session.look.place_m == pytest.approx(traces.frame().place(350), abs=2.0)
    qtbot.mouseDClick(traces, Qt.MouseButton.LeftButton, pos=QPoint(350, 200))
    assert ledger.store.session.look.start_m == 0.0


def test_another_reference_can_be_chosen_and_undone(opened: Application, qtbot: QtBot) -> None:
    before = opened.store.session.choice
    page = opened.window.laps
    assert before.lap is not None
    page.run._select(before.lap)
    act(opened, "reference")
    assert opened.store.session.choice.reference == before.lap
    qtbot.waitUntil(
        lambda: opened.store.comparison is not None and opened.store.comparison.laps[0].gap_s < 0, timeout=10000
    )
    assert "Undo choice of the reference" in opened.window.actions_by_id["undo"].text()
    act(opened, "undo")
    assert opened.store.session.choice == before
    qtbot.waitUntil(
        lambda: opened.store.comparison is not None and opened.store.comparison.laps[0].gap_s > 0, timeout=10000
    )


def test_return_on_a_lap_holds_it_against_the_reference(opened: Application, qtbot: QtBot) -> None:
    reference = opened.store.session.choice.reference
    assert reference is not None
    page = opened.window.laps
    opened.store.look_at(lambda s: ops.select_run(s, reference.run))
    page.run._select(reference)
    page.run.table.setFocus()
    qtbot.keyClick(page.run.table, Qt.Key.Key_Return)
    assert opened.store.session.choice.lap == reference


def test_theme_and_units_are_switched_shown_and_remembered(ledger: Application, qtbot: QtBot) -> None:
    act(ledger, "theme")
    act(ledger, "speed:mph")
    act(ledger, "length:ft")
    assert ledger.store.session.display.theme == "dark"
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    assert app.palette().window().color().lightness() < 60
    assert {p.name: p.unit for p in ledger.window.page("ledger").traces.shown_panels()}["speed"] == "mph"
    from jete.app import settings

    assert settings.load().speed == "mph"
    act(ledger, "theme")


def test_the_ledger_is_ordered_by_loss_or_by_road(ledger: Application, qtbot: QtBot) -> None:
    model = ledger.window.page("ledger").model
    by_road = [r.corner for r in model.rows]
    qtbot.mouseClick(ledger.window.page("ledger").order.buttons[1], Qt.MouseButton.LeftButton)
    had = [r.had_s for r in model.rows[:-1]]
    assert had == sorted(had, reverse=True)
    assert had[0] > had[-1]
    assert model.rows[-1].corner is None
    act(ledger, "order")
    assert [r.corner for r in model.rows] == by_road


def test_the_ledger_is_divided_by_cause_or_by_phase(ledger: Application, qtbot: QtBot) -> None:
    page = ledger.window.page("ledger")
    qtbot.mouseClick(page.division.buttons[1], Qt.MouseButton.LeftButton)
    assert page.model.headerData(1, Qt.Orientation.Horizontal) == "gap, by phase"
    assert {p.cause for r in page.model.rows for p in r.parts} <= PHASES | {"unexplained"}
    press(qtbot, ledger, Qt.Key.Key_F)
    assert page.division.chosen == "Cause"
    act(ledger, "scope")
    assert not page.division.isVisible()


def test_panels_can_be_hidden_and_ordered(ledger: Application, qtbot: QtBot) -> None:
    act(ledger, "panels")
    dialog = ledger.window.findChild(PanelsDialog)
    assert dialog is not None
    item = dialog.list.item(0)
    assert item is not None
    item.setCheckState(Qt.CheckState.Unchecked)
    assert "gap" not in [p.name for p in ledger.window.page("ledger").traces.shown_panels()]
    dialog.list.setCurrentRow(5)
    up = next(b for b in dialog.findChildren(QPushButton) if b.text() == "Up")
    qtbot.mouseClick(up, Qt.MouseButton.LeftButton)
    shown = ledger.store.session.display.panels_for("car")
    assert shown[-2:] == ("gear", "steering")
    qtbot.mouseClick(dialog.usual, Qt.MouseButton.LeftButton)
    assert ledger.store.session.display.panels == ()
    assert next(p.name for p in ledger.window.page("ledger").traces.shown_panels()) == "gap"
    dialog.close()


@pytest.mark.parametrize("content", [b"", b"\x00\x01binary", b"speed\n1\n", b"time,speed\n0,fast\n"])
def test_a_file_that_can_not_be_used_is_told_and_the_rest_stays(
    opened: Application, tmp_path: Path, qtbot: QtBot, content: bytes
) -> None:
    bad = tmp_path / "bad.csv"
    bad.write_bytes(content)
    opened.imports.open_files([bad])
    qtbot.waitUntil(lambda: bool(opened.window.findChildren(QMessageBox)), timeout=10000)
    box = opened.window.findChildren(QMessageBox)[0]
    assert "bad.csv" in box.text()
    assert "What is open stays" in box.informativeText()
    assert len(opened.store.session.runs) == 2
    assert opened.store.comparison is not None


def test_reading_can_be_stopped(empty: Application, pair_files: Pair, qtbot: QtBot) -> None:
    empty.imports.open_files(pair_files)
    act(empty, "cancel")
    qtbot.waitUntil(lambda: empty.tasks.idle, timeout=20000)
    assert empty.store.session.runs == ()
    assert empty.store.comparison is None


def test_a_lap_of_another_circuit_is_told(opened: Application, tmp_path: Path, qtbot: QtBot) -> None:
    from known_laps import csv_text, drawn, rows_of

    other = tmp_path / "other.csv"
    other.write_text(csv_text(*rows_of(drawn(8, faults=0).lap, every=4)), encoding="utf-8")
    opened.store.do("choice", lambda s: ops.choose_lap(s, s.choice.lap))
    opened.imports.open_files([other])
    qtbot.waitUntil(lambda: len(opened.store.session.runs) == 3, timeout=10000)
    lap = opened.store.session.runs[2].laps[0].number
    opened.store.do("choice of the lap", lambda s: ops.choose_lap(s, LapKey(3, lap)))
    qtbot.waitUntil(lambda: opened.store.comparison is None, timeout=10000)
    assert opened.store.session.choice.reference is None
    assert opened.window.findChildren(QMessageBox) == []


def test_the_list_of_keys_comes_by_one_key_and_is_complete(empty: Application, qtbot: QtBot) -> None:
    press(qtbot, empty, Qt.Key.Key_F1)
    dialog = empty.window.findChild(KeysDialog)
    assert dialog is not None
    table = dialog.findChildren(QTableWidget)[0]
    shown = {table.item(i, 1).text() for i in range(table.rowCount())}
    assert shown == {a.text for a in ACTIONS if a.keys}
    table.window().close()


def test_no_two_actions_share_a_key_and_every_action_is_in_a_menu() -> None:
    keys = [k for a in ACTIONS for k in a.keys]
    assert len(keys) == len(set(keys))
    assert {a.menu for a in ACTIONS} == set(MENUS)


def test_no_menu_has_more_than_fourteen_entries(empty: Application) -> None:
    bar = empty.window.menuBar()
    assert bar is not None
    menus = [a.menu() for a in bar.actions()]
    menus += [a.menu() for m in menus if m is not None for a in m.actions() if a.menu() is not None]
    assert {m.title(): len(m.actions()) for m in menus if m is not None and len(m.actions()) > 14} == {}
    film = next(m for m in menus if m is not None and m.title() == "The film")
    assert empty.window.actions_by_id["film:tie"] in film.actions()


def test_long_names_are_shortened_in_the_head(shelf: Application) -> None:
    label, store = shelf.window.pair, shelf.store
    run = store.session.runs[0]
    shelf.shelf.notebook.note_run(run.number, replace(run.sheet, driver="Wilhelmina " + "van der Straaten " * 9))
    for width in (1600, 1024):
        shelf.window.resize(width, 700)
        QApplication.processEvents()
        shown = re.sub(r"<[^>]*>", "", label.text())
        assert "lap 2" in shown
        assert "…" in shown
        assert label.fontMetrics().horizontalAdvance(shown.replace("&nbsp;", " ")) <= label.width()
        assert "van der Straaten" in label.toolTip()


def test_the_selected_row_of_the_ledger_stays_in_sight_in_a_lower_window(shelf: Application) -> None:
    window, table = shelf.window, shelf.window.page("ledger").table
    shelf.store.look_at(lambda s: ops.select_corner(ops.go_to_page(s, "ledger"), 7))
    for height in (800, 640, 560):
        window.resize(1024, height)
        QApplication.processEvents()
        seen = table.visualRect(table.currentIndex())
        viewport = table.viewport()
        assert viewport is not None
        assert viewport.rect().contains(seen), height


def test_a_debrief_is_written_from_the_menu(
    shelf: Application, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "debrief.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    with qtbot.waitSignal(shelf.copies.told, timeout=60000) as told:
        shelf.window.actions_by_id["report"].trigger()
    assert told.args == ["The debrief is in debrief.html."]
    assert "Where most is to be had" in path.read_text(encoding="utf-8")


def test_the_answer_stands_above_the_rows_and_leads_to_its_corner(ledger: Application, qtbot: QtBot) -> None:
    page = ledger.window.page("ledger")
    told = page.answers.shown
    assert 1 <= len(told) <= 3
    assert page.answers.y() < page.rows.y()
    for answer in told:
        row = next(r for r in page.model.rows if r.corner == answer.corner)
        assert answer.seconds == row.gap_s
        assert row.worst
    last = len(told) - 1
    qtbot.mouseClick(page.answers, Qt.MouseButton.LeftButton, pos=page.answers.point_of(last))
    assert ledger.store.session.look.corner == told[last].corner
    page.answers.setFocus()
    qtbot.keyClick(page.answers, Qt.Key.Key_Down)
    assert ledger.store.session.look.corner == told[0].corner
    assert not page.answers.grab().isNull()


def test_all_corners_have_a_row_in_sight_on_a_common_screen(ledger: Application, qtbot: QtBot) -> None:
    page = ledger.window.page("ledger")
    bar = page.table.verticalScrollBar()
    assert bar is not None
    qtbot.waitUntil(lambda: bar.maximum() == 0, timeout=5000)
    ledger.window.resize(1024, 600)
    qtbot.waitUntil(lambda: bar.maximum() > 0, timeout=5000)
