"""Damaged samples: what is mended, and what is left as it is."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.log.lap import Channel
from jete.core.log.repair import channels_from, gaps, mend_clock


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


@pytest.mark.parametrize(("hz", "decimals"), [(20, 1), (25, 1), (10, 0), (15, 1), (100, 1)])
def test_stamps_too_coarse_for_the_rows_are_spread_evenly(hz: int, decimals: int) -> None:
    true = 3.7 + np.arange(40 * hz) / hz
    for stamped in (np.round(true, decimals), np.floor(true * 10**decimals) / 10**decimals):
        clock, keep, repairs = mend_clock(stamped)
        assert keep.all()
        assert float(np.ptp(clock - true)) < 0.1 * 10.0**-decimals
        assert abs(float(np.mean(clock - true))) < 1.01 * 10.0**-decimals
        assert "spread evenly" in repairs[0].what


def test_rows_that_are_missing_stay_so_where_stamps_are_coarse() -> None:
    true = np.concatenate([np.arange(400) / 20.0, 25.0 + np.arange(400) / 20.0])
    clock, keep, _ = mend_clock(np.round(true, 1))
    assert keep.all()
    assert float(np.abs(clock - true).max()) < 0.06


def test_stamps_that_repeat_without_a_rhythm_are_dropped_as_before() -> None:
    true = np.cumsum(np.random.default_rng(2).exponential(0.05, 800))
    clock, keep, repairs = mend_clock(np.round(true, 1))
    assert not keep.all()
    assert float(np.diff(clock[keep]).min()) > 0.0
    assert "equal time dropped" in repairs[-1].what


def test_hard_braking_is_no_spike() -> None:
    value = np.concatenate([np.full(50, 60.0), np.linspace(60.0, 20.0, 300), np.full(50, 20.0)])
    channels, repairs = channels_from({"speed": value}, {}, np.arange(400) * 0.01)
    assert len(channels["speed"]) == 400
    assert not repairs


def test_a_channel_without_values_is_none() -> None:
    channels, _ = channels_from({"oil": np.full(3, np.nan)}, {}, np.arange(3.0))
    assert channels == {}


def test_cutting_keeps_one_sample_on_either_side() -> None:
    channel = Channel("speed", "m/s", np.arange(10.0), np.arange(10.0))
    assert channel.between(2.5, 5.5).time_s.tolist() == [2.0, 3.0, 4.0, 5.0, 6.0]


def test_a_slow_channel_repeated_at_a_fast_rate_keeps_its_own_samples() -> None:
    slow = 40.0 + np.sin(np.arange(100) * 0.2)
    channels, repairs = channels_from({"speed": np.repeat(slow, 5)}, {}, np.arange(500) * 0.01)
    assert channels["speed"].value == pytest.approx(slow)
    assert channels["speed"].time_s[:3] == pytest.approx([0.0, 0.05, 0.1])
    assert "repeated for 5 rows" in repairs[0].what


@pytest.mark.parametrize("hz", [5, 10, 25, 30])
def test_a_slow_pedal_that_is_held_is_told_to_be_there_all_along(hz: int) -> None:
    time = np.arange(0.0, 40.0, 0.01)
    foot = np.clip(1.4 * np.sin(time / 1.7) + 0.4, 0.0, 1.0)
    told = np.floor(time * hz + 1e-6) / hz
    channels, repairs = channels_from({"throttle": np.interp(told, time, foot)}, {}, time)
    assert repairs[0].what.startswith("each value repeated for")
    throttle = channels["throttle"]
    assert float(np.diff(throttle.time_s).max()) < 1.6 / hz
    assert float(np.abs(throttle.at(time) - foot).max()) < 0.9 / hz


@pytest.mark.parametrize("seed", range(6))
def test_a_speed_in_whole_kilometres_an_hour_has_no_rhythm(seed: int) -> None:
    rng = np.random.default_rng(seed)
    value = np.round(160.0 + 60.0 * np.sin(np.arange(3000) / rng.uniform(80.0, 400.0)) + rng.normal(0.0, 0.2, 3000))
    channels, _ = channels_from({"speed": value / 3.6}, {}, np.arange(3000) * 0.02)
    assert len(channels["speed"]) == 3000


def test_a_speed_that_happens_to_repeat_is_kept() -> None:
    rng = np.random.default_rng(1)
    value = np.round(np.cumsum(rng.normal(0.0, 0.05, 500)) + 40.0, 1)
    channels, _ = channels_from({"speed": value}, {}, np.arange(500) * 0.01)
    assert len(channels["speed"]) == 500


def test_a_drop_out_of_the_speed_is_left_out_and_told() -> None:
    value = 40.0 + np.sin(np.arange(600) * 0.01)
    value[200:260] = 0.0
    channels, repairs = channels_from({"speed": value}, {}, np.arange(600) * 0.01)
    assert float(channels["speed"].value.min()) > 30.0
    assert any("drop-out" in r.what and r.count == 60 for r in repairs)


def test_a_stop_is_no_drop_out() -> None:
    down = np.linspace(40.0, 0.0, 400)
    value = np.concatenate([down, np.zeros(300), down[::-1]])
    channels, repairs = channels_from({"speed": value}, {}, np.arange(1100) * 0.01)
    assert len(channels["speed"]) == 1100
    assert not repairs


def test_a_resting_level_that_wanders_is_taken_out() -> None:
    time = np.arange(6000) * 0.02
    pressure = np.where(time % 10.0 < 2.0, 60.0, 0.0)
    channels, repairs = channels_from({"brake": pressure + 0.08 * time}, {"brake": "bar"}, time)
    rest = channels["brake"].value[time % 10.0 > 3.0]
    assert np.ptp(rest) < 1.5
    assert "resting level" in repairs[0].what


def test_a_steady_offset_of_the_brake_is_no_drift() -> None:
    time = np.arange(6000) * 0.02
    _, repairs = channels_from({"brake": np.where(time % 10.0 < 2.0, 64.0, 4.0)}, {"brake": "bar"}, time)
    assert not repairs


def test_a_position_that_froze_at_speed_is_told() -> None:
    x = np.arange(300.0)
    x[100:160] = x[100]
    columns = {"x": x, "y": 0.5 * x, "speed": np.full(300, 40.0)}
    channels, repairs = channels_from(columns, {}, np.arange(300) * 0.1)
    assert len(channels["x"]) == 241
    assert any(r.channel == "position" and "frozen" in r.what for r in repairs)


def test_a_vehicle_that_stands_has_no_frozen_position() -> None:
    x = np.arange(300.0)
    x[100:160] = x[100]
    speed = np.full(300, 40.0)
    speed[95:165] = 0.0
    _, repairs = channels_from({"x": x, "y": 0.5 * x, "speed": speed}, {}, np.arange(300) * 0.1)
    assert not any("frozen" in r.what for r in repairs)


@pytest.mark.parametrize(("low", "high", "told"), [(0.0, 1.0, False), (0.04, 0.87, True), (0.0, 0.8, True)])
def test_a_throttle_on_another_span_is_told(low: float, high: float, told: bool) -> None:  # noqa: FBT001 - a case
    value = low + (high - low) * (np.sin(np.arange(400) * 0.05) > 0.0)
    _, repairs = channels_from({"throttle": value}, {}, np.arange(400) * 0.05)
    assert any("own span" in r.what for r in repairs) is told


def test_positions_whose_halves_were_mended_apart_are_kept_in_pairs() -> None:
    clock = np.arange(200) * 0.1
    x, y = 5.0 * clock, 3.0 * clock
    x[50], y[90] = 4000.0, -4000.0
    channels, _ = channels_from({"time": clock, "x": x, "y": y}, {}, clock)
    assert channels["x"].time_s.tolist() == channels["y"].time_s.tolist()
    assert len(channels["x"]) == 198


def test_half_a_position_is_none() -> None:
    clock = np.arange(30) * 0.1
    channels, _ = channels_from({"latitude": clock, "longitude": np.full(30, np.nan)}, {}, clock)
    assert channels == {}
