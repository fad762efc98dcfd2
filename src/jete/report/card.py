"""The card of a corner: where both laps braked, how hard, how slow they were, where they picked up; and what lies between."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.report.read_off import apart
from jete.report.units import KMH, Units, plain, signed

if TYPE_CHECKING:
    from jete.core.causes.result import CornerLoss

NONE = "–"


@dataclass(frozen=True)
class CardColumn:
    """One mark: its title with its unit, both laps' values and their difference, as text."""

    title: str
    lap: str
    reference: str
    difference: str


def card_of(loss: CornerLoss, units: Units) -> tuple[CardColumn, ...]:
    """The marks of a corner in the chosen units, in the order in which they are driven.

    Places are metres of the lap; the difference of a place is minus where the lap did it earlier.
    """
    lap, reference = loss.lap_marks, loss.reference_marks
    return (
        _place("brakes at", lap.brake_on_m, reference.brake_on_m, units),
        _peak(loss, units),
        _speed("lowest", lap.min_speed_kmh, reference.min_speed_kmh, units),
        _place("pick-up", lap.throttle_on_m, reference.throttle_on_m, units),
        _place("flat out", lap.full_throttle_m, reference.full_throttle_m, units),
        _gear(lap.gear, reference.gear),
    )


def _place(title: str, lap_m: float | None, reference_m: float | None, units: Units) -> CardColumn:
    values = [None if m is None else units.length_of(m) for m in (lap_m, reference_m)]
    return _column(f"{title} {units.length}", values[0], values[1], 0)


def _speed(title: str, lap_kmh: float, reference_kmh: float, units: Units) -> CardColumn:
    return _column(f"{title} {units.speed}", units.speed_of(lap_kmh / KMH), units.speed_of(reference_kmh / KMH), 1)


def _peak(loss: CornerLoss, units: Units) -> CardColumn:
    lap, reference = loss.lap_marks, loss.reference_marks
    logged = lap.brake_unit or reference.brake_unit or "bar"
    values = [None if p is None else units.pressure_of(p, logged) for p in (lap.brake_peak, reference.brake_peak)]
    unit = next((v[1] for v in values if v is not None), "")
    own, other = (None if v is None else v[0] for v in values)
    return _column(f"peak {unit}".strip(), own, other, 0 if unit in ("%", "psi") else 1)


def _gear(lap: int | None, reference: int | None) -> CardColumn:
    return _column("gear", lap, reference, 0)


def _column(title: str, lap: float | None, reference: float | None, digits: int) -> CardColumn:
    """A column whose difference is that of what is shown, so that it can be checked by eye."""
    shown = [NONE if v is None else plain(v, digits) for v in (lap, reference)]
    if lap is None or reference is None:
        return CardColumn(title, shown[0], shown[1], NONE)
    off = apart(reference, lap, digits)
    return CardColumn(title, shown[0], shown[1], signed(off, digits) if off else "=")
