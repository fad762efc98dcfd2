"""The marks of a corner as a person reads them: both laps' numbers in the chosen units, and the difference of what stands there.

One telling for every layout: the card under the ledger and the table of the page Corner take their numbers from here.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from jete.report.read_off import apart
from jete.report.units import KMH, Units, plain, signed

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import CornerLoss

NONE: Final = "–"
# The marks that are places, in the order in which they are driven.
PLACES: Final = (
    ("lift_m", "lift"), ("brake_on_m", "brake"), ("turn_in_m", "turn-in"), ("brake_off_m", "release"),
    ("slow_point_m", "slowest"), ("throttle_on_m", "pick-up"), ("full_throttle_m", "flat out"),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class MarkRead:
    """One mark: its numbers in ``unit``, None where a lap has none, to so many ``digits``; ``at_m`` where it is a place, metres."""

    name: str
    title: str
    unit: str
    digits: int
    reference: float | None
    lap: float | None
    at_m: tuple[float | None, float | None] | None = None

    @property
    def nobody(self) -> bool:
        """Whether neither lap has it."""
        return self.reference is None and self.lap is None

    def text(self, value: float | None) -> str:
        """One of its numbers, without unit."""
        return NONE if value is None else plain(value, self.digits)

    @property
    def apart(self) -> float | None:
        """By how much the lap's lies over the reference's, of the numbers that are shown."""
        return None if self.reference is None or self.lap is None else apart(self.reference, self.lap, self.digits)

    @property
    def difference(self) -> str:
        """The same as text: a dash where one has none, "=" where they are alike."""
        if self.apart is None:
            return NONE
        return signed(self.apart, self.digits) if self.apart else "="


def marks_read(loss: CornerLoss, units: Units) -> tuple[MarkRead, ...]:
    """All marks of a corner, in the order in which they are driven; those that neither lap has among them."""
    reference, lap = loss.reference_marks, loss.lap_marks
    out = []
    for name, title in PLACES:
        out.append(_place(name, title, (getattr(reference, name), getattr(lap, name)), units))
        if name == "brake_on_m":
            out.append(_peak(loss, units))
        if name == "slow_point_m":
            out.append(_speed("min_speed_kmh", "lowest speed", (reference.min_speed_kmh, lap.min_speed_kmh), units))
    out.append(_speed("exit_speed_kmh", "exit speed", (reference.exit_speed_kmh, lap.exit_speed_kmh), units))
    out.append(_speed("end_kmh", "straight's end", loss.end_kmh, units))
    out.append(MarkRead(name="gear", title="gear", unit="", digits=0, reference=reference.gear, lap=lap.gear))
    return tuple(out)


def _place(name: str, title: str, at_m: tuple[float | None, float | None], units: Units) -> MarkRead:
    reference, lap = (None if m is None else units.length_of(m) for m in at_m)
    return MarkRead(
        name=name, title=title, unit=units.length, digits=0, reference=reference, lap=lap, at_m=at_m
    )  # fmt: skip


def _speed(name: str, title: str, kmh: tuple[float, float], units: Units) -> MarkRead:
    reference, lap = (units.speed_of(v / KMH) for v in kmh)
    return MarkRead(name=name, title=title, unit=units.speed, digits=1, reference=reference, lap=lap)


def _peak(loss: CornerLoss, units: Units) -> MarkRead:
    """The hardest press; a pressure and a deceleration that a pedal was inferred from can't be held against each other."""
    marks = loss.reference_marks, loss.lap_marks
    shown = [
        None if m.brake_peak is None else units.pressure_of(m.brake_peak, m.brake_unit or "bar") for m in marks
    ]  # fmt: skip
    if shown[0] is not None and shown[1] is not None and shown[0][1] != shown[1][1]:
        shown[1] = None
    unit = next((s[1] for s in shown if s is not None), "")
    reference, lap = (None if s is None else s[0] for s in shown)
    digits = 0 if unit in ("%", "psi") else 1
    return MarkRead(name="brake_peak", title="hardest press", unit=unit, digits=digits, reference=reference, lap=lap)
