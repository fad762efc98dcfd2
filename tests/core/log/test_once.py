"""What belongs to one lap is worked out once."""

from __future__ import annotations

import pickle
from dataclasses import replace

import pytest

from jete.core.compare import compare
from jete.core.log.lap import Lap
from jete.core.log.once import MOST_KEPT, once_a_lap
from jete.core.motion.motion import motion_of
from jete.simulate.trials import draw_trial
from known_laps import lap_of


@pytest.fixture
def lap() -> Lap:
    return lap_of(draw_trial(11).reference)


def test_it_is_worked_out_once_for_each_thing_asked(lap: Lap) -> None:
    asked: list[int] = []

    @once_a_lap
    def work(_: Lap, number: int) -> int:
        asked.append(number)
        return 2 * number

    assert [work(lap, n) for n in (1, 1, 2, 1)] == [2, 2, 4, 2]
    assert asked == [1, 2]


def test_what_is_nothing_is_remembered_too(lap: Lap) -> None:
    asked: list[None] = []

    @once_a_lap
    def work(_: Lap) -> None:
        asked.append(None)

    work(lap)
    work(lap)
    assert len(asked) == 1


def test_a_lap_keeps_no_more_than_so_much(lap: Lap) -> None:
    @once_a_lap
    def work(_: Lap, number: int) -> int:
        return number

    for n in range(3 * MOST_KEPT):
        work(lap, n)
    assert len(lap.kept) == MOST_KEPT


def test_another_lap_and_a_copy_begin_anew(lap: Lap) -> None:
    motion = motion_of(lap)
    assert motion_of(lap) is motion
    assert motion_of(replace(lap)) is not motion
    assert pickle.loads(pickle.dumps(lap)).kept == {}


def test_a_pair_compared_again_says_the_same() -> None:
    trial = draw_trial(12)
    first, again = (compare(*pair) for pair in [(lap_of(trial.reference), [lap_of(trial.lap)])] * 2)
    known = compare(first.reference.lap, [first.laps[0].passage.lap])
    for other in (again, known):
        assert [c.findings for c in other.laps[0].corners] == [c.findings for c in first.laps[0].corners]
