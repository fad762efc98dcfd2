"""Measure what-if against laps driven again with the change, on two simulators; writes docs/accuracy-what-if.md.

python benchmarks/what_if.py [--circuits 40] [--first 5001] [--out docs/accuracy-what-if.md]
"""

from __future__ import annotations

import argparse
import warnings
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, get_args

import numpy as np

from jete.core.compare import held_of
from jete.core.log.in_step import in_step
from jete.core.log.lap import Lap
from jete.core.motion.split import split
from jete.core.whatif.asked_for import asked_change
from jete.core.whatif.worked_out import changed, known_vehicle
from jete.simulate.logger import LoggerSettings
from jete.simulate.what_if_trials import SMOOTH, Simulator, draw_change_trial, true_use

if TYPE_CHECKING:
    from jete.core.causes.verdict.losses import Held
    from jete.core.whatif.worked_out import ChangedCorner, KnownVehicle
    from jete.simulate.what_if_trials import ChangeTrial, TrueChange

FULL = LoggerSettings()
# Data, and the share of the grip that the driver uses.
CASES = {
    "100 Hz, nine tenths of the grip": (FULL, 0.9),
    "100 Hz, 98 % of the grip": (FULL, 0.98),
    "10 Hz, nine tenths of the grip": (replace(FULL, rate_hz=10.0), 0.9),
}
SHARE, LEAST_S, NO_SIGN_S = 0.2, 0.01, 0.01
# Both curves of speed are read off to so much.
OVER = 1.005
NEAR_M = 15.0


@dataclass(frozen=True)
class Told:
    """One change: the truth, what was told (None: not offered) with its interval, and how much true grip an offer uses."""

    entry: bool
    true_s: float
    as_asked: bool
    gap_s: float | None
    range_s: tuple[float, float] | None
    used: float
    took_s: float
    nothing_s: float


Job = tuple[str, Simulator, int]


def told_of(job: Job) -> list[Told]:
    """All changes of one circuit."""
    warnings.simplefilter("ignore")
    case, simulator, seed = job
    settings, level = CASES[case]
    trial = draw_change_trial(seed, simulator, settings, level=level)
    log = in_step(trial.log)
    held = [held_of(Lap(log, span), (), ()) for span in split(log) if span.complete]
    if not held:
        return []
    known, lap = known_vehicle(held), held[-1]
    return [t for c in trial.changes if (t := _told(trial, lap, known, c)) is not None]


def _told(trial: ChangeTrial, lap: Held, known: KnownVehicle, change: TrueChange) -> Told | None:
    corner = _index_of(trial, lap, change.corner)
    if corner is None:
        return None
    began = perf_counter()
    found = changed(lap, known, asked_change(corner + 1, change.sets, change.keeps))
    took = perf_counter() - began
    none = [f"{s.partition('=')[0]}=0" for s in change.sets]
    nothing = changed(lap, known, asked_change(corner + 1, none, change.keeps))
    used = _used(trial, lap, found) if found.offered else 0.0
    return Told(
        change.entry, change.gap_s, change.as_asked, found.gap_s, found.range_s, used, took, abs(nothing.gap_s or 0.0)
    )


def _index_of(trial: ChangeTrial, lap: Held, number: int) -> int | None:
    """The corner of the lap that a corner of the circuit is."""
    true = next(c for c in trial.circuit.corners if c.number == number)
    middle = 0.5 * (true.start_m + true.end_m) * lap.road.length_m / trial.circuit.length_m
    near = [k for k, c in enumerate(lap.corners) if c.start_m - NEAR_M <= middle <= c.end_m + NEAR_M]
    return near[0] if near else None


def _used(trial: ChangeTrial, lap: Held, found: ChangedCorner) -> float:
    """The most of the true grip that an offer uses; where the lap itself seems to be past it, no more than that counts as all of it."""
    scale, place = trial.circuit.length_m / lap.road.length_m, found.trace.place_m
    if len(place) <= 4 * SMOOTH:
        return 0.0
    own = np.gradient(place, lap.passage.time_at(place))
    uses = [true_use(trial, place * scale, v)[SMOOTH:-SMOOTH] for v in (own, found.trace.speed_kmh / 3.6)]
    near = np.max([np.roll(uses[0], k) for k in range(-SMOOTH, SMOOTH + 1)], axis=0)
    over = np.where(uses[1] > near, uses[1] / np.maximum(near, 1.0), np.minimum(uses[1], 1.0))
    return float(over.max())


