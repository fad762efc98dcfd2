"""The library from the command line."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import pytest

from jete.cli import main
from jete.formats.reader import read_columns

DEMO = Path("src/jete/app/assets/demo")
INES, TOMASZ = str(DEMO / "ines-karlsby-run-1.parquet"), str(DEMO / "tomasz-oryel-run-1.parquet")

Captured = pytest.CaptureFixture[str]


def document(capsys: Captured, *arguments: str) -> dict:
    capsys.readouterr()
    assert main([*arguments, "--json", "-"]) == 0
    return json.loads(capsys.readouterr().out)


@pytest.fixture
def shelf(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("JETE_LIBRARY", str(tmp_path / "shelf"))
    assert main(["import", INES, TOMASZ, "--run", "circuit=Kestrel Sands", "--run", "condition=dry"]) == 0
    return tmp_path


def test_runs_are_listed_with_their_laps_and_sheets(shelf: Path, capsys: Captured) -> None:
    runs = document(capsys, "list")["runs"]
    assert [r["run"] for r in runs] == [1, 2]
    assert runs[0]["sheet"]["circuit"] == "Kestrel Sands"
    assert sum(lap["complete"] for lap in runs[0]["laps"]) == 8


def test_a_list_can_be_searched(shelf: Path, capsys: Captured) -> None:
    assert len(document(capsys, "list", "SANDS", "tomasz")["runs"]) == 1
    assert document(capsys, "list", "nobody")["runs"] == []


def test_laps_of_the_library_compare_like_those_of_their_files(shelf: Path, capsys: Captured) -> None:
    kept = document(capsys, "compare", "library:1:3", "library:2:2")["laps"][0]
    files = document(capsys, "compare", f"{INES}:3", f"{TOMASZ}:2")["laps"][0]
    assert kept["gap_s"] == pytest.approx(files["gap_s"], abs=0.01)
    assert document(capsys, "compare", "library:1", "library:2")["laps"][0]["gap_s"] == kept["gap_s"]


def test_all_laps_of_a_run_are_compared(shelf: Path, capsys: Captured) -> None:
    found = document(capsys, "compare", "library:1", "library:1", "--all")
    assert len(found["laps"]) == 7
    assert "run" in found


@pytest.mark.parametrize("ending", ["csv", "parquet", "mf4", "jsonl", "arrow"])
def test_a_lap_is_exported_and_read_again(shelf: Path, capsys: Captured, ending: str) -> None:
    out = str(shelf / f"lap.{ending}")
    assert main(["export", "library:1:3", out]) == 0
    (lap,) = document(capsys, "laps", out)["laps"]
    (true,) = [x for x in document(capsys, "list")["runs"][0]["laps"] if x["lap"] == 3]
    assert lap["complete"]
    assert lap["time_s"] == pytest.approx(true["time_s"], abs=0.03)


def test_a_comparison_is_exported_on_the_references_axis(shelf: Path) -> None:
    out = shelf / "pair.csv"
    assert main(["export", "library:2:2", str(out), "--against", "library:1:3"]) == 0
    columns = read_columns(out)
    held = dict(zip(columns.names, columns.values, strict=True))
    gap = held["time lap 2"] - held["time reference"]  # type: ignore[operator]
    assert held["gap lap 2"] == pytest.approx(gap, abs=0.02)


def test_importing_again_knows_the_content_and_notes_what_is_given(shelf: Path, capsys: Captured) -> None:
    (again,) = document(capsys, "import", INES, "--run", "driver=Ines Karlsby")["imported"]
    assert (again["run"], again["known"]) == (1, True)
    assert again["sheet"]["driver"] == "Ines Karlsby"


def test_a_folder_is_imported_and_what_can_not_be_used_is_told(shelf: Path, capsys: Captured) -> None:
    folder = shelf / "card"
    folder.mkdir()
    shutil.copy(DEMO / "noor-veldane-motorcycle.parquet", folder)
    (folder / "picture.png").write_bytes(b"\x89PNG....")
    assert main(["import", str(folder)]) == 2
    said = capsys.readouterr()
    assert "run 3, 8 complete laps" in said.out
    assert "picture.png" in said.err


def test_backup_check_and_restore(shelf: Path, capsys: Captured) -> None:
    out = str(shelf / "all.zip")
    assert document(capsys, "backup", out)["recordings"] == 2
    assert document(capsys, "check")["findings"] == []
    shutil.rmtree(shelf / "shelf" / "channels")
    capsys.readouterr()
    assert main(["check"]) == 1
    assert "channel data is gone" in capsys.readouterr().out
    assert document(capsys, "restore", out)["recordings"] == 2
    assert document(capsys, "compare", "library:1:3", "library:2:2")["laps"]


@pytest.mark.parametrize(
    ("arguments", "what"),
    [
        (["compare", "library:1:3", "library:9"], "there is no such run"),
        (["compare", "library:1:77", "library:2"], "there is no lap 77"),
        (["compare", "library:x", "library:2"], "names no lap of the library"),
        (["import", "nowhere.csv"], "there is no such file"),
        (["import", INES, "--run", "drivr=x"], "there is no such field"),
        (["import", INES, "--run", "driver"], "names no field"),
        (["import", INES, "--run", "condition=snow"], "'snow' is not known"),
        (["restore", "nowhere.zip"], "there is no such file"),
        (["list", "--library", "/dev/null/x"], "no library yet"),
        (["list", "--library", "postgresql://somewhere/x"], "needs a shared folder"),
        (["export", "library:1:3", "lap.doc"], "can't be written as"),
    ],
)
def test_what_can_not_be_done_is_said_in_one_line(
    shelf: Path, capsys: Captured, arguments: list[str], what: str
) -> None:
    capsys.readouterr()
    assert main(arguments) == 2
    said = capsys.readouterr().err
    assert what in said
    assert said.count("\n") == 1
