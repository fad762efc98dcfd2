"""Files that are damaged, nested, endless or made to swell: read as far as they are sound, or refused in one line."""

from __future__ import annotations

import gzip
import json
import os
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pytest
from fuzz import run_case, wrong
from pyarrow import parquet

from jete.core.errors import InputError
from jete.core.motion.split import split
from jete.formats.reader import read_columns, read_log
from jete.simulate.trials import Trial
from known_laps import csv_text, lap_of, rows_of

if TYPE_CHECKING:
    from collections.abc import Callable

    Write = Callable[..., Path]

ROWS = 3000
SMALL = "200000"


def with_column(trial: Trial, name: str, change: Callable[[np.ndarray], np.ndarray]) -> str:
    heads, table = rows_of(trial.lap, every=4)
    at = next(i for i, h in enumerate(heads) if h.split(" ")[0] == name)
    table[:, at] = change(table[:, at])
    return csv_text(heads, table)


def in_degrees(trial: Trial) -> tuple[list[str], np.ndarray]:
    heads, table = rows_of(trial.lap, every=4)
    renamed = [{"x [m]": "longitude", "y [m]": "latitude"}.get(h, h) for h in heads]
    for k, h in enumerate(renamed):
        if h in ("latitude", "longitude"):
            table[:, k] = {"latitude": 41.0, "longitude": -31.0}[h] + table[:, k] / 100_000.0
    return renamed, table


def test_what_swells_as_no_log_does_is_refused(tmp_path: Path) -> None:
    with gzip.open(tmp_path / "log.csv.gz", "wb") as packed:
        packed.write(b"time,speed\n" + b"0,0\n" * 30_000_000)
    with pytest.raises(InputError, match="swells to more than 50 times"):
        read_log(tmp_path / "log.csv.gz")


@pytest.mark.parametrize("wild", [95.0, -4000.0, 0.0, 1e300])
def test_one_wild_latitude_does_not_lose_the_log(trial: Trial, write: Write, wild: float) -> None:
    heads, table = in_degrees(trial)
    at = heads.index("latitude")
    row = int(np.flatnonzero(np.isfinite(table[:, at]))[100])
    table[row, at] = wild
    log = read_log(write(csv_text(heads, table)))
    assert log.channels["latitude"].value == pytest.approx(41.0, abs=0.1)
    assert max(s.time_s for s in split(log)) == pytest.approx(lap_of(trial.lap).span.time_s, abs=0.1)


@pytest.mark.parametrize("name", ["yaw_rate", "acc_lat", "steering", "throttle", "brake", "gear"])
def test_a_dead_sensor_is_none(trial: Trial, tmp_path: Path, name: str) -> None:
    dead = tmp_path / "dead.csv"
    dead.write_text(with_column(trial, name, np.zeros_like), encoding="utf-8")
    sound = tmp_path / "sound.csv"
    sound.write_text(csv_text(*rows_of(trial.reference, every=4)), encoding="utf-8")
    for pair in ((sound, dead), (dead, sound)):
        assert wrong(["compare", *map(str, pair), "--json", str(tmp_path / "out.json")]) is None
        assert json.loads((tmp_path / "out.json").read_text(encoding="utf-8"))["laps"]


def test_a_vehicle_that_stands_still_is_no_lap_and_no_failure(trial: Trial, tmp_path: Path) -> None:
    heads, table = rows_of(trial.lap, every=4)
    table[:, [i for i, h in enumerate(heads) if h.split(" ")[0] in ("speed", "x", "y", "distance")]] = 0.0
    path = tmp_path / "still.csv"
    path.write_text(csv_text(heads, table), encoding="utf-8")
    assert wrong(["laps", str(path)]) is None
    assert wrong(["compare", str(path), str(path)]) is None


@pytest.mark.parametrize("depth", [20, 20_000])
@pytest.mark.parametrize("bracket", ["[", '{"a":'])
def test_json_that_is_nested_is_refused(write: Write, depth: int, bracket: str) -> None:
    with pytest.raises(InputError, match=r"nested|no JSON object|too long"):
        read_columns(write('{"time": 0, "speed": 1}\n{"time": 1, "speed": ' + bracket * depth + "\n", "log.jsonl"))


@pytest.mark.parametrize(
    "text",
    [
        "time,speed\n" + "0,1\n" * 2, "time,speed\n0,33.7Q\n1,2\n", "time,speed,lap\n" + "".join(f"{k},9,{2**63}\n" for k in range(40)),
        'time,speed\n0,"1\n' + "1,2\n" * 40, "time,speed\n0," + "9" * 140_000 + "\n1,2\n", "time,speed\n" + "0,1," * 30 + "\n1,2\n",
        "time,speed\n" + "".join(f"0:00:{k},1\n" for k in range(50, 65)), "time;speed\n" + "".join(f"{k};1,5\n" for k in range(40)),
    ],
)  # fmt: skip
def test_odd_cells_are_read_or_refused_in_one_line(write: Write, text: str) -> None:
    assert wrong(["laps", str(write(text))]) is None


