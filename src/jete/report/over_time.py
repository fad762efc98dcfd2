"""A corner over runs in words: who drove when, on what, and how conditions and set-up had changed since the run before."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from jete.notes.sheet import BY_NAME, RunSheet
from jete.report.units import plain

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.passes.by_run import Middle

# What may move a mark or a time, in the order in which it is told.
BESIDE: Final = ("setup", "condition", "tyres", "tyre_laps", "brake_bias", "cold_bar", "fuel_l", "track_c")
TITLES: Final = {"setup": "set-up:", "tyre_laps": "tyres driven", "cold_bar": "cold pressures", "fuel_l": "fuel"}


def when_who(sheet: RunSheet) -> str:
    """When a run was, and who drove.

    >>> when_who(RunSheet(date="2026-05-02", time="10:15", driver="Ines Karlsby"))
    '2026-05-02 10:15 · Ines Karlsby'
    """
    return " · ".join(p for p in (" ".join(t for t in (sheet.date, sheet.time) if t), sheet.driver) if p)


def beside_words(sheet: RunSheet, before: RunSheet | None) -> str:
    """Conditions and set-up of a run: all that is known of the first, of a later one what is new or other.

    >>> first = RunSheet(condition="dry", brake_bias=56.0)
    >>> beside_words(first, None), beside_words(RunSheet(condition="wet", brake_bias=56.0, setup="softer"), first)
    ('road dry · brake bias 56 %', 'set-up: softer · road wet')
    """
    told = []
    for name in BESIDE:
        value, was = getattr(sheet, name), getattr(before, name) if before is not None else None
        if value not in ("", None) and (value != was or name == "setup"):
            field = BY_NAME[name]
            text = plain(value, 0 if float(value).is_integer() else 1) if isinstance(value, float) else str(value)
            told.append(f"{TITLES.get(name, field.title)} {text} {field.unit}".rstrip())
    return " · ".join(told)


def run_before(run: int, sheets: Sequence[tuple[int, RunSheet]]) -> RunSheet | None:
    """The sheet of the run before this one with the same vehicle on the same circuit; None for the first.

    Args:
        run: its number.
        sheets: of runs by number, in order of time; the run is among them.
    """
    before: RunSheet | None = None
    here = dict(sheets)[run]
    for number, sheet in sheets:
        if number == run:
            break
        if all(getattr(sheet, n) == getattr(here, n) for n in ("vehicle", "circuit", "layout")):
            before = sheet
    return before


def middle_words(of: Middle, decimals: int) -> str:
    """A middle with its spread.

    >>> from jete.core.passes.by_run import Middle
    >>> middle_words(Middle(6.4121, 0.052), 3)
    '6.412 ±0.052'
    """
    spread = f" ±{plain(of.spread, decimals)}" if of.spread is not None else ""
    return plain(of.middle, decimals) + spread
