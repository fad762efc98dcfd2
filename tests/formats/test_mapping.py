"""Columns that are not known by name: guessed, mapped, told why."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.core.errors import InputError
from jete.formats.columns import UnknownColumnsError
from jete.formats.guess import guess
from jete.formats.mapping import Assigned, ColumnMap, from_json, to_json
from jete.formats.reader import read_columns, read_log
from jete.simulate.trials import Trial
from known_laps import csv_text, rows_of

if TYPE_CHECKING:
    from collections.abc import Callable

    Write = Callable[..., Path]

HEAD = "zeitstempel,c1 [km/h],c2 [bar],lat,note"
ROWS = "\n".join(f"{20 * k},{100 + k},{k % 3},{5 - k},x" for k in range(60))
CHOSEN = ColumnMap(
    ("zeitstempel", "c1", "c2", "lat", "note"),
    (
        Assigned("zeitstempel", "time", "ms"),
        Assigned("c1", "speed", "km/h", 1, -10.0),
        Assigned("c2", "steering", "deg", -1, 0.0),
    ),
)


def text(head: str = HEAD) -> str:
    return f"# exported\ntime of nothing\n{head}\n{ROWS}\n".replace("time of nothing\n", "")


def test_unknown_columns_are_handed_over_with_the_refusal(write: Write) -> None:
    with pytest.raises(UnknownColumnsError) as refused:
        read_log(write("oil,speed\n" + "\n".join(f"{k},{k}" for k in range(9))))
    assert refused.value.columns is not None
    assert refused.value.columns.names == ("oil", "speed")


def test_a_map_gives_columns_their_channel_unit_sign_and_offset(write: Write) -> None:
    path = write(text("zeitstempel,c1,c2,lat,note"))
    log = read_log(path, maps=[CHOSEN])
    assert log.channels["time"].time_s[10] == pytest.approx(0.2)
    assert log.channels["speed"].value[0] == pytest.approx(90.0 / 3.6)
    assert log.channels["steering"].value[1] == pytest.approx(np.radians(-1.0))


def test_a_map_is_used_for_files_that_look_alike_only(write: Write) -> None:
    columns = read_columns(write(text("zeitstempel,c1,c2,lat,note")))
    assert CHOSEN.fits(columns)
    assert not ColumnMap(("a", "b"), CHOSEN.columns).fits(columns)


def test_guesses_say_why(write: Write) -> None:
    found = guess(read_columns(write(text(HEAD))))
    assert (found[0].channel, found[0].unit) == ("time", "ms")
    assert "rises by 20" in found[0].why
    assert found[1].channel == "speed"
    assert (found[3].channel, found[3].why) == ("latitude", "by its name")
    assert found[4].why == "text"


def test_a_map_can_be_handed_on() -> None:
    assert from_json(to_json(CHOSEN)) == CHOSEN
    for broken in ("", "[]", '{"schema": "other/1"}', '{"schema": "jete.columns/1"}'):
        with pytest.raises(InputError, match=r"map of columns|Choose"):
            from_json(broken)


def driven(trial: Trial, name: str, factor: float, unit: str = "") -> str:
    """A lap whose column is in a unit of its own, which its heading says, or not."""
    heads, table = rows_of(trial.lap, every=4)
    keep = [i for i, h in enumerate(heads) if h.split(" ")[0] in ("time", "speed", "throttle", "x", "y")]
    heads, table = [heads[i] for i in keep], table[:, keep]
    at = next(i for i, h in enumerate(heads) if h.split(" ")[0] == name)
    heads[at], table[:, at] = f"{name} {unit}".strip(), table[:, at] * factor
    return csv_text(heads, table)


@pytest.mark.parametrize(("name", "factor", "why"), [("time", 137.0, "rows lie"), ("speed", 0.2, "no unit of speed")])
def test_a_unit_that_nobody_said_and_nothing_tells_is_asked_for(
    trial: Trial, write: Write, name: str, factor: float, why: str
) -> None:
    with pytest.raises(UnknownColumnsError, match=why) as refused:
        read_log(write(driven(trial, name, factor)))
    assert refused.value.worth_mapping
    said = {"time": "s", "speed": "km/h"}[name]
    chosen = ColumnMap(refused.value.columns.names, (Assigned(name, name, said),))
    assert read_log(write(driven(trial, name, factor)), maps=[chosen]).channels["time"].time_s[-1] > 10.0


def test_a_unit_that_the_heading_says_is_believed(trial: Trial, write: Write) -> None:
    assert read_log(write(driven(trial, "speed", 0.2, "[km/h]"))).channels
