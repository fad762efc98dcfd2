"""Plain CSV logs: pyarrow reads the rows, a tolerant path mends the broken ones."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.channels import QUANTITIES
from jete.core.errors import InputError
from jete.core.lap import FloatArray, Repair
from jete.formats.arrow_table import arrow_of, numbers_of
from jete.formats.cells import EMPTY_CELLS, is_arc, is_clock, is_number, value_of
from jete.formats.columns import Columns, assign, headings_of, known_values
from jete.formats.csv_text import HEAD_BYTES, Layout, find_layout
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from pathlib import Path

    import pyarrow as pa

BLOCK_BYTES = (HEAD_BYTES, 1 << 22)


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read a CSV log.

    Args:
        path: the file.
        watch: told how far the reading is, and asked whether it is to go on.

    Raises:
        InputError: what can't be used, with the row or channel and what would mend it.
    """
    with path.open("rb") as file:
        layout = find_layout(path.name, file.read(HEAD_BYTES))
    places = {name: i for name, i in assign(layout.headings).items() if layout.headings[i]}
    columns, repairs = _read_columns(path, layout, places, watch)
    watch.step(1.0)
    held = {i: columns[name] for name, i in places.items() if name in columns}
    values = tuple(held.get(i) for i in range(len(layout.headings)))
    return Columns(path.name, layout.headings, layout.units, values, tuple(repairs))


def write(path: Path, columns: Columns) -> None:
    """Write columns as plain CSV: a point for the decimals, empty cells where there is no value."""
    import pyarrow as pa
    from pyarrow import csv

    table = pa.table([arrow_of(v) for v in known_values(columns)], names=headings_of(columns))
    csv.write_csv(table, path, csv.WriteOptions(quoting_style="needed"))


def _read_columns(
    path: Path, layout: Layout, places: dict[str, int], watch: Watch
) -> tuple[dict[str, FloatArray], list[Repair]]:
    """All numeric columns by channel name, NaN where a cell is empty."""
    import pyarrow as pa

    bad: list[tuple[int, int]] = []
    try:
        table = _arrow_table(path, layout, places, bad, watch)
    except pa.ArrowInvalid as error:
        _refuse_if_endless(path, error)
        return _read_slowly(path, layout, places)
    if bad:
        return _read_slowly(path, layout, places)
    columns = {}
    for name, i in places.items():
        values = _numbers(table.column(i))
        if values is not None:
            columns[name] = values
    return columns, []


def _arrow_table(
    path: Path, layout: Layout, places: dict[str, int], bad: list[tuple[int, int]], watch: Watch
) -> pa.Table:
    """The rows under the heading as a table; rows with too few or many cells go to ``bad``."""
    import pyarrow as pa
    from pyarrow import csv

    def refuse(row: csv.InvalidRow) -> str:
        bad.append((row.number or 0, row.actual_columns))
        return "skip"

    names = [f"c{i}" for i in range(len(layout.headings))]
    wanted = {f"c{i}": pa.float64() for name, i in places.items() if name in QUANTITIES}
    with WatchedFile(path, watch) as file:
        return csv.read_csv(
            file,
            read_options=csv.ReadOptions(
                column_names=names, skip_rows=layout.first_row, encoding=layout.encoding, block_size=_block_size(path)
            ),
            parse_options=csv.ParseOptions(delimiter=layout.separator, invalid_row_handler=refuse),
            convert_options=csv.ConvertOptions(
                column_types=wanted, null_values=EMPTY_CELLS, decimal_point=layout.decimal, strings_can_be_null=True
            ),
        )


def _block_size(path: Path) -> int:
    """Bytes read at a time: several blocks even of a short log, so that more than one core parses it."""
    return min(max(path.stat().st_size // 8, BLOCK_BYTES[0]), BLOCK_BYTES[1])


def _refuse_if_endless(path: Path, error: Exception) -> None:
    if "straddling" in str(error):
        raise InputError(path.name, "a line is too long to be a sample.", "Export one sample per row.") from error


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


def _read_slowly(path: Path, layout: Layout, places: dict[str, int]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """Row by row: drops a truncated last row and repeated headings, refuses the rest by row."""
    import csv

    with path.open(encoding=layout.encoding, newline="", errors="replace") as file:
        rows = list(csv.reader(file, delimiter=layout.separator))
    rows = [[c.strip() for c in r] for r in rows]
    numbered = [(i + 1, r) for i, r in enumerate(rows) if i >= layout.first_row and any(r) and not r[0].startswith("#")]
    repairs: list[Repair] = []
    numbered = _drop_headings(numbered, repairs)
    numbered = _drop_last(path.name, numbered, layout, repairs)
    columns = {name: _column(path.name, name, i, numbered, layout) for name, i in places.items()}
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
    if rows and widths[-1] < width:
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
            if name in QUANTITIES:
                raise _not_a_number(source, name, number, row[place]) from error
            return None
    return out


def _not_a_number(source: str, name: str, row: int, cell: str) -> InputError:
    hint = (
        "Use a decimal point, without separators of thousands." if "," in cell else "Mend the cell or leave it empty."
    )
    return InputError(f"{source}, row {row}", f"channel '{name}' holds '{cell[:40]}', which is no number.", hint)
