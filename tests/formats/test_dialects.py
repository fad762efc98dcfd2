"""One run of known laps, written in other ways: the same laps must come out."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.core.log.lap import LapSpan, Log
from jete.core.motion.split import split
from jete.formats.reader import read_log
from jete.simulate.driver import LapPlan, Style, Trace, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR
from known_laps import csv_text, drawn, rows_of

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    Write = Callable[..., Path]
    Columns = dict[str, np.ndarray]

M_PER_DEGREE = 111_194.93


@cache
def run() -> tuple[Log, Trace]:
    """Five laps of one car, at 20 Hz, and their truth."""
    circuit = drawn(5, faults=0).circuit
    trace = drive(circuit, CAR, [LapPlan()] * 5, Style())
    settings = LoggerSettings(rate_hz=20.0, position_noise_m=0.1)
    return record(trace, draw_line(circuit, 1), settings, 1, (1, 4), "run.csv"), trace


def columns(*names: str) -> Columns:
    heads, table = rows_of(run()[0], names)
    return {head.split(" ")[0]: table[:, k] for k, head in enumerate(heads)}


def text_of(cells: Columns, separator: str = ",") -> str:
    """Columns of numbers or of text as CSV."""
    rows = zip(*[[x if isinstance(x, str) else f"{x:.4f}" for x in c] for c in cells.values()], strict=True)
    return "\n".join([separator.join(cells), *(separator.join(r) for r in rows)]).replace("nan", "") + "\n"


def laps_of(log: Log) -> list[LapSpan]:
    return [s for s in split(log) if s.complete]


def assert_true_laps(log: Log, within_s: float) -> None:
    """The two laps inside the log have their true times."""
    _, trace = run()
    found = [s.time_s for s in laps_of(log)]
    assert found[:2] == pytest.approx([trace.lap_time_s(1), trace.lap_time_s(2)], abs=within_s)


def lap_clock(cells: Columns) -> np.ndarray:
    """Seconds since the line, by the truth."""
    _, trace = run()
    starts = [trace.crossing_s(k) - trace.crossing_s(1) for k in (1, 2, 3)]
    at = np.searchsorted(starts, cells["time"], side="right") - 1
    return cells["time"] - np.array(starts)[np.maximum(at, 0)]


def test_the_run_as_it_is_has_its_true_laps() -> None:
    assert_true_laps(run()[0], 0.01)


def test_a_time_that_counts_within_the_lap_tells_the_laps(write: Write) -> None:
    cells = columns("time", "speed", "throttle")
    cells["time"] = lap_clock(cells)
    assert_true_laps(read_log(write(text_of(cells))), 0.01)


def test_a_lap_time_column_beside_the_time_tells_the_laps(write: Write) -> None:
    cells = columns("time", "speed")
    log = read_log(write(text_of({**cells, "Lap Time": lap_clock(cells)})))
    assert_true_laps(log, 0.01)


@pytest.mark.parametrize("pulses", [True, False])
def test_a_beacon_tells_the_laps_to_a_sample(write: Write, *, pulses: bool) -> None:
    cells = columns("time", "speed")
    number = np.concatenate([[0.0], np.cumsum(np.diff(lap_clock(cells)) < 0.0)])
    beacon = np.concatenate([[0.0], np.diff(number)]) * 100.0 if pulses else number
    assert_true_laps(read_log(write(text_of({**cells, "beacon": beacon}))), 0.051)


def test_an_odometer_that_overflows_does_not_cut_laps(write: Write) -> None:
    cells = columns("time", "speed", "x", "y", "distance")
    speed = np.interp(cells["time"], run()[0].channels["speed"].time_s, run()[0].channels["speed"].value)
    total = np.concatenate([[0.0], np.cumsum(0.5 * (speed[1:] + speed[:-1]) * np.diff(cells["time"]))])
    log = read_log(write(text_of({**cells, "distance": (total + 400.0) % 1000.0})))
    assert any("overflows" in r.what for r in log.repairs)
    assert_true_laps(log, 0.02)


def degrees(cells: Columns) -> Columns:
    """The run's path laid near 52 N, 7 W."""
    north, east = cells.pop("y") / M_PER_DEGREE, cells.pop("x") / M_PER_DEGREE
    return {**cells, "latitude": 52.0 + north, "longitude": -7.0 + east / np.cos(np.radians(52.0))}


