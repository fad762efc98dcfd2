"""What came of an aim: told apart where it can be, and nothing claimed where it can't."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.aims.aim import AimSet
from jete.core.aims.judged import Interval, gained_of, judged, state_of

AIM = AimSet(measure="brake_on_m", start=100.0, target=105.0, tolerance=2.0)
# Eight laps about nothing, as a foot scatters.
FOOT = np.array([-1.2, 0.4, 0.9, -0.3, 1.1, -0.8, 0.2, -0.3])
EVEN = 10.0 + 0.02 * FOOT


def run(middle: float, laps: int = 8) -> list[float]:
    return (middle + FOOT[:laps]).tolist()


def came(after: list[float], *, times: list[float] | None = None, aim: AimSet = AIM):
    corner = ([EVEN.tolist()], [times or EVEN.tolist()])
    return judged(aim, [run(100.0)], [after], corner, ([], []))


@pytest.mark.parametrize(
    ("middle", "outcome", "proposal"),
    [(100.0, "not_done", "wait"), (105.0, "worked", "keep"), (113.0, "overdone", "step_back")],
)
def test_not_done_done_and_overdone_are_told_apart(middle: float, outcome: str, proposal: str) -> None:
    found = came(run(middle))
    assert (found.outcome, found.proposal) == (outcome, proposal)
    assert isinstance(found.moved, Interval)
    assert found.moved.low < middle - 100.0 < found.moved.high


def test_an_aim_to_the_other_side_is_judged_alike() -> None:
    earlier = AimSet(measure="throttle_on_m", start=100.0, target=95.0, tolerance=2.0)
    assert came(run(95.0), aim=earlier).outcome == "worked"
    assert came(run(105.0), aim=earlier).outcome == "not_done"


def test_done_on_each_lap_of_a_capped_step_asks_for_one_more() -> None:
    capped = AimSet(measure="brake_on_m", start=100.0, target=105.0, tolerance=2.0, capped=True)
    found = came(run(105.0), aim=capped)
    assert (found.done, found.proposal) == (8, "step_on")


def test_done_and_clearly_slower_there_is_dropped() -> None:
    found = came(run(105.0), times=(EVEN + 0.2).tolist())
    assert (found.outcome, found.proposal) == ("done_slower", "drop")


@pytest.mark.parametrize("laps", [0, 4])
def test_of_fewer_than_five_laps_nothing_is_told(laps: int) -> None:
    found = came(run(105.0, laps))
    assert (found.outcome, found.moved, found.gained, found.proposal) == ("not_told", None, None, "wait")


def test_a_lap_without_the_mark_is_unknown() -> None:
    assert state_of(AIM, None) == "unknown"


def test_several_steady_runs_before_make_a_smaller_move_sure() -> None:
    steady = [run(100.0) for _ in range(5)]
    alone = judged(AIM, steady[:1], [run(102.2)], ([EVEN.tolist()],) * 2, ([], []))
    known = judged(AIM, steady, [run(102.2)], ([EVEN.tolist()],) * 2, ([], []))
    assert alone.moved is not None
    assert known.moved is not None
    assert known.moved.high - known.moved.low < alone.moved.high - alone.moved.low


def test_the_run_that_chose_an_aim_tells_no_gain() -> None:
    found = came(run(105.0), times=(EVEN - 0.5).tolist())
    assert (found.gained, found.runs_more) == (None, 3)


@pytest.mark.parametrize(("quicker_s", "words"), [(0.15, "True"), (-0.15, "False"), (0.01, "None")])
def test_gains_are_told_from_runs_that_did_not_choose(quicker_s: float, words: str) -> None:
    before = [(EVEN + shift).tolist() for shift in (0.0, 0.01, -0.01)]
    after = [(EVEN - quicker_s + shift).tolist() for shift in (0.0, 0.01, -0.01)]
    told, more = gained_of(before, after)
    assert str(told) == words
    assert (more is None) is (told is not None)