def row(case: str, simulator: str, told: list[Told]) -> str:
    """One row of the table."""
    offered = [t for t in told if t.gap_s is not None]
    fair = [t for t in told if t.as_asked]
    cells = [case, {"laid": "speed laid", "feet": "feet"}[simulator]]
    for entry in (True, False):
        true = [t for t in offered if t.as_asked and t.entry is entry]
        right = [abs(t.gap_s - t.true_s) <= max(SHARE * abs(t.true_s), LEAST_S) for t in true]
        cells.append(share(right))
    true = [t for t in offered if t.as_asked]
    cells.append(share([t.gap_s * t.true_s > 0.0 for t in true if abs(t.true_s) > NO_SIGN_S]))
    cells.append(share([t.range_s[0] <= t.true_s <= t.range_s[1] for t in true]))
    cells.append(f"{max((abs(t.gap_s - t.true_s) for t in true), default=0.0):.2f} s")
    cells.append(share([t.gap_s is not None for t in fair]))
    cells.append(f"{share([t.used > OVER for t in offered])}; {max((t.used for t in offered), default=0.0):.2f}")
    cells.append(f"{1e3 * float(np.median([t.took_s for t in told])):.0f} ms")
    cells.append(f"{max((t.nothing_s for t in told), default=0.0):.0e} s")
    return "| " + " | ".join(cells) + " |"


def share(flags: list[bool]) -> str:
    """How many of them, per cent."""
    return f"{100.0 * float(np.mean(flags)):.0f} % of {len(flags)}" if flags else "–"


HEAD = """# Accuracy of *what if*

{circuits} circuits drawn at random (seeds {first} to {last}), a stint of four laps on each, eight changes of its last lap: a
brake point 2 to 8 m later or earlier, a lowest speed 1 to 4 km/h higher or lower, a pick-up 2 to 10 m earlier or later, a
throttle fed 15 to 50 % quicker. Truth is the lap time of the same lap driven again with the change, by two simulators
of different making: one lays a speed profile, one presses pedals (`jete.simulate.what_if_trials`). A change that came out otherwise than it was asked
(0.4 m, 0.2 km/h) is left out. Right is within 20 % or 0.01 s. The doubts were set on the simulator with feet, seeds 1 to 26 and 101 to 110.
The last columns: offers of what could be driven as asked; offers that use more than the true grip, and the most that one uses; the time
of one change; the most that a change of nothing gives. Made by `make accuracy`.

| data | simulator | way in right | way out right | sign right | truth within 90 % interval | worst | offered | over true grip; most | a change takes | nothing gives |
|---|---|---|---|---|---|---|---|---|---|---|
"""


def main() -> None:
    """Drive, ask, write the table."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--circuits", type=int, default=40)
    parser.add_argument("--first", type=int, default=5001)
    parser.add_argument("--out", default="docs/accuracy-what-if.md")
    args = parser.parse_args()
    seeds = range(args.first, args.first + args.circuits)
    jobs: list[Job] = [(case, simulator, seed) for case in CASES for simulator in get_args(Simulator) for seed in seeds]
    with ProcessPoolExecutor() as pool:
        results = list(pool.map(told_of, jobs))
    rows = []
    for case in CASES:
        for simulator in get_args(Simulator):
            found = zip(jobs, results, strict=True)
            rows.append(row(case, simulator, [t for job, told in found if job[:2] == (case, simulator) for t in told]))
    head = HEAD.format(circuits=args.circuits, first=args.first, last=args.first + args.circuits - 1)
    text = head + "\n".join(rows) + "\n"
    Path(args.out).write_text(text, encoding="utf-8")
    print(text)


if __name__ == "__main__":
    main()
