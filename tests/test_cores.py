"""Many laps worked out by copies of the process: the same as by one, whatever becomes of a copy."""

from __future__ import annotations

import os
import signal
from dataclasses import replace
from typing import TYPE_CHECKING

import pytest

from jete.commands import cores
from jete.commands.cores import LEAST_LAPS, on_all_cores
from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.motion.borders import line_of
from jete.report.contract import comparison_document
from known_laps import drawn, lap_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import LapComparison
    from jete.core.log.lap import Lap

SHARE = LEAST_LAPS + 1


@pytest.fixture
def three_cores(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {0, 1, 2})


@pytest.fixture
def laps() -> list[Lap]:
    trials = [drawn(seed) for seed in (5, 5)]
    line = line_of(trials[0].reference)
    first, other = lap_of(trials[0].reference), lap_of(trials[0].lap, line)
    return [first, *[lap for _ in range(SHARE) for lap in (other, replace(other, driver="Ines"), first)]]


def told(reference: Lap, others: Sequence[Lap], **kind: object) -> dict[str, object]:
    return comparison_document(compare(reference, others, **kind), [], None)  # type: ignore[arg-type]


@pytest.mark.long
@pytest.mark.usefixtures("three_cores")
def test_laps_are_told_in_their_order_and_as_by_one_process(laps: list[Lap]) -> None:
    assert told(laps[0], laps[1:], each=on_all_cores) == told(laps[0], laps[1:])


@pytest.mark.usefixtures("three_cores")
def test_what_comes_back_is_of_the_logs_of_this_process(laps: list[Lap]) -> None:
    made = compare(laps[0], laps[1:], each=on_all_cores)
    assert all(c.passage.lap.log is lap.log for c, lap in zip(made.laps, laps[1:], strict=True))


def nothing(lap: Lap) -> LapComparison:
    """No lap can be worked out."""
    raise InputError(lap.log.source, "it is of another circuit.", "Name another.")


@pytest.mark.usefixtures("three_cores")
def test_a_lap_that_is_refused_is_refused_as_by_one_process(laps: list[Lap]) -> None:
    with pytest.raises(InputError, match="another circuit"):
        on_all_cores(nothing, laps)


@pytest.mark.usefixtures("three_cores")
def test_only_a_copy_meets_what_it_can_not_do(laps: list[Lap]) -> None:
    here = os.getpid()

    def work(lap: Lap) -> LapComparison:
        if os.getpid() != here:
            os.kill(os.getpid(), signal.SIGKILL)
        return lap  # type: ignore[return-value]

    assert on_all_cores(work, laps) == laps


@pytest.mark.usefixtures("three_cores")
def test_no_copy_is_left_behind(laps: list[Lap], monkeypatch: pytest.MonkeyPatch) -> None:
    here, begun, fork = os.getpid(), [], os.fork

    def noted() -> int:
        begun.append(fork())
        return begun[-1]

    monkeypatch.setattr(os, "fork", noted)

    def work(lap: Lap) -> LapComparison:
        if os.getpid() == here:
            return nothing(lap)
        return lap  # type: ignore[return-value]

    with pytest.raises(InputError):
        on_all_cores(work, laps)
    assert len(begun) == 2
    for pid in begun:
        with pytest.raises(ProcessLookupError):
            os.kill(pid, 0)


def test_few_laps_or_one_core_need_no_copy(laps: list[Lap], monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cores._Copy, "begun", classmethod(lambda *_: pytest.fail("a copy was made")))
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {0})
    assert on_all_cores(lambda lap: lap, laps) == laps  # type: ignore[arg-type,return-value]
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {0, 1, 2, 3})
    assert on_all_cores(lambda lap: lap, laps[:LEAST_LAPS]) == laps[:LEAST_LAPS]  # type: ignore[arg-type,return-value]
