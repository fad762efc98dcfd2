"""Marks as they are read: one telling for card and table, in numbers that agree with one another."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache

import pytest

from jete.core.causes.verdict.result import CornerLoss
from jete.core.circuit.landmarks import FromLandmark, Landmark, LandmarkKind, both_told_from, told_from
from jete.report.card import card_of
from jete.report.corner import mark_rows
from jete.report.marks import NONE, MarkRead, marks_read
from jete.report.seat import both_told, moved_words
from jete.report.units import METRIC, Units
from known_laps import compare_trial, drawn

BOARD = Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=500.0, text="100")


@cache
def corner() -> CornerLoss:
    return compare_trial(drawn(41)).laps[0].corners[0]


def read(loss: CornerLoss, name: str) -> MarkRead:
    return next(m for m in marks_read(loss, METRIC) if m.name == name)


@dataclass(frozen=True)
class OneBoard:
    """A circuit with one board."""

    def both_told(self, places_m: tuple[float, float]) -> tuple[FromLandmark | None, FromLandmark | None]:
        return both_told_from(places_m, [BOARD])

    def told(self, place_m: float) -> FromLandmark | None:
        return told_from(place_m, [BOARD])


def test_a_pressure_and_a_deceleration_are_not_held_against_each_other() -> None:
    loss = corner()
    lap = replace(loss.lap_marks, brake_peak=9.2, brake_unit="m/s2")
    reference = replace(loss.reference_marks, brake_peak=50.4, brake_unit="bar")
    mixed = replace(loss, lap_marks=lap, reference_marks=reference)
    column = next(c for c in card_of(mixed, METRIC) if c.title.startswith("peak"))
    assert (column.title, column.reference, column.lap, column.difference) == ("peak bar", "50.4", NONE, NONE)
    row = next(r for r in mark_rows(mixed, None, METRIC) if r.title == "hardest press")
    assert (row.reference, row.lap, row.difference) == ("50.4 bar", NONE, NONE)


@pytest.mark.parametrize("units", [METRIC, Units("mph", "ft", "psi")])
def test_card_and_table_tell_the_same_numbers(units: Units) -> None:
    rows = {r.title: r for r in mark_rows(corner(), None, units)}
    for column, title in zip(
        card_of(corner(), units), ("brake", "hardest press", "lowest speed", "pick-up"), strict=False
    ):
        assert rows[title].lap.split(" ")[0] == column.lap
        assert rows[title].difference.split(" ")[0] == column.difference


@pytest.mark.parametrize(("reference_m", "lap_m"), [(503.4, 494.6), (503.6, 494.4), (499.4, 499.6), (480.5, 471.5)])
def test_metres_from_a_landmark_differ_by_the_difference_that_is_shown(reference_m: float, lap_m: float) -> None:
    theirs, ours = both_told(OneBoard(), (reference_m, lap_m), METRIC)  # type: ignore[arg-type]
    marks = replace(corner().reference_marks, brake_on_m=reference_m), replace(corner().lap_marks, brake_on_m=lap_m)
    shown = read(replace(corner(), reference_marks=marks[0], lap_marks=marks[1]), "brake_on_m").apart
    assert theirs is not None
    assert ours is not None
    assert round(ours.metres) - round(theirs.metres) == shown


def test_each_cost_stands_at_one_mark() -> None:
    for loss in compare_trial(drawn(42)).laps[0].corners:
        at_marks = sum(r.cost_s for r in mark_rows(loss, None, METRIC))
        carried = sum(f.loss_s for f in loss.findings if f.kind == "carried_speed")
        assert at_marks == pytest.approx(sum(f.loss_s for f in loss.findings) - carried)


@pytest.mark.parametrize(
    ("from_m", "to_m", "words"),
    [
        (464.4, 469.4, "from 36 m to 31 m before the 100 board"),
        (464.6, 469.4, "from 36 m to 31 m before the 100 board"),
        (497.0, 502.0, "from 3 m before the 100 board, to be 2 m past the 100 board"),
        (495.0, 500.0, "from 5 m before the 100 board, to be at the 100 board"),
        (20.0, 25.0, ""),
    ],
)
def test_a_step_is_told_from_the_landmark_of_where_it_ends(from_m: float, to_m: float, words: str) -> None:
    assert moved_words(from_m, to_m, OneBoard(), METRIC) == words  # type: ignore[arg-type]
