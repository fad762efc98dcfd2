"""Pairs of logs of a driver with feet: faults of any shape, feet that wait or roll, and trades of two techniques.

Made apart from what the method assumes; truth is a lap driven again without each fault.  A braking that came out as
something else than was meant is no truth, and left out.
"""

from __future__ import annotations

from math import nan
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.simulate.circuit import draw
from jete.simulate.driver import Fault, Trace
from jete.simulate.feet import drive_with_feet
from jete.simulate.habits import draw_habits
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial, TrueFault, recorded
from jete.simulate.vehicle import draw_vehicle

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

Made = Literal["faults", "equal", "waits", "rolls", "trades", "overshoots"]

SIZES = {
    "early_braking": (6.0, 18.0),
    "late_braking": (4.0, 10.0),
    "soft_braking": (10.0, 30.0),
    "hard_braking": (5.0, 12.0),
    "overslowing": (3.0, 8.0),
    "more_speed": (1.5, 4.0),
    "coasting": (0.3, 0.8),
    "late_throttle": (6.0, 20.0),
    "waiting_foot": (6.0, 12.0),
    "early_throttle": (4.0, 8.0),
    "throttle_hesitation": (0.3, 0.6),
    "slow_exit": (0.1, 0.3),
    "fast_exit": (0.05, 0.12),
}
# Early by so many metres, and on neither pedal over these.
EARLY_ROLLING_M = (6.0, 16.0)
# Slow so far past the reference's slow point.
OVERSHOT_M = (25.0, 50.0)
# Lost on the way in and gained on the way out, and the reverse.
TRADES = (("early_braking", "early_throttle"), ("overslowing", "early_throttle"), ("late_braking", "late_throttle"), ("more_speed", "waiting_foot"), ("late_braking", "waiting_foot"), ("more_speed", "late_throttle"))  # fmt: skip
BRAKED = ("early_braking", "late_braking", "soft_braking", "hard_braking")
# A braking's end may lie this share of what its brake point moved by from where it was meant to.
AS_MEANT = 0.25
# A vehicle has slowed when it is within this of its lowest speed.
SLOWED_MPS = 0.5
# Those that move the whole of it, and to which side.
WHOLE = {"early_braking": -1.0, "late_braking": 1.0}
# A corner has so much road between the pick-up before it and its brake point.
FREE_M = 80.0


def draw_feet_trial(seed: int, settings: LoggerSettings | None = None, made: Made = "faults", count: int = 4) -> Trial:
    """Draw a pair of laps of one driver; ``made`` says what the compared lap does otherwise."""
    settings = settings or LoggerSettings()
    rng = np.random.default_rng([seed, 991])
    circuit, vehicle, level = draw(seed + 100_000), draw_vehicle(seed + 100_000), float(rng.uniform(0.84, 0.94))

    def driven(these: tuple[Fault, ...]) -> Trace:
        return drive_with_feet(circuit, vehicle, seed, these, level)

    reference = driven(())
    drawn = _draw(reference, rng, seed, made, count)
    lap = driven(drawn)
    otherwise = {f.corner for f in drawn if f.kind in BRAKED and not _as_meant(reference, lap, f)}
    chosen = tuple(f for f in drawn if f.corner not in otherwise)
    lap = driven(chosen) if otherwise else lap
    without = {f: driven(tuple(g for g in chosen if g is not f)) for f in chosen}
    true = tuple(TrueFault(f, lap, without[f], _other(f, chosen, without, driven)) for f in chosen)
    lines = (draw_line(circuit, 1000 * seed + 1, 1.2), draw_line(circuit, 1000 * seed + 2, 1.2))
    scales = float(rng.uniform(0.99, 1.01)), float(rng.uniform(0.99, 1.01))
    logs = recorded((reference, lap), lines, scales, settings, seed)
    return Trial(seed, circuit, logs[0], logs[1], reference, lap, *lines, scales, true)


def _other(
    fault: Fault,
    faults: tuple[Fault, ...],
    without: Mapping[Fault, Trace],
    driven: Callable[[tuple[Fault, ...]], Trace],
) -> tuple[Trace, Trace] | None:
    """The laps without the other fault of a corner, and without both; None where it is the only one."""
    other = next((f for f in faults if f.corner == fault.corner and f is not fault), None)
    if other is None:
        return None
    return without[other], driven(tuple(f for f in faults if f.corner != fault.corner))


def _as_meant(reference: Trace, lap: Trace, fault: Fault) -> bool:
    """Whether a braking came out as it was meant: the whole of it moved at least about as far, or it ended where the reference's does.

    Who brakes later and harder to be slow at the same place may not find the grip for it, and is slow later: what was
    meant as harder braking is then later braking.
    """
    ended = [_slowed_m(t, fault.corner) for t in (reference, lap)]
    moved = ended[1] - ended[0]
    if fault.kind in WHOLE:
        return moved * WHOLE[fault.kind] >= (1.0 - AS_MEANT) * fault.size
    return abs(moved) <= AS_MEANT * fault.size


def _slowed_m(trace: Trace, corner: int) -> float:
    """The station at which lap 1 first comes within 0.5 m/s of its lowest speed at a corner; NaN where it did not brake before the pick-up."""
    true = next(c for c in trace.corners if (c.lap, c.corner) == (1, corner))
    if true.brake_on_m is None or true.brake_on_m >= true.throttle_on_m:
        return nan
    inside = np.searchsorted(trace.station_m, trace.circuit.length_m + np.array([true.brake_on_m, true.throttle_on_m]))
    speed = trace.speed_mps[inside[0] : inside[1] + 1]
    return float(trace.station_m[inside[0] + int(np.argmax(speed <= speed.min() + SLOWED_MPS))])


def _draw(reference: Trace, rng: np.random.Generator, seed: int, made: Made, count: int) -> tuple[Fault, ...]:
    """Faults at corners that are braked for, none next to another; two at a corner for trades."""
    if made == "equal":
        return ()
    chosen: list[Fault] = []
    free, firm = _free(reference), {c: not draw_habits(seed, c).rolls for c in range(1, 40)}
    for corner in rng.permutation(free):
        if len({f.corner for f in chosen}) == count:
            break
        if all(abs(corner - f.corner) >= 2 for f in chosen):
            kinds = _kinds(rng, made, firm=firm[int(corner)])
            chosen += [Fault(k, int(corner), float(rng.uniform(*_sizes(k)))) for k in kinds]
    return tuple(chosen)


def _sizes(kind: str) -> tuple[float, float]:
    return OVERSHOT_M if kind == "overshot" else SIZES.get(kind, EARLY_ROLLING_M)


def _free(reference: Trace) -> list[int]:
    """Corners that are braked for, with road before the brake on which something can be done otherwise."""
    corners = [c for c in reference.corners if c.lap == 1]
    before = [0.0, *(c.throttle_on_m for c in corners)]
    return [
        c.corner
        for c, picked in zip(corners, before, strict=False)
        if not c.flat and c.brake_on_m is not None and c.brake_on_m > picked + FREE_M
    ]


def _kinds(rng: np.random.Generator, made: Made, *, firm: bool) -> tuple[str, ...]:
    """What is done otherwise; where the foot rolls on anyway, another brake point would be another roll too."""
    if made == "waits":
        return ("waiting_foot",)
    if made == "rolls":
        return ("early_rolling",)
    if made == "overshoots":
        return ("overshot",)
    if made == "trades":
        trades = [t for t in TRADES if firm or t[0] not in BRAKED]
        return trades[int(rng.integers(len(trades)))]
    return (str(rng.choice([k for k in SIZES if firm or k not in BRAKED])),)
