from __future__ import annotations

import numpy as np
import pytest

from jete.core.lap import Channel
from jete.core.repair import channels_from, gaps, mend_clock


def test_a_good_clock_is_left_alone() -> None:
    clock, keep, repairs = mend_clock(np.arange(5) * 0.1)
    assert keep.all()
    assert clock == pytest.approx(np.arange(5) * 0.1)
    assert not repairs


def test_duplicated_times_are_dropped_and_told() -> None:
    _, keep, repairs = mend_clock(np.array([0.0, 0.1, 0.1, 0.2]))
    assert keep.tolist() == [True, True, False, True]
    assert repairs[0].count == 1


def test_a_small_step_back_drops_rows() -> None:
    _, keep, _ = mend_clock(np.array([0.0, 0.1, 0.2, 0.15, 0.25]))
    assert keep.tolist() == [True, True, True, False, True]


def test_a_clock_that_restarts_goes_on() -> None:
    clock, keep, repairs = mend_clock(np.concatenate([np.arange(50), np.arange(50)]) * 0.1)
    assert keep.all()
    assert np.diff(clock) == pytest.approx(np.full(99, 0.1))
    assert "set back" in repairs[0].what


def test_rows_without_a_time_are_dropped() -> None:
    _, keep, repairs = mend_clock(np.array([0.0, np.nan, 0.2]))
    assert keep.tolist() == [True, False, True]
    assert repairs[0].count == 1


def test_missing_seconds_are_told() -> None:
    clock = np.concatenate([np.arange(20) * 0.1, 5.0 + np.arange(20) * 0.1])
    assert "3.1 s missing" in gaps(clock)[0].what


def test_empty_cells_give_a_channel_its_own_stamps() -> None:
    value = np.array([1.0, np.nan, 3.0])
    channels, _ = channels_from({"oil": value}, {}, np.array([0.0, 0.1, 0.2]))
    assert channels["oil"].time_s.tolist() == [0.0, 0.2]


def test_a_held_position_keeps_only_what_is_new() -> None:
    x = np.repeat(np.arange(10.0), 10)
    channels, _ = channels_from({"x": x, "y": x}, {}, np.arange(100) * 0.01)
    assert len(channels["x"]) == 10
    assert channels["x"].time_s[1] == pytest.approx(0.1)


@pytest.mark.parametrize("name", ["speed", "x", "yaw_rate"])
def test_a_spike_is_left_out_and_told(name: str) -> None:
    value = np.linspace(10.0, 12.0, 200)
    value[77] += 400.0
    columns = {name: value} if name != "x" else {"x": value, "y": np.arange(200.0)}
    channels, repairs = channels_from(columns, {}, np.arange(200) * 0.01)
    assert len(channels[name]) == 199
    assert any(r.channel == name and "spike" in r.what for r in repairs)


def test_hard_braking_is_no_spike() -> None:
    value = np.concatenate([np.full(50, 60.0), np.linspace(60.0, 20.0, 300), np.full(50, 20.0)])
    channels, repairs = channels_from({"speed": value}, {}, np.arange(400) * 0.01)
    assert len(channels["speed"]) == 400
    assert not repairs


def test_infinite_values_are_left_out_and_told() -> None:
    value = np.array([1.0, np.inf, 3.0])
    channels, repairs = channels_from({"oil": value}, {}, np.arange(3.0) * 0.1)
    assert len(channels["oil"]) == 2
    assert repairs[0].channel == "oil"


def test_a_channel_without_values_is_none() -> None:
    channels, _ = channels_from({"oil": np.full(3, np.nan)}, {}, np.arange(3.0))
    assert channels == {}


def test_cutting_keeps_one_sample_on_either_side() -> None:
    channel = Channel("speed", "m/s", np.arange(10.0), np.arange(10.0))
    assert channel.between(2.5, 5.5).time_s.tolist() == [2.0, 3.0, 4.0, 5.0, 6.0]
