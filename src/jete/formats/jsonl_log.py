"""Logs as JSON Lines: one object a line, one sample an object, names and units as in CSV."""

from __future__ import annotations

import json
import re
from codecs import BOM_UTF8
from typing import TYPE_CHECKING

import numpy as np

from jete.core.errors import InputError
from jete.formats.arrow_table import columns_of
from jete.formats.columns import Columns, headings_of, known_values
from jete.formats.limits import refuse_table
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

PIECE_BYTES = 1 << 23
LONGEST_LINE = 1 << 20
SIGNIFICANT = 10
# A sample is flat; a parser that calls itself for every bracket ends the process long before a million.
DEEPEST = 16
_NOT_BRACKETS = bytes(set(range(256)) - set(b"[]{}"))
_TOO_DEEP = re.compile(rb"[\[{]{%d}" % DEEPEST)
_KEY = re.compile(rb'"((?:[^"\\]|\\.){0,200})"\s*:')


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read a JSON Lines log.

    Raises:
        InputError: a line that is no object, by its number where it can be told; one that is nested or too long.
    """
    import pyarrow as pa
    from pyarrow import json as arrow_json

    tables: list[pa.Table] = []
    keys: set[bytes] = set()
    try:
        for piece in _pieces(path, watch):
            keys |= set(_KEY.findall(piece))
            refuse_table(path.name, sum(t.num_rows for t in tables) + piece.count(b"\n"), len(keys))
            tables.append(
                arrow_json.read_json(pa.BufferReader(piece), arrow_json.ReadOptions(block_size=2 * PIECE_BYTES))
            )
        return columns_of(path.name, pa.concat_tables(tables, promote_options="permissive"))
    except (pa.ArrowException, UnicodeDecodeError) as error:
        raise _broken(path, str(error)) from error


def _pieces(path: Path, watch: Watch) -> Iterator[bytes]:
    """Pieces of whole lines; the last line needs no end."""
    rest = b""
    with WatchedFile(path, watch) as file:
        while piece := file.read(PIECE_BYTES):
            lines, end, rest = (rest + piece).rpartition(b"\n")
            if len(rest) > LONGEST_LINE:
                raise InputError(path.name, "a line is too long to be a sample.", "Write one sample a line.")
            if lines.strip():
                yield _flat(path, lines + end)
    if rest.strip():
        yield _flat(path, rest)


def _flat(path: Path, piece: bytes) -> bytes:
    """The piece itself, refused where it is nested as no sample is."""
    if _TOO_DEEP.search(piece.translate(None, _NOT_BRACKETS)):
        raise InputError(path.name, "a line is nested too deeply to be a sample.", "Write names and numbers alone.")
    return piece.removeprefix(BOM_UTF8)


def _broken(path: Path, why: str) -> InputError:
    """The first line that is no object, found by reading line by line."""
    with path.open(encoding="utf-8", errors="replace") as file:
        for number, line in enumerate(file, 1):
            try:
                good = not line.strip() or isinstance(json.loads(line), dict)
            except (ValueError, RecursionError):
                good = False
            if not good:
                what = "the line is no JSON object of one sample."
                return InputError(f"{path.name}, line {number}", what, "Mend the line or leave it out.")
    return InputError(
        path.name, f"its lines don't go together ({why.split(chr(10), maxsplit=1)[0]}).", "Keep to one type a name."
    )


def write(path: Path, columns: Columns) -> None:
    """Write one object a sample, without the names that have no value in it."""
    names = headings_of(columns)
    table = np.stack(known_values(columns), axis=1)
    with path.open("w", encoding="utf-8") as file:
        for row in table:
            sample = {n: float(f"{v:.{SIGNIFICANT}g}") for n, v in zip(names, row, strict=True) if np.isfinite(v)}
            file.write(json.dumps(sample, separators=(",", ":")) + "\n")
