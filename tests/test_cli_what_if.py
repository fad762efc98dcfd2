"""``jete what-if`` on the demo: what is asked, what stays, and what can't be asked."""

from __future__ import annotations

import json

import pytest

from jete.cli import main
from known_laps import DEMO

LAP = f"{DEMO / 'ines-karlsby-run-3.parquet'}:6"


def asked(capsys: pytest.CaptureFixture[str], *words: str) -> dict:
    assert main(["what-if", LAP, *words, "--json", "-"]) == 0
    return json.loads(capsys.readouterr().out)


def test_a_change_has_its_seconds_its_interval_and_what_stays(capsys: pytest.CaptureFixture[str]) -> None:
    document = asked(capsys, "--corner", "6", "--set", "brake_on_m=+3", "--keep", "braking")
    assert (document["schema"], document["level"]) == ("jete.what-if/1", 0.9)
    (change,) = document["changes"]
    assert (change["corner"], change["keeps"], change["offered"], change["why"]) == (6, ["braking"], True, None)
    (one,) = change["sets"]
    assert one["to"] - one["from"] == pytest.approx(3.0)
    assert change["gap_low_s"] < change["gap_s"] < change["gap_high_s"] < 0.0
    assert document["together"]["gap_s"] == pytest.approx(change["gap_s"], abs=1e-6)
    assert len(document["cautions"]) == 3


def test_changes_belong_to_the_corner_before_them(capsys: pytest.CaptureFixture[str]) -> None:
    words = ["--corner", "8", "--set", "throttle_on_m=-3", "--corner", "6", "--set", "brake_on_m=0", "--set", "feed=0"]
    eight, six = asked(capsys, *words)["changes"]
    assert [s["what"] for s in eight["sets"]] == ["throttle_on_m"]
    assert [s["what"] for s in six["sets"]] == ["brake_on_m", "feed"]
    assert abs(six["gap_s"]) <= 1e-4


def test_what_is_not_offered_has_no_seconds_and_says_why(capsys: pytest.CaptureFixture[str]) -> None:
    document = asked(capsys, "--corner", "6", "--set", "brake_on_m=+30")
    (change,) = document["changes"]
    assert (change["offered"], change["gap_s"], document["together"]["gap_s"]) == (False, None, None)
    assert change["why"]


def test_the_vehicle_is_learnt_from_the_lap_s_own_log_or_from_the_runs_that_are_named(
    capsys: pytest.CaptureFixture[str],
) -> None:
    change = ["--corner", "6", "--set", "brake_on_m=+1"]
    assert asked(capsys, *change)["vehicle"]["laps"] == 8
    named = asked(capsys, *change, "--run", f"{DEMO / 'ines-karlsby-run-2.parquet'}:3")["vehicle"]
    assert (named["laps"], named["offered"]) == (1, True)
    speeds = [g["speed_kmh"] for g in named["grip"]]
    assert speeds == list(range(speeds[0], speeds[-1] + 1, 20))


def test_people_read_one_line_a_change_and_the_cautions(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["what-if", LAP, "--corner", "6", "--set", "brake_on_m=+3", "--keep", "braking"]) == 0
    told = capsys.readouterr().out
    assert "corner 6: brake 3 m later, the whole slowing, as hard as before: −0." in told
    assert "Closed circuits only" in told


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ([], "nothing is set"),
        (["--corner", "6"], "nothing is set"),
        (["--set", "feed=1"], "no corner is named"),
        (["--corner", "99", "--set", "feed=1"], "no such corner"),
        (["--corner", "6", "--set", "brake=1"], "no change"),
        (["--corner", "6", "--set", "feed=1", "--keep", "braking"], "can't stay"),
    ],
)
def test_what_can_t_be_asked_is_told_in_a_line(capsys: pytest.CaptureFixture[str], words: list[str], told: str) -> None:
    assert main(["what-if", LAP, *words]) == 2
    error = capsys.readouterr().err
    assert told in error
    assert error.count("\n") == 1
