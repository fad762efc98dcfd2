"""Calls at known errors give these errors; what is not known comes again."""

from __future__ import annotations

import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.walk.rehearse import Call, Memory, due, expected, judged, quality


@pytest.mark.parametrize("off", [-14.0, 0.0, 6.5])
def test_a_call_is_told_by_how_far_it_is_from_the_mark(comparison: Comparison, off: float) -> None:
    corners = comparison.laps[0].corners
    corner = next(c for c in corners if c.reference_marks.brake_on_m is not None)
    brake = corner.reference_marks.brake_on_m
    assert brake is not None
    call = judged("brake", brake + off, corners)
    assert call is not None
    assert (call.corner, call.metres) == (corner.corner.number, pytest.approx(off))


def test_a_call_far_from_any_mark_is_for_none(comparison: Comparison) -> None:
    corners = [c for c in comparison.laps[0].corners if c.reference_marks.brake_on_m is not None][:1]
    assert judged("brake", (corners[0].reference_marks.brake_on_m or 0.0) + 500.0, corners) is None
    assert judged("brake", 0.0, []) is None


def test_only_marks_that_are_there_are_to_be_called(comparison: Comparison) -> None:
    for corner in comparison.laps[0].corners:
        wanted = expected(corner, ("brake", "turn_in", "pick_up"))
        assert ("brake" in wanted) is (corner.reference_marks.brake_on_m is not None)


@pytest.mark.parametrize(("worst", "answer"), [(2.0, 5), (7.0, 4), (14.0, 3), (25.0, 2), (50.0, 1), (90.0, 0)])
def test_the_worst_call_is_the_answer(worst: float, answer: int) -> None:
    assert quality([Call(1, "brake", 1.0), Call(1, "pick_up", -worst)], 2) == answer


def test_good_answers_space_a_corner_out_and_a_bad_one_brings_it_back() -> None:
    memory, day, gaps = Memory(), 100, []
    for _ in range(4):
        memory = memory.after(4, day)
        gaps.append(memory.interval_days)
        day = memory.due_day
    assert gaps == [1, 6, 15, 38]
    again = memory.after(2, day)
    assert (again.row, again.interval_days, again.due_day) == (0, 1, day)
    assert again.easiness < memory.easiness


def test_easiness_never_falls_below_its_least() -> None:
    memory = Memory()
    for _ in range(20):
        memory = memory.after(0, 5)
    assert memory.easiness == 1.3


def test_what_is_least_known_comes_first() -> None:
    memories = {1: Memory(2.6, 6, 2, 120), 2: Memory(1.5, 1, 0, 100), 3: Memory(2.2, 1, 1, 100)}
    assert due(memories, [1, 2, 3, 4], 100) == [2, 4, 3]
    assert due(memories, [1], 120) == [1]


def test_a_brake_called_too_softly_is_one_answer_worse() -> None:
    right = Call(1, "brake", 1.0, hard="hard", wanted="hard")
    soft = Call(1, "brake", 1.0, hard="light", wanted="hard")
    assert (quality([right], 1), quality([soft], 1)) == (5, 4)
    assert quality([Call(1, "brake", 1.0, hard="light", wanted=None)], 1) == 5
