"""An import ends in one summary, and asks once who drove."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QItemSelectionModel, Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QMessageBox

from jete.app.imports import Import, Outcome
from jete.main import Application
from jete.session import operations as ops
from jete.session.state import LapKey
from jete.views.mapping import MappingSheet
from known_laps import DEMO, csv_text, drawn, rows_of

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

RUNS = [DEMO / f"{n}.parquet" for n in ("ines-karlsby-run-1", "tomasz-oryel-run-1", "noor-veldane-motorcycle")]


@pytest.fixture
def card(tmp_path: Path) -> Path:
    """A folder of logs of two circuits, among them a picture, a text, and a log whose columns nobody knows."""
    folder = tmp_path / "card"
    folder.mkdir()
    for path in RUNS:
        shutil.copy(path, folder)
    (folder / "paddock.png").write_bytes(b"\x89PNG\r\n\x1a\n\0\0")
    (folder / "todo.txt").write_text("bring tyres\n", encoding="utf-8")
    heads, table = rows_of(drawn(32).reference, ("time", "speed", "throttle"), every=8)
    (folder / "strange.csv").write_text(csv_text([f"k{i}" for i in range(len(heads))], table), encoding="utf-8")
    elsewhere = "Rider: Petra Holm\n" + csv_text(*rows_of(drawn(31).reference, every=8))
    (folder / "elsewhere.csv").write_text(elsewhere, encoding="utf-8")
    return folder


def bring_in(parts: Application, qtbot: QtBot, *paths: Path) -> Import:
    with qtbot.waitSignal(parts.imports.ended, timeout=60000) as ended:
        parts.imports.open_files(paths)
    qtbot.waitUntil(lambda: parts.tasks.idle, timeout=30000)
    return ended.args[0]


def test_a_mixed_folder_ends_in_one_summary_and_no_box(empty: Application, card: Path, qtbot: QtBot) -> None:
    done = bring_in(empty, qtbot, card)
    panel = empty.window.laps.imported
    assert panel.isVisible()
    assert panel.summary.text() == "4 logs came in · 1 with unknown columns · 2 refused" == done.summary
    told = {panel.table.item(r, 0).text(): panel.table.item(r, 1).text() for r in range(panel.table.rowCount())}
    assert told["paddock.png"] == "this is a picture, not a log."
    assert set(told) == {"paddock.png", "todo.txt", "strange.csv"}
    assert empty.window.findChildren(QMessageBox) == []
    assert "Petra Holm" in panel.told.text(), "who drove, as the log itself says"
    choice = empty.store.session.choice
    assert ops.one_circuit(empty.store.session, choice.reference, choice.lap)


@pytest.mark.long
def test_the_columns_of_a_strange_file_are_asked_for_from_the_summary(
    empty: Application, card: Path, qtbot: QtBot
) -> None:
    bring_in(empty, qtbot, card)
    qtbot.mouseClick(empty.window.laps.imported.map_columns, Qt.MouseButton.LeftButton)
    sheet = empty.window.findChild(MappingSheet)
    assert sheet is not None
    assert "strange.csv" in sheet.windowTitle()
    sheet.close()


def test_who_drove_is_asked_once_for_all_new_runs(empty: Application, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, *RUNS[:2])
    panel = empty.window.laps.imported
    driver, circuit, kind = (panel.fields[n] for n in ("driver", "circuit", "kind"))
    assert isinstance(driver, QLineEdit)
    assert isinstance(circuit, QLineEdit)
    assert isinstance(kind, QComboBox)
    assert circuit.placeholderText() == "name of Circuit 1"
    assert panel.told.text() == "Perhaps: driver Ines Karlsby on 1 run, Tomasz Oryel on 1 run (by the file's name)."
    qtbot.keyClicks(circuit, "Kestrel Sands")
    kind.setCurrentText("car")
    qtbot.keyClicks(driver, "Ines Karlsby")
    qtbot.keyClick(driver, Qt.Key.Key_Return)
    sheets = [r.sheet for r in empty.store.session.runs]
    assert [(s.driver, s.circuit, s.kind, s.vehicle) for s in sheets] == [
        ("Ines Karlsby", "Kestrel Sands", "car", "car")
    ] * 2
    assert not panel.isVisible()
    empty.store.undo()
    assert {r.sheet.driver for r in empty.store.session.runs} == {""}
    assert {r.sheet.circuit for r in empty.store.session.runs} == {"Circuit 1"}
    panel.agree.click()
    assert [r.sheet.driver for r in empty.store.session.runs] == ["Ines Karlsby", "Tomasz Oryel"]
    empty.store.undo()
    assert {r.sheet.driver for r in empty.store.session.runs} == {""}


def test_one_file_that_can_not_be_used_is_told_in_a_box(empty: Application, card: Path, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, card / "paddock.png")
    (box,) = empty.window.findChildren(QMessageBox)
    assert "picture" in box.text()
    assert not empty.window.laps.imported.isVisible()


def test_what_nobody_foresaw_in_one_file_does_not_end_the_import(
    empty: Application, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    from jete.library import bring_in as module

    real = module.read_log

    def read(path: Path, *args: object) -> object:
        if "tomasz" in path.name:
            raise ZeroDivisionError
        return real(path, *args)  # type: ignore[arg-type]

    monkeypatch.setattr(module, "read_log", read)
    done = bring_in(empty, qtbot, *RUNS)
    assert [o.fate for o in done.outcomes] == ["in", "refused", "in"]


def test_several_runs_are_chosen_and_noted_at_once(empty: Application, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, *RUNS)
    page = empty.window.laps
    page.imported.hide()
    selection = page.list.tree.selectionModel()
    rows = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
    assert selection is not None
    selection.clearSelection()
    for number in (1, 2):
        index = page.list.runs.index_of(number)
        assert index is not None
        selection.select(index, rows)
    tyres = page.side.sheet.open_field("tyres")
    assert isinstance(tyres, QLineEdit)
    tyres.setFocus()
    qtbot.keyClicks(tyres, "medium")
    qtbot.keyClick(tyres, Qt.Key.Key_Return)
    assert [r.sheet.tyres for r in sorted(empty.store.session.runs, key=lambda r: r.number)] == ["medium", "medium", ""]
    assert empty.store.undo_text == "note on 2 runs"
    empty.store.undo()
    assert {r.sheet.tyres for r in empty.store.session.runs} == {""}


def test_runs_that_differ_say_so_and_leaving_the_field_changes_nothing(empty: Application, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, *RUNS[:2])
    for number, name in ((1, "Ines Karlsby"), (2, "Tomasz Oryel")):
        empty.shelf.notebook.note_runs(ops.with_answers(empty.store.session, [number], {"driver": name}))
    empty.store.look_at(lambda s: ops.choose_runs(s, (1, 2), 1))
    driver = empty.window.laps.side.sheet.open_field("driver")
    assert isinstance(driver, QLineEdit)
    assert (driver.text(), driver.placeholderText()) == ("", "several")
    driver.setFocus()
    driver.clearFocus()
    assert [r.sheet.driver for r in empty.store.session.runs] == ["Ines Karlsby", "Tomasz Oryel"]


def test_a_circuit_that_gets_its_name_gets_it_on_all_its_runs(empty: Application, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, *RUNS[:2])
    field = empty.window.laps.side.sheet.open_field("circuit")
    assert isinstance(field, QLineEdit)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "Kestrel Sands")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert {r.sheet.circuit for r in empty.store.session.runs} == {"Kestrel Sands"}


def test_an_incomplete_lap_is_refused_with_its_reason_and_nothing_changes(empty: Application, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, *RUNS[:2])
    before, undo = empty.store.session.choice, empty.store.undo_text
    page = empty.window.laps
    page.run._select(LapKey(2, 0))
    for action in ("compare", "reference", "over", "pin"):
        empty.window.actions_by_id[action].trigger()
    texts = [b.text() for b in empty.window.findChildren(QMessageBox)]
    assert len(texts) == 4
    assert all("not complete (out lap)" in t for t in texts)
    assert (empty.store.session.choice, empty.store.undo_text) == (before, undo)


@pytest.mark.long
def test_a_lap_of_another_circuit_is_compared_at_its_own(empty: Application, card: Path, qtbot: QtBot) -> None:
    bring_in(empty, qtbot, card)
    session = empty.store.session
    other = next(r for r in session.runs if r.name == "elsewhere")
    assert other.best is not None
    empty.store.do("choice of the lap", lambda s: ops.choose_lap(s, LapKey(other.number, other.best.number)))
    assert empty.store.session.choice.reference is None
    home = next(r for r in session.runs if "tomasz" in r.name)
    empty.store.do("choice of the lap", lambda s: ops.choose_lap(s, LapKey(home.number, 4)))
    reference = empty.store.session.choice.reference
    assert reference is not None
    assert "ines" in empty.store.session.label(reference)


@pytest.mark.parametrize(
    ("fates", "text"),
    [
        ([], "Nothing to bring in: the folder holds no files."),
        (["in"], "1 log came in"),
        (["in", "in", "known", "refused"], "2 logs came in · 1 known already · 1 refused"),
    ],
)
def test_an_import_is_told_in_one_line(fates: list, text: str) -> None:
    assert Import(tuple(Outcome(Path("x"), f) for f in fates)).summary == text