def minutes(value: np.ndarray, form: str, sides: str) -> list[str]:
    """Angles as text, empty where there is none."""
    out = []
    for v in value:
        if np.isnan(v):
            out.append("")
            continue
        whole, rest = divmod(abs(float(v)), 1.0)
        out.append(form.format(d=int(whole), m=60.0 * rest, s=sides[0] if v >= 0 else sides[1]))
    return out


@pytest.mark.parametrize(
    "form", ["{d} {m:.6f} {s}", "{s} {d}° {m:.6f}'", "{d}:{m:.6f}{s}", "{d:02d}{m:09.6f}{s}"],
    ids=["blanks", "marks", "colon", "together"],
)  # fmt: skip
def test_positions_in_degrees_and_minutes_are_read(write: Write, form: str) -> None:
    cells = degrees(columns("time", "speed", "x", "y"))
    written = {
        **cells,
        "latitude": minutes(cells["latitude"], form, "NS"),
        "longitude": minutes(cells["longitude"], form, "EW"),
    }
    log = read_log(write(text_of(written)))  # type: ignore[arg-type]
    known = np.isfinite(cells["latitude"])
    assert log.channels["longitude"].value[:50] == pytest.approx(cells["longitude"][known][:50], abs=1e-6)
    assert_true_laps(log, 0.02)


def test_degrees_and_minutes_written_together_as_numbers_are_taken_apart(write: Write) -> None:
    cells = degrees(columns("time", "speed", "x", "y"))
    for name in ("latitude", "longitude"):
        whole = np.trunc(cells[name])
        cells[name] = 100.0 * whole + 60.0 * (cells[name] - whole)
    log = read_log(write(text_of(cells)))
    assert float(log.channels["latitude"].value[0]) == pytest.approx(52.0, abs=0.05)
    assert any("taken apart" in r.what for r in log.repairs)


def test_dates_with_their_clock_are_read(write: Write) -> None:
    cells = columns("time", "speed", "lap")
    stamps = [f"2025-06-14T23:59:{t:06.3f}" if t < 60 else None for t in cells["time"] + 20.0]
    stamps = [
        s or f"2025-06-15T00:{int((t - 40) // 60):02d}:{(t - 40) % 60:06.3f}"
        for s, t in zip(stamps, cells["time"], strict=True)
    ]
    assert_true_laps(read_log(write(text_of({**cells, "time": stamps}))), 0.05)  # type: ignore[dict-item]


def test_a_log_in_utf_16_is_read(tmp_path: Path) -> None:
    path = tmp_path / "wide.csv"
    path.write_text(csv_text(*rows_of(run()[0])), encoding="utf-16")
    assert_true_laps(read_log(path), 0.01)


def test_remarks_and_headings_between_the_rows_are_left_out(write: Write) -> None:
    lines = csv_text(*rows_of(run()[0])).splitlines()
    lines = [*lines[:500], "# pit board shown", lines[0], *lines[500:]]
    log = read_log(write("\n".join(lines) + "\n"))
    assert len(log.channels["time"]) == len(run()[0].channels["time"])
    assert_true_laps(log, 0.01)


def test_a_lap_column_that_changes_late_does_not_move_the_line(write: Write) -> None:
    """A line is where the distance starts anew, not where a slow lap counter was updated."""
    heads, table = rows_of(run()[0])
    every = np.full(len(table), np.nan)
    every[::10] = table[::10, heads.index("lap")]
    table[:, heads.index("lap")] = every
    assert_true_laps(read_log(write(csv_text(heads, table))), 0.05)


@pytest.mark.parametrize("rate", [1, 2, 5])
def test_channels_at_other_rates_in_padded_cells_keep_their_own(write: Write, rate: int) -> None:
    heads, table = rows_of(run()[0])
    column = heads.index("throttle [%]")
    padded = table.copy()
    padded[np.arange(len(table)) % rate != 0, column] = np.nan
    throttle = read_log(write(csv_text(heads, padded))).channels["throttle"]
    assert np.median(np.diff(throttle.time_s)) == pytest.approx(0.05 * rate)
