"""Measure Jete on logs whose channels are not in step; writes docs/accuracy-clocks.md.

python benchmarks/clocks.py [--pairs 40] [--first 12001] [--out docs/accuracy-clocks.md]
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from feet import DATA, REAL_S, Seen, found_of, gap_of, measure, right_of
from receivers import write

from jete.simulate.feet_trials import draw_feet_trial

if TYPE_CHECKING:
    from collections.abc import Callable, Collection

    from jete.core.log.lap import Log

    Stamped = Callable[[Log], Log]

BOUNDS = """
## What bounds these figures

- By how much a speed is late is told from each log by itself, to 0.01 or 0.02 s. With positions that are late too and no accelerometer, what
  both logs differ by there is a gap that nothing at the line shows, and no σ knows: 87 % within two.
- Nothing is moved that is late by less than a log shows beyond doubt: a speed by 0.05 s, a pedal by 0.15 s, a sensor of bends by 0.04 s.
  Logs without positions do not show a sensor's lateness; both laps' bends then move alike.
"""

POSITIONS = ("white", "drifting")
FEEL_BENDS = {"yaw_rate", "acc_lat", "steering", "lean"}


def _late(log: Log, names: Collection[str], by_s: float, without: Collection[str] = ()) -> Log:
    """The log with some of its channels late, and without others."""
    kept = {n: c for n, c in log.channels.items() if n not in without}
    return replace(log, channels=kept | {n: replace(kept[n], time_s=kept[n].time_s + by_s) for n in names})


def in_step(log: Log) -> Log:
    """All channels tell of one moment at one time."""
    return log


def late_speed(log: Log) -> Log:
    """Speed and distance come 0.25 s late."""
    return _late(log, ("speed", "distance"), 0.25)


def late_receiver(log: Log) -> Log:
    """Speed, distance and positions come 0.25 s late, and there is no accelerometer."""
    return _late(log, ("speed", "distance", "x", "y"), 0.25, ("acc_long", "acc_lat"))


def late_throttle(log: Log) -> Log:
    """The throttle comes 0.25 s late."""
    return _late(log, ("throttle",), 0.25)


def late_pedals(log: Log) -> Log:
    """Brake and throttle come 0.25 s late."""
    return _late(log, ("brake", "throttle"), 0.25)


def late_gyro(log: Log) -> Log:
    """A gyro alone feels bends, and comes 0.15 s late."""
    return _late(log, ("yaw_rate",), 0.15, FEEL_BENDS - {"yaw_rate"})


def steering(log: Log) -> Log:
    """A steering alone shows bends, 0.12 s ahead of the vehicle."""
    return _late(log, ("steering",), -0.12, FEEL_BENDS - {"steering"})


CLOCKS: dict[str, Stamped] = {
    "in step": in_step,
    "late speed": late_speed,
    "late receiver": late_receiver,
    "late throttle": late_throttle,
    "late pedals": late_pedals,
    "late gyro": late_gyro,
    "steering ahead": steering,
}


def measured(seed: int) -> dict[tuple[str, str], Seen]:
    """A pair of laps with faults, driven once, seen by each receiver and stamped by each clock."""
    trial, found = draw_feet_trial(seed, DATA["white"]), {}
    for positions in POSITIONS:
        logged = trial.logged(DATA[positions])
        for name, stamped in CLOCKS.items():
            found[positions, name] = measure(
                replace(logged, reference=stamped(logged.reference), lap=stamped(logged.lap))
            )
    return found


def figures(seen: Seen) -> dict[str, str]:
    """How well the gap and its doubt are known, and what is found and right of causes."""
    return {
        **gap_of(seen),
        "faults ≥ 0.05 s found": found_of(seen.faults, REAL_S),
        "claims ≥ 0.05 s right": right_of(seen.claims, REAL_S),
    }


def page(tables: list[str], seeds: range) -> str:
    """The page with its tables."""
    kinds = "\n".join(f"- {name}: {stamped.__doc__}" for name, stamped in CLOCKS.items())
    return (
        "# Accuracy with channels that come late\n\n"
        f"For each kind of log {len(seeds)} circuits drawn at random (seeds {seeds.start} to {seeds.stop - 1}), on each of them two laps of a driver\n"
        "with feet, one of them with faults, logged at 100 Hz. Channels come late on both laps alike. Positions are those of\n"
        "[the page on laps of another making](accuracy-feet.md). Made by `make accuracy`.\n\n"
        f"{kinds}\n\n" + "\n".join(tables) + BOUNDS
    )


if __name__ == "__main__":
    write(__doc__, 12001, measured, page, figures)
