"""What a person said the columns of a file are, remembered for files that look alike.

A map names for each column the channel, its unit, sign and offset.  It is plain JSON, so
that it can be handed on.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError
from jete.core.log.channels import canonical_name
from jete.formats.columns import Columns

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

SCHEMA = "jete.columns/1"


@dataclass(frozen=True)
class Assigned:
    """One column: the channel it is, the unit it is in, its sign, and what is added after that (in the unit)."""

    column: str
    channel: str
    unit: str
    sign: int = 1
    offset: float = 0.0


@dataclass(frozen=True)
class ColumnMap:
    """What the columns ``names`` of a kind of file are."""

    names: tuple[str, ...]
    columns: tuple[Assigned, ...]

    def fits(self, columns: Columns) -> bool:
        """Whether a file has the same columns in the same order."""
        return _signature(columns.names) == _signature(self.names)


def _signature(names: Iterable[str]) -> tuple[str, ...]:
    return tuple(n.strip().casefold() for n in names)


def mapped(columns: Columns, maps: Sequence[ColumnMap]) -> Columns:
    """The columns under the names that a person gave them; as they are without a map that fits."""
    found = next((m for m in maps if m.fits(columns)), None)
    return apply(columns, found) if found else columns


def apply(columns: Columns, chosen: ColumnMap) -> Columns:
    """The columns renamed and scaled as a map says; others that would take a mapped name keep theirs apart."""
    said = {a.column.strip().casefold(): a for a in chosen.columns}
    taken = {a.channel for a in chosen.columns}
    names, units, values = [], [], []
    for name, unit, column in zip(columns.names, columns.units, columns.values, strict=True):
        entry = said.get(name.strip().casefold())
        if entry is None:
            names.append(f"{name} (as logged)" if canonical_name(name) in taken else name)
            units.append(unit)
            values.append(column)
            continue
        names.append(entry.channel)
        units.append(entry.unit)
        values.append(None if column is None else entry.sign * column + entry.offset)
    return Columns(columns.source, tuple(names), tuple(units), tuple(values), columns.repairs)


def to_json(chosen: ColumnMap) -> str:
    """The map as text, to be kept or handed on."""
    document = {"schema": SCHEMA, "names": list(chosen.names), "columns": [asdict(a) for a in chosen.columns]}
    return json.dumps(document, ensure_ascii=False, indent=1)


def from_json(text: str, source: str = "the map") -> ColumnMap:
    """A map from text.

    Raises:
        InputError: what is no map of columns.
    """
    try:
        document: dict[str, Any] = json.loads(text)
        if document["schema"] != SCHEMA:
            raise InputError(source, f"this is a {document['schema']}, not a map of columns.", "Choose another file.")
        columns = tuple(
            Assigned(str(c["column"]), str(c["channel"]), str(c["unit"]), int(c["sign"]), float(c["offset"]))
            for c in document["columns"]
        )
        return ColumnMap(tuple(map(str, document["names"])), columns)
    except (ValueError, KeyError, TypeError) as error:
        raise InputError(source, "this is no map of columns.", "Choose a file that Jete wrote.") from error
