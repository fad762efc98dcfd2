"""Which run a plan is judged by: the driver's next one; what can't be told is asked."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.desk.next_runs import following
from jete.library.records import RunRecord
from jete.notes.sheet import LapSheet, RunSheet

TOMASZ = RunSheet(circuit="Kestrel Sands", driver="Tomasz", vehicle="club car", date="2026-05-02", time="11:05")


def run(number: int, sheet: RunSheet) -> RunRecord:
    return RunRecord(
        id=number, source="", path="", digest="", sheet=sheet, laps=(), pieces=(), notes=LapSheet(), repairs=(), damaged=None
    )  # fmt: skip


CHOSEN = run(2, TOMASZ)
LATER = replace(TOMASZ, time="15:20")


def test_the_next_run_of_the_day_is_it_and_the_one_after_is_not() -> None:
    runs = [CHOSEN, run(3, replace(TOMASZ, date="2026-05-03")), run(9, LATER), run(1, replace(TOMASZ, time="09:00"))]
    found = following(CHOSEN, runs)
    assert (found.after, found.before, found.asked) == (9, (1,), ())


@pytest.mark.parametrize(
    "change", [{"driver": "Ines"}, {"vehicle": "middleweight"}, {"circuit": "Marrow Fen"}, {"layout": "short"}]
)
def test_another_driver_vehicle_or_circuit_is_not_taken(change: dict[str, str]) -> None:
    assert following(CHOSEN, [CHOSEN, run(3, replace(LATER, **change))]).after is None


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"driver": ""}, "who drove is not noted"),
        ({"date": ""}, "its day is not noted"),
        ({"time": ""}, "its time is not noted"),
        ({"time": "11:05"}, "it is noted at the same time"),
    ],
)
def test_what_can_t_be_told_is_asked(change: dict[str, str], why: str) -> None:
    found = following(CHOSEN, [CHOSEN, run(3, replace(LATER, **change))])
    assert (found.after, found.asked) == (None, ((3, why),))


def test_a_run_that_comes_in_late_but_was_driven_between_is_the_next() -> None:
    runs = [CHOSEN, run(3, LATER)]
    assert following(CHOSEN, runs).after == 3
    assert following(CHOSEN, [*runs, run(4, replace(TOMASZ, time="13:00"))]).after == 4
