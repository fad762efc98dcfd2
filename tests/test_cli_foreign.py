"""The command line on logs of another making: feet that press pedals, positions filled in or drifting."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import numpy as np
import pytest

from jete.cli import main
from jete.formats.reader import read_log
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver
from known_laps import DEMO, csv_text, rows_of, with_feet

if TYPE_CHECKING:
    from pathlib import Path

PHASES = ["approach", "braking", "turning", "exit", "straight"]


def files(folder: Path, receiver: Receiver, seed: int = 603) -> list[str]:
    trial = with_feet(seed, "trades").logged(LoggerSettings(rate_hz=50.0, receiver=receiver))
    out = []
    for log in (trial.reference, trial.lap):
        path = folder / log.source
        path.write_text(csv_text(*rows_of(log)), encoding="utf-8")
        out.append(str(path))
    return out


@pytest.fixture(scope="module")
def lap(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    folder = tmp_path_factory.mktemp("foreign")
    out = folder / "out.json"
    assert main(["compare", *files(folder, Receiver(filled="linear")), "--json", str(out)]) == 0
    found: dict[str, Any] = json.loads(out.read_text(encoding="utf-8"))["laps"][0]
    return found


def test_what_the_positions_are_worth_is_told(lap: dict[str, Any]) -> None:
    position = lap["alignment"]["position"]
    assert position["filled"] == "linear"
    assert position["fix_hz"] == pytest.approx(10.0, abs=0.3)
    assert position["white_m"] == pytest.approx(1.0, abs=0.2)
    assert set(position) == {"fix_hz", "filled", "filter_s", "lag_s", "white_m", "drift_m", "drift_s", "map_step_m"}


def test_seconds_by_phase_add_up_to_the_finding_and_to_the_rest(lap: dict[str, Any]) -> None:
    for c in lap["corners"]:
        for f in c["findings"]:
            assert sum(p["loss_s"] for p in f["phases"]) == pytest.approx(f["loss_s"], abs=1e-4)
            assert [p["phase"] for p in f["phases"]] == [n for n in PHASES if n in {p["phase"] for p in f["phases"]}]
        assert sum(p["loss_s"] for p in c["unexplained_phases"]) == pytest.approx(c["unexplained_s"], abs=1e-4)


def test_a_trade_restates_two_findings(lap: dict[str, Any]) -> None:
    traded = [c for c in lap["corners"] if c["trades"]]
    assert traded
    for c in traded:
        (trade,) = c["trades"]
        losses = {f["kind"]: f["loss_s"] for f in c["findings"]}
        assert (losses[trade["lost"]], losses[trade["gained"]]) == (trade["lost_s"], trade["gained_s"])
        assert trade["balance_s"] == pytest.approx(trade["lost_s"] + trade["gained_s"], abs=1e-5)
        assert "Balance" in trade["text"]


def test_the_table_says_trades_and_positions(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    drifting = Receiver(white_m=0.1, drift_m=0.8)
    assert main(["compare", *files(tmp_path, drifting)]) == 0
    printed = capsys.readouterr().out
    assert "positions each off by" in printed
    assert "; 10 times a second" in printed
    assert "drift about" in printed
    assert "Balance" in printed


def test_without_positions_nothing_is_said_of_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    names = tuple(c for c in LoggerSettings().channels if c not in "xy")
    trial = with_feet(603, "equal").logged(LoggerSettings(rate_hz=25.0, channels=names))
    paths = []
    for log in (trial.reference, trial.lap):
        paths.append(tmp_path / log.source)
        paths[-1].write_text(csv_text(*rows_of(log)), encoding="utf-8")
    assert main(["compare", *map(str, paths), "--json", "-"]) == 0
    assert json.loads(capsys.readouterr().out)["laps"][0]["alignment"]["position"] is None


def test_one_sample_a_second_tells_what_a_corner_cost_and_says_that_causes_can_not(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    pocket = LoggerSettings(
        rate_hz=1.0, channels=("lap", "speed", "x", "y"), receiver=Receiver(fix_hz=1.0, white_m=0.3)
    )
    trial = with_feet(603, "trades").logged(pocket)
    paths = []
    for log in (trial.reference, trial.lap):
        paths.append(tmp_path / log.source)
        paths[-1].write_text(csv_text(*rows_of(log)), encoding="utf-8")
    assert main(["compare", *map(str, paths)]) == 0
    assert "its causes can't" in capsys.readouterr().out
    assert main(["compare", *map(str, paths), "--json", "-"]) == 0
    corners = json.loads(capsys.readouterr().out)["laps"][0]["corners"]
    assert all(c["findings"] == [] and c["unexplained_s"] == c["gap_s"] for c in corners)


def test_a_phone_s_log_as_the_reference_serves_laps_that_tell_their_own_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """A phone is switched on anywhere: that is no line, where the other log tells one."""
    log = read_log(DEMO / "noor-veldane-motorcycle.parquet")
    clock = np.arange(0.0, log.channels["latitude"].time_s[-1], 1.0)
    rows = np.column_stack([clock, *(log.channels[n].at(clock) for n in ("latitude", "longitude"))])
    path = tmp_path / "phone.csv"
    np.savetxt(path, rows, fmt="%.7f", delimiter=",", header="time,latitude,longitude", comments="")
    assert main(["compare", str(path), str(DEMO / "noor-veldane-motorcycle.parquet:3")]) == 0
    assert "2:00.071" in capsys.readouterr().out
