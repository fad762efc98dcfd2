"""How logs come onto the shelf: unknown columns, a watched folder, folders of files."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QMessageBox

from jete.app import settings
from jete.app.watch import Watch
from jete.core.errors import InputError
from jete.formats.mapping import from_json
from jete.main import Application
from jete.simulate.trials import Trial
from jete.views.mapping import CHANNEL, NOTHING, OFFSET, TURNED, UNIT, MappingSheet
from known_laps import csv_text, rows_of

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

INES = Path("src/jete/app/assets/demo/ines-karlsby-run-1.parquet")


def strange(trial: Trial, path: Path) -> Path:
    """A log whose columns have names that say nothing."""
    heads, table = rows_of(trial.reference, ("time", "speed", "throttle", "brake", "steering"), every=4)
    path.write_text(csv_text([f"kanal_{i}" for i in range(len(heads))], table), encoding="utf-8")
    return path


@pytest.fixture
def sheet(empty: Application, trial: Trial, tmp_path: Path, qtbot: QtBot) -> MappingSheet:
    empty.imports.open_files([strange(trial, tmp_path / "strange.csv")])
    qtbot.waitUntil(lambda: empty.window.findChild(MappingSheet) is not None, timeout=10000)
    found = empty.window.findChild(MappingSheet)
    assert found is not None
    return found


def choose(sheet: MappingSheet, row: int, channel: str, unit: str = "") -> None:
    for column, text in ((CHANNEL, channel), (UNIT, unit)):
        box = sheet.table.cellWidget(row, column)
        assert isinstance(box, QComboBox)
        if text:
            box.setCurrentText(text)


def test_unknown_columns_are_asked_for_and_remembered(
    empty: Application, sheet: MappingSheet, trial: Trial, tmp_path: Path, qtbot: QtBot
) -> None:
    assert "changes as a speed" in sheet.table.item(1, 7).text()
    choose(sheet, 1, NOTHING)
    assert not sheet.use.isEnabled()
    assert "position" in sheet.verdict.text()
    assert "time" in sheet.asked.text()
    choose(sheet, 1, "speed", "km/h")
    choose(sheet, 2, "throttle", "%")
    choose(sheet, 3, "brake", "bar")
    assert sheet.use.isEnabled()
    assert "makes a log of" in sheet.verdict.text()
    sheet.use.click()
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 1, timeout=10000)
    other = strange(trial, tmp_path / "next.csv")
    rows = other.read_text(encoding="utf-8").splitlines()
    other.write_text("\n".join(rows[:-1]), encoding="utf-8")
    empty.imports.open_files([other])
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 2, timeout=10000)


def test_a_guess_is_shown_with_its_reason(sheet: MappingSheet) -> None:
    box = sheet.table.cellWidget(0, CHANNEL)
    assert isinstance(box, QComboBox)
    assert box.currentText() == "time"
    assert "rises by" in sheet.table.item(0, 7).text()
    assert " to " in sheet.table.item(1, 2).text()
    sheet.close()


def test_one_channel_can_not_be_two_columns(sheet: MappingSheet) -> None:
    choose(sheet, 1, "speed", "km/h")
    choose(sheet, 2, "speed", "km/h")
    assert "two columns are 'speed'" in sheet.verdict.text().lower()
    assert not sheet.use.isEnabled()
    sheet.close()


def test_a_map_is_handed_on_and_taken_over(sheet: MappingSheet, tmp_path: Path) -> None:
    choose(sheet, 1, "speed", "mph")
    turned, offset = sheet.table.cellWidget(1, TURNED), sheet.table.cellWidget(1, OFFSET)
    assert isinstance(turned, QCheckBox)
    assert isinstance(offset, QLineEdit)
    turned.setChecked(True)
    offset.setText("2.5")
    sheet.save(tmp_path / "map.json")
    handed = sheet.map()
    assert from_json((tmp_path / "map.json").read_text(encoding="utf-8")) == handed
    choose(sheet, 1, "gear")
    turned.setChecked(False)
    sheet.take_over(tmp_path / "map.json")
    assert sheet.map() == handed
    (tmp_path / "map.json").write_text("{}", encoding="utf-8")
    sheet.take_over(tmp_path / "map.json")
    assert "no map of columns" in sheet.findChildren(QMessageBox)[0].text()
    sheet.close()


def test_new_logs_of_a_watched_folder_come_in_when_they_are_whole(
    empty: Application, tmp_path: Path, qtbot: QtBot
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    empty.window.files.watch_folder(folder)
    assert settings.watched() == folder
    data = INES.read_bytes()
    with (folder / "run.parquet").open("wb") as file:
        file.write(data[:1000])
        file.flush()
        qtbot.wait(300)
        file.write(data[1000:])
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 1, timeout=20000)
    assert empty.window.findChildren(QMessageBox) == []
    empty.window.files.watch_folder(None)
    assert settings.watched() is None


def test_a_folder_that_is_not_there_can_not_be_watched(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="not there"):
        Watch().start(tmp_path / "nowhere")


def test_a_folder_is_opened_with_those_in_it(empty: Application, tmp_path: Path, qtbot: QtBot) -> None:
    for name in ("ines-karlsby-run-1", "noor-veldane-motorcycle"):
        (tmp_path / "card" / name).mkdir(parents=True)
        shutil.copy(INES.with_name(f"{name}.parquet"), tmp_path / "card" / name)
    empty.imports.open_files([tmp_path / "card"])
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 2 and empty.tasks.idle, timeout=30000)


def test_a_known_log_is_told_quietly(empty: Application, tmp_path: Path, qtbot: QtBot) -> None:
    for path in (INES, Path(shutil.copy(INES, tmp_path / "again.parquet"))):
        with qtbot.waitSignal(empty.imports.ended, timeout=30000):
            empty.imports.open_files([path])
    assert empty.window.told.text() == "again.parquet is on the shelf already."
    assert len(empty.store.session.runs) == 1


def test_names_that_were_typed_before_are_offered(empty: Application, qtbot: QtBot) -> None:
    empty.imports.open_files([INES], {"driver": "Ines Karlsby", "circuit": "Kestrel Sands"})
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 1, timeout=20000)
    field = empty.window.laps.side.sheet.open_field("driver")
    assert isinstance(field, QLineEdit)
    completer = field.completer()
    assert completer is not None
    model = completer.model()
    assert model is not None
    assert [model.index(r, 0).data() for r in range(model.rowCount())] == ["Ines Karlsby"]


@pytest.mark.long
def test_the_shelf_is_ordered_by_circuit_and_the_newest_day_first(empty: Application, qtbot: QtBot) -> None:
    given = [("Saltmarsh", "2026-03-01"), ("Kestrel Sands", "2026-01-05"), ("Kestrel Sands", "2026-05-02")]
    names = ("ines-karlsby-run-1", "tomasz-oryel-run-1", "noor-veldane-motorcycle")
    for name, (circuit, date) in zip(names, given, strict=True):
        empty.imports.open_files([INES.with_name(f"{name}.parquet")], {"circuit": circuit, "date": date})
    qtbot.waitUntil(lambda: len(empty.store.session.runs) == 3, timeout=30000)
    tree = empty.window.laps.list.runs
    circuits = [tree.index(r, 0) for r in range(tree.rowCount())]
    assert [c.data() for c in circuits] == ["Kestrel Sands", "Saltmarsh"]
    assert [tree.index(r, 0, circuits[0]).data() for r in range(2)] == ["2026-05-02", "2026-01-05"]
