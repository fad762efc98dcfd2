"""Logs as Parquet: columns named as in CSV, with units in the headings."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats.arrow_table import columns_of, table_of
from jete.formats.columns import Columns
from jete.formats.limits import refuse_size, refuse_table
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from pathlib import Path

    import pyarrow as pa


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read a Parquet log.

    Raises:
        InputError: a damaged file, or one that would swell beyond all measure.
    """
    import pyarrow as pa
    from pyarrow import parquet

    try:
        # Not parquet.read_table: it loads the machinery for data sets of many files.
        with parquet.ParquetFile(path) as file:
            refuse_table(path.name, file.metadata.num_rows, file.metadata.num_columns)
            groups = (file.metadata.row_group(k) for k in range(file.metadata.num_row_groups))
            refuse_size(path.name, sum(g.total_byte_size for g in groups))
            columns = columns_of(path.name, file.read(use_threads=False))
    except (pa.ArrowException, OSError, ValueError, MemoryError) as error:
        if isinstance(error, InputError):
            raise
        raise InputError(path.name, "this Parquet file is damaged.", "Export the log again.") from error
    watch.step(1.0)
    return columns


def write(path: Path, columns: Columns) -> None:
    """Write columns so that the same columns give the same bytes."""
    write_table(path, table_of(columns))


def write_table(path: Path, table: pa.Table, **options: object) -> None:
    """Write a table of numbers packed as tightly as their kind allows; ``options`` as of pyarrow."""
    from pyarrow import parquet

    settings: dict[str, object] = {"compression": "zstd", "compression_level": 12, **options}
    parquet.write_table(
        table, path, use_dictionary=False, column_encoding=dict.fromkeys(table.column_names, "BYTE_STREAM_SPLIT"),
        write_statistics=False, **settings,
    )  # fmt: skip
