"""Plain CSV logs: pyarrow reads the rows, a tolerant path mends the broken ones."""

from __future__ import annotations

from codecs import BOM_UTF8
from math import floor, log10
from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.errors import InputError
from jete.core.log.channels import CHANNELS
from jete.core.log.lap import Repair
from jete.formats.arrow_table import arrow_of, numbers_of
from jete.formats.cells import EMPTY_CELLS, is_arc, is_clock, is_number, value_of
from jete.formats.columns import Columns, assign, guarded, headings_of, known_values, split_heading
from jete.formats.csv_text import HEAD_BYTES, Layout, find_layout
from jete.formats.limits import refuse_size, refuse_table
from jete.formats.text_rows import has_open_quote, refuse_long_lines, rows_of
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from pathlib import Path

    import pyarrow as pa

PIECE_BYTES = (1 << 14, 1 << 22)
BLOCK_BYTES = (HEAD_BYTES, 1 << 22)
SIGNIFICANT = 7
# What stands for bytes that are no letter.
NO_LETTER = "\ufffd"
# Decimals of what has to be exact over hours and around the earth.
PLACES = {"time": 6, "distance": 6, "x": 6, "y": 6, "latitude": 9, "longitude": 9}


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read a CSV log.

    Args:
        path: the file.
        watch: told how far the reading is, and asked whether it is to go on.

    Raises:
        InputError: what can't be used, with the row or channel and what would mend it.
    """
    data = _content(path, watch)
    layout = find_layout(path.name, data[:HEAD_BYTES])
    refuse_long_lines(path.name, data)
    refuse_table(path.name, 0, len(layout.headings))
    places = {name: i for name, i in assign(layout.headings).items() if layout.headings[i]}
    columns, repairs = _read_columns(path.name, _as_utf8(data, layout.encoding), layout, places)
    watch.step(1.0)
    held = {i: columns[name] for name, i in places.items() if name in columns}
    values = tuple(held.get(i) for i in range(len(layout.headings)))
    return Columns(path.name, layout.headings, layout.units, values, tuple(repairs))


def write(path: Path, columns: Columns) -> None:
    """Write columns as plain CSV: a point for the decimals, empty cells where there is no value."""
    import pyarrow as pa
    from pyarrow import csv

    names = headings_of(columns)
    values = (short_of(split_heading(n)[0], v) for n, v in zip(names, known_values(columns), strict=True))
    table = pa.table([arrow_of(v) for v in values], names=[guarded(n) for n in names])
    csv.write_csv(table, path, csv.WriteOptions(quoting_style="needed"))


def short_of(name: str, values: FloatArray) -> FloatArray:
    """Values without the digits that nothing measured: (n,), rounded so that they are written short.

    Places and times keep nanodegrees, micrometres and microseconds, the rest seven
    significant digits of the column's largest value (single precision has no more).

    >>> short_of("speed", np.array([33.333333333333336, 0.1]))
    array([33.33333,  0.1    ])
    """
    if name in PLACES:
        return np.round(values, PLACES[name])
    largest = float(np.max(np.abs(values), initial=0.0, where=np.isfinite(values)))
    digits = SIGNIFICANT - 1 - floor(log10(largest)) if largest > 0.0 else 0
    return np.round(values, min(max(digits, 0), 15))


def _content(path: Path, watch: Watch) -> bytes:
    """A file's bytes.  They are handed to the parser whole: its threads never wait for Python, even at an exit."""
    size = path.stat().st_size
    refuse_size(path.name, size)
    pieces = []
    with WatchedFile(path, watch) as file:
        while piece := file.read(min(max(size // 16, PIECE_BYTES[0]), PIECE_BYTES[1])):
            pieces.append(piece)
    return b"".join(pieces)


def _as_utf8(data: bytes, encoding: str) -> bytes:
    """The text as UTF-8 without a mark; what is cut off within a letter, or is none, becomes a sign for that."""
    if encoding == "utf-8":
        return data.removeprefix(BOM_UTF8)
    whole = len(data) // 2 * 2 if encoding == "utf-16" else len(data)
    return data[:whole].decode(encoding, errors="replace").removeprefix("\ufeff").encode("utf-8", errors="replace")


def _read_columns(
    source: str, data: bytes, layout: Layout, places: dict[str, int]
) -> tuple[dict[str, FloatArray], list[Repair]]:
    """All numeric columns by channel name, NaN where a cell is empty."""
    import pyarrow as pa

    if has_open_quote(data):
        return _read_slowly(source, data, layout, places)
    try:
        table = _arrow_table(data, layout, places)
    except pa.ArrowInvalid:
        return _read_slowly(source, data, layout, places)
    columns = {}
    for name, i in places.items():
        values = _numbers(table.column(i))
        if values is not None:
            columns[name] = values
    return columns, []


def _arrow_table(data: bytes, layout: Layout, places: dict[str, int]) -> pa.Table:
    """The rows under the heading as a table.

    Raises:
        pyarrow.ArrowInvalid: rows with too few or too many cells, or cells that are no numbers.
    """
    import pyarrow as pa
    from pyarrow import csv

    names = [f"c{i}" for i in range(len(layout.headings))]
    wanted = {f"c{i}": pa.float64() for name, i in places.items() if name in CHANNELS}
    return csv.read_csv(
        pa.BufferReader(data),
        read_options=csv.ReadOptions(column_names=names, skip_rows=layout.first_row, block_size=_block_size(len(data))),
        parse_options=csv.ParseOptions(delimiter=layout.separator),
        convert_options=csv.ConvertOptions(
            column_types=wanted, null_values=EMPTY_CELLS, decimal_point=layout.decimal, strings_can_be_null=True
        ),
    )


def _block_size(size: int) -> int:
    """Bytes parsed at a time: several blocks even of a short log, so that more than one core parses it."""
    return min(max(size // 8, BLOCK_BYTES[0]), BLOCK_BYTES[1])


def _numbers(column: pa.ChunkedArray) -> FloatArray | None:
    """A column as float64; clock times and degrees with minutes too; None for other text."""
    found = numbers_of(column)
    return _texts(column) if found is None else found


def _texts(column: pa.ChunkedArray) -> FloatArray | None:
    """Clock times and degrees with minutes as numbers; None for other text."""
    import pyarrow as pa

    if not pa.types.is_string(column.type):
        return None
    cells = [c or "" for c in column.to_pylist()]
    first = next((c for c in cells if c), "")
    if not (is_clock(first.strip()) or is_arc(first.strip())):
        return None
    try:
        return np.array([value_of(c) for c in cells], dtype=np.float64)
    except ValueError:
        return None


def _read_slowly(
    source: str, data: bytes, layout: Layout, places: dict[str, int]
) -> tuple[dict[str, FloatArray], list[Repair]]:
    """Row by row: drops a truncated last row and repeated headings, refuses the rest by row.

    Raises:
        InputError: a row of the wrong width, a cell that is no number, or one without an end.
    """
    text = data.decode("utf-8", errors="replace")
    rows, repairs = rows_of(source, text, layout.separator, len(layout.headings))
    numbered = [(i + 1, r) for i, r in enumerate(rows) if i >= layout.first_row and any(r) and not r[0].startswith("#")]
    numbered = _drop_headings(numbered, repairs)
    numbered = _drop_last(source, numbered, layout, repairs)
    columns = {name: _column(source, name, i, numbered, layout) for name, i in places.items()}
    return {name: values for name, values in columns.items() if values is not None}, repairs


def _drop_headings(rows: list[tuple[int, list[str]]], repairs: list[Repair]) -> list[tuple[int, list[str]]]:
    """Headings (and units rows) that stand again between the samples are left out."""
    numeric = [(n, r) for n, r in rows if any(is_number(c) or is_clock(c) or is_arc(c) for c in r)]
    if len(numeric) < len(rows):
        repairs.append(Repair("rows", "repeated headings left out", len(rows) - len(numeric)))
    return numeric


def _drop_last(
    source: str, rows: list[tuple[int, list[str]]], layout: Layout, repairs: list[Repair]
) -> list[tuple[int, list[str]]]:
    """A last row that is cut off is dropped; another row of the wrong width is refused.

    Raises:
        InputError: a row with too few or too many cells, by number.
    """
    width = len(layout.headings)
    widths = [len(r) for _, r in rows]
    spare = sum(1 for _, r in rows if len(r) == width + 1 and not r[-1])
    if rows and spare >= 0.9 * len(rows):
        width += 1
    if rows and (widths[-1] < width or any(NO_LETTER in c for c in rows[-1][1])):
        repairs.append(Repair("rows", "truncated last row dropped", 1))
        rows = rows[:-1]
    for number, row in rows:
        if (len(row) != width and any(row[width:])) or len(row) < len(layout.headings):
            raise InputError(
                f"{source}, row {number}",
                f"{len(row)} cells under {len(layout.headings)} names.",
                "Mend the row or export the log again; decimals need a point where commas separate the cells.",
            )
    return rows


def _column(source: str, name: str, place: int, rows: list[tuple[int, list[str]]], layout: Layout) -> FloatArray | None:
    """One column as numbers; None for an extra column of text.

    Raises:
        InputError: a cell of a known channel that is no number, by row and channel.
    """
    out = np.empty(len(rows))
    for k, (number, row) in enumerate(rows):
        try:
            out[k] = value_of(row[place], name, layout.decimal)
        except ValueError as error:
            if name in CHANNELS:
                raise _not_a_number(source, name, number, row[place]) from error
            return None
    return out


def _not_a_number(source: str, name: str, row: int, cell: str) -> InputError:
    hint = (
        "Use a decimal point, without separators of thousands." if "," in cell else "Mend the cell or leave it empty."
    )
    return InputError(f"{source}, row {row}", f"channel '{name}' holds '{cell[:40]}', which is no number.", hint)
