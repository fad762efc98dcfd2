"""The rows of a text log one by one, as far as the parser of whole tables can't read it: quotation marks without a partner, endless lines."""

from __future__ import annotations

import csv
import io

from jete.core.errors import InputError
from jete.core.log.lap import Repair
from jete.formats.csv_text import LONGEST_LINE
from jete.formats.limits import refuse_size

QUOTE = '"'
# What a cell of text and its row take while they are looked at one by one.
CELL_BYTES, ROW_BYTES = 60, 120


def refuse_long_lines(source: str, data: bytes) -> None:
    """Refuse lines beyond all measure, by leaps from line end to line end.

    Raises:
        InputError: a line that is longer than any log's.
    """
    at = 0
    while len(data) - at > LONGEST_LINE:
        end = max(data.rfind(b"\n", at, at + LONGEST_LINE), data.rfind(b"\r", at, at + LONGEST_LINE))
        if end < 0:
            row = data.count(b"\n", 0, at) + 1
            what = f"a line is longer than {LONGEST_LINE} characters."
            raise InputError(f"{source}, row {row}", what, "Export one sample per row.")
        at = end + 1


def has_open_quote(data: bytes) -> bool:
    """Whether a line holds a quotation mark without its partner: a parser of whole tables would read on to the next one."""
    mark = QUOTE.encode()
    return mark in data and any(line.count(mark) % 2 for line in data.split(b"\n"))


def rows_of(source: str, text: str, separator: str, width: int) -> tuple[list[list[str]], list[Repair]]:
    """Every row as cells, and what was mended for it.

    A cell may hold line ends between its quotation marks.  Where it would hold whole rows of the
    log, it is a mark that lacks its partner: such marks are left out, and each line is a row.

    Args:
        source: name of the file.
        text: of the whole log.
        separator: of the cells.
        width: how many cells a row has.

    Raises:
        InputError: more rows than can be looked at one by one, or a cell that is too long.
    """
    refuse_size(source, len(text) + (ROW_BYTES + CELL_BYTES * width) * text.count("\n"))
    rows: list[list[str]] = []
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=separator):
            rows.append(row)  # noqa: PERF402 - those before a broken one are counted
    except csv.Error as error:
        if QUOTE not in text:
            what, mend = "a cell is longer than any log's.", "Export one sample per row."
            raise InputError(f"{source}, row {len(rows) + 1}", what, mend) from error
        return _line_by_line(text, separator)
    if any(_holds_rows(cell, separator, width) for row in rows for cell in row if "\n" in cell):
        return _line_by_line(text, separator)
    return [[c.strip() for c in row] for row in rows], []


def _holds_rows(cell: str, separator: str, width: int) -> bool:
    return any(line.count(separator) >= width - 1 for line in cell.split("\n")[1:])


def _line_by_line(text: str, separator: str) -> tuple[list[list[str]], list[Repair]]:
    rows, mended = [], 0
    for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n"):
        broken = line.count(QUOTE) % 2
        mended += broken
        cells = (
            line.replace(QUOTE, "").split(separator) if broken else next(csv.reader([line], delimiter=separator), [])
        )
        rows.append([c.strip() for c in cells])
    return rows, [Repair("rows", "quotation marks without a partner left out", mended)]
