"""Logs as Arrow files and streams, columns named as in CSV."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats.arrow_table import columns_of, table_of
from jete.formats.columns import Columns
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from pathlib import Path

FILE_MAGIC = b"ARROW1"
STREAM_MAGIC = b"\xff\xff\xff\xff"


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read an Arrow file or stream.

    Raises:
        InputError: a damaged file.
    """
    import pyarrow as pa

    try:
        with pa.memory_map(str(path)) as source:
            head = source.read(len(FILE_MAGIC))
            source.seek(0)
            reader = pa.ipc.open_file(source) if head == FILE_MAGIC else pa.ipc.open_stream(source)
            table = reader.read_all()
    except (pa.ArrowInvalid, OSError) as error:
        raise InputError(path.name, "this Arrow file is damaged.", "Export the log again.") from error
    watch.step(1.0)
    return columns_of(path.name, table)


def write(path: Path, columns: Columns) -> None:
    """Write columns as an Arrow file."""
    import pyarrow as pa

    table = table_of(columns)
    with pa.OSFile(str(path), "wb") as sink, pa.ipc.new_file(sink, table.schema) as writer:
        writer.write_table(table)
