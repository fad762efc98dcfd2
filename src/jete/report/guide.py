"""The lap guide in words: a card as fields, the whole as JSON and Markdown, one line a corner for the helmet bag."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from jete.report.drawings import map_drawing, plan_drawing, trace_drawing
from jete.report.guide_words import Teller, line_of, measured_fields
from jete.report.units import METRIC, Units
from jete.report.words import in_markdown, lap_time, printable

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.road.corners import CornerId
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.guide.cards import Card
    from jete.desk.guide import Made
    from jete.library.guide_records import OwnWords, Photo
    from jete.report.drawings import Drawing

# The fields of a card in the order in which a corner is driven, with their titles.
FIELDS: Final = {
    "kind": "what it is", "stand": "stand", "brake": "brake", "gear": "gear", "switches": "switches", "turn_in": "turn in",
    "apex": "apex", "speed": "lowest speed", "pick_up": "pick-up", "exit": "exit", "next": "then", "race": "over a run", "care": "careful",
}  # fmt: skip
CARE: Final = (
    "Closed circuits only. The circuit's rules and its marshals come first; a qualified instructor decides. "
    "Small steps: what is written here is what one lap did, not what the next one must."
)


@dataclass(frozen=True)
class Field:
    """One field of a card: what was measured, what a person put in its place, and what was measured ``over`` which it was put."""

    key: str
    measured: str
    typed: str = ""
    over: str = ""

    @property
    def changed(self) -> bool:
        """Whether something else is measured now than when the person wrote."""
        return bool(self.typed and self.over) and self.over != self.measured

    @property
    def shown(self) -> str:
        """What is read."""
        return self.typed or self.measured


@dataclass(frozen=True)
class GuideCard:
    """A card in words; ``line`` is the one for the helmet bag."""

    corner: CornerId
    number: str
    name: str
    direction: str
    fields: tuple[Field, ...]
    line: str
    photos: tuple[Photo, ...] = ()
    drawings: tuple[Drawing, ...] = ()

    @property
    def title(self) -> str:
        """Number and name."""
        return f"{self.number} {self.name}".rstrip()

    def measured(self, key: str) -> str:
        """What was measured of a field; empty where nothing was."""
        return next((f.measured for f in self.fields if f.key == key), "")

    def field(self, key: str) -> str:
        """A field's text; empty where there is none."""
        return next((f.shown for f in self.fields if f.key == key), "")


@dataclass(frozen=True)
class Guide:
    """A guide in words: of which lap, where, by whom, and its cards."""

    circuit: str
    lap: str
    time_s: float
    laps: int
    cards: tuple[GuideCard, ...]
    rules: tuple[str, ...] = ()
    middle: bool = False
    map: Drawing | None = None

    @property
    def made_from(self) -> str:
        """What it was written from, in words."""
        if self.middle:
            return f"the middle of {self.laps} good laps around {self.lap}"
        return self.lap + (f", with the spread of {self.laps} good laps" if self.laps > 1 else "")


def guide_cards(
    cards: Sequence[Card],
    circuit: CircuitOnAxis | None,
    typed: Mapping[tuple[CornerId, str], OwnWords],
    units: Units = METRIC,
) -> tuple[GuideCard, ...]:
    """Cards in words.

    Args:
        cards: in order.
        circuit: on the lap's axis; None for metres only.
        typed: what people wrote, by corner (its id) and field.
        units: that places and speeds are told in.
    """
    out = []
    for k, card in enumerate(cards):
        after = cards[k + 1] if k + 1 < len(cards) else cards[0]
        measured = measured_fields(card, after, circuit, units)
        number = card.corner.lasting
        fields = tuple(_field(key, measured[key], typed.get((number, key))) for key in FIELDS)
        own = {f.key: f.typed for f in fields if f.typed}
        line = line_of(card, Teller(circuit, units), own)
        out.append(GuideCard(number, card.corner.shown, card.corner.name, card.corner.direction, fields, line))
    return tuple(out)


def _field(key: str, measured: str, own: OwnWords | None) -> Field:
    return Field(key, measured) if own is None else Field(key, measured, own.text, own.over)


