"""Logs as JSON Lines: one object a line, one sample an object, names and units as in CSV."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import numpy as np

from jete.core.errors import InputError
from jete.formats.arrow_table import columns_of
from jete.formats.columns import Columns, headings_of, known_values
from jete.formats.watched import UNWATCHED, Watch, WatchedFile

if TYPE_CHECKING:
    from pathlib import Path

BLOCK_BYTES = 1 << 24
SIGNIFICANT = 10


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read a JSON Lines log.

    Raises:
        InputError: a line that is no object, by its number where it can be told.
    """
    import pyarrow as pa
    from pyarrow import json as arrow_json

    try:
        with WatchedFile(path, watch) as file:
            table = arrow_json.read_json(file, arrow_json.ReadOptions(block_size=BLOCK_BYTES))
    except pa.ArrowInvalid as error:
        raise _broken(path, str(error)) from error
    return columns_of(path.name, table)


def _broken(path: Path, why: str) -> InputError:
    """The first line that is no object, found by reading line by line."""
    with path.open(encoding="utf-8", errors="replace") as file:
        for number, line in enumerate(file, 1):
            try:
                good = not line.strip() or isinstance(json.loads(line), dict)
            except ValueError:
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
