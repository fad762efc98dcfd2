"""Logs as Parquet: columns named as in CSV, with units in the headings."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.channels import BRAKE_RATIO_UNITS
from jete.core.errors import InputError
from jete.core.lap import FloatArray, Log
from jete.formats.columns import assign, log_from_columns, split_heading

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping
    from pathlib import Path

MAGIC = b"PAR1"


def read(path: Path, cancelled: Callable[[], bool] = lambda: False) -> Log:
    """Read a Parquet log.

    Raises:
        InputError: a damaged file, or what :func:`log_from_columns` refuses.
    """
    import pyarrow as pa
    from pyarrow import parquet

    try:
        # Not parquet.read_table: it loads the machinery for data sets of many files.
        with parquet.ParquetFile(path) as file:
            table = file.read(use_threads=False)
    except (pa.ArrowInvalid, OSError) as error:
        raise InputError(path.name, "this Parquet file is damaged.", "Export the log again.") from error
    if cancelled():
        raise InterruptedError
    headings = [split_heading(name) for name in table.column_names]
    places = assign([name for name, _ in headings])
    columns = {name: _numbers(table.column(i)) for name, i in places.items()}
    numeric = {name: values for name, values in columns.items() if values is not None}
    return log_from_columns(path.name, numeric, {name: headings[places[name]][1] for name in numeric})


def _numbers(column: object) -> FloatArray | None:
    import pyarrow as pa

    kind = column.type  # type: ignore[attr-defined]
    if not (pa.types.is_floating(kind) or pa.types.is_integer(kind)):
        return None
    return np.asarray(column.to_numpy(), dtype=np.float64)  # type: ignore[attr-defined]


def write(path: Path, columns: Mapping[str, tuple[str, FloatArray]]) -> None:
    """Write columns (name to unit and values) so that the same columns give the same bytes."""
    import pyarrow as pa
    from pyarrow import parquet

    arrays, names = [], []
    for name, (unit, values) in columns.items():
        shown = unit if unit not in BRAKE_RATIO_UNITS or name == "throttle" else "%"
        names.append(f"{name} [{shown}]" if shown else name)
        arrays.append(pa.array(values.astype(np.float32) if name != "time" else values, from_pandas=True))
    parquet.write_table(
        pa.table(arrays, names=names), path, compression="zstd", compression_level=12, use_dictionary=False,
        column_encoding=dict.fromkeys(names, "BYTE_STREAM_SPLIT"), write_statistics=False,
    )  # fmt: skip
