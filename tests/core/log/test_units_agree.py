"""Units and signs are held against each other: mended with a word where the data are clear, left where they are not."""

from __future__ import annotations

import numpy as np
import pytest
from test_torn import Columns, columns, read, stint

from jete.core.log.lap import Log, best_of
from jete.core.motion.split import split


def best_s(log: Log) -> float:
    best = best_of(split(log))
    assert best is not None
    return best.time_s


def told(log: Log) -> list[str]:
    return [f"{r.channel}: {r.what}" for r in log.repairs]


@pytest.mark.parametrize("without", [(), ("x", "y")], ids=["by positions", "by what vehicles do"])
def test_a_clock_in_milliseconds_is_told_and_mended(without: tuple[str, ...]) -> None:
    rows = columns(*without)
    rows["time"] *= 1000.0
    log = read(rows)
    assert "time: in milliseconds, not seconds" in told(log)
    assert best_s(log) == pytest.approx(best_s(read(columns(*without))), abs=0.01)


@pytest.mark.parametrize(
    ("factor", "unit"), [(1.609344, "mph, not km/h"), (3.6, "m/s, not km/h"), (1.852, "knots, not km/h")]
)
def test_a_speed_in_another_unit_than_its_positions_say_is_mended(factor: float, unit: str) -> None:
    rows = columns("distance")
    rows["speed"] /= factor
    log = read(rows)
    assert f"speed: in {unit}, by the positions" in told(log)
    assert np.median(log.channels["speed"].value) == pytest.approx(np.median(stint().channels["speed"].value), rel=0.01)


@pytest.mark.parametrize("share", [0.93, 1.08])
def test_an_odometer_that_is_off_is_no_other_unit(share: float) -> None:
    rows = columns()
    rows["speed"] *= share
    assert not any(t.startswith("speed: in") for t in told(read(rows)))


@pytest.mark.parametrize("pedal", ["brake", "throttle"])
def test_a_pedal_that_is_upside_down_is_turned_round(pedal: str) -> None:
    rows, sound = columns(), read(columns())
    rows[pedal] = rows[pedal].max() - rows[pedal]
    log = read(rows)
    assert f"{pedal}: upside down by what the vehicle does, turned round" in told(log)
    clock = np.arange(20.0, 200.0, 0.5)
    turned, own = (x.channels[pedal].at(clock) for x in (log, sound))
    assert np.corrcoef(turned, own)[0, 1] > 0.98
    assert not any("wanders" in t for t in told(log))


def test_pedals_the_right_way_round_stay() -> None:
    assert not any("upside down" in t for t in told(read(columns())))


def jumping(rows: Columns, metres: float, seconds: float) -> Columns:
    away = (rows["time"] > 100.0) & (rows["time"] < 100.0 + seconds)
    rows["x"] = np.where(away, rows["x"] + metres, rows["x"])
    return rows


def test_positions_that_jump_for_three_seconds_are_left_out() -> None:
    log = read(jumping(columns(), 300.0, 3.0))
    assert any("jump away and back" in t for t in told(log))
    x = log.channels["x"]
    assert not np.any((x.time_s > 100.1) & (x.time_s < 102.9))


def test_a_drift_of_metres_is_no_jump() -> None:
    assert not any("jump" in t for t in told(read(jumping(columns(), 8.0, 3.0))))
