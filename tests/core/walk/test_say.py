"""Saying a lap from the head: what is right is what the reference does, and only what shows is asked for."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.circuit.landmarks import Landmark, LandmarkKind, RoadBook
from jete.core.circuit.mean_path import founded
from jete.core.circuit.on_axis import CircuitOnAxis, circuit_on
from jete.core.circuit.stakes import Stakes, stakes_of
from jete.core.driving.vehicle import drive_of
from jete.core.walk.say import Said, checked, offered, truths_of


@pytest.fixture(scope="module")
def stakes(comparison: Comparison) -> list[Stakes]:
    ours = comparison.reference
    marks = [c.reference_marks for c in comparison.laps[0].corners]
    return stakes_of(ours, comparison.road, drive_of(ours, comparison.road), comparison.corners, marks)


@pytest.fixture(scope="module")
def circuit(comparison: Comparison) -> CircuitOnAxis:
    """A board 60 m before each brake point, and a cone 9 m after it."""
    road = founded(comparison.reference.lap)
    at = [c.reference_marks.slowing_m for c in comparison.laps[0].corners]
    places = [p for p in at if p is not None]
    marks = [
        Landmark(id=2 * k + j, kind=kind, circuit_m=place + off)
        for k, place in enumerate(places, start=1)
        for j, (kind, off) in enumerate(((LandmarkKind.BOARD, -60.0), (LandmarkKind.CONE, 9.0)))
    ]
    lap = comparison.reference.lap
    on_axis = circuit_on("x", road, RoadBook(tuple(marks)), comparison.corners, (lap, lap))
    return replace(on_axis, book=RoadBook(tuple(marks)))


def test_without_landmarks_gear_and_kind_are_asked_for(comparison: Comparison, stakes: list[Stakes]) -> None:
    for truth, loss in zip(
        truths_of(comparison.laps[0].corners, None, stakes), comparison.laps[0].corners, strict=True
    ):
        assert truth.landmark is None
        assert truth.gear == loss.reference_marks.gear
        assert offered(loss, None) == []


def test_what_is_so_is_among_what_is_offered(
    comparison: Comparison, circuit: CircuitOnAxis, stakes: list[Stakes]
) -> None:
    corners = comparison.laps[0].corners
    for truth, loss in zip(truths_of(corners, circuit, stakes), corners, strict=True):
        if loss.reference_marks.slowing_m is None:
            assert truth.landmark == 0
            continue
        ids = [m.id for m in offered(loss, circuit)]
        assert truth.landmark in ids
        assert circuit.told(loss.reference_marks.slowing_m).landmark.id == truth.landmark


def test_only_what_was_said_is_checked() -> None:
    truth = Said(gear=2, landmark=7, kind="exit")
    assert checked(Said(), truth) == {}
    assert checked(Said(gear=2, landmark=6), truth) == {"gear": True, "landmark": False}
    assert checked(Said(landmark=6), Said(gear=2)) == {}
