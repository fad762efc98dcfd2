"""Stretches that say nothing of driving are found, told, and left alone."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
import pytest

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.log.lap import Lap, Log, best_of
from jete.core.motion.beacons import told_line
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.formats.columns import log_from_columns
from jete.simulate.circuit import draw
from jete.simulate.driver import LapPlan, Style, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR

NAMES = ("time", "lap", "distance", "speed", "throttle", "brake", "acc_long", "x", "y")
Columns = dict[str, np.ndarray]


@cache
def stint() -> Log:
    """Four laps at 20 Hz."""
    circuit = draw(71)
    trace = drive(circuit, CAR, [LapPlan(grip=1.0 - 0.001 * k) for k in range(6)], Style())
    return record(trace, draw_line(circuit, 5, 1.0), LoggerSettings(rate_hz=20.0), 71, (0.6, 5.2))


def columns(*without: str) -> Columns:
    log = stint()
    clock = log.channels["time"].time_s
    return {n: log.channels[n].at(clock) if n != "time" else clock.copy() for n in NAMES if n not in without}


def read(rows: Columns) -> Log:
    return log_from_columns(
        "stint.csv", rows, {"brake": "bar", "throttle": "ratio", "speed": "m/s", "acc_long": "m/s2"}
    )


def inside(rows: Columns, lap: int, from_s: float, to_s: float) -> np.ndarray:
    """Rows of a lap between so many seconds after it began."""
    begin = rows["time"][np.argmax(rows["lap"] >= lap)]
    return (rows["time"] >= begin + from_s) & (rows["time"] < begin + to_s)


def missing(rows: Columns) -> Columns:
    gone = inside(rows, 2, 20.0, 40.0)
    return {n: v[~gone] for n, v in rows.items()}


def set_back(rows: Columns) -> Columns:
    """The clock falls back by 5 s, and tells these seconds again."""
    at = int(np.flatnonzero(inside(rows, 2, 30.0, 31.0))[0])
    again = slice(at - 100, at)
    out = {n: np.concatenate([v[:at], v[again], v[at:]]) for n, v in rows.items()}
    out["time"][at + 100 :] = rows["time"][at:]
    return out


def stuck(rows: Columns) -> Columns:
    held = inside(rows, 2, 20.0, 50.0)
    rows["speed"][held] = rows["speed"][held][0]
    return rows


def dead_brake(rows: Columns) -> Columns:
    rows["brake"][inside(rows, 2, 10.0, 50.0)] = rows["brake"].min()
    return rows


FAULTS: dict[str, Callable[[Columns], Columns]] = {
    "20.0 s are missing": missing,
    "the clock was set back by 4.9": set_back,
    "the brake shows nothing": dead_brake,
}


@pytest.mark.parametrize("what", FAULTS)
def test_a_lap_whose_log_is_torn_is_told_and_is_no_best(what: str) -> None:
    spans = split(read(FAULTS[what](columns())))
    torn = next(s for s in spans if s.number == 2)
    assert not torn.complete
    assert (torn.why or "").startswith(f"doubtful: {what}")
    assert all(s.complete for s in spans if s.number in (1, 3, 4))
    best = best_of(spans)
    assert best is not None
    assert best.number != 2


@pytest.mark.parametrize(
    ("without", "what"),
    [(("acc_long",), "speed and positions contradict each other"), (("x", "y"), "the speed is stuck for 30 s")],
    ids=["by positions", "by the acceleration"],
)
def test_a_speed_that_stands_still_is_held_against_what_else_was_logged(without: tuple[str, ...], what: str) -> None:
    log = read(stuck(columns(*without)))
    assert any(t.what == what for t in log.torn)
    assert {s.number for s in split(log) if not s.complete and s.number in (1, 2, 3, 4)} == {2}


def test_a_sound_log_is_not_torn() -> None:
    assert read(columns()).torn == ()


def test_nothing_is_claimed_of_corners_whose_log_is_torn() -> None:
    log, sound = read(stuck(columns())), read(columns())
    reference, torn = (
        Lap(x, next(s for s in split(x, line_of(sound)) if s.number == n)) for x, n in ((sound, 1), (log, 2))
    )
    whole = Lap(sound, next(s for s in split(sound) if s.number == 2))
    told = compare(reference, [torn]).laps[0]
    silent = [c for c in told.corners if not c.findings]
    assert len(silent) >= 3
    largest = max((abs(f.loss_s) for c in told.corners for f in c.findings), default=0.0)
    assert largest < 0.2
    assert told.gap_s == pytest.approx(compare(reference, [whole]).laps[0].gap_s, abs=0.02)


def test_where_no_other_lap_is_complete_a_doubtful_one_is_better_than_none() -> None:
    from jete.core.log.lap import fastest

    rows = missing(columns())
    only = (rows["lap"] == 2) | (rows["lap"] == 1) & (rows["time"] > rows["time"][np.argmax(rows["lap"] == 2)] - 5.0)
    spans = split(read({n: v[only | (rows["lap"] == 3)] for n, v in rows.items()}))
    doubtful = [s for s in spans if (s.why or "").startswith("doubtful")]
    if not any(s.complete for s in spans) and doubtful:
        assert fastest(spans, "stint.csv").number == 2
    else:
        with pytest.raises(InputError):
            fastest(tuple(s for s in spans if s.number == 1 and not s.complete), "stint.csv")


def test_a_lap_with_a_stop_is_told_and_is_no_best() -> None:
    rows = columns("distance")
    stop = rows["time"][np.argmax(rows["lap"] == 2)] + 60.0
    after = rows["time"] >= stop
    at = int(np.argmax(after))
    held = {n: np.full(600, v[at]) for n, v in rows.items()}
    held["time"] = stop + np.arange(600) * 0.05
    held["speed"] = np.zeros(600)
    held["acc_long"] = np.zeros(600)
    whole = {
        n: np.concatenate([v[~after], held[n], v[after] + (30.0 if n == "time" else 0.0)]) for n, v in rows.items()
    }
    second = next(s for s in split(read(whole)) if s.number == 2)
    assert (second.complete, second.why) == (False, "doubtful: it stands for 30 s")


def lengths(rows: Columns) -> list[tuple[int, int, bool]]:
    return [(s.number, round(s.length_m, -1), s.complete) for s in split(read(rows))]


@pytest.mark.parametrize("amiss", ["missed", "false", "both"])
def test_missed_and_false_beacons_are_mended_where_positions_show_the_line(amiss: str) -> None:
    rows = columns("distance")
    sound = lengths(rows)
    number = rows["lap"]
    if amiss in ("missed", "both"):
        number = np.where(number >= 3, number - 1, number)
    if amiss in ("false", "both"):
        begin = rows["time"][np.argmax(rows["lap"] == 1)] + 50.0
        number = np.where(rows["time"] > begin, number + 1, number)
    log = read({**rows, "lap": number})
    assert [(round(s.length_m, -1), s.complete) for s in split(log)] == [(m, ok) for _, m, ok in sound]
    assert any("beacons" in r.what for r in told_line(log, line_of(log)).repairs)


def test_a_column_that_goes_with_the_line_is_left_alone() -> None:
    log = read(columns("distance"))
    assert told_line(log, line_of(log)).repairs == log.repairs


def test_a_lap_that_is_longer_than_the_others_is_doubtful() -> None:
    rows = columns("x", "y")
    second = rows["lap"] == 2
    rows["speed"] = np.where(second, rows["speed"] * 1.05, rows["speed"])
    rows.pop("distance")
    told = next(s for s in split(read(rows)) if s.number == 2)
    assert (told.why or "").startswith("doubtful: another length")


@pytest.mark.parametrize("wild_s", [1e12, 3e8])
@pytest.mark.parametrize("row", [300, -1])
def test_a_wild_time_stamp_takes_no_memory(wild_s: float, row: int) -> None:
    """Times at even steps up to it would fill terabytes."""
    rows = columns()
    rows["time"][row:] += wild_s
    assert len(read(rows).channels["speed"]) > 200
