"""The Laps page on a library: search, sheets, notes, the bin, pins, dragging, other shelves."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLineEdit, QMenu, QMessageBox

from jete.app import demo, settings
from jete.library.library import Library
from jete.library.location import Location, usual_location
from jete.main import Application, build
from jete.notes.sheet import LapNote
from jete.session import operations as ops
from jete.session.state import LapKey
from jete.views.laps import model as laps
from jete.views.shelf_dialogs import BinDialog
from jete.views.start_line import StartLineDialog
from known_laps import DEMO_PAIR

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


def act(parts: Application, action: str) -> None:
    parts.window.actions_by_id[action].trigger()


def select(parts: Application, lap: int) -> LapKey:
    page = parts.window.laps
    row = next(i for i, r in enumerate(page.run.model.rows) if r.span.number == lap)
    page.run.table.setCurrentIndex(page.run.model.index(row, laps.LAP))
    return page.run.model.rows[row].key


def kept() -> Library:
    return Library(usual_location())


def test_runs_come_onto_the_shelf_and_stay_there(empty: Application, qtbot: QtBot) -> None:
    for path, driver in zip(DEMO_PAIR, ("Ines Karlsby", "Tomasz Oryel"), strict=True):
        empty.imports.open_files([path], {"circuit": "Kestrel Sands", "driver": driver})
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 2 and empty.tasks.idle, timeout=30000)
    library = kept()
    assert [r.sheet.driver for r in library.runs()] == ["Ines Karlsby", "Tomasz Oryel"]
    library.close()
    assert empty.store.session.choice.lap == LapKey(2, 2)
    assert empty.store.session.choice.reference == LapKey(1, 4)


def test_the_next_start_shows_the_shelf_and_a_sensible_pair(shelf: Application, qtbot: QtBot) -> None:
    from PyQt6.QtWidgets import QApplication

    app = QApplication.instance()
    assert isinstance(app, QApplication)
    again = build(app)
    again.shelf.open()
    qtbot.waitUntil(lambda: again.store.comparison is not None, timeout=30000)
    assert again.store.session.choice == shelf.store.session.choice
    again.window.close()


def test_the_search_keeps_the_runs_that_hold_every_word(shelf: Application, qtbot: QtBot) -> None:
    page = shelf.window.laps
    act(shelf, "search")
    qtbot.keyClicks(page.list.search, "SANDS oryel")
    qtbot.waitUntil(lambda: page.list.runs.shown == 1, timeout=2000)
    assert page.list.count.text() == "1 of 2 runs"
    assert page.list.runs.index_of(2) is not None
    assert page.list.runs.index_of(1) is None


def test_a_note_is_told_in_its_row_and_leaves_the_tree_as_it_is(shelf: Application) -> None:
    page = shelf.window.laps
    page.list.tree.collapseAll()
    run = shelf.store.session.runs[1]
    shelf.shelf.notebook.note_run(run.number, replace(run.sheet, vehicle="the grey one"))
    index = page.list.runs.index_of(run.number)
    assert index is not None
    assert "the grey one" in index.data(Qt.ItemDataRole.ToolTipRole)
    shelf.shelf.notebook.note_run(run.number, replace(run.sheet, circuit="Marram Bank"))
    moved = page.list.runs.index_of(run.number)
    assert moved is not None
    assert moved.parent().parent().data() == "Marram Bank"


def test_selecting_a_run_shows_its_laps_and_words(shelf: Application) -> None:
    page = shelf.window.laps
    index = page.list.runs.index_of(1)
    assert index is not None
    page.list.tree.setCurrentIndex(index)
    assert {r.key.run for r in page.run.model.rows} == {1}
    assert page.run.title.text().startswith("Ines Karlsby")
    assert "best 1:51.134 on lap 4" in page.run.words.text()
    assert page.run.words.text().startswith(page.run.chart.accessibleDescription())


def test_only_what_is_noted_is_seen_and_the_rest_is_added_from_a_menu(shelf: Application, qtbot: QtBot) -> None:
    shelf.store.look_at(lambda s: ops.select_run(ops.go_to_page(s, "laps"), 1))
    sheet = shelf.window.laps.side.sheet
    seen = {n for n, e in sheet.fields.items() if e.isVisible()}
    assert {"circuit", "driver", "time", "vehicle", "condition"} <= seen
    assert not {"tyres", "fuel_l", "note"} & seen
    sheet._menu.aboutToShow.emit()
    offered = [a for a in sheet._menu.actions() if not a.isSeparator()]
    assert len(offered) == len(sheet.fields) - len(seen)
    next(a for a in offered if a.text() == "tyres").trigger()
    tyres = sheet.fields["tyres"]
    assert tyres.isVisible()
    qtbot.keyClicks(tyres, "medium")
    qtbot.keyClick(tyres, Qt.Key.Key_Return)
    assert shelf.store.session.run(1).sheet.tyres == "medium"
    shelf.window.laps.list.tree.setFocus()
    shelf.store.look_at(lambda s: ops.select_run(s, 2))
    assert not tyres.isVisible(), "of another run nothing is noted there"
    shelf.store.look_at(lambda s: ops.select_run(s, 1))
    assert tyres.isVisible()


def test_all_runs_here_stand_in_order_of_time_and_lead_to_their_laps(shelf: Application, qtbot: QtBot) -> None:
    shelf.store.look_at(lambda s: ops.select_run(ops.go_to_page(s, "laps"), 1))
    panel = shelf.window.laps.run
    qtbot.mouseClick(panel.which.buttons[1], Qt.MouseButton.LeftButton)
    chart = panel.runs
    assert chart.isVisible()
    assert [d.run.number for d in chart.dots] == [1, 2], "by the clock of the day"
    assert [d.best_s for d in chart.dots] == [r.best.time_s for r in shelf.store.session.runs]
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=chart._point(chart.dots[1]).toPoint())
    assert ops.shown_run(shelf.store.session).number == 2
    qtbot.keyClick(chart, Qt.Key.Key_Up)
    assert ops.shown_run(shelf.store.session).number == 1


def test_a_typed_field_is_saved_and_can_be_undone(shelf: Application, qtbot: QtBot) -> None:
    field = shelf.window.laps.side.sheet.open_field("tyres")
    assert isinstance(field, QLineEdit)
    field.setFocus()
    qtbot.keyClicks(field, "medium")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    library = kept()
    assert library.run(2).sheet.tyres == "medium"
    act(shelf, "undo")
    assert library.run(2).sheet.tyres == ""
    assert field.text() == ""
    act(shelf, "redo")
    assert library.run(2).sheet.tyres == "medium"
    library.close()


def test_text_where_a_number_belongs_is_told_and_put_back(shelf: Application, qtbot: QtBot) -> None:
    field = shelf.window.laps.side.sheet.open_field("air_c")
    assert isinstance(field, QLineEdit)
    field.setText("warm")
    field.editingFinished.emit()
    assert "'warm' is no number" in shelf.window.findChildren(QMessageBox)[0].text()
    assert field.text() == ""


def test_the_ledger_says_where_the_runs_differ(shelf: Application) -> None:
    shelf.shelf.notebook.note_run(1, replace(shelf.store.session.runs[0].sheet, condition="dry"))
    assert not shelf.window.page("ledger").aside.isVisibleTo(shelf.window.page("ledger"))
    shelf.shelf.notebook.note_run(2, replace(shelf.store.session.runs[1].sheet, condition="wet"))
    assert "road wet (reference: dry)" in shelf.window.page("ledger").aside.text()
    assert "each off by" in shelf.window.page("ledger").doubts.text()
    assert "; 10 times a second" in shelf.window.page("ledger").doubts.text()


def test_a_lap_is_starred_noted_and_set_aside_by_key(shelf: Application, qtbot: QtBot) -> None:
    key = select(shelf, 4)
    act(shelf, "star")
    page = shelf.window.laps
    assert page.run.model.setData(page.run.model.index(4, laps.NOTE), "late in 11")
    page.set_aside("traffic")
    library = kept()
    assert library.run(2).notes.of(4) == LapNote("traffic", "", "late in 11", star=True)
    library.close()
    assert key not in ops.laps_of_run(shelf.store.session)
    act(shelf, "undo")
    assert shelf.store.session.runs[1].notes.of(4).aside == ""


def test_a_note_asked_for_twice_is_typed_once(shelf: Application, qtbot: QtBot) -> None:
    select(shelf, 4)
    act(shelf, "note")
    select(shelf, 3)
    act(shelf, "note")
    fields = shelf.window.laps.run.table.findChildren(QLineEdit)
    assert len(fields) == 1


def test_the_reasons_come_as_a_menu(shelf: Application, qtbot: QtBot) -> None:
    select(shelf, 5)
    act(shelf, "aside")
    menu = shelf.window.laps.findChild(QMenu, "aside-menu")
    assert menu is not None
    assert [a.text() for a in menu.actions()][:2] == ["It counts", "Does not count: traffic"]
    menu.actions()[2].trigger()
    assert shelf.store.session.runs[1].notes.of(5).aside == "yellow"
    menu.close()


def test_a_run_goes_into_the_bin_and_comes_back(shelf: Application, qtbot: QtBot) -> None:
    act(shelf, "remove")
    assert [r.number for r in shelf.store.session.runs] == [1]
    assert shelf.store.session.choice.lap is None
    assert shelf.store.comparison is None
    act(shelf, "bin")
    dialog = shelf.window.findChild(BinDialog)
    assert dialog is not None
    qtbot.waitUntil(lambda: dialog.list.count() == 1, timeout=4000)
    dialog.back.click()
    assert [r.number for r in shelf.store.session.runs] == [1, 2]
    qtbot.waitUntil(lambda: dialog.list.count() == 0, timeout=4000)
    dialog.close()


def test_a_lap_is_pinned_and_is_the_reference_of_a_next_start(shelf: Application) -> None:
    key = select(shelf, 5)
    act(shelf, "pin")
    session = shelf.store.session
    assert session.pin_of(session.runs[0]) == key
    assert "Reference of this class: Tomasz Oryel" in shelf.window.laps.run.notes.text()
    fresh = ops.new_shelf(session, session.runs, session.pins)
    assert fresh.choice.reference == key
    act(shelf, "pin")
    assert shelf.store.session.pins == ()
    act(shelf, "undo")
    assert shelf.store.session.pin_of(session.runs[0]) == key


def test_a_lap_dropped_on_the_reference_is_held_there(shelf: Application) -> None:
    page = shelf.window.laps
    data = page.run.model.mimeData([page.run.model.index(6, laps.LAP)])
    key = page.run.model.rows[6].key
    drop = QDropEvent(
        QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    page.side.reference.dropEvent(drop)
    assert shelf.store.session.choice.reference == key


def test_laps_are_laid_over_and_taken_off(shelf: Application, qtbot: QtBot) -> None:
    for lap in (4, 5, 6):
        select(shelf, lap)
        act(shelf, "over")
    qtbot.waitUntil(lambda: shelf.store.comparison is not None and len(shelf.store.comparison.laps) == 4, timeout=30000)
    assert all(len(p.over) == 3 for p in shelf.window.page("ledger").traces.shown_panels())
    assert "lap 5" in shelf.window.pair.text()
    select(shelf, 5)
    act(shelf, "over")
    assert [k.lap for k in shelf.store.session.choice.over] == [4, 6]
    act(shelf, "undo")
    assert [k.lap for k in shelf.store.session.choice.over] == [4, 5, 6]


def test_another_shelf_and_back_home(shelf: Application, tmp_path: Path, qtbot: QtBot) -> None:
    shelf.shelf.open(Location(tmp_path / "other"))
    qtbot.waitUntil(lambda: shelf.store.session.runs == (), timeout=10000)
    assert shelf.store.comparison is None
    assert shelf.store.undo_text is None
    act(shelf, "home")
    qtbot.waitUntil(lambda: len(shelf.store.session.runs) == 2, timeout=10000)


def test_the_demo_has_a_shelf_of_its_own(shelf: Application, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    few = {n: demo.RUNS[n] for n in (*demo.PAIR, "tomasz-oryel-run-3", "tomasz-oryel-marrow-fen")}
    monkeypatch.setattr(demo, "RUNS", few)
    act(shelf, "demo")
    qtbot.waitUntil(lambda: len(shelf.store.session.runs) == len(few) and shelf.tasks.idle, timeout=60000)
    session = shelf.store.session
    assert session.label(session.choice.lap) == "Tomasz Oryel · 11:05 · lap 2"
    assert session.label(session.choice.reference) == "Ines Karlsby · 10:15 · lap 4"
    comparison, road = shelf.store.comparison, shelf.store.road
    assert comparison is not None
    assert comparison.corners[0].name == "Harbour"
    assert road is not None
    assert road.circuit is not None
    assert len(road.circuit.book.landmarks) > 30
    library = kept()
    assert len(library.runs()) == 2
    library.close()


def test_a_lap_and_a_backup_are_written(shelf: Application, tmp_path: Path, qtbot: QtBot) -> None:
    told: list[str] = []
    shelf.copies.told.connect(told.append)
    shelf.copies.export_lap(LapKey(1, 3), tmp_path / "lap.csv")
    qtbot.waitUntil(lambda: (tmp_path / "lap.csv").exists() and len(told) == 1, timeout=10000)
    shelf.copies.back_up(tmp_path / "all.zip")
    qtbot.waitUntil(lambda: len(told) == 2, timeout=10000)
    assert "2 recordings" in told[1]


def test_a_newer_shelf_can_be_looked_at(shelf: Application, qtbot: QtBot) -> None:
    from sqlalchemy import text

    library = kept()
    with library.writing() as session:
        session.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    library.close()
    shelf.shelf.open(usual_location())
    qtbot.waitUntil(lambda: bool(shelf.window.findChildren(QMessageBox)), timeout=10000)
    box = shelf.window.findChildren(QMessageBox)[0]
    next(b for b in box.buttons() if b.text() == "Open to read only").click()
    qtbot.waitUntil(lambda: len(shelf.store.session.runs) == 2 and shelf.shelf.read_only, timeout=10000)
    shelf.shelf.notebook.note_run(1, replace(shelf.store.session.runs[0].sheet, note="x"))
    assert any("read only" in b.text() for b in shelf.window.findChildren(QMessageBox))


def test_the_ideal_lap_of_a_run_is_held_as_the_reference(shelf: Application, qtbot: QtBot) -> None:
    act(shelf, "ideal")
    qtbot.waitUntil(
        lambda: shelf.store.comparison is not None and bool(shelf.store.comparison.reference.lap.log.notes),
        timeout=30000,
    )
    assert "ideal lap" in shelf.window.pair.text()
    assert "joined from the best passes of laps" in shelf.window.page("ledger").doubts.text()
    assert shelf.store.comparison is not None
    assert shelf.store.comparison.laps[0].gap_s > 0.0
    act(shelf, "undo")
    assert shelf.store.session.choice.reference == LapKey(1, 4)


def test_the_start_line_is_dragged_and_the_run_split_there(shelf: Application, qtbot: QtBot) -> None:
    act(shelf, "line")
    qtbot.waitUntil(lambda: shelf.window.findChild(StartLineDialog) is not None, timeout=10000)
    dialog = shelf.window.findChild(StartLineDialog)
    assert dialog is not None
    before = dialog.map.line.line
    assert before is not None
    there = dialog.map.pixel_of(before.x_m, before.y_m)
    qtbot.mouseClick(dialog.map, Qt.MouseButton.LeftButton, pos=there.toPoint())
    assert dialog.map.line.line is not None
    assert abs(dialog.map.line.line.x_m - before.x_m) < 30.0
    qtbot.keyClick(dialog.map, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    moved = dialog.map.line.line
    dialog.use.click()
    library = kept()
    line = library.line_of(library.run(2))
    assert line is not None
    assert line.line is not None
    assert line.line.x_m == pytest.approx(moved.x_m)
    assert sum(s.complete for s in shelf.store.session.runs[1].laps) >= 7
    library.close()


def test_another_start_line_is_compared_anew_and_undone_with_its_notes(shelf: Application, qtbot: QtBot) -> None:
    shelf.shelf.notebook.note_lap(LapKey(2, 3), LapNote(note="late at the hairpin", star=True))
    before, compared = shelf.store.session.runs[1], shelf.store.comparison
    act(shelf, "line")
    qtbot.waitUntil(lambda: shelf.window.findChild(StartLineDialog) is not None, timeout=10000)
    dialog = shelf.window.findChild(StartLineDialog)
    assert dialog is not None
    dialog.map.setFocus()
    for _ in range(12):
        qtbot.keyClick(dialog.map, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    dialog.use.click()
    qtbot.waitUntil(lambda: shelf.store.comparison is not compared and shelf.tasks.idle, timeout=20000)
    after = shelf.store.session.runs[1]
    assert after.laps != before.laps
    assert [n.note for _, n in after.notes.notes] == ["late at the hairpin"]
    act(shelf, "undo")
    assert shelf.store.session.runs[1].laps == before.laps
    assert shelf.store.session.runs[1].notes == before.notes
    act(shelf, "redo")
    assert shelf.store.session.runs[1].laps == after.laps


def test_another_shelf_is_remembered_until_one_goes_home(shelf: Application, tmp_path: Path, qtbot: QtBot) -> None:
    shelf.window.files.open_shelf(str(tmp_path / "other"))
    qtbot.waitUntil(lambda: shelf.store.session.runs == (), timeout=10000)
    assert settings.shelf_place() == (str(tmp_path / "other"), "")
    act(shelf, "home")
    qtbot.waitUntil(lambda: len(shelf.store.session.runs) == 2, timeout=10000)
    assert settings.shelf_place() == ("", "")


def test_a_server_needs_a_folder_beside_it(shelf: Application) -> None:
    dialog = shelf.window.files.ask_for_server()
    dialog.url.setText("postgresql+psycopg://jete@nowhere/jete")
    dialog.use.click()
    assert "needs a shared folder" in shelf.window.findChildren(QMessageBox)[0].text()
    assert len(shelf.store.session.runs) == 2


def test_the_comparison_is_written_side_by_side(
    shelf: Application, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    qtbot.waitUntil(lambda: shelf.store.comparison is not None, timeout=30000)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "pair.csv"), ""))
    act(shelf, "export:pair")
    qtbot.waitUntil((tmp_path / "pair.csv").exists, timeout=10000)
    assert (tmp_path / "pair.csv").read_text(encoding="utf-8").startswith('"distance [m]"')


@pytest.mark.parametrize(
    "keys",
    [[Qt.Key.Key_Return], [Qt.Key.Key_Enter], [Qt.Key.Key_Tab], [Qt.Key.Key_Down, Qt.Key.Key_Return]],
)
@pytest.mark.parametrize("name", ["circuit", "driver"])
def test_a_known_name_begun_and_ended_while_names_are_suggested(
    shelf: Application, qtbot: QtBot, keys: list[Qt.Key], name: str
) -> None:
    field = shelf.window.laps.side.sheet.open_field(name)
    assert isinstance(field, QLineEdit)
    field.setFocus()
    qtbot.wait(5)
    field.selectAll()
    qtbot.keyClicks(field, "Ke" if name == "circuit" else "Ine")
    completer = field.completer()
    assert completer is not None
    popup = completer.popup()
    assert popup is not None
    qtbot.waitUntil(popup.isVisible, timeout=2000)
    for key in keys:
        qtbot.keyClick(popup, key)
    qtbot.waitUntil(lambda: not popup.isVisible(), timeout=2000)
    field.clearFocus()
    assert field.completer() is completer
    typed = {"circuit": ("Ke", "Kestrel Sands"), "driver": ("Ine", "Ines Karlsby")}[name]
    assert getattr(shelf.store.session.runs[1].sheet, name) in typed


def test_a_time_to_reach_stands_in_the_head_and_is_undone(
    shelf: Application, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    shelf.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    page = shelf.window.page("laps")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("1:50.0", True))
    shelf.window.actions_by_id["target"].trigger()
    qtbot.waitUntil(lambda: "s to 1:50.000" in page.run.target.text(), timeout=30000)
    assert shelf.store.target is not None
    assert shelf.store.target.target.driver == ops.shown_run(shelf.store.session).sheet.driver  # type: ignore[union-attr]
    assert not page.run.chart.grab().isNull()
    shelf.store.undo()
    qtbot.waitUntil(lambda: shelf.store.target is None and page.run.target.isHidden(), timeout=30000)
    told: list[Exception] = []
    shelf.shelf.failed.disconnect()
    shelf.shelf.failed.connect(told.append)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("soon", True))
    shelf.window.actions_by_id["target"].trigger()
    assert "no lap time" in str(told[0])
