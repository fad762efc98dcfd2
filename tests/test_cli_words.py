"""What the command line says where something is amiss: of whom, what, and how to go on."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from jete.cli import main
from jete.formats.reader import read_log
from known_laps import DEMO, DEMO_PAIR

INES, TOMASZ = map(str, DEMO_PAIR)


def refused(capsys: pytest.CaptureFixture[str], *words: str) -> str:
    assert main(list(words)) == 2
    return capsys.readouterr().err


@pytest.fixture(scope="module")
def both_ways(tmp_path_factory: pytest.TempPathFactory) -> tuple[str, str]:
    """A log's places as they were driven, and the other way round."""
    folder, log = tmp_path_factory.mktemp("ways"), read_log(DEMO_PAIR[1])
    clock = np.arange(0.0, log.channels["latitude"].time_s[-1], 0.2)
    places = np.column_stack([log.channels[n].at(clock) for n in ("latitude", "longitude")])
    for name, rows in (("there.csv", places), ("back.csv", places[::-1])):
        table = np.column_stack([clock, rows])
        np.savetxt(folder / name, table, fmt="%.7f", delimiter=",", header="time,latitude,longitude", comments="")
    return str(folder / "there.csv"), str(folder / "back.csv")


@pytest.mark.parametrize("address", ["", ":4"])
def test_a_log_driven_the_other_way_round_is_told_as_that(
    both_ways: tuple[str, str], capsys: pytest.CaptureFixture[str], address: str
) -> None:
    told = refused(capsys, "compare", both_ways[0], both_ways[1] + address)
    assert "back.csv: " in told
    assert "driven in the other direction (laps 1, 2, " in told


def test_laps_of_another_circuit_are_told_once(capsys: pytest.CaptureFixture[str]) -> None:
    told = refused(capsys, "compare", INES, str(DEMO / "tomasz-oryel-marrow-fen.parquet"))
    assert "circuit, layout or direction" in told
    assert "out lap" not in told


def test_an_out_lap_as_the_reference_is_told_of_the_reference(capsys: pytest.CaptureFixture[str]) -> None:
    told = refused(capsys, "compare", f"{INES}:0", f"{TOMASZ}:2")
    assert told.startswith("jete: ines-karlsby-run-1.parquet, lap 0: it is no complete lap")
    assert "tomasz" not in told


def test_the_table_says_at_which_line_all_laps_are_timed(capsys: pytest.CaptureFixture[str]) -> None:
    main(["compare", INES, f"{TOMASZ}:2"])
    assert "All laps are timed at the start line of ines-karlsby-run-1.parquet" in capsys.readouterr().out


def test_the_bag_s_lines_are_printed_without_a_file(capsys: pytest.CaptureFixture[str]) -> None:
    main(["guide", INES, "--bag"])
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 14
    assert lines[1].startswith("1: brake at 415 m")


def test_help_says_that_the_window_opens_without_a_command(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        main(["--help"])
    told = " ".join(capsys.readouterr().out.split())
    assert "Without a command the window opens." in told


@pytest.fixture
def shelf(tmp_path: Path) -> list[str]:
    """Options of a shelf with one run at Kestrel Sands."""
    options = ["--library", str(tmp_path / "shelf")]
    assert main(["import", INES, "--run", "circuit=Kestrel Sands", *options]) == 0
    return options


def test_a_circuit_is_known_without_its_capitals(shelf: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["circuit", "kestrel sands", *shelf]) == 0
    assert "Kestrel Sands" in capsys.readouterr().out


def test_what_is_handed_on_is_a_zip_and_writes_over_nothing(
    shelf: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "lap.zip"
    assert "ends in .zip" in refused(capsys, "hand-on", "library:1", "--out", str(tmp_path / "lap.txt"), *shelf)
    out.write_text("mine", encoding="utf-8")
    assert "--force" in refused(capsys, "hand-on", "library:1", "--out", str(out), *shelf)
    assert out.read_text(encoding="utf-8") == "mine"
    assert main(["hand-on", "library:1", "--out", str(out), "--force", *shelf]) == 0
    assert out.read_bytes().startswith(b"PK")
