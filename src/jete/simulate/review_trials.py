"""Two runs of one driver with known truth: at some corners a mark moves from the first to the second, as asked, too far, or not."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final, Literal

import numpy as np

from jete.simulate.circuit import draw
from jete.simulate.driver import Fault, LapPlan
from jete.simulate.feet import drive_stint_with_feet
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import draw_vehicle

if TYPE_CHECKING:
    from jete.core.log.lap import Log
    from jete.simulate.circuit import Circuit

Truth = Literal["not_done", "worked", "overdone"]
Mark = Literal["brake_on_m", "throttle_on_m"]

LAPS: Final = 8
# What a driver gives away at a corner in the first run, and what is left of it in the second, metres.
GIVEN_M: Final = 12.0
LEFT_M: Final[dict[Truth, float]] = {"not_done": 12.0, "worked": 7.0, "overdone": 0.0}
STEP_M: Final = 5.0
FAULTS: Final[dict[Mark, str]] = {"brake_on_m": "early_braking", "throttle_on_m": "late_throttle"}
# The grip of two runs of a day.
GRIP: Final = (0.995, 0.99)


@dataclass(frozen=True, kw_only=True)
class TrueAim:
    """An aim at a corner (counted from the line, from 1), and what was made of it."""

    corner: int
    mark: Mark
    truth: Truth


@dataclass(frozen=True, eq=False, kw_only=True)
class ReviewTrial:
    """The logs of a run before and one after, and the aims between them."""

    circuit: Circuit
    before: Log
    after: Log
    aims: tuple[TrueAim, ...]


def drawn_review(seed: int) -> ReviewTrial:
    """A circuit, a vehicle and a driver with three aims, drawn at random."""
    rng = np.random.default_rng(seed)
    circuit, vehicle = draw(seed + 300_000), draw_vehicle(seed + 300_000)
    numbers = rng.permutation([c.number for c in circuit.corners])[: len(LEFT_M)].tolist()
    marks: list[Mark] = [("brake_on_m", "throttle_on_m")[int(k)] for k in rng.integers(0, 2, len(numbers))]
    aims = tuple(TrueAim(corner=n, mark=m, truth=t) for n, m, t in zip(numbers, marks, LEFT_M, strict=False))
    logs = []
    for run, grip in enumerate(GRIP):
        left = [GIVEN_M if run == 0 else LEFT_M[aim.truth] for aim in aims]
        faults = tuple(Fault(FAULTS[a.mark], a.corner, size) for a, size in zip(aims, left, strict=True) if size)
        plans = [LapPlan(grip=grip * 0.97), *(LapPlan(faults, grip) for _ in range(LAPS)), LapPlan(grip=grip * 0.95)]
        trace = drive_stint_with_feet(circuit, vehicle, seed, plans, 0.92, 10 * seed + run)
        settings = LoggerSettings(rate_hz=50.0)
        line = draw_line(circuit, 10 * seed + run, 0.5)
        logs.append(record(trace, line, settings, 10 * seed + run, (0.6, LAPS + 1.2), f"run {run + 1}"))
    return ReviewTrial(circuit=circuit, before=logs[0], after=logs[1], aims=aims)
