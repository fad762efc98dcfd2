"""The demo: the coastal circuit Kestrel Sands, a club team's car, and a motorcycle.

Everything is made up.  ``python -m jete.simulate.demo FOLDER`` writes the same bytes
each time.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

import numpy as np

from jete.core.log.channels import GRAVITY_MPS2
from jete.core.log.lap import Log
from jete.core.log.plane import Origin
from jete.formats.columns import Columns
from jete.simulate.circuit import Bend, Circuit, build
from jete.simulate.driver import Fault, LapPlan
from jete.simulate.feet import drive_stint_with_feet
from jete.simulate.lines import Line, draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR, MOTORCYCLE, Vehicle

# A place in the open ocean: nobody's circuit.
SEA_LATITUDE_DEG: Final = 41.2500
SEA_LONGITUDE_DEG: Final = -31.5000
# Metres of a degree there, to the east and to the north.
DEGREE_M: Final = tuple(
    float(m[0])
    for m in Origin(SEA_LATITUDE_DEG, SEA_LONGITUDE_DEG).to_plane(
        np.array([SEA_LATITUDE_DEG + 1.0]), np.array([SEA_LONGITUDE_DEG + 1.0])
    )
)
LAPS: Final = 8

CAR_CHANNELS: Final = (
    "lap", "distance", "speed", "throttle", "brake", "steering", "gear", "rpm", "x", "y", "acc_long", "acc_lat", "yaw_rate",
)  # fmt: skip
MOTORCYCLE_CHANNELS: Final = (
    "lap", "distance", "speed", "throttle", "brake_front", "brake_rear", "lean", "gear", "rpm", "x", "y", "acc_long", "yaw_rate",
)  # fmt: skip

# Decimals that a logger of this kind writes; they also keep the files small and the same.
DECIMALS: Final = {
    "time": 2, "lap": 0, "distance": 2, "speed": 2, "throttle": 1, "brake": 1, "brake_front": 1, "brake_rear": 1,
    "steering": 1, "gear": 0, "rpm": -1, "latitude": 7, "longitude": 7, "acc_long": 2, "acc_lat": 2, "yaw_rate": 1, "lean": 1,
}  # fmt: skip
LOGGED: Final = {
    "speed": (3.6, "km/h"), "throttle": (100.0, "%"), "steering": (180 / np.pi, "deg"), "yaw_rate": (180 / np.pi, "deg/s"),
    "lean": (180 / np.pi, "deg"), "acc_long": (1 / GRAVITY_MPS2, "g"), "acc_lat": (1 / GRAVITY_MPS2, "g"), "latitude": (1.0, "deg"),
    "longitude": (1.0, "deg"),
}  # fmt: skip


@dataclass(frozen=True)
class DemoRun:
    """One run of the demo: who, with what, and what goes wrong on which lap."""

    name: str
    vehicle: Vehicle
    level: float
    seed: int
    grip: float
    habits: tuple[Fault, ...]
    slips: dict[int, tuple[Fault, ...]]


def kestrel_sands() -> Circuit:
    """3.9 km along the coast, clockwise, twelve corners and a kink that is taken flat."""
    bends = [
        Bend(-157.8, 19.4, 0.4),
        Bend(72.7, 53.5), Bend(-64.5, 46.1), Bend(64.1, 57.2),
        Bend(-83.8, 48.0), Bend(-55.2, 40.6, joins_previous=True),
        Bend(86.2, 33.2),
        Bend(-17.4, 387.0),
        Bend(-92.8, 42.4),
        Bend(46.1, 72.0),
        Bend(-69.7, 22.2), Bend(48.7, 22.2),
        Bend(-80.6, 30.4),
        Bend(-56.0, 60.9, 0.45),
    ]  # fmt: skip
    straights = [593.0, 114.0, 25.0, 25.0, 269.0, 4.0, 173.0, 158.0, 86.0, 175.0, 135.0, 72.0, 100.0, 231.0, 517.0]
    return build("Kestrel Sands", bends, straights)


# What share of the grip each of them uses.
CALM, WARY, RIDER = 0.93, 0.905, 0.88

RUNS: Final = (
    DemoRun("ines-karlsby-run-1", CAR, CALM, 11, 1.0, (), {
        2: (Fault("late_throttle", 12, 9.0),),
        3: (Fault("overslowing", 7, 4.0),),
        5: (Fault("early_braking", 1, 6.0), Fault("throttle_hesitation", 5, 0.4)),
        6: (Fault("late_throttle", 6, 12.0),),
        7: (Fault("coasting", 11, 0.5),),
        8: (Fault("soft_braking", 1, 15.0), Fault("slow_exit", 12, 0.15)),
    }),
    DemoRun("ines-karlsby-run-2", CAR, CALM, 12, 0.995, (Fault("early_braking", 8, 7.0),), {
        1: (Fault("overslowing", 11, 5.0),),
        4: (Fault("late_throttle", 12, 14.0),),
        6: (Fault("throttle_hesitation", 7, 0.45), Fault("coasting", 1, 0.5)),
        7: (Fault("soft_braking", 6, 20.0),),
    }),
    DemoRun("tomasz-oryel-run-1", CAR, WARY, 21, 1.0, (Fault("early_braking", 1, 6.0), Fault("late_throttle", 12, 8.0)), {
        1: (Fault("overslowing", 6, 7.0), Fault("coasting", 7, 0.6)),
        3: (Fault("throttle_hesitation", 4, 0.45), Fault("overslowing", 11, 6.0)),
        4: (Fault("soft_braking", 11, 22.0), Fault("late_throttle", 5, 11.0)),
        5: (Fault("more_speed", 6, 4.0), Fault("waiting_foot", 6, 11.0), Fault("waiting_foot", 9, 10.0)),
        6: (Fault("coasting", 6, 0.7), Fault("overslowing", 9, 4.0)),
        7: (Fault("throttle_hesitation", 12, 0.5),),
        8: (Fault("soft_braking", 1, 20.0), Fault("overslowing", 7, 6.0)),
    }),
    DemoRun("tomasz-oryel-run-2", CAR, WARY, 22, 0.99, (Fault("early_braking", 1, 4.0),), {
        2: (Fault("late_throttle", 12, 10.0),),
        3: (Fault("coasting", 11, 0.5), Fault("overslowing", 7, 5.0)),
        5: (Fault("throttle_hesitation", 6, 0.4),),
        7: (Fault("overslowing", 1, 5.0), Fault("soft_braking", 6, 18.0)),
    }),
    DemoRun("noor-veldane-motorcycle", MOTORCYCLE, RIDER, 31, 1.0, (), {
        2: (Fault("early_braking", 1, 14.0),),
        4: (Fault("coasting", 6, 0.7), Fault("late_throttle", 12, 12.0)),
        5: (Fault("overslowing", 11, 6.0),),
        7: (Fault("throttle_hesitation", 8, 0.5), Fault("soft_braking", 1, 20.0)),
    }),
)  # fmt: skip


def record_run(run: DemoRun, circuit: Circuit) -> Log:
    """Drive and record one run: a piece of the out lap, eight laps, a piece of the in lap."""
    plans = [LapPlan(grip=run.grip * 0.97)]
    for lap in range(1, LAPS + 1):
        wear = 1.0 - 0.0016 * max(0, lap - 3) - (0.012 if lap == 1 else 0.0)
        plans.append(LapPlan((*run.habits, *run.slips.get(lap, ())), run.grip * wear))
    plans.append(LapPlan(grip=run.grip * 0.95))
    # A driver's habits are the same on every day.
    trace = drive_stint_with_feet(circuit, run.vehicle, run.seed // 10, plans, run.level, run.seed)
    settings = LoggerSettings(rate_hz=50.0, odometer_scale=1.0 + 0.0004 * (run.seed - 20), position_noise_m=0.7)
    channels = CAR_CHANNELS if run.vehicle.kind == "car" else MOTORCYCLE_CHANNELS
    line = _line(circuit, run.seed)
    return record(
        trace, line, replace(settings, channels=channels), run.seed, (0.62, LAPS + 1.2), f"{run.name}.parquet"
    )


def _line(circuit: Circuit, seed: int) -> Line:
    return draw_line(circuit, seed, 1.2)


def columns_of(log: Log) -> Columns:
    """The log's channels on its row clock, in logged units and decimals; empty cells are NaN."""
    clock = log.channels["time"].time_s
    logged = _logged(log)
    values = []
    for name, time, value, _ in logged:
        column = np.full(len(clock), np.nan)
        column[np.minimum(np.searchsorted(clock, time - 1e-6), len(clock) - 1)] = np.round(value, DECIMALS[name])
        values.append(column)
    return Columns(log.source, tuple(x[0] for x in logged), tuple(x[3] for x in logged), tuple(values))


def _logged(log: Log) -> list[tuple[str, np.ndarray, np.ndarray, str]]:
    """Name, time, value in the logged unit, unit; positions become degrees."""
    out = []
    for name, c in log.channels.items():
        time = c.time_s
        if name in ("x", "y"):
            north = name == "y"
            value = (SEA_LATITUDE_DEG if north else SEA_LONGITUDE_DEG) + c.value / DEGREE_M[north]
            out.append(("latitude" if north else "longitude", time, value, "deg"))
            continue
        factor, unit = LOGGED.get(name, (1.0, c.unit))
        out.append((name, time, c.value * factor, unit))
    return out


def write_all(folder: Path) -> None:
    """Write all runs of the demo as Parquet."""
    from jete.formats.parquet_log import write

    folder.mkdir(parents=True, exist_ok=True)
    circuit = kestrel_sands()
    for run in RUNS:
        write(folder / f"{run.name}.parquet", columns_of(record_run(run, circuit)))


if __name__ == "__main__":
    write_all(Path(sys.argv[1]))
