"""Pairs of logs of a driver with feet who goes through some corners on another line: an early or a late apex, two of them, a tight exit.

Nothing is done otherwise with the feet but what the line asks for; truth is the lap driven again with the reference's
line at each of those corners.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, get_args

import numpy as np

from jete.simulate.circuit import Circuit, draw
from jete.simulate.driver import Fault
from jete.simulate.feet import drive_with_feet
from jete.simulate.lines import Line, Shape, as_road, draw_shaped, on_centre
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial, TrueFault, recorded
from jete.simulate.vehicle import draw_vehicle

if TYPE_CHECKING:
    from jete.simulate.driver import Trace

# What is other than usual.
OTHER: tuple[Shape, ...] = tuple(s for s in get_args(Shape) if s != "usual")


def draw_line_trial(seed: int, settings: LoggerSettings | None = None, count: int = 2) -> Trial:
    """Draw a pair of laps of one driver; ``count`` corners, none next to another, are taken on another line.

    Each is a true fault of the kind ``line``, its size the place of its shape in ``OTHER``.
    """
    settings = settings or LoggerSettings()
    rng = np.random.default_rng([seed, 733])
    circuit, vehicle, level = draw(seed + 100_000), draw_vehicle(seed + 100_000), float(rng.uniform(0.84, 0.94))

    def driven(line: Line) -> Trace:
        return on_centre(drive_with_feet(as_road(line), vehicle, seed, (), level), line)

    usual = draw_shaped(circuit, seed, {})
    shapes = _draw(circuit, rng, count)
    other = draw_shaped(circuit, seed, shapes)
    reference, lap = driven(usual), driven(other)
    true = tuple(
        TrueFault(
            Fault("line", c, float(OTHER.index(s))),
            lap,
            driven(draw_shaped(circuit, seed, {k: v for k, v in shapes.items() if k != c})),
        )
        for c, s in shapes.items()
    )
    scales = float(rng.uniform(0.99, 1.01)), float(rng.uniform(0.99, 1.01))
    logs = recorded((reference, lap), (usual, other), scales, settings, seed)
    return Trial(seed, circuit, logs[0], logs[1], reference, lap, usual, other, scales, true)


def _draw(circuit: Circuit, rng: np.random.Generator, count: int) -> dict[int, Shape]:
    """Which corners are taken how."""
    shapes: dict[int, Shape] = {}
    for number in rng.permutation([c.number for c in circuit.corners]).tolist():
        if len(shapes) < count and all(abs(number - k) >= 2 for k in shapes):
            shapes[number] = OTHER[int(rng.integers(len(OTHER)))]
    return shapes
