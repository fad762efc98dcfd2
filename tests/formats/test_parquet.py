"""Parquet and Arrow logs, read and written."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest

from jete.core.errors import InputError
from jete.formats import parquet_log
from jete.formats.arrow_table import arrow_of, numbers_of
from jete.formats.columns import Columns
from jete.formats.reader import read_log
from jete.simulate.demo import RUNS, columns_of, kestrel_sands, record_run

COLUMNS = Columns(
    "log",
    ("time", "speed", "latitude", "longitude"),
    ("s", "km/h", "deg", "deg"),
    (
        np.arange(50) * 0.1,
        np.full(50, 90.0),
        np.where(np.arange(50) % 5 == 0, 41.0 + np.arange(50) * 1e-5, np.nan),
        np.where(np.arange(50) % 5 == 0, -30.0 + np.arange(50) * 1e-5, np.nan),
    ),
)


def test_a_round_trip_keeps_units_and_gaps(tmp_path: Path) -> None:
    path = tmp_path / "log.parquet"
    parquet_log.write(path, COLUMNS)
    log = read_log(path)
    assert log.channels["speed"].value == pytest.approx(np.full(50, 25.0))
    assert len(log.channels["latitude"]) == 10


def test_the_same_columns_give_the_same_bytes(tmp_path: Path) -> None:
    for name in ("a", "b"):
        parquet_log.write(tmp_path / name, COLUMNS)
    assert (tmp_path / "a").read_bytes() == (tmp_path / "b").read_bytes()


def test_a_damaged_file_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "log.parquet"
    parquet_log.write(path, COLUMNS)
    path.write_bytes(path.read_bytes()[:200])
    with pytest.raises(InputError, match="damaged"):
        read_log(path)


def test_the_demo_that_ships_is_the_one_that_is_made(tmp_path: Path) -> None:
    run = RUNS[0]
    parquet_log.write(tmp_path / "made", columns_of(record_run(run, kestrel_sands())))
    shipped = Path("src/jete/app/assets/demo") / f"{run.name}.parquet"
    assert (tmp_path / "made").read_bytes() == shipped.read_bytes()


def test_reading_and_writing_load_no_library_for_tables(tmp_path: Path) -> None:
    parquet_log.write(tmp_path / "log.parquet", COLUMNS)
    work = (
        "import sys; from pathlib import Path; from jete.formats.reader import read_log; from jete.formats.writer import write_log; "
        "write_log(Path(sys.argv[1]) / 'log.csv', read_log(Path(sys.argv[1]) / 'log.parquet')); "
        "read_log(Path(sys.argv[1]) / 'log.csv'); print([m for m in ('pandas', 'sqlalchemy', 'PyQt6') if m in sys.modules])"
    )
    out = subprocess.run([sys.executable, "-c", work, tmp_path], check=True, capture_output=True, text=True)
    assert out.stdout.strip() == "[]"


@pytest.mark.parametrize("kind", ["int8", "uint16", "int64", "float16", "float32", "float64"])
def test_numbers_of_every_width_keep_their_gaps_and_chunks(kind: str) -> None:
    numbers = np.array([1, 2, 0, 4, 5], dtype=kind)
    first = pa.array(numbers[:3], mask=np.array([False, False, True]))
    column = pa.chunked_array([first, pa.array(numbers[2:]).slice(1)])
    assert numbers_of(column) == pytest.approx(np.array([1.0, 2.0, np.nan, 4.0, 5.0]), nan_ok=True)


def test_an_array_comes_back_with_its_gaps() -> None:
    values = np.array([1.0, np.nan, 3.0])
    column = pa.chunked_array([arrow_of(values)])
    assert column.null_count == 1
    assert numbers_of(column) == pytest.approx(values, nan_ok=True)
    assert numbers_of(pa.chunked_array([pa.array(["a"])])) is None
