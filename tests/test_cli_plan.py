"""``jete plan`` and ``jete review`` on the demo: what to try, and what came of it."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import pytest

from jete.cli import main
from known_laps import DEMO, DEMO_PAIR

if TYPE_CHECKING:
    from pathlib import Path

INES, TOMASZ = map(str, DEMO_PAIR)
LATER = str(DEMO / "tomasz-oryel-run-2.parquet")


@pytest.fixture(scope="module")
def plan(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("plan") / "plan.json"
    assert main(["plan", INES, TOMASZ, "--json", str(path)]) == 0
    return path


@pytest.fixture(scope="module")
def document(plan: Path) -> dict[str, Any]:
    return json.loads(plan.read_text(encoding="utf-8"))


def reviewed(capsys: pytest.CaptureFixture[str], *words: str) -> dict[str, Any]:
    assert main(["review", *words, "--json", "-"]) == 0
    return json.loads(capsys.readouterr().out)


@pytest.fixture(scope="module")
def later(plan: Path) -> dict[str, Any]:
    """What came of the plan in the next run."""
    path = plan.with_name("review.json")
    assert main(["review", str(plan), LATER, "--json", str(path)]) == 0
    return json.loads(path.read_text(encoding="utf-8"))


def test_a_plan_has_at_most_three_aims_each_at_a_corner_of_its_own(document: dict[str, Any]) -> None:
    assert (document["schema"], document["state"]) == ("jete.plan/1", "proposed")
    aims = document["aims"]
    assert [a["aim"] for a in aims] == [1, 2, 3]
    assert len({a["corner"] for a in aims}) == 3
    assert len(document["cautions"]) == 3
    assert all(p["why"] for p in document["passed_over"])


def test_each_aim_is_a_small_step_with_a_cue_and_seconds_that_are_no_promise(document: dict[str, Any]) -> None:
    for aim in document["aims"]:
        assert aim["target"] - aim["from"] == pytest.approx(aim["step"], abs=0.002)
        assert abs(aim["step"]) <= {"m": 5.0, "km/h": 2.0}.get(aim["unit"], 1.0) + 1e-9
        assert aim["tolerance"] >= aim["from_sigma"] - 1e-9
        assert aim["cue"]
        assert (aim["gap_s"] is None) is (aim["why"] is not None)
        if aim["gap_s"] is not None:
            assert aim["gap_low_s"] < aim["gap_s"] < 0.0


def test_fewer_aims_where_fewer_are_wanted(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["plan", INES, TOMASZ, "--most", "1", "--json", "-"]) == 0
    document = json.loads(capsys.readouterr().out)
    assert len(document["aims"]) == 1
    assert "others come first" in {p["why"] for p in document["passed_over"]}


def test_the_next_run_is_judged_lap_by_lap(later: dict[str, Any]) -> None:
    found = later
    assert found["schema"] == "jete.review/1"
    assert [len(r["laps"]) for part in ("chosen_on", "after") for r in found[part]] == [8, 8]
    assert found["same_driver"] is None
    for aim in found["aims"]:
        assert aim["of"] == len(aim["laps"])
        assert aim["done"] == sum(lap["state"] == "done" for lap in aim["laps"])
        assert aim["moved_low"] < aim["moved"] < aim["moved_high"]
        assert (aim["gained"], aim["runs_before"], aim["runs_after"]) == (None, 1, 1)


def test_the_run_that_was_planned_on_has_done_nothing_of_it(plan: Path, capsys: pytest.CaptureFixture[str]) -> None:
    outcomes = {a["outcome"] for a in reviewed(capsys, str(plan), TOMASZ)["aims"]}
    assert outcomes == {"not_done"}


def test_who_drives_like_the_reference_has_done_or_overdone_it(plan: Path, capsys: pytest.CaptureFixture[str]) -> None:
    outcomes = [a["outcome"] for a in reviewed(capsys, str(plan), str(DEMO / "ines-karlsby-run-2.parquet"))["aims"]]
    assert not {"not_done", "short", "not_told"} & set(outcomes)


def test_a_plan_written_by_hand_will_do(
    later: dict[str, Any], document: dict[str, Any], capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    aim = document["aims"][0]
    short = {
        "schema": "jete.plan/1",
        "reference": document["reference"],
        "chosen_on": document["chosen_on"],
        "aims": [{n: aim[n] for n in ("corner", "measure", "from", "target")}],
    }
    path = tmp_path / "by-hand.json"
    path.write_text(json.dumps(short), encoding="utf-8")
    by_hand = reviewed(capsys, str(path), LATER)
    assert by_hand["aims"][0]["moved"] == later["aims"][0]["moved"]


def test_people_read_what_to_try_and_what_came_of_it(plan: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["plan", INES, TOMASZ]) == 0
    told = capsys.readouterr().out
    assert "1  corner " in told
    assert "Closed circuits only" in told
    assert main(["review", str(plan), LATER]) == 0
    told = capsys.readouterr().out
    assert "Not done: as asked on 0 of 8 laps. Try it again." in told


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"schema": "jete.guide/1"}, "no plan of the form"),
        ({"aims": None}, "'aims' is missing"),
        ({"aims": [{"corner": 1, "measure": "courage", "from": 1, "target": 2}]}, "needs corner, measure"),
        ({"aims": [{"corner": 99, "measure": "brake_on_m", "from": 1, "target": 2}]}, "has none such"),
        ({"reference": {}}, "no 'source'"),
    ],
)
def test_what_is_no_plan_is_told(
    document: dict[str, Any], tmp_path: Path, capsys: pytest.CaptureFixture[str], change: dict[str, Any], told: str
) -> None:
    path = tmp_path / "odd.json"
    path.write_text(json.dumps({**document, **change}), encoding="utf-8")
    assert main(["review", str(path), LATER]) == 2
    assert told in capsys.readouterr().err


def test_a_plan_that_is_not_there_is_told(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["review", "nowhere.json", LATER]) == 2
    assert "it can't be read" in capsys.readouterr().err


@pytest.mark.long
def test_runs_of_the_library_are_told_apart_and_who_drove_is_known(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    shelf, path = str(tmp_path / "shelf"), str(tmp_path / "plan.json")
    for log, driver in ((INES, "Ines"), (TOMASZ, "Tomasz"), (LATER, "Tomasz")):
        assert main(["import", log, "--run", f"driver={driver}", "--library", shelf]) == 0
    assert main(["plan", "library:1", "library:2", "--library", shelf, "--json", path]) == 0
    capsys.readouterr()
    found = reviewed(capsys, path, "library:3", "library:2", "--library", shelf)
    assert [run["source"] for run in found["after"]] == ["library:3", "library:2"]
    assert [len(run["laps"]) for run in found["after"]] == [8, 8]
    assert (found["same_driver"], found["aims"][0]["runs_after"]) == (True, 2)


def test_a_report_and_the_sheets_are_pages_that_hold_their_data(
    plan: Path, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    debrief, sheet = tmp_path / "debrief.html", tmp_path / "came.html"
    assert main(["report", INES, TOMASZ, "--out", str(debrief), "--json", "-"]) == 0
    document = json.loads(capsys.readouterr().out)
    assert (document["schema"], document["kind"], document["pages"]) == ("jete.report/1", "lap", None)
    assert [s["id"] for s in document["sections"]][:2] == ["head", "three"]
    assert main(["review", str(plan), TOMASZ, "--out", str(sheet)]) == 0
    for path, schema in ((debrief, "jete.report/1"), (sheet, "jete.review/1")):
        data = path.read_text(encoding="utf-8").partition('id="jete-data">')[2].partition("</script>")[0]
        assert json.loads(data)["schema"] == schema
