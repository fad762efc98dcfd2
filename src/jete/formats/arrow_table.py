"""Tables of Arrow and columns of a log: what Parquet, Arrow and JSON Lines have in common."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.lap import FloatArray
from jete.formats.columns import Columns, headings_of, known_values, split_heading

if TYPE_CHECKING:
    import pyarrow as pa

EXACT = ("time", "distance", "x", "y", "latitude", "longitude")


def columns_of(source: str, table: pa.Table) -> Columns:
    """The columns of a table, units from headings such as ``speed [km/h]``."""
    headings = [split_heading(name) for name in table.column_names]
    values = tuple(_numbers(table.column(i)) for i in range(table.num_columns))
    return Columns(source, tuple(n for n, _ in headings), tuple(u for _, u in headings), values)


def _numbers(column: pa.ChunkedArray) -> FloatArray | None:
    """A column as float64 with NaN for what is missing; seconds for a time stamp; None for text."""
    import pyarrow as pa

    kind = column.type
    if pa.types.is_timestamp(kind):
        return np.asarray(column.cast(pa.timestamp("us")).cast(pa.int64()).to_numpy(), dtype=np.float64) * 1e-6
    if pa.types.is_null(kind):
        return np.full(len(column), np.nan)
    if not (pa.types.is_floating(kind) or pa.types.is_integer(kind)):
        return None
    return np.asarray(column.to_numpy(), dtype=np.float64)


def table_of(columns: Columns) -> pa.Table:
    """A table of the columns; single precision where that loses nothing that was measured."""
    import pyarrow as pa

    names = headings_of(columns)
    arrays = [
        pa.array(values if split_heading(name)[0] in EXACT else values.astype(np.float32), from_pandas=True)
        for name, values in zip(names, known_values(columns), strict=True)
    ]
    return pa.table(arrays, names=names)
