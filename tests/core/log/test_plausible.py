"""Values that can't be are left out, and told."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.log.plausible import without_impossible, without_strays


@pytest.mark.parametrize("value", [np.inf, -np.inf, 1e308, 201.0])
def test_a_value_that_can_not_be_is_left_out_and_told(value: float) -> None:
    columns, (told,) = without_impossible({"speed": np.array([30.0, value, 31.0])})
    assert np.isnan(columns["speed"]).tolist() == [False, True, False]
    assert (told.channel, told.count) == ("speed", 1)


def test_sound_columns_are_the_same_arrays() -> None:
    columns = {"speed": np.array([0.0, 90.0, np.nan]), "oil": np.array([1e9])}
    out, told = without_impossible(columns)
    assert all(out[n] is columns[n] for n in columns)
    assert told == []


@pytest.mark.parametrize("wild", [(0.0, 0.0), (-41.0, -31.0), (41.0, 31.0)])
def test_a_position_on_another_part_of_the_earth_is_left_out(wild: tuple[float, float]) -> None:
    latitude, longitude = np.full(50, 41.0), np.full(50, -31.0)
    latitude[7], longitude[7] = wild
    out, (told,) = without_strays({"latitude": latitude, "longitude": longitude})
    assert (
        np.flatnonzero(np.isnan(out["latitude"])).tolist() == np.flatnonzero(np.isnan(out["longitude"])).tolist() == [7]
    )
    assert told.count == 1


def test_a_plane_may_begin_at_nought() -> None:
    x = np.array([0.0, 10.0, 20.0])
    assert without_strays({"x": x, "y": 0.0 * x}) == ({"x": x, "y": pytest.approx(0.0 * x)}, [])
