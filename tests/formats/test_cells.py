"""Numbers, times and units as cells write them."""

from __future__ import annotations

import numpy as np
import pytest

from jete.formats.cells import is_arc, is_clock, value_of


@pytest.mark.parametrize(
    ("cell", "name", "value"),
    [
        ("1:02.5", "time", 62.5),
        ("0:01:02.500", "time", 62.5),
        ("0:01:02,500", "time", 62.5),
        ("2025-01-01T00:01:02.500", "time", 62.5),
        ("2025-01-02 00:00:01", "time", 86401.0),
        ("2025-01-01T00:00:05Z", "time", 5.0),
        ("", "speed", np.nan),
        ("1.5", "speed", 1.5),
        ('"1.5"', "speed", 1.5),
        ("52° 30.0' N", "latitude", 52.5),
        ("N 52° 30.0'", "latitude", 52.5),
        ("52:30.0", "latitude", 52.5),
        ("52:30:36", "latitude", 52.51),
        ("52d30m36s", "latitude", 52.51),
        ("7 15.5 W", "longitude", -7.258333),
        ("-7 15.5", "longitude", -7.258333),
        ("7.5 W", "longitude", -7.5),
        ("0715.5 W", "longitude", -7.258333),
        ("52.5", "latitude", 52.5),
    ],
)
def test_a_cell_is_read_as_its_column_means_it(cell: str, name: str, value: float) -> None:
    assert value_of(cell, name) == pytest.approx(value, nan_ok=True, abs=1e-6)


@pytest.mark.parametrize("cell", ["fast", "1.2.3", "52 N 30"])
def test_other_text_is_no_number(cell: str) -> None:
    with pytest.raises(ValueError, match=r".+"):
        value_of(cell, "latitude")


def test_a_decimal_comma_is_read_where_it_is_one() -> None:
    assert value_of("3,5", "speed", ",") == 3.5


def test_clocks_and_angles_are_told_apart_from_numbers() -> None:
    assert is_clock("1:02.5")
    assert not is_clock("12.5")
    assert is_arc("52 30.5 N")
    assert not is_arc("52.5")
