"""Units on the screen: the core stays in SI, here numbers become text."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.report.words import MINUS

if TYPE_CHECKING:
    from jete.session.display import Display

# Unit to how many of it are one m/s, one metre, one bar.
SPEEDS = {"km/h": 3.6, "mph": 2.236936}
LENGTHS = {"m": 1.0, "ft": 3.280840, "yd": 1.093613}
KMH = 3.6
# A share of the hardest press has no fixed factor; where there is none to take it of, the bar stands.
PRESSURES = {"bar": 1.0, "psi": 14.503774, "%": 1.0}


@dataclass(frozen=True)
class Units:
    """The chosen units."""

    speed: str
    length: str
    pressure: str

    def speed_of(self, mps: float) -> float:
        """A speed in the chosen unit."""
        return mps * SPEEDS[self.speed]

    def length_of(self, metres: float) -> float:
        """A distance in the chosen unit."""
        return metres * LENGTHS[self.length]

    def pressure_of(self, bar: float, logged: str) -> tuple[float, str]:
        """A brake value and its unit: pressures are converted, shares are not."""
        unit = "bar" if self.pressure == "%" else self.pressure
        return (bar * PRESSURES[unit], unit) if logged == "bar" else (bar, logged)

    def length_text(self, metres: float, digits: int = 0) -> str:
        """A distance with its unit."""
        return f"{plain(self.length_of(metres), digits)} {self.length}"

    def speed_text(self, kmh: float) -> str:
        """A speed with its unit, to a tenth."""
        return f"{plain(self.speed_of(kmh / KMH), 1)} {self.speed}"


METRIC = Units("km/h", "m", "bar")


def units_of(display: Display) -> Units:
    """The units of a display."""
    return Units(display.speed, display.length, display.pressure)


def signed(value: float, digits: int) -> str:
    """A number with its sign and a true minus.

    >>> signed(-1.25, 1), signed(0.0, 1)
    ('−1.2', '+0.0')
    """
    rounded = round(value, digits) + 0.0
    return f"{MINUS if rounded < 0 else '+'}{abs(rounded):.{digits}f}"


def plain(value: float, digits: int) -> str:
    """A number with a true minus and no plus."""
    rounded = round(value, digits) + 0.0
    return f"{MINUS if rounded < 0 else ''}{abs(rounded):.{digits}f}"
