"""The command line of the contract: output, exit status, messages."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import pytest

from jete.cli import main
from jete.simulate.trials import Trial
from known_laps import DEMO_PAIR, csv_text, drawn, rows_of

if TYPE_CHECKING:
    from collections.abc import Callable

Pair = tuple[Path, Path]
MARKS = {
    "brake_on_m", "brake_peak", "brake_unit", "brake_off_m", "lift_m", "turn_in_m", "slow_point_m", "min_speed_kmh",
    "throttle_on_m", "full_throttle_m", "exit_speed_kmh", "coast_s", "throttle_dips", "gear",
    "brake_build_s", "release", "trail_m", "brake_applications", "overlap_s", "left_over_brake_s", "downshift_m",
    "countersteer_s",
}  # fmt: skip


def document(capsys: pytest.CaptureFixture[str], *arguments: object) -> dict[str, Any]:
    assert main([str(a) for a in arguments]) == 0
    out = capsys.readouterr()
    assert out.err == ""
    parsed: dict[str, Any] = json.loads(out.out)
    return parsed


@pytest.fixture(scope="module")
def compared(pair_files: Pair, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    out = tmp_path_factory.mktemp("json") / "out.json"
    assert main(["compare", str(pair_files[0]), str(pair_files[1]), "--json", str(out)]) == 0
    parsed: dict[str, Any] = json.loads(out.read_text(encoding="utf-8"))
    return parsed


def test_laps_as_json(capsys: pytest.CaptureFixture[str], pair_files: Pair, trial: Trial) -> None:
    found = document(capsys, "laps", pair_files[0], "--json", "-")
    assert found["schema"] == "jete.laps/1"
    assert found["source"] == "reference.csv"
    assert {"time", "speed", "x"} <= set(found["channels"])
    assert found["laps"][0] == {**found["laps"][0], "complete": True, "why": None}
    assert found["laps"][0]["time_s"] == pytest.approx(trial.reference_trace.lap_time_s(1), abs=0.002)


def test_the_comparison_has_its_schema_and_laps(compared: dict[str, Any]) -> None:
    assert compared["schema"] == "jete.comparison/1"
    lap = compared["laps"][0]
    assert lap["gap_s"] == pytest.approx(lap["time_s"] - compared["reference"]["time_s"], abs=1e-5)
    assert lap["alignment"]["method"] == "position"


def test_the_printed_sums_hold(compared: dict[str, Any]) -> None:
    lap = compared["laps"][0]
    assert sum(c["gap_s"] for c in lap["corners"]) == pytest.approx(lap["gap_s"], abs=1e-3)
    assert sum(s["gap_s"] for s in lap["sectors"]) == pytest.approx(lap["gap_s"], abs=1e-3)
    for c in lap["corners"]:
        assert sum(f["loss_s"] for f in c["findings"]) + c["unexplained_s"] == pytest.approx(c["gap_s"], abs=1e-3)
        assert sum(p["gap_s"] for p in c["phases"]) == pytest.approx(c["gap_s"], abs=1e-3)


def test_the_running_gap_is_dense_and_ends_with_the_gap(compared: dict[str, Any]) -> None:
    trace = compared["laps"][0]["gap_trace"]
    assert trace["distance_m"][0] == 0.0
    assert trace["distance_m"][-1] == pytest.approx(compared["reference"]["length_m"], abs=0.01)
    assert max(np.diff(trace["distance_m"])) <= 5.0 + 1e-6
    assert trace["gap_s"][0] == 0.0
    assert trace["gap_s"][-1] == pytest.approx(compared["laps"][0]["gap_s"], abs=1e-5)


def test_corners_tile_the_lap_and_carry_all_marks(compared: dict[str, Any]) -> None:
    corners = compared["laps"][0]["corners"]
    assert [c["corner"] for c in corners] == list(range(1, len(corners) + 1))
    assert corners[0]["window_start_m"] == 0.0
    for c in corners:
        assert set(c["reference_marks"]) == MARKS
        assert c["direction"] in ("left", "right")
        assert c["start_m"] <= c["apex_m"] <= c["end_m"]


def test_findings_carry_all_their_fields(compared: dict[str, Any]) -> None:
    findings = [f for c in compared["laps"][0]["corners"] for f in c["findings"]]
    assert findings
    for f in findings:
        assert set(f) == {"kind", "loss_s", "at_m", "measure", "unit", "text", "confidence", "phases", "reason"}


def test_without_json_a_ledger_and_a_caution_are_printed(capsys: pytest.CaptureFixture[str], pair_files: Pair) -> None:
    assert main(["compare", *map(str, pair_files)]) == 0
    out = capsys.readouterr().out
    assert "unexplained" in out
    assert "closed circuits only" in out.casefold()
    assert "\N{MINUS SIGN}" in out


def test_a_lap_can_be_named(capsys: pytest.CaptureFixture[str], pair_files: Pair) -> None:
    found = document(capsys, "compare", f"{pair_files[0]}:1", f"{pair_files[1]}:1", f"{pair_files[0]}", "--json", "-")
    assert [lap["lap"] for lap in found["laps"]] == [1, 1]
    assert found["laps"][1]["gap_s"] == 0.0


def test_a_line_can_be_given_with_a_minus(
    capsys: pytest.CaptureFixture[str], pair_files: Pair, trial: Trial, write: Callable[..., Path]
) -> None:
    heads, table = rows_of(trial.reference, ("time", "speed", "x", "y"))
    path = write(csv_text(heads, table))
    c = trial.circuit
    heading = 90.0 - np.degrees(c.heading_rad[0])
    line = f"{c.x_m[0] - 0.5:.2f},{c.y_m[0]:.2f},{heading:.1f}"
    found = document(capsys, "laps", path, "--line", line, "--json", "-")
    assert any(lap["complete"] for lap in found["laps"])


def test_version(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as stop:
        main(["--version"])
    assert stop.value.code == 0
    assert capsys.readouterr().out.startswith("jete ")


def refused(capsys: pytest.CaptureFixture[str], *arguments: object) -> str:
    try:
        status = main([str(a) for a in arguments])
    except SystemExit as stop:
        status = int(stop.code or 0)
    out = capsys.readouterr()
    assert status == 2
    assert out.out == ""
    assert out.err.count("\n") == 1
    assert "Traceback" not in out.err
    return out.err


@pytest.mark.parametrize("arguments", [("nonsense",), ("compare",), ("laps", "a", "b"), ("laps",)])
def test_usage_errors_are_one_line(capsys: pytest.CaptureFixture[str], arguments: tuple[str, ...]) -> None:
    assert "jete" in refused(capsys, *arguments)


def test_a_number_that_is_not_there(capsys: pytest.CaptureFixture[str], pair_files: Pair) -> None:
    assert "there is no lap 9" in refused(capsys, "compare", pair_files[0], f"{pair_files[1]}:9")


def test_a_directory_and_a_missing_file(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert "directory" in refused(capsys, "laps", tmp_path)
    assert "no such file" in refused(capsys, "laps", tmp_path / "none.csv")


def test_an_output_that_can_not_be_written(
    capsys: pytest.CaptureFixture[str], pair_files: Pair, tmp_path: Path
) -> None:
    assert "can't be written" in refused(capsys, "laps", pair_files[0], "--json", tmp_path / "no" / "out.json")


def test_a_line_that_is_no_line(capsys: pytest.CaptureFixture[str], pair_files: Pair) -> None:
    assert "three numbers" in refused(capsys, "laps", pair_files[0], "--line", "here")


def test_laps_of_different_circuits(
    capsys: pytest.CaptureFixture[str], pair_files: Pair, write: Callable[..., Path]
) -> None:
    other = write(csv_text(*rows_of(drawn(8, faults=0).lap)), "other.csv")
    assert "does not belong" in refused(capsys, "compare", pair_files[0], other)


def test_a_log_without_a_full_lap(
    capsys: pytest.CaptureFixture[str], pair_files: Pair, trial: Trial, write: Callable[..., Path]
) -> None:
    heads, table = rows_of(trial.lap, ("time", "speed", "x", "y"))
    half = write(csv_text(heads, table[: len(table) // 2]), "half.csv")
    assert "no complete lap" in refused(capsys, "compare", pair_files[0], half)


def test_the_module_runs_as_a_process(pair_files: Pair) -> None:
    command = [sys.executable, "-m", "jete", "compare", str(pair_files[0]), str(pair_files[1]), "--json", "-"]
    result = subprocess.run(
        command, capture_output=True, text=True, check=True, env={"PYTHONPATH": "src", "HOME": "/tmp"}
    )
    assert json.loads(result.stdout)["schema"] == "jete.comparison/1"
    assert result.stderr == ""


@pytest.fixture(scope="module")
def whole_run(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    out = tmp_path_factory.mktemp("run") / "run.json"
    files = [str(path) for path in DEMO_PAIR]
    assert main(["compare", *files, "--all", "--json", str(out)]) == 0
    parsed: dict[str, Any] = json.loads(out.read_text(encoding="utf-8"))
    return parsed


def test_all_compares_every_complete_lap(whole_run: dict[str, Any]) -> None:
    assert [lap["lap"] for lap in whole_run["laps"]] == list(range(1, 9))


def test_the_run_says_how_often_each_cause_occurs(whole_run: dict[str, Any]) -> None:
    run = whole_run["run"]
    assert run["counted"] == sum(lap["counted"] for lap in run["laps"])
    for corner in run["corners"]:
        assert all(1 <= c["laps"] <= run["counted"] for c in corner["causes"])
        mean = sum(c["mean_s"] for c in corner["causes"]) + corner["unexplained_mean_s"]
        assert mean == pytest.approx(corner["gap_mean_s"], abs=1e-3)


def test_the_best_passes_of_the_run_beat_its_best_lap(whole_run: dict[str, Any]) -> None:
    run, times = whole_run["run"], {lap["lap"]: lap["time_s"] for lap in whole_run["laps"]}
    assert run["best_sum_s"] <= times[run["best_lap"]["lap"]] == min(times.values())


def test_the_run_is_told_in_words(capsys: pytest.CaptureFixture[str]) -> None:
    path = str(DEMO_PAIR[0])
    assert main(["compare", path, path, "--all"]) == 0
    out = capsys.readouterr().out
    assert "the run: 7 of 7 laps count" in out
    assert "best passes together" in out


def test_one_lap_alone_is_no_run(compared: dict[str, Any]) -> None:
    assert "run" not in compared


def test_findings_and_laps_say_how_sure_they_are(compared: dict[str, Any]) -> None:
    lap = compared["laps"][0]
    assert lap["gap_sigma_s"] >= 0.0
    assert all(0.0 <= f["confidence"] <= 1.0 for c in lap["corners"] for f in c["findings"])


def test_all_of_a_log_with_nothing_but_the_reference_is_refused(
    capsys: pytest.CaptureFixture[str], pair_files: Pair
) -> None:
    assert main(["compare", str(pair_files[0]), str(pair_files[0]), "--all"]) == 2
    assert "no complete lap besides the reference" in capsys.readouterr().err
