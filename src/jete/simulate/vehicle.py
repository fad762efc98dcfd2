"""Point-mass vehicles: grip, power, drag, downforce and gears."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

GRAVITY_MPS2 = 9.81


@dataclass(frozen=True)
class Vehicle:
    """A point mass with a friction ellipse (Milliken & Milliken 1995, ch. 9).

    Grips are in units of g at standstill; ``downforce_1pm`` adds ``downforce * v²`` to
    the normal acceleration (1/m); ``drag_1pm`` is the deceleration by air over v².
    """

    name: str
    kind: str = "car"
    lateral_g: float = 1.25
    braking_g: float = 1.15
    traction_g: float = 0.75
    power_wpkg: float = 200.0
    drag_1pm: float = 0.00075
    downforce_1pm: float = 0.0009
    rolling_mps2: float = 0.15
    engine_braking_mps2: float = 0.7
    brake_bar_per_mps2: float = 5.0
    gear_tops_mps: tuple[float, ...] = (17.0, 25.0, 34.0, 44.0, 55.0, 90.0)
    wheelbase_m: float = 2.6
    steering_ratio: float = 13.0

    def normal_mps2(self, v: float) -> float:
        """Normal acceleration that carries the tyres, m/s²."""
        return GRAVITY_MPS2 + self.downforce_1pm * v * v

    def corner_speed_mps(self, curvature_1pm: FloatArray, share: float) -> FloatArray:
        """Highest steady speed on a curvature with ``share`` of the grip, m/s, ≤ 95."""
        free = np.abs(curvature_1pm) - share * self.lateral_g * self.downforce_1pm
        limit = share * self.lateral_g * GRAVITY_MPS2 / np.maximum(free, 1e-6)
        return np.minimum(np.sqrt(limit), 95.0)

    def coast_mps2(self, v: FloatArray | float) -> FloatArray | float:
        """Acceleration on neither pedal (negative)."""
        return -(self.rolling_mps2 + self.engine_braking_mps2 + self.drag_1pm * v * v)

    def full_mps2(self, v: FloatArray) -> FloatArray:
        """Acceleration on full throttle without a limit of traction, net of drag."""
        drive = np.minimum(self.power_wpkg / np.maximum(v, 1.0), 1.6 * self.traction_g * GRAVITY_MPS2)
        return np.asarray(drive - self.rolling_mps2 - self.drag_1pm * v * v)

    def pull(self, v: float, gear: int) -> float:
        """Share of the power that is there in a gear held below its range, 0.5 to 1.

        Below two thirds of its top engine speed an engine that is built to rev gives less.
        """
        revs = v / self.gear_tops_mps[gear - 1]
        return min(max(1.0 - 1.3 * (0.66 - revs), 0.5), 1.0)

    def gear(self, v: FloatArray) -> FloatArray:
        """Gear by speed, first gear is 1."""
        return np.searchsorted(np.asarray(self.gear_tops_mps[:-1]), v).astype(float) + 1.0

    def rpm(self, v: FloatArray) -> FloatArray:
        """Engine speed, 1/min, from the gear's top speed."""
        tops = np.asarray(self.gear_tops_mps)[self.gear(v).astype(int) - 1]
        return np.asarray(np.maximum(1500.0, 7400.0 * v / tops))


CAR = Vehicle("Gannet 24")
MOTORCYCLE = Vehicle(
    "Tern 600",
    kind="motorcycle",
    lateral_g=1.2,
    braking_g=0.95,
    traction_g=0.8,
    power_wpkg=330.0,
    drag_1pm=0.0011,
    downforce_1pm=0.0,
    engine_braking_mps2=1.2,
    gear_tops_mps=(26.0, 34.0, 42.0, 50.0, 58.0, 90.0),
    wheelbase_m=1.4,
    steering_ratio=1.0,
)


def draw_vehicle(seed: int) -> Vehicle:
    """Draw a vehicle between a modest road car and a quick single seater."""
    rng = np.random.default_rng(seed)
    return Vehicle(
        f"Vehicle {seed}",
        lateral_g=float(rng.uniform(0.95, 1.5)),
        braking_g=float(rng.uniform(0.85, 1.35)),
        traction_g=float(rng.uniform(0.5, 0.9)),
        power_wpkg=float(rng.uniform(110.0, 330.0)),
        drag_1pm=float(rng.uniform(0.0005, 0.0011)),
        downforce_1pm=float(rng.uniform(0.0, 0.0015)),
        brake_bar_per_mps2=float(rng.uniform(3.0, 8.0)),
    )
