"""Circuits as GeoJSON: there and back, drawn by others, and refused where they are none."""

from __future__ import annotations

import copy
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from jete.core.axis.road.corners import Corner
from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook
from jete.core.errors import InputError
from jete.core.log.plane import Origin
from jete.formats.geojson import CircuitFile, document, parsed, read, write
from jete.simulate.demo import kestrel_sands
from jete.simulate.demo_road import kestrel_sands_file

SHIPPED = Path("src/jete/app/assets/demo/kestrel-sands.geojson")
ANGLE = np.linspace(0.0, 2.0 * np.pi, 101)
RING = 160.0 * np.stack([np.cos(ANGLE), np.sin(ANGLE)], axis=1)


SEA = Origin(41.0, -31.0)


def ring(origin: Origin = SEA) -> CircuitFile:
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(RING, axis=0).T))])
    book = RoadBook(
        (Landmark(id=4, kind=LandmarkKind.BOARD, circuit_m=300.0, text="100", side="left", seen="fairly", from_m=90.0),), (Hazard(9, 350.0, 380.0, "wall", "right"),),
        ("Keep left in the pits.",), (400.0,), ((0.0, 4.0, 5.0),),
    )  # fmt: skip
    return CircuitFile(
        "Ring",
        "short",
        origin,
        along,
        RING,
        (Corner(number=1, direction="left", start_m=310.0, apex_m=340.0, end_m=370.0, label="1a", id=7, name="Bend"),),
        book,
    )


@pytest.mark.parametrize("origin", [SEA, Origin()])
def test_a_circuit_goes_there_and_back(origin: Origin, tmp_path: Path) -> None:
    write(tmp_path / "ring.geojson", ring(origin))
    back = read(tmp_path / "ring.geojson")
    assert (back.name, back.layout, back.corners, back.book) == ("Ring", "short", ring().corners, ring().book)
    assert back.axis_m == pytest.approx(ring().axis_m, abs=0.05)
    assert (back.origin.latitude_deg is None) is (origin.latitude_deg is None)


def test_it_is_geojson_as_the_standard_has_it() -> None:
    data = document(ring())
    assert data["type"] == "FeatureCollection"
    for feature in data["features"]:
        assert feature["type"] == "Feature"
        kind, points = feature["geometry"]["type"], feature["geometry"]["coordinates"]
        flat = [points] if kind == "Point" else points
        assert kind in ("Point", "LineString")
        assert all(len(p) == 2 and abs(p[0]) <= 180.0 and abs(p[1]) <= 90.0 for p in flat)
    assert json.loads(json.dumps(data)) == data


def test_a_plane_of_its_own_is_said_in_the_file() -> None:
    assert document(ring(Origin()))["jete:plane"]
    assert document(ring())["jete:plane"] is None


def test_what_ships_is_what_is_made() -> None:
    made = document(kestrel_sands_file(kestrel_sands()))
    assert json.loads(SHIPPED.read_text(encoding="utf-8")) == made


def broken(change: dict[str, Any], feature: int | None = None) -> dict[str, Any]:
    data = document(ring())
    if feature is None:
        return {**data, **change}
    properties = {**data["features"][feature]["properties"], **change}
    data["features"][feature] = {**data["features"][feature], "properties": properties}
    return data


@pytest.mark.parametrize(
    "data",
    [
        [], {}, {"type": "FeatureCollection", "features": []}, broken({"features": 3}), broken({"features": [{}]}),
        broken({"features": document(ring())["features"][1:]}), broken({"circuit_m": float("nan")}, 1),
        broken({"direction": "up"}, 1), broken({"kind": "castle"}, 2), broken({"side": "below"}, 2), broken({"jete:sectors_m": ["x"]}),
        broken({"circuit_m": True}, 2), broken({"axis_m": [0.0, 1.0]}, 0),
    ],
)  # fmt: skip
def test_what_is_no_circuit_is_refused_with_one_message(data: Any) -> None:
    with pytest.raises(InputError):
        parsed(data, "x.geojson")


@pytest.mark.parametrize("text", ["", "{", "[" * 100_000, '{"type": "FeatureCollection"}', "\x00"])
def test_a_file_that_is_none_is_refused(text: str, tmp_path: Path) -> None:
    (tmp_path / "x.geojson").write_text(text, encoding="utf-8")
    with pytest.raises(InputError):
        read(tmp_path / "x.geojson")
    with pytest.raises(InputError):
        read(tmp_path / "none.geojson")


def with_corner(**told: Any) -> Any:
    """The ring with its corner told otherwise."""
    return broken(told, 1)


def many(count: int, **told: Any) -> Any:
    """The ring with so many corners, each 2 m on."""
    data = document(ring())
    place, (path, corner, *rest) = 2.0, data["features"]
    corners = [copy.deepcopy(corner) for _ in range(count)]
    for k, one in enumerate(corners):
        at = {"start_m": place * k + 1.0, "circuit_m": place * k + 1.5, "end_m": place * k + 2.0}
        one["properties"].update({"id": k, "number": str(k), **at, **told})
    return {**data, "features": [path, *corners, *rest]}


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (with_corner(start_m=370.0, end_m=310.0), "backwards"),
        (with_corner(start_m=-20.0), "outside the lap"),
        (with_corner(end_m=1e6), "outside the lap"),
        (broken({"circuit_m": 5000.0}, 2), "outside the lap"),
        (broken({"axis_m": [1e300 * k for k in range(101)]}, 0), "no circuit is"),
        (broken({"axis_m": [1e308 + k for k in range(101)]}, 0), "no circuit is"),
        (many(450), "more than 400 corners"),
        (many(3, number="7"), "one number"),
        (many(3, id=7), "one id"),
        (many(5000), "more than 3000"),
    ],
)
def test_what_no_circuit_can_be_is_refused_and_told(data: Any, told: str) -> None:
    with pytest.raises(InputError, match=told):
        parsed(data, "x.geojson")


def test_a_path_of_a_million_points_is_refused_before_it_is_looked_at() -> None:
    data = document(ring())
    data["features"][0]["geometry"]["coordinates"] = [[0.0, 0.0]] * 400_000
    with pytest.raises(InputError, match="20000 points"):
        parsed(data, "x.geojson")


def test_halves_of_code_units_become_something_that_can_be_written() -> None:
    circuit = parsed(broken({"text": "cone \ud800 left"}, 2), "x")
    assert circuit.book.landmarks[0].text == "cone ? left"


def test_a_place_that_can_not_be_written_to_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("", encoding="utf-8")
    with pytest.raises(InputError, match="can't be written"):
        write(tmp_path / "file" / "ring.geojson", ring())


def test_ends_that_are_not_told_are_found_on_the_path() -> None:
    data = document(ring())
    for key in ("start_m", "end_m"):
        del data["features"][1]["properties"][key]
    corner = parsed(data, "x").corners[0]
    assert (corner.start_m, corner.end_m) == pytest.approx((310.0, 370.0), abs=1.0)
    assert replace(corner, start_m=310.0, end_m=370.0) == ring().corners[0]
