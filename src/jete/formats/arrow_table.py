"""Tables of Arrow and columns of a log: what Parquet, Arrow and JSON Lines have in common."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.arrays import FloatArray
from jete.formats.columns import Columns, headings_of, known_values, split_heading

if TYPE_CHECKING:
    import pyarrow as pa

_FLOATS = {"halffloat": "float16", "float": "float32", "double": "float64"}
EXACT = ("time", "distance", "x", "y", "latitude", "longitude")


def columns_of(source: str, table: pa.Table) -> Columns:
    """The columns of a table, units from headings such as ``speed [km/h]``."""
    headings = [split_heading(name) for name in table.column_names]
    values = tuple(numbers_of(table.column(i)) for i in range(table.num_columns))
    return Columns(source, tuple(n for n, _ in headings), tuple(u for _, u in headings), values)


def numbers_of(column: pa.ChunkedArray) -> FloatArray | None:
    """A column as float64 with NaN for what is missing; seconds for a time stamp; None for text.

    From the buffers themselves: pyarrow's own conversions load pandas where it is
    installed, which takes half a second.
    """
    import pyarrow as pa

    kind = column.type
    if pa.types.is_timestamp(kind):
        seconds = numbers_of(column.cast(pa.timestamp("us")).cast(pa.int64()))
        return None if seconds is None else seconds * 1e-6
    if pa.types.is_null(kind):
        return np.full(len(column), np.nan)
    if not (pa.types.is_floating(kind) or pa.types.is_integer(kind)):
        return None
    dtype = np.dtype(_FLOATS.get(str(kind), str(kind)))
    parts = [_of_chunk(chunk, dtype) for chunk in column.chunks if len(chunk)]
    return np.concatenate([np.empty(0), *parts]) if len(parts) != 1 else parts[0]


def _of_chunk(chunk: pa.Array, kind: np.dtype[Any]) -> FloatArray:
    """One chunk as float64."""
    validity, data = chunk.buffers()
    part = slice(chunk.offset, chunk.offset + len(chunk))
    with np.errstate(invalid="ignore"):
        values = np.frombuffer(data, dtype=kind)[part].astype(np.float64)
    if validity is not None and chunk.null_count:
        bits = np.unpackbits(np.frombuffer(validity, dtype=np.uint8), bitorder="little")
        values[bits[part] == 0] = np.nan
    return values


def arrow_of(values: FloatArray) -> pa.Array:
    """Numbers as an Arrow array of their own width, null where they are NaN."""
    import pyarrow as pa

    data = np.ascontiguousarray(values)
    missing = np.isnan(data)
    validity = pa.py_buffer(np.packbits(~missing, bitorder="little")) if missing.any() else None
    kind = pa.float32() if data.dtype == np.float32 else pa.float64()
    return pa.Array.from_buffers(kind, len(data), [validity, pa.py_buffer(data)])


def table_of(columns: Columns) -> pa.Table:
    """A table of the columns; single precision where that loses nothing that was measured."""
    import pyarrow as pa

    names = headings_of(columns)
    arrays = [
        arrow_of(values if split_heading(name)[0] in EXACT else values.astype(np.float32))
        for name, values in zip(names, known_values(columns), strict=True)
    ]
    return pa.table(arrays, names=names)
