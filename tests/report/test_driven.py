"""How a corner was driven, in words."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.driving.technique import Technique, technique_of
from jete.report import driven
from jete.report.contract import comparison_document
from jete.simulate.logger import LoggerSettings
from known_laps import compare_trial, drawn

CALM = Technique(
    brake_build_s=0.30,
    release="one stage",
    trail_m=20.0,
    brake_applications=1,
    overlap_s=0.0,
    left_over_brake_s=0.0,
    downshift_m=(100.0, 140.0),
    countersteer_s=0.0,
)


def metres(value: float) -> str:
    return f"{value:.0f} m"


def words(monkeypatch: pytest.MonkeyPatch, comparison: Comparison, lap: Technique) -> list[str]:
    found = iter((CALM, lap))
    monkeypatch.setattr(driven, "technique_of", lambda *_: next(found))
    loss = comparison.laps[0].corners[0]
    return driven.driven_against((comparison.reference, comparison.laps[0].passage), loss, metres)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"release": "two stages"}, "released in two steps (reference: in one step)"),
        ({"release": "dropped"}, "dropped the brake (reference: released in one step)"),
        ({"brake_applications": 2}, "braked twice (reference: once)"),
        ({"trail_m": 8.0}, "trail-braked 8 m, the reference 20 m"),
        ({"overlap_s": 0.31}, "on both pedals for 0.31 s (reference: 0.00 s)"),
        ({"brake_build_s": 0.55}, "built the pressure in 0.55 s (reference: 0.30 s)"),
        ({"countersteer_s": 1.0}, "countersteered 1.0 s: the rear slid"),
        ({"downshift_m": (100.0, 152.0)}, "last downshift 12 m later"),
        ({"downshift_m": (100.0,)}, "1 downshift (reference: 2)"),
    ],
)
def test_each_habit_has_its_words(
    monkeypatch: pytest.MonkeyPatch, comparison: Comparison, change: dict, said: str
) -> None:
    assert words(monkeypatch, comparison, replace(CALM, **change)) == [said]


def test_what_is_alike_or_unknown_is_not_said(monkeypatch: pytest.MonkeyPatch, comparison: Comparison) -> None:
    near = replace(CALM, trail_m=22.0, overlap_s=0.05, countersteer_s=None)
    assert words(monkeypatch, comparison, near) == []


def test_every_corner_of_a_real_pair_can_be_told(comparison: Comparison) -> None:
    lap = comparison.laps[0]
    told = [driven.driven_against((comparison.reference, lap.passage), c, metres) for c in lap.corners]
    assert any(told)
    assert all(isinstance(w, str) for t in told for w in t)


def test_what_was_not_logged_is_not_said_to_be_alike(comparison: Comparison) -> None:
    both = (comparison.reference, comparison.laps[0].passage)
    assert driven.driven_alike(both) == "same release, gears and steering"
    bare = compare_trial(drawn(5, replace(LoggerSettings(), channels=("lap", "speed", "distance", "yaw_rate"))))
    passages = (bare.reference, bare.laps[0].passage)
    assert driven.driven_alike(passages) == ""
    braked = next(c for c in bare.laps[0].corners if c.lap_marks.brake_on_m is not None)
    found = technique_of(passages[1], braked.corner, braked.lap_marks)
    assert (found.brake_build_s, found.release, found.trail_m, found.brake_applications) == (None, None, None, 0)
    assert comparison_document(bare)["laps"][0]["inferred"] == ["throttle", "brake"]
