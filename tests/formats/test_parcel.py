"""A lap handed on as one zip: what went in comes out, and what was tampered with is refused whole."""

from __future__ import annotations

import json
import warnings
import zipfile
from dataclasses import replace
from typing import TYPE_CHECKING

import pyarrow.parquet as pq
import pytest

from jete.core.errors import InputError
from jete.formats import geojson
from jete.formats.aligned import log_of_lap
from jete.formats.parcel import (
    ABOUT,
    CIRCUIT,
    GUIDE,
    LAP,
    README,
    SCHEMA,
    About,
    ParcelNote,
    ParcelWords,
    is_parcel,
    read_parcel,
    write_parcel,
)
from known_laps import DEMO, drawn, lap_of

if TYPE_CHECKING:
    from pathlib import Path

GUIDE_DOCUMENT = {
    "schema": "jete.guide/1", "circuit": "Kestrel Sands", "lap": "a lap", "time_s": 111.1, "good_laps": 5, "rules": [],
    "cards": [{"corner": 1, "number": "1", "name": "Harbour", "direction": "right", "line": "brake", "typed": {}, "measured": {"brake": "here"}}],
}  # fmt: skip
ABOUT_LAP = About(
    {"circuit": "Kestrel Sands", "driver": "Ines Karlsby"}, 4, 111.134, 4512.5, "calm",
    (ParcelWords(1, "brake", "at the cone", "12 m before the cone"),), (ParcelNote(2, "", "wet in the shade"),),
)  # fmt: skip


@pytest.fixture
def parcel(tmp_path: Path) -> Path:
    path = tmp_path / "lap.zip"
    circuit = geojson.read(DEMO / "kestrel-sands.geojson")
    write_parcel(path, ABOUT_LAP, log_of_lap(lap_of(drawn(5).reference)), circuit, GUIDE_DOCUMENT)
    return path


def tampered(path: Path, **changes: bytes | None) -> Path:
    """The parcel with parts exchanged, put in, or (None) left out."""
    with zipfile.ZipFile(path) as archive:
        parts: dict[str, bytes | None] = {n: archive.read(n) for n in archive.namelist()}
    parts.update({k.replace("__", "/"): v for k, v in changes.items()})
    out = path.with_name("tampered.zip")
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in parts.items():
            if content is not None:
                archive.writestr(name, content)
    return out


def test_what_went_in_comes_out(parcel: Path) -> None:
    found = read_parcel(parcel)
    assert found.about == ABOUT_LAP
    assert found.circuit is not None
    assert len(found.circuit.corners) == 12
    assert found.guide == GUIDE_DOCUMENT
    assert is_parcel(parcel)


def test_other_tools_can_read_its_parts(parcel: Path, tmp_path: Path) -> None:
    with zipfile.ZipFile(parcel) as archive:
        archive.extractall(tmp_path / "out")
    assert pq.read_table(tmp_path / "out" / LAP).num_rows > 1000
    assert json.loads((tmp_path / "out" / CIRCUIT).read_text())["type"] == "FeatureCollection"
    readme = (tmp_path / "out" / README).read_text(encoding="utf-8")
    assert "Kestrel Sands" in readme
    assert "Closed circuits only" in readme


def test_without_circuit_and_guide_it_is_a_parcel_still(tmp_path: Path) -> None:
    path = tmp_path / "bare.zip"
    write_parcel(path, ABOUT_LAP, log_of_lap(lap_of(drawn(5).reference)), None, None)
    found = read_parcel(path)
    assert (found.circuit, found.guide) == (None, None)


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        ({"..__evil.txt": b"x"}, r"holds what no parcel does \('\.\./evil"),
        ({"notes.exe": b"x"}, "holds what no parcel does"),
        ({ABOUT: None}, r"parcel\.json is missing"),
        ({LAP: None}, r"lap\.parquet is missing"),
        ({ABOUT: b"{"}, r"parcel\.json is no JSON"),
        ({ABOUT: b"[" * 100_000}, r"parcel\.json is no JSON"),
        ({ABOUT: b"[]"}, r"parcel\.json is not as it should be"),
        ({ABOUT: json.dumps({"schema": SCHEMA, "sheet": {"driver": 7}, "lap": 1, "time_s": 90, "length_m": 4000}).encode()}, "is no text"),
        ({ABOUT: json.dumps({"schema": SCHEMA, "sheet": {}, "lap": True, "time_s": 90, "length_m": 4000}).encode()}, "no number of something"),
        ({ABOUT: json.dumps({"schema": SCHEMA, "sheet": {}, "lap": 1, "time_s": float("nan"), "length_m": 4000}).encode()}, "no time or length of a lap"),
        ({ABOUT: json.dumps({"schema": "jete.parcel/9", "sheet": {}, "lap": 1, "time_s": 9}).encode()}, "schema"),
        ({CIRCUIT: b"{}"}, "no circuit"),
        ({GUIDE: b'{"schema": "jete.guide/1"}'}, r"guide\.json is not as it should be"),
        ({GUIDE: json.dumps({**GUIDE_DOCUMENT, "cards": [{"corner": "1"}]}).encode()}, r"guide\.json is not"),
    ],
)  # fmt: skip
def test_what_is_not_as_it_should_be_is_refused_whole(parcel: Path, changes: dict[str, bytes], told: str) -> None:
    with pytest.raises(InputError, match=told):
        read_parcel(tampered(parcel, **changes))


def test_a_bomb_is_refused_by_what_it_would_swell_to(parcel: Path) -> None:
    with pytest.raises(InputError, match=r"would (swell|unpack)"):
        read_parcel(tampered(parcel, **{GUIDE: b" " * (3 << 20), CIRCUIT: b" " * (19 << 20), README: b" " * 60_000}))
    with pytest.raises(InputError, match=r"README\.txt would unpack"):
        read_parcel(tampered(parcel, **{README: b" " * (1 << 20)}))


def test_a_part_that_is_there_twice_is_refused(parcel: Path) -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with zipfile.ZipFile(parcel, "a") as archive:
            archive.writestr(ABOUT, b"{}")
    with pytest.raises(InputError, match="holds what no parcel does"):
        read_parcel(parcel)


def test_a_damaged_one_is_refused(parcel: Path) -> None:
    content = bytearray(parcel.read_bytes())
    content[2000:2400] = bytes(400)
    parcel.write_bytes(content)
    with pytest.raises(InputError):
        read_parcel(parcel)


def test_what_is_no_zip_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "notes.zip"
    path.write_text("no zip")
    assert not is_parcel(path)
    with pytest.raises(InputError, match="no parcel"):
        read_parcel(path)
    with pytest.raises(InputError, match="can't be read"):
        read_parcel(tmp_path / "gone.zip")


def test_a_place_that_can_not_be_written_to_is_said(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="can't be written"):
        write_parcel(
            tmp_path / "none" / "x.zip",
            replace(ABOUT_LAP, words=()),
            log_of_lap(lap_of(drawn(5).reference)),
            None,
            None,
        )
