"""How large the batches of an Arrow stream say that they are, before any of them is unpacked.

Arrow's columnar format keeps this in a flatbuffer before each batch
(https://arrow.apache.org/docs/format/Columnar.html, "Serialization and Interprocess Communication").
"""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING, Any

from jete.formats.limits import BYTES_A_NUMBER

if TYPE_CHECKING:
    import pyarrow as pa

# Message.fbs: fields of Message, RecordBatch and DictionaryBatch by their place.
HEADER_TYPE, HEADER = 1, 2
DICTIONARY, BATCH = 2, 3
DICTIONARY_DATA = 1
NODES, BUFFERS, COMPRESSION = 1, 2, 3


def declared_bytes(source: pa.NativeFile) -> int:
    """Bytes that the batches of a stream take once they are unpacked.

    Args:
        source: at the start of the stream.

    Raises:
        ValueError: what is no sound stream.
    """
    import pyarrow as pa

    total = 0
    reader = pa.ipc.MessageReader.open_stream(source)
    while True:
        try:
            message = reader.read_next_message()
        except StopIteration:
            return total
        try:
            total += _declared(message)
        except (struct.error, IndexError) as error:
            raise ValueError("a batch's description is damaged") from error


def _declared(message: Any) -> int:
    """Bytes of one message: its numbers, and its buffers where they are packed."""
    meta = memoryview(message.metadata)
    root = _table_at(meta, 0)
    at = _field(meta, root, HEADER_TYPE)
    kind = meta[at] if at else 0
    at = _field(meta, root, HEADER)
    if at is None or kind not in (DICTIONARY, BATCH):
        return 0
    batch = _table_at(meta, at)
    if kind == DICTIONARY:
        at = _field(meta, batch, DICTIONARY_DATA)
        if at is None:
            return 0
        batch = _table_at(meta, at)
    numbers = sum(length for length, _ in _pairs(meta, batch, NODES))
    packed = _field(meta, batch, COMPRESSION) is not None
    body = memoryview(message.body) if message.body is not None else memoryview(b"")
    swollen = sum(_unpacked(body, offset, size) for offset, size in _pairs(meta, batch, BUFFERS)) if packed else 0
    return max(BYTES_A_NUMBER * numbers, swollen)


def _unpacked(body: memoryview, offset: int, size: int) -> int:
    """What a packed buffer unpacks to: its first eight bytes say so."""
    if size < 8:
        return 0
    (length,) = struct.unpack_from("<q", body, offset)
    return int(max(length, 0))


def _table_at(meta: memoryview, at: int) -> int:
    """Where the table lies that an offset points to."""
    return at + int(struct.unpack_from("<I", meta, at)[0])


def _field(meta: memoryview, table: int, number: int) -> int | None:
    """Where a field of a table lies, None where it has none."""
    fields = table - int(struct.unpack_from("<i", meta, table)[0])
    if 4 + 2 * number >= struct.unpack_from("<H", meta, fields)[0]:
        return None
    offset = int(struct.unpack_from("<H", meta, fields + 4 + 2 * number)[0])
    return table + offset if offset else None


def _pairs(meta: memoryview, table: int, number: int) -> list[tuple[int, int]]:
    """A vector of two whole numbers each."""
    at = _field(meta, table, number)
    if at is None:
        return []
    start = _table_at(meta, at)
    (count,) = struct.unpack_from("<I", meta, start)
    return [struct.unpack_from("<qq", meta, start + 4 + (-(start + 4)) % 8 + 16 * k) for k in range(count)]
