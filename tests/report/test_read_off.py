"""Differences and sentences that agree with the numbers beside them."""

from __future__ import annotations

import re
from dataclasses import replace
from functools import cache
from typing import TYPE_CHECKING

import pytest

from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.findings import Finding
from jete.report.card import card_of
from jete.report.corner import mark_rows, told_findings
from jete.report.read_off import apart_kmh, apart_m, as_read
from jete.report.units import METRIC, Units
from known_laps import compare_trial, drawn

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import Comparison, CornerLoss

IMPERIAL = Units("mph", "ft", "psi")


@cache
def found() -> Comparison:
    return compare_trial(drawn(5))


def with_finding(kind: Kind, measure: float, reference: dict[str, float], lap: dict[str, float]) -> CornerLoss:
    """A corner with one finding and marks of our own."""
    loss = found().laps[0].corners[0]
    marks = [replace(m, **change) for m, change in ((loss.reference_marks, reference), (loss.lap_marks, lap))]
    finding = Finding(kind=kind, loss_s=0.1, at_m=100.0, measure=measure, unit="m", confidence=0.9, phases=())
    return replace(loss, reference_marks=marks[0], lap_marks=marks[1], findings=(finding,))


def test_a_distance_is_that_of_the_whole_metres_or_feet_that_are_shown() -> None:
    assert apart_m(1684.4, 1669.6, METRIC) == pytest.approx(-14.0)
    feet = IMPERIAL.length_of(apart_m(100.0, 91.0, IMPERIAL))
    assert feet == pytest.approx(round(91.0 * 3.28084) - round(100.0 * 3.28084))


def test_a_difference_of_speeds_is_that_of_the_tenths_that_are_shown() -> None:
    assert apart_kmh(71.84, 64.16, METRIC) == pytest.approx(-7.6)


def test_a_sentence_says_the_metres_that_stand_in_the_table() -> None:
    loss = with_finding(Kind.LATE_BRAKING, 9.4, {"brake_on_m": 415.4}, {"brake_on_m": 424.6})
    assert as_read(loss, METRIC).findings[0].measure == pytest.approx(10.0)
    assert card_of(loss, METRIC)[0].difference == "+10"
    assert next(r for r in mark_rows(loss, None, METRIC) if r.title == "brake").difference == "+10 m"


def test_a_sentence_says_the_speed_that_stands_in_the_table_though_the_odometers_differ_a_little() -> None:
    loss = with_finding(Kind.OVERSLOWING, -7.86, {"min_speed_kmh": 71.84}, {"min_speed_kmh": 64.22})
    assert as_read(loss, METRIC).findings[0].measure == pytest.approx(-7.6)


@pytest.mark.parametrize(
    ("kind", "measure", "marks"),
    [
        (Kind.OVERSLOWING, -7.86, ({"min_speed_kmh": 71.8}, {"min_speed_kmh": 66.0})),
        (Kind.EARLY_BRAKING, -9.0, ({"brake_on_m": 400.0}, {"brake_on_m": 398.0})),
        (Kind.EARLY_BRAKING, -9.0, ({"brake_on_m": None, "lift_m": None}, {"brake_on_m": 391.0})),
        (Kind.SOFT_BRAKING, -0.1, ({}, {})),
    ],
)
def test_what_is_not_the_difference_of_the_marks_stays_as_measured(
    kind: Kind, measure: float, marks: tuple[dict[str, float], dict[str, float]]
) -> None:
    loss = with_finding(kind, measure, *marks)
    assert as_read(loss, METRIC).findings == loss.findings


@pytest.mark.many
@pytest.mark.parametrize("units", [METRIC, IMPERIAL])
@pytest.mark.parametrize("seed", range(41, 47))
def test_brake_points_in_words_and_in_the_table_agree_on_any_lap(seed: int, units: Units) -> None:
    comparison = compare_trial(drawn(seed))
    lap = comparison.laps[0]
    for loss in lap.corners:
        told = [t.text for t in told_findings(loss, (comparison.reference, lap.passage), None, units)]
        words = [
            m
            for t in told
            if (m := re.match(rf"(?:Possibly: )?Braked (\d+) {units.length} (before|past)", t, re.IGNORECASE))
        ]
        row = next((r for r in mark_rows(loss, None, units) if r.title == "brake"), None)
        for m in words:
            assert row is not None
            assert row.difference == f"{'−' if m[2] == 'before' else '+'}{m[1]} {units.length}"
