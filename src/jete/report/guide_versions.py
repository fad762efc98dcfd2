"""Versions of a lap guide in words: read back from their documents, named, and held beside each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from jete.report.guide import FIELDS, Field, Guide, GuideCard
from jete.report.words import lap_time

if TYPE_CHECKING:
    from jete.library.guide_records import Version


@dataclass(frozen=True)
class Difference:
    """One field of one card that two guides tell otherwise."""

    corner: str
    field: str
    first: str
    second: str


def guide_from(document: dict[str, Any]) -> Guide:
    """The guide that a document (``jete.guide/1``) holds, in words; it has no drawings any more."""
    cards = tuple(_card(c) for c in document["cards"])
    rules, middle = tuple(document.get("rules", ())), bool(document.get("middle"))
    return Guide(
        document["circuit"] or "", document["lap"], document["time_s"], document["good_laps"], cards, rules, middle
    )


def _card(document: dict[str, Any]) -> GuideCard:
    measured, typed = document["measured"], document["typed"]
    fields = tuple(Field(key, measured.get(key, ""), typed.get(key, "")) for key in FIELDS)
    name, direction = document["name"] or "", document["direction"]
    return GuideCard(document["corner"], document["number"], name, direction, fields, document["line"])


def differences(first: Guide, second: Guide) -> list[Difference]:
    """What two guides of a circuit tell otherwise, corner by corner; a corner that one lacks counts whole."""
    ids = list(dict.fromkeys(c.corner for c in (*first.cards, *second.cards)))
    sides = [{c.corner: c for c in guide.cards} for guide in (first, second)]
    out = []
    for corner in ids:
        a, b = (side.get(corner) for side in sides)
        title = (b or a).title if (b or a) is not None else ""  # type: ignore[union-attr]
        for key, words in FIELDS.items():
            told = a.field(key) if a is not None else "", b.field(key) if b is not None else ""
            if told[0] != told[1]:
                out.append(Difference(title, words, *told))
    return out


def version_words(version: Version) -> str:
    """A version in one line: when, by whom, for what, of which lap.

    >>> from datetime import datetime
    >>> from jete.library.guide_records import Version
    >>> document = {"circuit": None, "lap": "Ines Karlsby, run.csv:4", "time_s": 111.134, "good_laps": 1, "cards": []}
    >>> version_words(Version(1, "endurance", "dry", "Edda Rowe", datetime(2026, 5, 3, 17, 20), 3, document, gone=True))
    '2026-05-03 17:20 · Edda Rowe · endurance · dry · Ines Karlsby, run.csv:4, 1:51.134 · its lap is not on the shelf any more'
    """
    told = f"{guide_from(version.document).made_from}, {lap_time(version.document['time_s'])}"
    parts = [f"{version.made_at:%Y-%m-%d %H:%M}", version.author, version.group, version.condition, told]
    parts.append("its lap is not on the shelf any more" if version.gone else "")
    return " · ".join(p for p in parts if p)
