"""What a person said the columns of a file are, remembered for files that look alike.

A map names for each column the channel, its unit, sign and offset.  It is plain JSON, so
that it can be handed on.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.channels import QUANTITIES, canonical_name, factor
from jete.core.errors import InputError
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


@dataclass(frozen=True)
class Guess:
    """What a column may be, and why; ``channel`` is empty where nothing speaks for one."""

    channel: str
    unit: str
    why: str


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


def guess(columns: Columns) -> list[Guess]:
    """What each column may be: by its name, then its unit, then its range."""
    out = []
    for name, unit, values in zip(columns.names, columns.units, columns.values, strict=True):
        out.append(Guess("", unit or "", "text") if values is None else _guess(name, unit, values))
    seen: set[str] = set()
    for i, g in enumerate(out):
        if g.channel and g.channel in seen:
            out[i] = Guess("", g.unit, f"another column is '{g.channel}' already")
        seen.add(g.channel)
    return out


def _guess(name: str, unit: str | None, values: np.ndarray) -> Guess:
    known = canonical_name(name)
    if known:
        fits = factor(known, unit) is not None
        default = QUANTITIES[known].default
        return Guess(known, (unit or default) if fits else default, "by its name")
    if unit:
        by_unit = [c for c, q in QUANTITIES.items() if unit.strip().casefold() in q.units and len(unit.strip()) > 1]
        if len(by_unit) == 1:
            return Guess(by_unit[0], unit, f"the only channel in {unit}")
        if by_unit and all(c.startswith("brake") for c in by_unit):
            return Guess("brake", unit, f"{unit} is of a brake, unless it is of a tyre or of oil")
    good = values[np.isfinite(values)]
    if len(good) > 2 and np.all(np.diff(good) > 0.0) and good[0] >= 0.0:
        step = float(np.median(np.diff(good)))
        if step in (1.0, 2.0, 5.0, 10.0, 20.0, 40.0, 50.0, 100.0):
            return Guess("time", "ms", f"rises by {step:.0f} each row")
        if step <= 0.2:
            return Guess("time", "s", f"rises by {step:.3g} each row")
    return Guess("", unit or "", "no name, unit or range speaks for a channel")


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
