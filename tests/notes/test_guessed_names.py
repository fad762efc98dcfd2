"""Who drove, by the names of files and folders: names that are known, new ones, and none where nothing tells."""

from __future__ import annotations

from pathlib import Path

import pytest

from jete.notes.guess import KnownNames, guessed

KNOWN = KnownNames({"driver": ["Tomasz Oryel", "Ines"], "vehicle": ["club car"]})


@pytest.mark.parametrize(
    ("path", "driver", "reason"),
    [
        ("tomasz_oryel-2026-05-02 run 3.csv", "Tomasz Oryel", "the file's name"),
        ("Tomasz Oryel/2026-05-02/run1.csv", "Tomasz Oryel", "its folder's name"),
        ("INES_session2.log.gz", "Ines", "the file's name"),
        ("hedda-ulvik-run-2.parquet", "Hedda Ulvik", "the file's name"),
        ("2026-05-02_Noor_lap4.gpx", "Noor", "the file's name"),
    ],
)
def test_a_driver_is_guessed_with_the_reason(path: str, driver: str, reason: str) -> None:
    found = guessed(Path("/logs/day") / path, KNOWN)["driver"]
    assert (found.value, found.reason) == (driver, reason)


@pytest.mark.parametrize(
    "name", ["run-1.csv", "2026-05-02 session 3.csv", "log.mf4", "ab.csv", "one two three four five.csv"]
)
def test_where_nothing_tells_nothing_is_guessed(name: str) -> None:
    assert "driver" not in guessed(Path("/data") / name, KNOWN)


def test_a_known_vehicle_is_no_driver() -> None:
    found = guessed(Path("/x/club-car ines run 2.csv"), KNOWN)
    assert {n: g.value for n, g in found.items()} == {"driver": "Ines", "vehicle": "club car"}
    assert "driver" not in guessed(Path("/x/club car run 2.csv"), KnownNames({"vehicle": ["club car"]}))
