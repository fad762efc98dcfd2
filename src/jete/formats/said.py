"""Who drove what, as a log says itself: remarks over its heading, a track's author, the head of a measurement file."""

from __future__ import annotations

import csv
import re
from contextlib import suppress
from typing import TYPE_CHECKING, Final

from jete.core.errors import InputError
from jete.formats.cells import is_number
from jete.formats.csv_text import HEAD_BYTES, SEARCHED_LINES, decode
from jete.formats.table import format_of

if TYPE_CHECKING:
    from pathlib import Path

# What the fields of a sheet are called in logs.
CALLED: Final = {
    "driver": "driver", "rider": "driver", "pilot": "driver", "racer": "driver",
    "vehicle": "vehicle", "car": "vehicle", "bike": "vehicle", "motorcycle": "vehicle", "machine": "vehicle",
}  # fmt: skip
LONGEST: Final = 60
_NAME = re.compile(r"[^\W\d_]{2}")


def said_in(path: Path) -> dict[str, str]:
    """Driver and vehicle as a log's own head names them, by field of the sheet; empty where it says nothing.

    Args:
        path: of a log that could be read.
    """
    with suppress(OSError, InputError):
        with path.open("rb") as file:
            head = file.read(HEAD_BYTES)
        kind = format_of(head).module
        if kind == "mdf_log":
            return _kept(_head_of_mdf(path))
        if kind == "gpx_log":
            return _kept(_author_of(head))
        if kind == "csv_log":
            return _kept(said_over_heading(decode(path.name, head)[0]))
    return {}


def said_over_heading(lines: list[str]) -> dict[str, str]:
    """What remarks over the heading of a text log name: a line holds a word for it and one value.

    >>> said_over_heading(["# Rider: Noor Veldane", '"Vehicle","club car"', "time,speed,driver", "0,1,2"])
    {'driver': 'Noor Veldane', 'vehicle': 'club car'}
    """
    out: dict[str, str] = {}
    for line in lines[:SEARCHED_LINES]:
        cells = _cells(line.strip().lstrip("#").strip())
        if len(cells) > 2 or (cells and is_number(cells[0])):
            break
        field = CALLED.get(cells[0].casefold()) if len(cells) == 2 else None
        if field is not None:
            out.setdefault(field, cells[1])
    return out


def _cells(line: str) -> list[str]:
    """A remark's word and value, or all cells of a row that is none."""
    for separator in (",", ";", "\t"):
        cells = [c.strip() for c in next(csv.reader([line], delimiter=separator), [])]
        filled = [c for c in cells if c]
        if len(filled) >= 2:
            return filled
    return [p.strip().strip('"') for p in re.split(r"[:=]", line, maxsplit=1) if p.strip()]


def _author_of(head: bytes) -> dict[str, str]:
    """The author of a GPX file, as GPX 1.1 (``author/name``) or 1.0 (``author``) has it."""
    text = head.decode("utf-8", errors="replace")
    found = re.search(r"<author>\s*(?:<name>)?\s*([^<]+?)\s*<", text)
    return {"driver": found.group(1)} if found else {}


def _head_of_mdf(path: Path) -> dict[str, str]:
    """Author and subject of a measurement file (ASAM MDF 4: who measured, what was measured)."""
    from asammdf import MDF

    with MDF(path) as file:
        return {"driver": str(file.header.author or ""), "vehicle": str(file.header.subject or "")}


def _kept(said: dict[str, str]) -> dict[str, str]:
    """Values that may be names."""
    return {f: v for f, v in said.items() if len(v) <= LONGEST and _NAME.search(v)}
