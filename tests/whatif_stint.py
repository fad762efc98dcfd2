"""A stint of four laps with its vehicle, and true changes of its last lap."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from jete.core.causes.verdict.losses import Held
from jete.core.compare import held_of
from jete.core.log.in_step import in_step
from jete.core.log.lap import Lap
from jete.core.motion.split import split
from jete.core.whatif.worked_out import KnownVehicle, known_vehicle
from jete.simulate.what_if_trials import ChangeTrial, draw_change_trial


class Stint(NamedTuple):
    """What was driven, its last lap, and what its laps tell of the vehicle."""

    trial: ChangeTrial
    held: Held
    known: KnownVehicle

    def corner(self, number: int) -> int:
        """A corner of the lap, from 1, by its number on the circuit."""
        true = next(c for c in self.trial.circuit.corners if c.number == number)
        middle = 0.5 * (true.start_m + true.end_m) * self.held.road.length_m / self.trial.circuit.length_m
        return next(k for k, c in enumerate(self.held.corners, 1) if c.start_m - 15.0 <= middle <= c.end_m + 15.0)


@lru_cache(maxsize=1)
def driven_stint() -> Stint:
    trial = draw_change_trial(9, "laid", count=12)
    log = in_step(trial.log)
    held = [held_of(Lap(log, span), (), ()) for span in split(log) if span.complete]
    return Stint(trial, held[-1], known_vehicle(held))