def guide_in_words(made: Made, units: Units = METRIC) -> Guide:
    """A guide in words, from its numbers."""
    cards = guide_cards(made.cards, made.circuit, made.typed, units)
    rules = made.circuit.book.rules if made.circuit is not None else ()
    name = made.circuit.name if made.circuit is not None else ""
    pictured = tuple(_pictured(c, made, k) for k, c in enumerate(cards))
    return Guide(
        name, made.lap.label, made.lap.span.time_s, made.laps, pictured, rules, made.middle, _map(made),
    )  # fmt: skip


def _pictured(card: GuideCard, made: Made, k: int) -> GuideCard:
    """A card with its pictures: what people put there, the corner from above, what the lap did."""
    photos = tuple(p for p in made.photos if p.corner == card.corner)
    if k >= len(made.plans):
        return replace(card, photos=photos)
    plan = plan_drawing(made.plans[k], made.circuit, card.title)
    drawn = (*([plan] if plan is not None else []), trace_drawing(made.plans[k], card.title))
    return replace(card, photos=photos, drawings=drawn)


def _map(made: Made) -> Drawing | None:
    """The whole circuit, with the numbers of its corners."""
    path = made.path_m
    if path is None:
        return None
    along = np.linspace(0.0, made.lap.span.length_m, len(path))

    def at(place_m: float) -> tuple[float, float]:
        return float(np.interp(place_m, along, path[:, 0])), float(np.interp(place_m, along, path[:, 1]))

    return map_drawing(path, [(c.corner.shown, *at(c.corner.apex_m)) for c in made.cards])


KEPT_WORDS: Final = {
    "brake": "brake point", "turn_in": "turn-in", "lowest_speed": "lowest speed", "pick_up": "pick-up", "gear": "gear", "brushes": "presses",
}  # fmt: skip


def kept_words(kept: Mapping[str, bool]) -> str:
    """What a lap kept of a card, and what not.

    >>> kept_words({"brake": True, "gear": True, "pick_up": False}), kept_words({"brake": True})
    ('not kept: pick-up', 'kept')
    """
    missed = [KEPT_WORDS[k] for k, v in kept.items() if not v]
    return f"not kept: {', '.join(missed)}" if missed else "kept" if kept else ""


def guide_document(guide: Guide, kept: Sequence[Mapping[str, bool]] = ()) -> dict[str, Any]:
    """The document of ``jete guide --json``; ``kept`` what another lap kept of each card."""
    return {
        "schema": "jete.guide/1",
        "circuit": guide.circuit or None,
        "lap": guide.lap,
        "time_s": round(guide.time_s, 6),
        "good_laps": guide.laps,
        "middle": guide.middle,
        "rules": list(guide.rules),
        "cards": [
            {
                "corner": c.corner,
                "number": c.number,
                "name": c.name or None,
                "direction": c.direction,
                "line": c.line,
                **{f.key: f.shown or None for f in c.fields},
                "typed": {f.key: f.typed for f in c.fields if f.typed},
                "measured": {f.key: f.measured for f in c.fields if f.measured},
                "changed": [f.key for f in c.fields if f.changed],
                **({"kept": dict(kept[k])} if kept else {}),
            }
            for k, c in enumerate(guide.cards)
        ],
    }


def guide_lines(guide: Guide) -> str:
    """The guide for the helmet bag as text: a line a corner."""
    head = f"{guide.circuit or 'Lap guide'}, by {guide.made_from}, {lap_time(guide.time_s)}"
    return printable("\n".join([head, *(f"{_one_line(c.title)}: {_one_line(c.line)}" for c in guide.cards), CARE, ""]))


def guide_markdown(guide: Guide) -> str:
    """The guide as Markdown; what people typed is shown as typed, never as markup."""
    title, made_from = in_markdown(guide.circuit or "Lap guide"), in_markdown(guide.made_from)
    lines = [f"# {title}", "", f"By {made_from}, {lap_time(guide.time_s)}. {CARE}", ""]
    lines += [f"- {in_markdown(r)}" for r in guide.rules]
    for card in guide.cards:
        lines += ["", f"## {in_markdown(card.title)} ({card.direction})", "", f"**{in_markdown(card.line)}**", ""]
        lines += [
            f"- {FIELDS[f.key]}: {in_markdown(f.shown)}{' *(own words)*' if f.typed else ''}"
            for f in card.fields
            if f.shown
        ]
    return "\n".join(lines) + "\n"


def _one_line(text: str) -> str:
    return " ".join(text.split())
