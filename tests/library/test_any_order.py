"""What is true of a shelf does not hang on what was brought in first."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jete.core.compare import compare
from jete.core.log.lap import Channel, Log, fastest
from jete.core.motion.borders import better_line, line_of
from jete.formats.reader import read_log
from jete.formats.writer import write_log
from jete.library.bring_in import bring_in
from jete.library.library import Library
from known_laps import DEMO

NOOR = DEMO / "noor-veldane-motorcycle.parquet"


def phone(tmp_path: Path) -> Path:
    """The same laps as a phone has them: places once a second, switched on half way round the lap before."""
    log = read_log(NOOR)
    clock = np.arange(0.0, log.channels["latitude"].time_s[-1], 1.0)
    places = {n: Channel(n, "deg", clock, log.channels[n].at(clock)) for n in ("latitude", "longitude")}
    write_log(
        tmp_path / "phone.csv", Log(source="phone.csv", channels={"time": Channel("time", "s", clock, clock), **places})
    )
    return tmp_path / "phone.csv"


@pytest.mark.many
@pytest.mark.parametrize("first", ["phone", "logger"])
def test_a_phone_s_log_and_a_logger_s_are_of_the_same_laps_in_either_order(
    library: Library, tmp_path: Path, first: str
) -> None:
    files = {"phone": phone(tmp_path), "logger": NOOR}
    order = [first, *(name for name in files if name != first)]
    runs = {name: bring_in(library, files[name]).run for name in order}
    records = {name: library.run(number) for name, number in runs.items()}
    assert len({r.sheet.circuit for r in records.values()}) == 1
    assert fastest(records["logger"].laps, "").time_s == pytest.approx(120.07, abs=0.02)
    assert fastest(records["phone"].laps, "").time_s == pytest.approx(120.07, abs=0.15)
    laps = {name: library.lap(r, fastest(r.laps, "").number) for name, r in records.items()}
    for ours, theirs in (("phone", "logger"), ("logger", "phone")):
        assert abs(compare(laps[ours], [laps[theirs]]).laps[0].gap_s) < 0.2


def test_exchanged_latitudes_and_longitudes_are_told(library: Library, tmp_path: Path) -> None:
    log = read_log(NOOR)
    latitude, longitude = log.channels["latitude"], log.channels["longitude"]
    other = {
        "latitude": replace(latitude, value=longitude.value),
        "longitude": replace(longitude, value=latitude.value),
    }
    write_log(tmp_path / "exchanged.csv", replace(log, channels={**log.channels, **other}))
    bring_in(library, NOOR, {"circuit": "Kestrel Sands"})
    run = library.run(bring_in(library, tmp_path / "exchanged.csv").run)
    assert run.sheet.circuit != "Kestrel Sands"
    told = [r.what for r in run.repairs if r.channel == "position"]
    assert told[-1:] == [
        "latitude and longitude may stand in each other's place: Kestrel Sands lies where they would be exchanged"
    ]


def test_only_a_line_that_was_guessed_gives_way_to_one_that_is_told(tmp_path: Path) -> None:
    guessed, logger = line_of(read_log(phone(tmp_path))), read_log(NOOR)
    assert better_line(logger, guessed) is not None
    assert better_line(logger, replace(guessed, guessed=False)) is None
    assert better_line(logger, line_of(logger)) is None


@pytest.mark.parametrize(("started_s", "date"), [(1_778_320_800.0, "2026-05-09"), (100.0, None), (None, None)])
def test_a_run_s_date_is_the_log_s_own_where_its_clock_was_set(
    library: Library, tmp_path: Path, started_s: float | None, date: str | None
) -> None:
    log = replace(read_log(NOOR), started_s=started_s)
    write_log(tmp_path / "a.mf4", log)
    os.utime(tmp_path / "a.mf4", (1_700_000_000, 1_700_000_000))
    sheet = library.run(bring_in(library, tmp_path / "a.mf4").run).sheet
    assert sheet.date == (date or "2023-11-14")
