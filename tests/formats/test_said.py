"""Who drove what, as logs say themselves: remarks, an author, the head of a measurement file."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from jete.formats.said import said_in, said_over_heading

if TYPE_CHECKING:
    from pathlib import Path

ROWS = ["time,speed", "0,10", "1,11"]


@pytest.mark.parametrize(
    ("remarks", "told"),
    [
        (["Driver,Ines Karlsby", "Car,club car"], {"driver": "Ines Karlsby", "vehicle": "club car"}),
        (["# rider = Noor Veldane"], {"driver": "Noor Veldane"}),
        (['"Racer";"Tomasz Oryel"', "Date;2026-05-02"], {"driver": "Tomasz Oryel"}),
        (["Driver:", "Vehicle: 7"], {}),
        (["Driver: " + 9 * "a long story "], {}),
        (["driver,speed,time", "1,2,3"], {}),
    ],
)
def test_remarks_over_the_heading_name_driver_and_vehicle(
    remarks: list[str], told: dict[str, str], tmp_path: Path
) -> None:
    path = tmp_path / "log.csv"
    path.write_text("\n".join((*remarks, *ROWS)), encoding="utf-8")
    assert said_in(path) == told


def test_what_stands_under_the_heading_is_no_remark() -> None:
    assert said_over_heading([*ROWS, "Driver,Ines"]) == {}


@pytest.mark.parametrize("author", ["<author><name>Noor Veldane</name></author>", "<author>Noor Veldane</author>"])
def test_a_track_names_its_author(author: str, tmp_path: Path) -> None:
    path = tmp_path / "track.gpx"
    path.write_text(f'<?xml version="1.0"?><gpx version="1.1">{author}<trk/></gpx>', encoding="utf-8")
    assert said_in(path) == {"driver": "Noor Veldane"}


def test_the_head_of_a_measurement_file_names_who_measured_what(tmp_path: Path) -> None:
    from asammdf import MDF

    path = tmp_path / "log.mf4"
    with MDF() as file:
        file.header.author, file.header.subject = "Hedda Ulvik", "club car"
        file.save(path)
    assert said_in(path) == {"driver": "Hedda Ulvik", "vehicle": "club car"}


def test_a_file_that_says_nothing_or_is_gone_names_nobody(tmp_path: Path) -> None:
    assert said_in(tmp_path / "gone.csv") == {}
    (tmp_path / "x.csv").write_bytes(b"\x89PNG\0\0")
    assert said_in(tmp_path / "x.csv") == {}
