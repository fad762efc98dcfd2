"""Whatever columns a log has, every format gives them back."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jete.core.log.lap import Channel, Log
from jete.formats.columns import Columns
from jete.formats.reader import read_log
from jete.formats.table import WRITTEN_ENDINGS
from jete.formats.writer import columns_of_log, write_columns, write_log

NAMES = ("throttle", "brake", "steering", "gear", "rpm", "acc_lat", "yaw_rate", "oil temperature")


def made(rate: int, names: list[str], every: int, seed: int) -> Log:
    """A log of 20 s; every second channel is logged at a slower rate."""
    chance = np.random.default_rng(seed)
    clock = np.arange(0.0, 20.0, 1.0 / rate)
    channels = {"time": Channel("time", "s", clock, clock)}
    channels["speed"] = Channel("speed", "m/s", clock, 30.0 + np.cumsum(chance.normal(0.0, 0.05, len(clock))))
    for k, name in enumerate(names):
        own = clock[:: every if k % 2 else 1]
        channels[name] = Channel(name, "bar" if name == "brake" else "", own, chance.normal(0.5, 0.2, len(own)))
    return Log(source="made", channels=channels)


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    rate=st.sampled_from([10, 25, 100]),
    names=st.lists(st.sampled_from(NAMES), min_size=1, max_size=5, unique=True),
    every=st.sampled_from([2, 5, 10]),
    ending=st.sampled_from([e for e in WRITTEN_ENDINGS if e != ".mf4"]),
    seed=st.integers(0, 1000),
)
def test_any_log_comes_back(tmp_path: Path, rate: int, names: list[str], every: int, ending: str, seed: int) -> None:
    log, path = made(rate, names, every, seed), tmp_path / f"log{ending}"
    write_log(path, log)
    back = read_log(path)
    assert back.channels.keys() == log.channels.keys()
    for name, channel in log.channels.items():
        assert np.allclose(back.channels[name].time_s, channel.time_s, atol=1e-6), name
        assert np.allclose(back.channels[name].value, channel.value, rtol=1e-5, atol=1e-5), name


def test_units_are_those_that_csv_assumes() -> None:
    columns = columns_of_log(made(10, ["throttle", "steering"], 2, 1))
    units = dict(zip(columns.names, columns.units, strict=True))
    assert (units["speed"], units["throttle"], units["steering"]) == ("km/h", "%", "deg")


@pytest.mark.parametrize("ending", WRITTEN_ENDINGS)
def test_columns_of_a_comparison_are_written_in_every_format(tmp_path: Path, ending: str) -> None:
    grid = np.arange(0.0, 50.0)
    path = tmp_path / f"pair{ending}"
    write_columns(path, Columns("pair", ("distance", "gap lap 3"), ("m", "s"), (grid, 0.01 * grid)))
    assert path.stat().st_size > 100


def test_samples_between_rows_are_put_to_the_nearest_row() -> None:
    log = made(10, ["gear"], 2, 1)
    late = Channel("gear", "", log.channels["gear"].time_s + 0.03, log.channels["gear"].value)
    columns = columns_of_log(Log(source="late", channels={**log.channels, "gear": late}))
    held = dict(zip(columns.names, columns.values, strict=True))["gear"]
    assert held is not None
    assert np.isfinite(held).sum() >= len(late) - 1
