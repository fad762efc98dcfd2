"""What changes of a lap's corners would do: the lap beside its circuit, the vehicle by its run."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.compare import held_of
from jete.core.errors import InputError
from jete.core.whatif.worked_out import changed, known_vehicle, together

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.causes.verdict.losses import Held
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap
    from jete.core.whatif.asked_for import AskedChange
    from jete.core.whatif.worked_out import ChangedCorner, KnownVehicle

# The vehicle is learnt from no more of a run's laps than this, the last ones: more tell no more of it.
MOST_LAPS = 12


@dataclass(frozen=True, eq=False)
class WhatIf:
    """Changes of one lap, each by itself and all together (seconds and one standard deviation; None where one has none)."""

    held: Held
    vehicle: KnownVehicle
    changes: tuple[ChangedCorner, ...]
    together: tuple[float, float] | None

    def corner(self, change: ChangedCorner) -> Corner:
        """The corner of a change."""
        return self.held.corners[change.asked.corner - 1]


def held_beside(lap: Lap, circuit: CircuitOnAxis | None) -> Held:
    """A lap on its own axis with the corners of its circuit; without one it decides itself."""
    if circuit is None:
        return held_of(lap, (), ())
    return held_of(lap, tuple(circuit.corners), tuple(circuit.book.sectors_m))


def vehicle_of_run(laps: Sequence[Lap]) -> KnownVehicle:
    """The vehicle and the grip shown, by the last laps of a run."""
    return known_vehicle([held_of(lap, (), ()) for lap in laps[-MOST_LAPS:]])


def what_if(held: Held, vehicle: KnownVehicle, asked: Sequence[AskedChange]) -> WhatIf:
    """What changes of a lap would do.

    Raises:
        InputError: a corner that the lap does not have.
    """
    for one in asked:
        if not 1 <= one.corner <= len(held.corners):
            count = len(held.corners)
            raise InputError(f"corner {one.corner}", "there is no such corner.", f"It has the corners 1 to {count}.")
    changes = tuple(changed(held, vehicle, one) for one in asked)
    return WhatIf(held, vehicle, changes, together(changes))
