"""Logs as Arrow files and streams, columns named as in CSV."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats.arrow_sizes import declared_bytes
from jete.formats.arrow_table import columns_of, table_of
from jete.formats.columns import Columns
from jete.formats.limits import refuse_size
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from pathlib import Path

    import pyarrow as pa

FILE_MAGIC = b"ARROW1"


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read an Arrow file or stream.

    Raises:
        InputError: a damaged file, or one that would swell beyond all measure.
    """
    import pyarrow as pa

    try:
        with pa.memory_map(str(path)) as source:
            columns = columns_of(path.name, _table(source, path.name))
    except (pa.ArrowException, OSError, ValueError, MemoryError) as error:
        if isinstance(error, InputError):
            raise
        raise InputError(path.name, "this Arrow file is damaged.", "Export the log again.") from error
    watch.step(1.0)
    return columns


def _table(source: pa.MemoryMappedFile, name: str) -> pa.Table:
    import pyarrow as pa

    head = source.read(len(FILE_MAGIC))
    # A file is a stream between its magic words, eight bytes in.
    source.seek(8 if head == FILE_MAGIC else 0)
    refuse_size(name, declared_bytes(source))
    source.seek(0)
    reader = pa.ipc.open_file(source) if head == FILE_MAGIC else pa.ipc.open_stream(source)
    table = reader.read_all()
    table.validate()
    return table


def write(path: Path, columns: Columns) -> None:
    """Write columns as an Arrow file."""
    import pyarrow as pa

    table = table_of(columns)
    with pa.OSFile(str(path), "wb") as sink, pa.ipc.new_file(sink, table.schema) as writer:
        writer.write_table(table)
