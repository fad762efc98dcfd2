"""How a text log is laid out: remarks, separator, heading, units row, decimal mark.

Only the first lines are looked at; the reading itself is in :mod:`jete.formats.csv_log`.
"""

from __future__ import annotations

import csv
from dataclasses import dataclass

from jete.core.errors import InputError
from jete.core.log.channels import CHANNELS, canonical_name, conversion
from jete.formats.cells import is_clock, is_number
from jete.formats.columns import split_heading
from jete.formats.table import UTF_16_MARKS

HEAD_BYTES = 1 << 18
LONGEST_LINE = 200_000
SEARCHED_LINES = 80
# Control characters that no text log holds many of.
ODD_BYTES = bytes(c for c in range(32) if c not in b"\r\n\t")
MOST_ODD = 8
PICTURES = (b"\x89PNG", b"\xff\xd8\xff", b"GIF8", b"BM", b"RIFF", b"II*\0", b"MM\0*")


@dataclass(frozen=True)
class Layout:
    """Where things stand in a text log; ``first_row`` counts lines of the file from 0."""

    separator: str
    decimal: str
    headings: tuple[str, ...]
    units: tuple[str | None, ...]
    first_row: int
    encoding: str


def decode(source: str, head: bytes) -> tuple[list[str], str]:
    """Lines of the first bytes and the encoding.

    Raises:
        InputError: an empty file, a binary file, or a line beyond all measure.
    """
    if not head.strip():
        raise InputError(source, "the file is empty.", "Export the log again.")
    if head[:2] in UTF_16_MARKS:
        text = head[: len(head) // 2 * 2].decode("utf-16", errors="replace")
        return _checked_lines(source, text), "utf-16"
    if b"\0" in head and head.startswith(PICTURES):
        raise InputError(source, "this is a picture, not a log.", "Choose the log itself.")
    if b"\0" in head or head[:4] in {b"PK\x03\x04", b"%PDF"}:
        raise InputError(source, "this is a binary file, not a text log.", "Export the log as CSV.")
    if len(head[:4096]) - len(head[:4096].translate(None, ODD_BYTES)) > MOST_ODD:
        raise InputError(source, "this is a binary file, not a text log.", "Export the log as CSV.")
    text, encoding = _text(head)
    return _checked_lines(source, text), encoding


def _checked_lines(source: str, text: str) -> list[str]:
    """The lines as the parser counts them: other signs that Python takes for line ends are none."""
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if max(map(len, lines)) > LONGEST_LINE:
        raise InputError(source, f"a line is longer than {LONGEST_LINE} characters.", "Export one sample per row.")
    return lines[:-1] if not lines[-1] else lines


def _text(head: bytes) -> tuple[str, str]:
    """UTF-8 with or without a mark; Latin-1 where it is not valid UTF-8."""
    cut = head[: head.rfind(b"\n") + 1] or head
    try:
        return cut.decode("utf-8-sig"), "utf-8"
    except UnicodeDecodeError:
        return cut.decode("latin-1"), "latin-1"


def find_layout(source: str, head: bytes) -> Layout:
    """Find the layout from the first bytes of a file.

    Raises:
        InputError: no heading row with a name that is known.
    """
    lines, encoding = decode(source, head)
    row, separator, cells = _heading(source, lines)
    parts = [split_heading(c) for c in cells]
    names = tuple(p[0] for p in parts)
    units = [p[1] for p in parts]
    first = row + 1
    if first < len(lines):
        below = _cells(lines[first], separator)
        if _is_units_row(names, below):
            units = [u or (below[i].strip() or None if i < len(below) else None) for i, u in enumerate(units)]
            first += 1
    decimal = _decimal(separator, lines[first : first + 200])
    _refuse_decimal_comma(source, lines, first, separator, names)
    return Layout(separator, decimal, names, tuple(units), first, encoding)


def _heading(source: str, lines: list[str]) -> tuple[int, str, list[str]]:
    """The first line with a known name that is no data: its number, separator and cells."""
    for row, line in enumerate(lines[:SEARCHED_LINES]):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        separator = _separator(line)
        cells = _cells(line, separator)
        known = {canonical_name(split_heading(c)[0]) for c in cells} - {None}
        if len(known) >= 2 or (known and len(cells) == len(known)):
            return row, separator, cells
    unknown = _unknown_heading(lines)
    if unknown:
        return unknown
    raise InputError(
        source,
        "no heading row was found: no line names channels such as 'time' and 'speed'.",
        "Put the names of the channels into the first row.",
    )


def _unknown_heading(lines: list[str]) -> tuple[int, str, list[str]] | None:
    """The first line of names alone over lines of as many cells with numbers: names that nobody knows yet."""
    for row, line in enumerate(lines[: min(SEARCHED_LINES, len(lines) - 2)]):
        separator = _separator(line)
        cells = _cells(line, separator)
        below = [_cells(x, separator) for x in lines[row + 1 : row + 4] if x.strip()]
        named = len(cells) > 1 and all(cells) and not any(is_number(c) or is_clock(c) for c in cells)
        numbers = [any(is_number(c) or is_clock(c) for c in b) and len(b) == len(cells) for b in below[1:]]
        if named and numbers and all(numbers) and len(below[0]) == len(cells):
            return row, separator, cells
    return None


def _separator(line: str) -> str:
    """Tab before semicolon before comma: a comma may be a decimal mark or part of a name."""
    return next((s for s in ("\t", ";", ",") if s in line), ",")


def _cells(line: str, separator: str) -> list[str]:
    try:
        return [c.strip() for c in next(csv.reader([line], delimiter=separator), [])]
    except csv.Error:
        return [c.strip() for c in line.split(separator)]


def _is_units_row(names: tuple[str, ...], cells: list[str]) -> bool:
    """Units stand under the names: no numbers, and at least one known unit in its place."""
    if not any(cells) or any(is_number(c) or is_clock(c) for c in cells):
        return False
    return any(_is_unit(name, c.strip("[]()")) for name, c in zip(names, cells, strict=False) if c)


def _is_unit(name: str, cell: str) -> bool:
    channel = canonical_name(name)
    if channel is None or not cell:
        return False
    return conversion(channel, cell) is not None or cell in CHANNELS[channel].quantity.units


def _decimal(separator: str, lines: list[str]) -> str:
    """Decimal mark: a comma only where it is not the separator and numbers hold one."""
    if separator == ",":
        return "."
    cells = [c for line in lines if not line.startswith("#") for c in _cells(line, separator)]
    commas = sum(1 for c in cells if "," in c and is_number(c))
    points = sum(1 for c in cells if "." in c and is_number(c))
    return "," if commas > points else "."


def _refuse_decimal_comma(source: str, lines: list[str], first: int, separator: str, names: tuple[str, ...]) -> None:
    """Commas as separator and as decimal mark at once can't be read."""
    if separator != ",":
        return
    rows = [
        (first + 1 + i, _cells(x, separator))
        for i, x in enumerate(lines[first : first + 20])
        if x.strip() and x[0] != "#"
    ]
    full = [len(c) for _, c in rows[:-1] or rows]
    if full and min(full) >= len(names) + 2 and all(all(is_number(x) for x in c if x) for _, c in rows[:-1]):
        raise InputError(
            f"{source}, row {rows[0][0]}",
            f"{full[0]} cells under {len(names)} names: the comma is both separator and decimal mark.",
            "Export with a decimal point, or with semicolons between the cells.",
        )
