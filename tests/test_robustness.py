"""Whatever the file, a user gets a result or one clear line; never a traceback."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.log.lap import Lap, Log
from jete.core.motion.split import split
from jete.formats.reader import read_log
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial, draw_trial
from known_laps import compare_trial, csv_text, lap_of, rows_of

CELLS = st.sampled_from(["", "1", "2.5", "-3", "nan", "inf", "x", "1,5", "1e9", " ", '"7"', "0:01:02.5"])


def read_or_refuse(path: Path) -> tuple[Log | None, str]:
    try:
        return read_log(path), ""
    except InputError as error:
        return None, str(error) if error.mend else ""


@settings(max_examples=80, deadline=None)
@given(
    heads=st.lists(
        st.sampled_from(["time", "speed", "lap", "distance", "x", "y", "brake", "oil", "speed [mph]", ""]),
        min_size=1,
        max_size=6,
    ),
    rows=st.lists(st.lists(CELLS, max_size=7), max_size=25),
    separator=st.sampled_from([",", ";", "\t"]),
)
def test_any_table_is_read_or_refused_by_name(heads: list[str], rows: list[list[str]], separator: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "any.csv"
        path.write_text("\n".join(separator.join(r) for r in [heads, *rows]), encoding="utf-8")
        log, refusal = read_or_refuse(path)
    if log is not None:
        assert np.all(np.diff(log.channels["time"].time_s) > 0.0)
    else:
        assert "any.csv" in refusal


@settings(max_examples=40, deadline=None)
@given(data=st.binary(max_size=400))
def test_any_bytes_are_read_or_refused_by_name(data: bytes) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "any.csv"
        path.write_bytes(data)
        with pytest.raises(InputError, match=r"any\.csv"):
            read_log(path)


@pytest.mark.many
@pytest.mark.parametrize("seed", [301])
@pytest.mark.parametrize(
    "channels",
    [
        LoggerSettings().channels,
        ("lap", "distance", "speed"),
        ("lap", "speed", "throttle", "brake"),
        ("lap", "x", "y"),
        ("lap", "distance", "speed", "throttle", "brake", "steering"),
        ("lap", "distance", "speed", "acc_lat", "acc_long"),
    ],
    ids=["all", "speed only", "no distance", "position only", "steering", "accelerations"],
)
def test_whatever_is_logged_the_sums_hold(seed: int, channels: tuple[str, ...]) -> None:
    lap = compare_trial(draw_trial(seed, replace(LoggerSettings(rate_hz=25.0), channels=channels))).laps[0]
    assert sum(c.gap_s for c in lap.corners) == pytest.approx(lap.gap_s, abs=1e-9)
    for c in lap.corners:
        assert c.window.start_m - 15.0 <= c.lap_marks.slow_point_m <= c.window.end_m + 60.0


def damaged(log: Log, what: str) -> Log:
    """A log with one thing broken."""
    rng = np.random.default_rng(1)
    channels = dict(log.channels)
    speed, brake = channels["speed"], channels["brake"]
    if what == "spikes":
        value = speed.value.copy()
        value[rng.integers(0, len(value), 5)] *= 3.0
        channels["speed"] = replace(speed, value=value)
    elif what == "brake drifts":
        channels["brake"] = replace(brake, value=brake.value + np.linspace(0.0, 1.2, len(brake)))
    elif what == "throttle to 87 percent":
        channels["throttle"] = replace(channels["throttle"], value=0.06 + 0.81 * channels["throttle"].value)
    elif what == "seconds missing":
        for name, c in list(channels.items()):
            keep = (c.time_s < 30.0) | (c.time_s > 32.5)
            channels[name] = replace(c, time_s=c.time_s[keep], value=c.value[keep])
    return replace(log, channels=channels)


@pytest.mark.many
@pytest.mark.parametrize("what", ["spikes", "brake drifts", "throttle to 87 percent", "seconds missing"])
def test_a_broken_log_still_finds_the_main_fault(trial: Trial, tmp_path: Path, what: str) -> None:
    path = tmp_path / "broken.csv"
    path.write_text(csv_text(*rows_of(damaged(trial.lap, what))), encoding="utf-8")
    log = read_log(path)
    span = max(split(log), key=lambda s: s.time_s)
    result = compare(lap_of(trial.reference), [Lap(log, span)]).laps[0]
    main = max(trial.faults, key=lambda f: abs(f.cost_s))
    apex = float(trial.axis_m(trial.circuit.corners[main.fault.corner - 1].apex_m))
    corner = min(result.corners, key=lambda c: abs(c.corner.apex_m - apex))
    assert main.fault.kind in {f.kind for f in corner.findings}
    assert result.gap_s == pytest.approx(trial.lap_trace.lap_time_s(1) - trial.reference_trace.lap_time_s(1), abs=0.02)


@pytest.mark.parametrize("what", ["spikes", "seconds missing"])
def test_what_was_mended_is_listed(trial: Trial, tmp_path: Path, what: str) -> None:
    path = tmp_path / "broken.csv"
    path.write_text(csv_text(*rows_of(damaged(trial.lap, what))), encoding="utf-8")
    assert read_log(path).repairs
