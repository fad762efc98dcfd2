"""Measure Jete with sensors of bends that are not steady; writes docs/accuracy-sensors.md.

python benchmarks/sensors.py [--pairs 40] [--first 10001] [--out docs/accuracy-sensors.md]
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from feet import DATA, Seen, measure
from receivers import write

from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.receiver import wander

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.log.lap import Log

    SensorInTime = Callable[[Log, np.random.Generator], np.ndarray]

POSITIONS = ("white", "drifting", "no positions")
FEEL_BENDS = {"yaw_rate", "acc_lat", "steering", "lean"}


def _gyro(log: Log, rng: np.random.Generator, scale: float, degrees_per_s: float, lasts_s: float) -> np.ndarray:
    yaw = log.channels["yaw_rate"]
    step = float(np.median(np.diff(yaw.time_s)))
    return scale * yaw.value + wander(rng, len(yaw.value), step, np.radians(degrees_per_s), lasts_s)


def steady(log: Log, _: np.random.Generator) -> np.ndarray:
    """A gyro with white noise alone."""
    return log.channels["yaw_rate"].value


def wanders(log: Log, rng: np.random.Generator) -> np.ndarray:
    """A gyro that reads three per cent short, and whose offset wanders by 0.3 °/s within 15 s."""
    return _gyro(log, rng, 0.97, 0.3, 15.0)


def rough(log: Log, rng: np.random.Generator) -> np.ndarray:
    """A gyro that reads five per cent too much, and whose offset wanders by 1 °/s within 10 s."""
    return _gyro(log, rng, 1.05, 1.0, 10.0)


def warms_up(log: Log, rng: np.random.Generator) -> np.ndarray:
    """A gyro whose offset of 1 °/s or so dies away with a time of 40 s."""
    yaw = log.channels["yaw_rate"]
    return yaw.value + np.radians(1.0) * rng.normal() * np.exp(-yaw.time_s / 40.0)


def leans(log: Log, _: np.random.Generator) -> np.ndarray:
    """A lateral acceleration with four per cent of roll, on a road that banks by up to 0.05 g to and fro."""
    lateral = log.channels["acc_lat"]
    driven = np.interp(lateral.time_s, *(getattr(log.channels["distance"], n) for n in ("time_s", "value")))
    return 1.04 * lateral.value + 9.81 * (0.05 * np.sin(driven / 300.0) + 0.03 * np.sin(driven / 47.0))


SENSORS: dict[str, tuple[str, SensorInTime]] = {
    "steady": ("yaw_rate", steady),
    "wanders": ("yaw_rate", wanders),
    "rough": ("yaw_rate", rough),
    "warms up": ("yaw_rate", warms_up),
    "leans": ("acc_lat", leans),
}


def with_sensor(log: Log, sensor: str, rng: np.random.Generator) -> Log:
    """The log of a vehicle in which this one alone feels bends."""
    name, timed = SENSORS[sensor]
    kept = {n: c for n, c in log.channels.items() if n not in FEEL_BENDS}
    return replace(log, channels={**kept, name: replace(log.channels[name], value=timed(log, rng))})


def measured(seed: int) -> dict[tuple[str, str], Seen]:
    """A pair of equal laps, driven once, seen by each receiver and felt by each sensor."""
    trial, found = draw_feet_trial(seed, DATA["white"], "equal"), {}
    for positions in POSITIONS:
        logged = trial.logged(DATA[positions])
        for sensor in SENSORS:
            rng = np.random.default_rng(seed)
            logs = [with_sensor(log, sensor, rng) for log in (logged.reference, logged.lap)]
            found[positions, sensor] = measure(replace(logged, reference=logs[0], lap=logs[1]))
    return found


def page(tables: list[str], seeds: range) -> str:
    """The page with its tables."""
    kinds = "\n".join(f"- {name}: {timed.__doc__}" for name, (_, timed) in SENSORS.items())
    return (
        "# Accuracy with sensors that are not steady\n\n"
        f"For each kind of sensor {len(seeds)} circuits drawn at random (seeds {seeds.start} to {seeds.stop - 1}), on each of them two equal laps of a\n"
        "driver with feet, logged at 100 Hz with one sensor that feels bends; its errors are drawn anew for each lap. Positions are those of\n"
        "[the page on laps of another making](accuracy-feet.md). Made by `make accuracy`.\n\n"
        f"{kinds}\n\n" + "\n".join(tables)
    )


if __name__ == "__main__":
    write(__doc__, 10001, measured, page)