@pytest.mark.parametrize("encoding", ["utf-16", "utf-16-be", "latin-1"])
@pytest.mark.parametrize("cut", [0, 1, 7])
def test_other_encodings_may_be_cut_off(trial: Trial, write: Write, encoding: str, cut: int) -> None:
    text = "# Fahrer Jörg\n" + csv_text(*rows_of(trial.lap, every=8))
    data = text.encode(encoding)
    data = b"\xfe\xff" + data if encoding == "utf-16-be" else data
    log = read_log(write(data[: len(data) - cut] if cut else data))
    assert len(log.channels["speed"]) >= len(text.splitlines()) - 3


@pytest.mark.parametrize("kind", ["fifo", "device", "folder"])
def test_what_is_no_file_is_refused_at_once(tmp_path: Path, kind: str) -> None:
    path = {"fifo": tmp_path / "pipe", "device": Path("/dev/zero"), "folder": tmp_path}[kind]
    if kind == "fifo":
        os.mkfifo(path)
    with pytest.raises(InputError, match=r"a pipe or a device|a directory"):
        read_columns(path)


@pytest.fixture
def small(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("JETE_MOST_BYTES", SMALL)


@pytest.mark.usefixtures("small")
def test_a_gzip_that_swells_is_stopped(write: Write) -> None:
    with pytest.raises(InputError, match="unpack to"):
        read_columns(write(gzip.compress(bytes(5_000_000)), "log.csv.gz"))


@pytest.mark.usefixtures("small")
def test_a_zip_that_says_it_swells_is_not_unpacked(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "log.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("log.csv", bytes(5_000_000))
    with pytest.raises(InputError, match="unpack to"):
        read_columns(tmp_path / "log.zip")


@pytest.mark.usefixtures("small")
@pytest.mark.parametrize("kind", ["stream", "file"])
@pytest.mark.parametrize("packed", [None, "zstd"])
def test_an_arrow_file_that_swells_is_refused_before_it_is_unpacked(tmp_path: Path, kind: str, packed: str) -> None:
    table = pa.table({"time": np.zeros(200_000), "speed": np.zeros(200_000)})
    options = pa.ipc.IpcWriteOptions(compression=packed)
    new = pa.ipc.new_stream if kind == "stream" else pa.ipc.new_file
    with pa.OSFile(str(tmp_path / "log.arrow"), "wb") as sink, new(sink, table.schema, options=options) as writer:
        writer.write_table(table)
    with pytest.raises(InputError, match="unpack to"):
        read_columns(tmp_path / "log.arrow")


@pytest.mark.usefixtures("small")
def test_a_parquet_file_that_swells_is_refused(tmp_path: Path) -> None:
    parquet.write_table(pa.table({"time": np.zeros(200_000)}), tmp_path / "log.parquet")
    with pytest.raises(InputError, match="unpack to"):
        read_columns(tmp_path / "log.parquet")


def test_json_with_a_key_of_its_own_in_each_line_is_refused(write: Write) -> None:
    lines = "\n".join(json.dumps({"time": k, f"key {k}": 1}) for k in range(6000))
    with pytest.raises(InputError, match="columns"):
        read_columns(write(lines, "log.jsonl"))


def test_a_table_of_very_many_columns_is_refused(write: Write) -> None:
    names = ",".join(["time", "speed", *(f"c{k}" for k in range(5000))])
    with pytest.raises(InputError, match="columns"):
        read_columns(write(f"{names}\n" + ",".join(["1"] * 5002) + "\n"))


def test_a_table_of_very_many_rows_is_refused(trial: Trial, write: Write, monkeypatch: pytest.MonkeyPatch) -> None:
    path = write(csv_text(*rows_of(trial.lap)))
    monkeypatch.setattr("jete.formats.limits.MOST_ROWS", 1000)
    with pytest.raises(InputError, match="million rows"):
        read_log(path)


@pytest.mark.long
def test_a_refused_table_never_ends_the_process(tmp_path: Path) -> None:
    heads = "time,speed,lap\n"
    body = "".join(f"{k},{k % 90}.00000000000000000000,1.000000000000\n" for k in range(12_000))
    (tmp_path / "long.csv").write_text(heads + body + "1,2,3,4,5\n" + body, encoding="utf-8")
    work = (
        "import os, sys\nfrom jete.cli import main\n"
        "for _ in range(6):\n"
        "    pid = os.fork()\n"
        "    if pid == 0:\n"
        "        sys.stderr = open(os.devnull, 'w')\n"
        "        sys.exit(main(['laps', sys.argv[1]]))\n"
        "    print(os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]))\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", work, tmp_path / "long.csv"], capture_output=True, text=True, check=True,
        env={**os.environ, "PYTHONPATH": "src"},
    )  # fmt: skip
    assert done.stdout.split() == ["2"] * 6


@pytest.mark.long
@pytest.mark.parametrize("first", [10])
def test_a_few_of_the_fuzzed_files_are_answered_rightly(tmp_path: Path, first: int) -> None:
    assert [w for n in range(first, first + 6) if (w := run_case(n, tmp_path))] == []
