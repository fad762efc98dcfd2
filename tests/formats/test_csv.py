"""CSV logs: separators, headers, units, damage, messages."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jete.core.errors import InputError
from jete.formats.columns import assign, split_heading
from jete.formats.csv_text import find_layout
from jete.formats.reader import read_log
from jete.formats.watched import Watch
from jete.formats.writer import write_log
from jete.simulate.trials import Trial
from known_laps import csv_text, rows_of

if TYPE_CHECKING:
    from collections.abc import Callable

    Write = Callable[..., Path]

ROWS = np.array([[0.01 * k, 100.0 + 0.5 * k, 50.25] for k in range(60)])
HEADS = ["time [s]", "speed [km/h]", "throttle [%]"]


@pytest.mark.parametrize(
    ("cell", "expected"),
    [
        ("speed", ("speed", None)),
        ("Speed [km/h]", ("Speed", "km/h")),
        ("GPS Speed (mph)", ("GPS Speed", "mph")),
        ('"time [s]"', ("time", "s")),
        ("gear []", ("gear", "")),
    ],
)
def test_headings_are_split_into_name_and_unit(cell: str, expected: tuple[str, str | None]) -> None:
    assert split_heading(cell) == expected


def test_the_canonical_spelling_wins_over_another() -> None:
    assert assign(["vehicle speed", "speed", "oil"]) == {"speed": 1, "vehicle speed": 0, "oil": 2}


def test_a_receiver_s_speed_alone_is_the_speed(write: Write) -> None:
    text = "time,gps speed [km/h],lap\n" + "".join(f"{k / 10},{90 + k % 9},1\n" for k in range(60))
    log = read_log(write(text))
    assert log.channels["speed"].value[0] == pytest.approx(25.0)


@pytest.mark.parametrize("separator", [",", ";", "\t"])
@pytest.mark.parametrize("decimal", [".", ","])
def test_separators_and_decimal_marks_are_found(write: Write, separator: str, decimal: str) -> None:
    if separator == decimal:
        return
    log = read_log(write(csv_text(HEADS, ROWS, separator, decimal)))
    assert log.channels["speed"].value[10] == pytest.approx(105.0 / 3.6)
    assert log.channels["throttle"].value[0] == pytest.approx(0.5025)


@pytest.mark.parametrize(
    "text",
    [
        "\ufeff" + csv_text(HEADS, ROWS),
        "# made by hand\n# second remark\n" + csv_text(HEADS, ROWS),
        csv_text(["TIME (s)", "Vehicle Speed (km/h)", "TPS (%)"], ROWS),
        csv_text(["time", "speed", "throttle"], ROWS),
        csv_text(["time", "speed", "throttle"], ROWS).replace("\n", "\ns,km/h,%\n", 1),
        csv_text(HEADS, ROWS).replace("\n", "\r\n"),
        csv_text(HEADS, ROWS).replace("\n", ",\n"),
        csv_text([f'"{h}"' for h in HEADS], ROWS),
        "Session;made up\nVenue;none\n\n" + csv_text(HEADS, ROWS),
        csv_text(["throttle [%]", "speed [m/s]", "time [ms]"], ROWS[:, ::-1] * [1.0, 1 / 3.6, 1000.0]),
        csv_text(HEADS, ROWS).replace("\n", "\n\n"),
    ],
    ids=[
        "byte order mark", "remarks", "other spellings", "no units", "units row", "carriage returns", "trailing separator",
        "quoted", "preamble", "other order and units", "blank lines",
    ],
)  # fmt: skip
def test_dialects_give_the_same_log(write: Write, text: str) -> None:
    log = read_log(write(text))
    assert len(log.channels["time"]) == 60
    assert log.channels["time"].value[20] == pytest.approx(0.2)
    assert log.channels["speed"].value[10] == pytest.approx(105.0 / 3.6, rel=1e-4)
    assert log.channels["throttle"].value[0] == pytest.approx(0.5025, rel=1e-3)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    separator=st.sampled_from([",", ";", "\t"]),
    case=st.sampled_from([str.upper, str.title, str.lower]),
    blank=st.sampled_from(["_", " ", ""]),
    mark=st.booleans(),
)
def test_any_mix_of_dialects_is_read(
    tmp_path: Path, separator: str, case: Callable[[str], str], blank: str, *, mark: bool
) -> None:
    heads = [case(h.replace("_", blank)) for h in ("time", "brake_front", "speed")]
    path = tmp_path / "mix.csv"
    path.write_text(("\ufeff" if mark else "") + csv_text(heads, ROWS, separator), encoding="utf-8")
    assert {"time", "brake_front", "speed"} <= read_log(path).channels.keys()


def test_unknown_columns_are_kept(write: Write) -> None:
    log = read_log(write(csv_text([*HEADS[:2], "oil temperature [C]"], ROWS)))
    assert log.channels["oil temperature"].value[3] == pytest.approx(50.25)


def test_a_text_column_does_not_matter(write: Write) -> None:
    text = "time,speed,flag\n" + "".join(f"{0.1 * k:.1f},{100 + k},green\n" for k in range(30))
    assert set(read_log(write(text)).channels) == {"time", "speed"}


def test_slower_channels_keep_their_own_stamps(write: Write, trial: Trial) -> None:
    log = read_log(write(csv_text(*rows_of(trial.reference))))
    assert len(log.channels["x"]) == len(trial.reference.channels["x"])
    assert np.median(np.diff(log.channels["x"].time_s)) == pytest.approx(0.1, abs=0.011)


def test_a_truncated_last_row_is_dropped_with_a_note(write: Write) -> None:
    log = read_log(write(csv_text(HEADS, ROWS) + "0.6000,1"))
    assert len(log.channels["time"]) == 60
    assert any("truncated" in r.what for r in log.repairs)


@pytest.mark.parametrize("columns", [HEADS, [*HEADS, "remark"]])
def test_a_quotation_mark_without_its_partner_loses_nothing(write: Write, columns: list[str]) -> None:
    lines = csv_text(columns, np.pad(ROWS, ((0, 0), (0, len(columns) - 3)))).splitlines()
    for row, mark in ((20, '"'), (40, '"')):
        lines[row] = mark + lines[row]
    whole = read_log(write("\n".join(line.replace('"', "") for line in lines)))
    log = read_log(write("\n".join(lines)))
    assert len(log.channels["speed"].value) == len(whole.channels["speed"].value) == len(ROWS)
    assert [(r.what, r.count) for r in log.repairs if "quotation" in r.what] == [
        ("quotation marks without a partner left out", 2)
    ]


def test_a_remark_of_two_lines_is_one_cell(write: Write) -> None:
    lines = csv_text([*HEADS, "remark"], np.pad(ROWS, ((0, 0), (0, 1)))).splitlines()
    lines[20] = ",".join([*lines[20].split(",")[:3], '"out of\nline"'])
    assert len(read_log(write("\n".join(lines))).channels["speed"].value) == len(ROWS)


def test_a_line_without_an_end_is_refused_by_its_row(write: Write) -> None:
    text = csv_text(HEADS, np.tile(ROWS, (400, 1)))
    with pytest.raises(InputError, match=r"row 24002: a line is longer") as refused:
        read_log(write(text.rstrip() + "\n" + "9" * 300_000))
    assert refused.value.mend


def test_a_heading_that_a_spreadsheet_would_run_is_guarded(tmp_path: Path, write: Write) -> None:
    log = read_log(write(csv_text([*HEADS, "+cmd|calc"], np.pad(ROWS, ((0, 0), (0, 1)), constant_values=1.0))))
    write_log(tmp_path / "out.csv", log)
    assert "'+cmd|calc" in (tmp_path / "out.csv").read_text().splitlines()[0]
    assert "+cmd|calc" in read_log(tmp_path / "out.csv").channels


def test_a_repeated_heading_is_left_out_with_a_note(write: Write) -> None:
    text = csv_text(HEADS, ROWS[:30]) + csv_text(HEADS, ROWS[30:])
    log = read_log(write(text))
    assert len(log.channels["time"]) == 60
    assert any("headings" in r.what for r in log.repairs)


def test_times_as_hours_and_minutes_are_read(write: Write) -> None:
    text = "time,speed\n" + "".join(f"0:01:{k / 10:06.3f},100\n" for k in range(60))
    log = read_log(write(text))
    assert log.channels["time"].value[10] - log.channels["time"].value[0] == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("content", "what"),
    [
        (b"", "empty"),
        (b"   \n  \n", "empty"),
        (bytes(range(256)) * 20, "binary"),
        (b"\x89PNG\r\n\x1a\n" + b"\0x" * 50, "this is a picture"),
        (b"PAR1 but not really", "damaged"),
        ("x," * 300_000, "longer than"),
        ("just words\nand more words\n", "no heading"),
        ("speed,throttle\n100,50\n101,50\n", "no 'time'"),
        ("time,throttle\n0,50\n0.1,51\n", "neither 'speed' nor a position"),
        ("time,speed [furlongs]\n0,1\n1,2\n", "'furlongs'"),
        ("time,speed\n0.0,100\n", "1 sample"),
        ("time,speed\n0.0,100\n0.1,fast\n0.2,100\n", "row 3"),
        ("time,speed,brake\n0.0,100,1\n0.1,100\n0.2,100,1\n", "row 3"),
        ("time,speed,brake\n" + "0,0,100,5,1,5\n" * 30, "decimal mark"),
        ("time,speed\n0.0,\n0.1,\n0.2,\n", "neither 'speed' nor a position"),
    ],
)
def test_what_can_not_be_used_is_refused_with_what_and_where(write: Write, content: str | bytes, what: str) -> None:
    with pytest.raises(InputError) as refused:
        read_log(write(content))
    assert what in str(refused.value)
    assert "log.csv" in str(refused.value)
    assert refused.value.mend


def test_a_directory_is_refused(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="directory"):
        read_log(tmp_path)


def test_a_missing_file_is_refused(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="no such file"):
        read_log(tmp_path / "none.csv")


def test_reading_can_be_cancelled(write: Write) -> None:
    with pytest.raises(InterruptedError):
        read_log(write(csv_text(HEADS, ROWS)), Watch(cancelled=lambda: True))


def test_the_layout_says_where_the_rows_begin() -> None:
    layout = find_layout("x.csv", b"# remark\ntime;speed\ns;km/h\n0,1;100,5\n")
    assert (layout.separator, layout.decimal, layout.first_row) == (";", ",", 3)
    assert layout.units == ("s", "km/h")
