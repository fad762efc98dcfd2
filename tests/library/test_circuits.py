"""Circuits are known by their paths; their corners keep their numbers."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest

from jete.core.compare import compare
from jete.core.log.lap import Channel, Log
from jete.formats.reader import read_log
from jete.formats.writer import write_log
from jete.library import models
from jete.library.bring_in import bring_in
from jete.library.circuits import keep_corners
from jete.library.library import Library
from known_laps import DEMO, DEMO_PAIR, drawn

INES, TOMASZ = DEMO_PAIR
NOOR = DEMO / "noor-veldane-motorcycle.parquet"
NO_POSITION = ("latitude", "longitude")


def labels(library: Library, run: int, lap: int) -> list[str]:
    found = library.circuits.corners_on(run, library.lap(library.run(run), lap))
    assert found is not None
    return [c.label for c in found]


def written(tmp_path: Path, log: Log, name: str) -> Path:
    write_log(tmp_path / name, log)
    return tmp_path / name


def elsewhere(seed: int, latitude: float = 41.0) -> Log:
    """A log of another circuit, at a place on earth."""
    log = drawn(seed).reference
    x, y = log.channels["x"], log.channels["y"]
    degrees = {
        "latitude": Channel("latitude", "deg", y.time_s, latitude + y.value / 111_200.0),
        "longitude": Channel("longitude", "deg", x.time_s, -31.0 + x.value / 84_000.0),
    }
    return Log(
        source=f"seed {seed}", channels={**{n: c for n, c in log.channels.items() if n not in ("x", "y")}, **degrees}
    )


def with_chicane(log: Log) -> Log:
    """The same log with 160 m of its road 40 m beside where they were."""
    latitude = log.channels["latitude"]
    travelled = np.interp(latitude.time_s, log.channels["distance"].time_s, log.channels["distance"].value)
    within = (travelled % 4000.0 > 1500.0) & (travelled % 4000.0 < 1660.0)
    moved = np.where(within, latitude.value + 40.0 / 111_200.0, latitude.value)
    return replace(log, channels={**log.channels, "latitude": replace(latitude, value=moved)})


@pytest.mark.long
def test_every_driver_and_vehicle_has_the_corners_of_the_circuit(library: Library) -> None:
    runs = [bring_in(library, p, {"circuit": "Kestrel Sands"} if p == INES else {}).run for p in (INES, TOMASZ, NOOR)]
    assert [library.run(n).sheet.circuit for n in runs] == ["Kestrel Sands"] * 3
    car, other, motorcycle = (labels(library, n, 3) for n in runs)
    assert car == other == motorcycle
    assert [x for x in car if x.isdigit()] == [str(k + 1) for k in range(sum(x.isdigit() for x in car))]


@pytest.mark.long
def test_a_corner_has_one_number_in_every_comparison_of_the_circuit(library: Library) -> None:
    runs = [library.run(bring_in(library, p).run) for p in (INES, TOMASZ, NOOR)]
    found = []
    for reference, other in ((0, 1), (1, 0), (2, 0), (0, 2)):
        a, b = library.lap(runs[reference], 3), library.lap(runs[other], 4)
        corners = compare(a, [b], library.circuits.corners_on(runs[reference].id, a)).laps[0].corners
        found.append([(c.corner.id, c.corner.shown, c.corner.direction) for c in corners])
    assert found[0] == found[1] == found[2] == found[3]


@pytest.mark.long
@pytest.mark.parametrize(("minutes", "third"), [(0, "2a"), (10, "3")])
def test_a_later_lap_brings_a_corner_in_between_and_moves_no_number_but_in_one_go(
    library: Library, monkeypatch: pytest.MonkeyPatch, minutes: int, third: str
) -> None:
    monkeypatch.setattr("jete.library.circuit_book.IN_ONE_GO", timedelta(minutes=minutes))
    first = bring_in(library, INES).run
    place = library.circuits.place(first)
    assert place is not None
    assert place.corners is not None
    kept = tuple(c for c in place.corners if c.label != "3")
    with library.writing() as session:
        assert place.founder is not None
        keep_corners(session, place.id, place.founder, kept)
    bring_in(library, TOMASZ)
    found = labels(library, first, 3)
    assert found[:4] == ["1", "2", third, "4"]
    if third == "2a":
        assert [x for x in found if x != "2a"] == [c.label for c in kept]
    else:
        assert found == [str(k) for k in range(1, len(found) + 1)]


@pytest.mark.long
def test_logs_of_other_circuits_begin_circuits_of_their_own(library: Library, tmp_path: Path) -> None:
    bring_in(library, INES, {"circuit": "Kestrel Sands", "driver": "Ines Karlsby"})
    numbers = [bring_in(library, written(tmp_path, elsewhere(s, 30.0 + s), f"{s}.parquet")).run for s in (31, 32, 31)]
    sheets = [library.run(n).sheet for n in numbers]
    assert [s.circuit for s in sheets] == ["Circuit 1", "Circuit 2", "Circuit 1"]
    assert {s.driver for s in sheets} == {""}


@pytest.mark.long
def test_a_chicane_makes_another_layout(library: Library, tmp_path: Path) -> None:
    bring_in(library, INES, {"circuit": "Kestrel Sands"})
    other = written(tmp_path, with_chicane(read_log(TOMASZ)), "chicane.parquet")
    assert library.run(bring_in(library, other).run).sheet.circuit == "Circuit 1"
    third = written(tmp_path, with_chicane(read_log(DEMO / "tomasz-oryel-run-2.parquet")), "again.parquet")
    sheet = library.run(bring_in(library, third, {"circuit": "Kestrel Sands"}).run).sheet
    assert (sheet.circuit, sheet.layout) == ("Kestrel Sands", "layout 2")


@pytest.mark.many
@pytest.mark.parametrize("seed", [31, 32, 33])
def test_without_positions_bends_and_length_tell_the_circuit(library: Library, tmp_path: Path, seed: int) -> None:
    trial = drawn(seed)
    for log, name in ((trial.reference, "a"), (trial.lap, "b"), (drawn(seed + 5).lap, "c")):
        bare = Log(source=name, channels={n: c for n, c in log.channels.items() if n not in ("x", "y")})
        bring_in(library, written(tmp_path, bare, f"{name}.parquet"))
    assert [r.sheet.circuit for r in sorted(library.runs(), key=lambda r: r.id)] == [
        "Circuit 1",
        "Circuit 1",
        "Circuit 2",
    ]


@pytest.mark.long
def test_a_driver_goes_along_from_one_device_and_day_only(library: Library, tmp_path: Path) -> None:
    bring_in(library, INES, {"driver": "Ines Karlsby", "date": "2026-05-02", "condition": "damp"})
    same = library.run(bring_in(library, TOMASZ, {"date": "2026-05-02"}).run).sheet
    assert (same.driver, same.condition) == ("Ines Karlsby", "damp")
    log = read_log(DEMO / "tomasz-oryel-run-2.parquet")
    bare = replace(log, channels={n: c for n, c in log.channels.items() if n != "rpm"})
    other = library.run(bring_in(library, written(tmp_path, bare, "x.parquet"), {"date": "2026-05-02"}).run).sheet
    assert (other.driver, other.condition) == ("", "damp")
    later = library.run(bring_in(library, NOOR, {"date": "2026-05-03"}).run).sheet
    assert (later.driver, later.condition) == ("", "")


@pytest.mark.long
def test_runs_that_were_joined_wrongly_are_told_once_and_can_be_parted(library: Library, tmp_path: Path) -> None:
    bring_in(library, INES, {"circuit": "Kestrel Sands"})
    wrong = [bring_in(library, written(tmp_path, elsewhere(s), f"{s}.parquet")).run for s in (31, 32)]
    for number in wrong:
        library.note_run(number, replace(library.run(number).sheet, circuit="Kestrel Sands"))
    with library.writing() as session:
        for run in session.query(models.Run):
            run.placed = None
    assert library.circuits.strangers() == wrong
    assert library.circuits.strangers() == []
    parted = library.circuits.other_places(wrong)
    assert parted.keys() == set(wrong)
    assert len({name for name, _ in parted.values()} - {"Kestrel Sands"}) == 2
