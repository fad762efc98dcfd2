"""One thing to try at one corner, and the few of a run: places are metres of the reference's axis."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final, Literal

from jete.core.causes.kinds import Kind

if TYPE_CHECKING:
    from jete.core.driving.marks import Marks

Measure = Literal["brake_on_m", "min_speed_kmh", "throttle_on_m", "coast_s", "throttle_dips"]

UNITS: Final[dict[Measure, str]] = {
    "brake_on_m": "m", "min_speed_kmh": "km/h", "throttle_on_m": "m", "coast_s": "s", "throttle_dips": "dips",
}  # fmt: skip
# A run asks for no more than this of each; a rider for less.
STEPS: Final[dict[Measure, float]] = {
    "brake_on_m": 5.0, "min_speed_kmh": 2.0, "throttle_on_m": 5.0, "coast_s": 0.3, "throttle_dips": 1.0,
}  # fmt: skip
RIDERS_SHARE: Final = 0.6
# No aim is told more narrowly than this, and none narrower than its own scatter.
TOLERANCES: Final[dict[Measure, float]] = {
    "brake_on_m": 1.5, "min_speed_kmh": 1.0, "throttle_on_m": 1.5, "coast_s": 0.1, "throttle_dips": 0.5,
}  # fmt: skip
# What each mark's mean differs by from run to run for nobody's doing, one standard deviation, where it was never measured.
RUN_TO_RUN: Final[dict[Measure, float]] = {
    "brake_on_m": 1.0, "min_speed_kmh": 1.0, "throttle_on_m": 1.0, "coast_s": 0.05, "throttle_dips": 0.15,
}  # fmt: skip
# What a cause asks for: which mark, and to which side it is to go.
ASKS: Final[dict[Kind, tuple[Measure, float]]] = {
    Kind.EARLY_BRAKING: ("brake_on_m", 1.0),
    Kind.SOFT_BRAKING: ("brake_on_m", 1.0),
    Kind.LATE_BRAKING: ("brake_on_m", -1.0),
    Kind.SLOWED_LATE: ("brake_on_m", -1.0),
    Kind.OVERSHOT: ("brake_on_m", -1.0),
    Kind.HARD_BRAKING: ("brake_on_m", -1.0),
    Kind.OVERSLOWING: ("min_speed_kmh", 1.0),
    Kind.MORE_SPEED: ("min_speed_kmh", -1.0),
    Kind.COASTING: ("coast_s", -1.0),
    Kind.LATE_THROTTLE: ("throttle_on_m", -1.0),
    Kind.EARLY_THROTTLE: ("throttle_on_m", 1.0),
    Kind.THROTTLE_HESITATION: ("throttle_dips", -1.0),
}


# For a race, what can be kept up lap after lap: less of a step, and more that still counts.
RACE_STEP, RACE_TOLERANCE = 0.6, 1.5
# Done on fewer laps it does not count.
LAPS_NEEDED: Final = 5


@dataclass(frozen=True, kw_only=True)
class AimSet:
    """What of an aim is judged: its measure, where it was, is to be (there too: it is to stay), and how far off still counts."""

    measure: Measure
    start: float
    target: float
    tolerance: float
    capped: bool = False
    laps_needed: int = LAPS_NEEDED

    @property
    def step(self) -> float:
        """How far the mark is to move, with its sign."""
        return self.target - self.start


@dataclass(frozen=True, kw_only=True)
class Aim:
    """One change at one corner.

    Attributes:
        corner: counted from the line, from 1.
        kind: the cause that it is about.
        scatter: one robust standard deviation of the mark from lap to lap.
        judge: the mark that is to move, from the median of the laps that count to where it is to be.
    """

    corner: int
    kind: Kind
    scatter: float
    judge: AimSet


def value_of(marks: Marks, measure: Measure) -> float | None:
    """A lap's value of a measure; None where it has none. The brake point is the lift where nobody brakes."""
    value = marks.onset_m if measure == "brake_on_m" else getattr(marks, measure)
    return None if value is None else float(value)
