"""A corner of the lap guide in the words of the trade: each field, the cue, the line for the helmet bag."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from jete.core.driving.shapes import Hardness, hardness_of
from jete.core.guide.cards import Figure
from jete.report.seat import from_landmark, from_landmark_short, stakes_sentence
from jete.report.units import METRIC, Units, plain

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.core.axis.road.corners import Corner
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.marks import Marks
    from jete.core.guide.cards import Card

HARD_WORDS: Final[dict[Hardness, str]] = {"light": "lightly", "firm": "firmly", "hard": "hard"}
RELEASES: Final = {"one stage": "off in one go", "two stages": "off in two steps", "dropped": "off at once"}
# Farther from the mean line than this a lap is tight or wide.
BESIDE_M = 0.7


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
    tell, own = Teller(circuit, units), own or {}
    slow = next(
        ((word, Figure(at)) for word, at in (("brake", marks.brake_on_m), ("lift", marks.lift_m)) if at is not None),
        None,
    )
    pickup = Figure(marks.throttle_on_m) if marks.throttle_on_m is not None else None
    parts = [tell.begin(slow, own), tell.gear_short(marks.gear, own), tell.power(pickup, own)]
    return corner.called + ": " + " · ".join(p for p in parts if p)


def measured_fields(card: Card, after: Card, circuit: CircuitOnAxis | None, units: Units) -> dict[str, str]:
    """Every field of a card as it was measured; empty where nothing shows it.

    Args:
        card: of the corner.
        after: of the corner that comes next.
        circuit: on the lap's axis; None for metres only.
        units: that places and speeds are told in.
    """
    tell = Teller(circuit, units)
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
    name = after.corner.called
    if card.stakes.straight_m < 80.0 and card.stakes.kind != "flat":
        return f"stay ready for {name}: it comes at once"
    return f"then {name}"


@dataclass(frozen=True)
class Teller:
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
            typed = own["brake"]
            return typed if typed.casefold().startswith(("brake", "lift")) else f"brake {typed}"
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


def line_of(card: Card, tell: Teller, own: Mapping[str, str]) -> str:
    """One line for the helmet bag: brake, gear, speed, pick-up; what people wrote first."""
    slow = next(((w, f) for w, f in (("brake", card.brake_m), ("lift", card.lift_m)) if f is not None), None)
    flat = slow is None and card.stakes.kind != "flat"
    speed = own.get("speed") or tell.units.speed_text(round(card.min_speed_kmh.value)).replace(".0 ", " ")
    parts = [
        "" if flat and "brake" not in own else tell.begin(slow, own), tell.gear_short(card.gear, own), speed,
        tell.power(card.pickup_m, own),
    ]  # fmt: skip
    return " · ".join(p for p in parts if p)
