"""The demo: the coastal circuit Kestrel Sands, a club team's car, and a motorcycle.

Everything is made up.  ``python -m jete.simulate.demo FOLDER`` writes the same bytes
each time.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.log.channels import GRAVITY_MPS2
from jete.core.log.lap import Log
from jete.core.log.plane import Origin
from jete.formats.columns import Columns
from jete.simulate.circuit import Bend, Circuit, Hill, build
from jete.simulate.demo_road import SEA_LATITUDE_DEG, SEA_LONGITUDE_DEG, kestrel_sands_file
from jete.simulate.driver import Fault, LapPlan
from jete.simulate.feet import STILL, Wind, drive_stint_with_feet
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR, MOTORCYCLE, Vehicle

if TYPE_CHECKING:
    from collections.abc import Mapping

# Metres of a degree by the demo's sea, to the east and to the north.
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
# From the second day on the car's logger knows its height.
HIGH_CHANNELS: Final = (*CAR_CHANNELS, "altitude")
PHONE_CHANNELS: Final = ("lap", "speed", "x", "y")
MOTORCYCLE_CHANNELS: Final = (
    "lap", "distance", "speed", "throttle", "brake_front", "brake_rear", "lean", "gear", "rpm", "x", "y", "acc_long", "yaw_rate",
)  # fmt: skip

# Decimals that a logger of this kind writes; they also keep the files small and the same.
DECIMALS: Final = {
    "time": 2, "lap": 0, "distance": 2, "speed": 2, "throttle": 1, "brake": 1, "brake_front": 1, "brake_rear": 1,
    "steering": 1, "gear": 0, "rpm": -1, "altitude": 1, "latitude": 7, "longitude": 7, "acc_long": 2, "acc_lat": 2, "yaw_rate": 1, "lean": 1,
}  # fmt: skip
LOGGED: Final = {
    "speed": (3.6, "km/h"), "throttle": (100.0, "%"), "steering": (180 / np.pi, "deg"), "yaw_rate": (180 / np.pi, "deg/s"),
    "lean": (180 / np.pi, "deg"), "acc_long": (1 / GRAVITY_MPS2, "g"), "acc_lat": (1 / GRAVITY_MPS2, "g"), "latitude": (1.0, "deg"),
    "longitude": (1.0, "deg"),
}  # fmt: skip


@dataclass(frozen=True)
class DemoRun:
    """One run of the demo: who, with what, and what goes wrong on which lap.

    ``third_gear`` are the laps on which one bend is driven in third instead of second.
    """

    name: str
    vehicle: Vehicle
    level: float
    seed: int
    grip: float
    habits: tuple[Fault, ...]
    slips: Mapping[int, tuple[Fault, ...]]
    channels: tuple[str, ...] = ()
    rate_hz: float = 50.0
    third_gear: tuple[int, ...] = ()
    wind: Wind = STILL
    line_m: float = 1.2
    at: str = "Kestrel Sands"


# A crest before the fast right-left, a dip at the foot of the dune, the climb to the last corner.
HILLS: Final = (Hill(1480.0, 6.0, 90.0), Hill(2230.0, -4.0, 110.0), Hill(3120.0, 9.0, 260.0))
# The bend (as built) that the team tries in two gears, and what third gear lets the car keep there.
TRIED_IN_TWO_GEARS, KEPT_IN_THIRD_KMH = 8, 1.7
GEAR_SECOND, GEAR_THIRD = 2, 3


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
    return build("Kestrel Sands", bends, straights, HILLS)


def marrow_fen() -> Circuit:
    """2.9 km between dykes, anticlockwise, level; nobody has noted anything about it yet."""
    bends = [
        Bend(88.0, 34.0), Bend(41.0, 95.0), Bend(-63.0, 30.0), Bend(97.0, 26.0), Bend(74.0, 48.0),
        Bend(-38.0, 88.0), Bend(92.0, 21.0), Bend(69.0, 58.0),
    ]  # fmt: skip
    return build("Marrow Fen", bends, [310.0, 190.0, 130.0, 160.0, 240.0, 120.0, 210.0, 140.0, 260.0])


CIRCUITS: Final = {"Kestrel Sands": kestrel_sands, "Marrow Fen": marrow_fen}
# What share of the grip each of them uses.
CALM, WARY, RIDER, NEW = 0.93, 0.905, 0.88, 0.89
SEA_BREEZE: Final = Wind(6.0, 0.6)

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
    *(
        DemoRun(name, CAR, level, seed, grip, habits, slips, HIGH_CHANNELS, 25.0, third, SEA_BREEZE, 2.2)
        for name, level, seed, grip, habits, slips, third in (
            ("ines-karlsby-run-3", CALM, 13, 1.0, (), {3: (Fault("overslowing", 5, 4.0),)}, (2, 4, 6, 8)),
            ("ines-karlsby-run-4", CALM, 14, 0.998, (), {5: (Fault("late_throttle", 13, 9.0),)}, (1, 3, 5, 7)),
            ("ines-karlsby-run-5", CALM, 15, 0.993, (Fault("early_braking", 9, 5.0),), {}, (2, 3, 6, 7)),
            ("tomasz-oryel-run-3", WARY, 23, 1.0, (Fault("lifts", 7, 0.5),), {2: (Fault("late_throttle", 13, 10.0),)}, (1, 3, 5, 7)),
            ("tomasz-oryel-run-4", WARY, 24, 0.996, (Fault("lifts", 7, 0.4),), {6: (Fault("coasting", 1, 0.5),)}, (2, 4, 6, 8)),
            ("hedda-ulvik-run-1", NEW, 41, 0.99, (Fault("early_braking", 1, 11.0), Fault("late_throttle", 6, 8.0)), {}, (1, 2, 5, 6)),
            ("hedda-ulvik-run-2", NEW, 42, 0.992, (Fault("early_braking", 1, 6.0),), {4: (Fault("coasting", 12, 0.6),)}, ()),
        )
    ),
    # What she was to try after her second run: more speed at two corners, too much of it at one, and less coasting, which she forgot.
    DemoRun("hedda-ulvik-run-3", CAR, NEW, 43, 0.992,
        (Fault("early_braking", 1, 6.0), Fault("more_speed", 8, 3.0), Fault("more_speed", 4, 2.8)), {},
        HIGH_CHANNELS, 25.0, wind=SEA_BREEZE, line_m=2.2),
    DemoRun("tomasz-oryel-phone", CAR, WARY, 25, 0.985, (Fault("overslowing", 6, 7.0),), {}, PHONE_CHANNELS, 1.0),
    DemoRun("tomasz-oryel-marrow-fen", CAR, WARY, 26, 1.0, (Fault("early_braking", 1, 6.0),), {
        3: (Fault("late_throttle", 4, 9.0),), 6: (Fault("overslowing", 7, 5.0),),
    }, HIGH_CHANNELS, 25.0, at="Marrow Fen"),
)  # fmt: skip


def record_run(run: DemoRun, circuit: Circuit) -> Log:
    """Drive and record one run: a piece of the out lap, eight laps, a piece of the in lap."""
    plans = [LapPlan(grip=run.grip * 0.97)]
    for lap in range(1, LAPS + 1):
        wear = 1.0 - 0.0016 * max(0, lap - 3) - (0.012 if lap == 1 else 0.0)
        faults, gears = _way(run, lap)
        plans.append(LapPlan((*run.habits, *run.slips.get(lap, ()), *faults), run.grip * wear, gears))
    plans.append(LapPlan(grip=run.grip * 0.95))
    # A driver's habits are the same on every day.
    trace = drive_stint_with_feet(circuit, run.vehicle, run.seed // 10, plans, run.level, run.seed, run.wind)
    settings = LoggerSettings(
        rate_hz=run.rate_hz,
        position_hz=min(run.rate_hz, 10.0),
        odometer_scale=1.0 + 0.0004 * (run.seed - 20),
        position_noise_m=0.7,
    )
    channels = run.channels or (CAR_CHANNELS if run.vehicle.kind == "car" else MOTORCYCLE_CHANNELS)
    line = draw_line(circuit, run.seed, run.line_m)
    return record(
        trace, line, replace(settings, channels=channels), run.seed, (0.62, LAPS + 1.2), f"{run.name}.parquet"
    )


def _way(run: DemoRun, lap: int) -> tuple[tuple[Fault, ...], tuple[tuple[int, int], ...]]:
    """Which of the two gears is tried on a lap, and what it lets the car keep."""
    if not run.third_gear:
        return (), ()
    if lap in run.third_gear:
        kept = Fault("more_speed", TRIED_IN_TWO_GEARS, KEPT_IN_THIRD_KMH)
        return (kept,), ((TRIED_IN_TWO_GEARS, GEAR_THIRD),)
    return (), ((TRIED_IN_TWO_GEARS, GEAR_SECOND),)


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
    """Write all runs of the demo as Parquet, and its circuit as GeoJSON."""
    from jete.formats import geojson
    from jete.formats.parquet_log import write

    folder.mkdir(parents=True, exist_ok=True)
    circuits = {name: make() for name, make in CIRCUITS.items()}
    for run in RUNS:
        write(folder / f"{run.name}.parquet", columns_of(record_run(run, circuits[run.at])))
    geojson.write(folder / "kestrel-sands.geojson", kestrel_sands_file(circuits["Kestrel Sands"]))


if __name__ == "__main__":
    write_all(Path(sys.argv[1]))
