"""The lap guide in words: a card as fields, the whole as JSON and Markdown, one line a corner for the helmet bag."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from jete.core.driving.shapes import Hardness, hardness_of
from jete.core.guide.cards import Figure
from jete.report.drawings import map_drawing, plan_drawing, trace_drawing
from jete.report.seat import from_landmark, from_landmark_short, stakes_sentence
from jete.report.units import METRIC, Units, plain
from jete.report.words import lap_time

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.corners import Corner
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.marks import Marks
    from jete.core.guide.cards import Card
    from jete.library.guide_book import Made
    from jete.library.guide_records import OwnWords, Photo
    from jete.report.drawings import Drawing

# The fields of a card in the order in which a corner is driven, with their titles.
FIELDS: Final = {
    "kind": "what it is", "stand": "stand", "brake": "brake", "gear": "gear", "switches": "switches", "turn_in": "turn in",
    "apex": "apex", "speed": "lowest speed", "pick_up": "pick-up", "exit": "exit", "next": "then", "race": "over a run", "care": "careful",
}  # fmt: skip
HARD_WORDS: Final[dict[Hardness, str]] = {"light": "lightly", "firm": "firmly", "hard": "hard"}
RELEASES: Final = {"one stage": "off in one go", "two stages": "off in two steps", "dropped": "off at once"}
# Farther from the mean line than this a lap is tight or wide.
BESIDE_M = 0.7
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

    corner: int
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
    typed: Mapping[tuple[int, str], OwnWords],
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
        measured = _measured(card, after, circuit, units)
        number = card.corner.id or card.corner.number
        fields = tuple(_field(key, measured[key], typed.get((number, key))) for key in FIELDS)
        own = {f.key: f.typed for f in fields if f.typed}
        line = _line(card, _Teller(circuit, units), own)
        out.append(GuideCard(number, card.corner.shown, card.corner.name, card.corner.direction, fields, line))
    return tuple(out)


def _field(key: str, measured: str, own: OwnWords | None) -> Field:
    return Field(key, measured) if own is None else Field(key, measured, own.text, own.over)


def corner_cue(
    corner: Corner,
    marks: Marks,
    circuit: CircuitOnAxis | None,
    units: Units = METRIC,
    own: Mapping[str, str] | None = None,
) -> str:
    """What to do in the corner that comes next, in as few words as are read at speed.

    Args:
        corner: that comes next.
        marks: of the lap to drive by.
        circuit: on its axis; None for metres only.
        units: that it is told in.
        own: what people wrote into the guide, by field; it comes first.
    """
    tell, own = _Teller(circuit, units), own or {}
    slow = next(
        ((word, Figure(at)) for word, at in (("brake", marks.brake_on_m), ("lift", marks.lift_m)) if at is not None),
        None,
    )
    pickup = Figure(marks.throttle_on_m) if marks.throttle_on_m is not None else None
    parts = [tell.begin(slow, own), tell.gear_short(marks.gear, own), tell.power(pickup, own)]
    return f"{corner.shown} {corner.name}".rstrip() + ": " + " · ".join(p for p in parts if p)


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


def _measured(card: Card, after: Card, circuit: CircuitOnAxis | None, units: Units) -> dict[str, str]:
    tell = _Teller(circuit, units)
    return {
        "kind": _kind(card, units), "stand": tell.stand(card), "brake": tell.brake(card), "gear": tell.gear(card),
        "switches": ", ".join(f"{n.replace('_', ' ')} {v:g}" for n, v in card.switches), "turn_in": tell.place(card.turn_in_m),
        "race": tell.race(card),
        "apex": _apex(card), "speed": tell.speed(card.min_speed_kmh), "pick_up": tell.pick_up(card),
        "exit": tell.exit(card), "next": _then(card, after), "care": "; ".join(h.text for h in card.hazards),
    }  # fmt: skip


def _kind(card: Card, units: Units) -> str:
    told = stakes_sentence(card.stakes, units)
    worth = card.stakes.exit_kmh_worth_s
    return f"{told}; 1 km/h more at the exit is worth {worth:.3f} s" if card.stakes.kind in ("exit", "both") else told


def _apex(card: Card) -> str:
    words = {
        "late": "slow early, for a late apex",
        "middle": "slowest at the apex",
        "early": "slow late, past the apex",
    }
    return words[card.apex]


def _then(card: Card, after: Card) -> str:
    """What comes next, where it comes at once."""
    name = f"{after.corner.shown} {after.corner.name}".rstrip()
    if card.stakes.straight_m < 80.0 and card.stakes.kind != "flat":
        return f"stay ready for {name}: it comes at once"
    return f"then {name}"


@dataclass(frozen=True)
class _Teller:
    """Tells places and speeds in the chosen units, from landmarks where there are some."""

    circuit: CircuitOnAxis | None
    units: Units

    def place(self, figure: Figure | None) -> str:
        """A place, with how far it varies."""
        if figure is None:
            return ""
        told = self.circuit.told(figure.value) if self.circuit is not None else None
        words = from_landmark(told, self.units) if told is not None else f"at {self.units.length_text(figure.value)}"
        return f"{words}{self._varies(figure)}"

    def short(self, figure: Figure) -> str:
        """A place in few words."""
        told = self.circuit.told(figure.value) if self.circuit is not None else None
        return (
            from_landmark_short(told, self.units) if told is not None else f"at {self.units.length_text(figure.value)}"
        )

    def begin(self, slow: tuple[str, Figure] | None, own: Mapping[str, str]) -> str:
        """How a corner is begun: where one brakes or lifts, or flat."""
        if "brake" in own:
            return f"brake {own['brake']}"
        return f"{slow[0]} {self.short(slow[1])}" if slow is not None else "flat"

    def gear_short(self, gear: int | None, own: Mapping[str, str]) -> str:
        """The gear."""
        if "gear" in own:
            return own["gear"]
        return f"gear {gear}" if gear is not None else ""

    def power(self, pickup: Figure | None, own: Mapping[str, str]) -> str:
        """Where the power goes on."""
        if "pick_up" in own:
            return f"power {own['pick_up']}"
        return f"power {self.short(pickup)}" if pickup is not None else ""

    def _varies(self, figure: Figure) -> str:
        """How much earlier and later good laps were."""
        if figure.low is None or figure.high is None:
            return ""
        early, late = (self.units.length_of(v) for v in (figure.value - figure.low, figure.high - figure.value))
        if max(early, late) < 1.0:
            return ""
        return (
            f" (good laps: {plain(early, 0)} {self.units.length} earlier to {plain(late, 0)} {self.units.length} later)"
        )

    def speed(self, figure: Figure) -> str:
        """A speed, with what good laps had."""
        text = self.units.speed_text(figure.value)
        if figure.low is None or figure.high is None or figure.high - figure.low < 0.5:
            return text
        return f"{text} (good laps: {self.units.speed_text(figure.low).split()[0]} to {self.units.speed_text(figure.high)})"

    def brake(self, card: Card) -> str:
        """Where, how hard, how built, straight or into the turn, how it comes off."""
        if card.brake_m is None:
            if card.stakes.kind == "flat":
                return "not at all: flat"
            return f"lift {self.place(card.lift_m)}" if card.lift_m is not None else ""
        parts = [self.place(card.brake_m)]
        if card.press is not None:
            hard = HARD_WORDS[hardness_of(card.press.peak)]
            built = "at once" if card.press.build_s < 0.2 else f"within {card.press.build_s:.1f} s"
            parts.append(f"{hard}, built {built} ({100 * card.press.peak:.0f} % of the hardest press)")
        if card.straight is True:
            parts.append("in a straight line")
        elif card.press is not None and card.press.trail_m:
            share = f", {100 * card.press.at_turn_in:.0f} % on turning in" if card.press.at_turn_in else ""
            parts.append(f"trail it {self.units.length_text(card.press.trail_m)} into the turn{share}")
        if card.brushes > 1:
            parts.append(f"in {card.brushes} presses")
        if card.release is not None:
            parts.append(RELEASES[card.release])
        return "; ".join(parts)

    def stand(self, card: Card) -> str:
        """Where on the road the corner is begun."""
        off = card.entry_off_m
        if off is None or abs(off.value) < BESIDE_M:
            return "" if off is None else "on the usual line"
        return f"{self.units.length_text(abs(off.value), 1)} {'left' if off.value > 0.0 else 'right'} of the usual line"

    def gear(self, card: Card) -> str:
        """The gear at the slow point, others that good laps took, and where it is shifted down."""
        if card.gear is None:
            return ""
        others = [g for g in card.gears if g != card.gear]
        told = f"gear {card.gear}" + (f" (or {', '.join(map(str, others))})" if others else "")
        shifts = len(card.downshifts_m)
        if not shifts:
            return told
        last = self.short(Figure(card.downshifts_m[-1]))
        return f"{told}; {shifts} shift{'s' if shifts > 1 else ''} down, the last {last}"

    def race(self, card: Card) -> str:
        """What the laps of the run do otherwise."""
        race = card.race
        if race is None or not race.differs:
            return ""
        parts = []
        if race.brake_m is not None:
            parts.append(f"brake {self._by(race.brake_m)}")
        if race.gear is not None:
            parts.append(f"gear {race.gear}")
        if race.min_speed_kmh is not None:
            more = "more" if race.min_speed_kmh > 0.0 else "less"
            parts.append(f"{self.units.speed_text(abs(race.min_speed_kmh))} {more} at the slow point")
        if race.pickup_m is not None:
            parts.append(f"power {self._by(race.pickup_m)}")
        return f"{'; '.join(parts)} (the middle of its {race.laps} laps)"

    def _by(self, metres: float) -> str:
        return f"{self.units.length_text(abs(metres))} {'later' if metres > 0.0 else 'earlier'}"

    def pick_up(self, card: Card) -> str:
        """Where, and how it is fed."""
        if card.pickup_m is None:
            return ""
        parts = [self.place(card.pickup_m)]
        if card.feed is not None:
            full = "hold it there" if card.feed.full_s is None else f"full after {card.feed.full_s:.1f} s"
            parts.append(f"to {100 * card.feed.step:.0f} % at once, {full}")
        return "; ".join(parts)

    def exit(self, card: Card) -> str:
        """Flat out from where, how wide, how fast."""
        parts = [f"flat out {self.place(card.full_m)}"] if card.full_m is not None else []
        if card.exit_off_m is not None and abs(card.exit_off_m.value) >= BESIDE_M:
            outside = card.exit_off_m.value > 0.0 if card.corner.direction == "right" else card.exit_off_m.value < 0.0
            size = self.units.length_text(abs(card.exit_off_m.value), 1)
            parts.append(f"{size} {'wider' if outside else 'tighter'} than most laps")
        parts.append(self.speed(card.exit_speed_kmh))
        return "; ".join(parts)


def _line(card: Card, tell: _Teller, own: Mapping[str, str]) -> str:
    """One line for the helmet bag: brake, gear, speed, pick-up; what people wrote first."""
    slow = next(((w, f) for w, f in (("brake", card.brake_m), ("lift", card.lift_m)) if f is not None), None)
    flat = slow is None and card.stakes.kind != "flat"
    speed = own.get("speed") or tell.units.speed_text(round(card.min_speed_kmh.value)).replace(".0 ", " ")
    parts = [
        "" if flat and "brake" not in own else tell.begin(slow, own), tell.gear_short(card.gear, own), speed,
        tell.power(card.pickup_m, own),
    ]  # fmt: skip
    return " · ".join(p for p in parts if p)


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


def guide_markdown(guide: Guide) -> str:
    """The guide as Markdown."""
    lines = [f"# {guide.circuit or 'Lap guide'}", "", f"By {guide.made_from}, {lap_time(guide.time_s)}. {CARE}", ""]
    lines += [f"- {r}" for r in guide.rules]
    for card in guide.cards:
        lines += ["", f"## {card.title} ({card.direction})", "", f"**{card.line}**", ""]
        lines += [f"- {FIELDS[f.key]}: {f.shown}{' *(own words)*' if f.typed else ''}" for f in card.fields if f.shown]
    return "\n".join(lines) + "\n"
