"""Measure Jete on positions whose errors have shapes that neither its method nor its simulator knows; writes docs/accuracy-receivers.md.

python benchmarks/receivers.py [--pairs 40] [--first 9001] [--out docs/accuracy-receivers.md]
"""

from __future__ import annotations

from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from feet import FULL, PLAIN, Seen, asked, claimed_of, gap_of, measure, table

from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.receiver import Receiver

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.log.lap import Log
    from jete.simulate.trials import Trial

    Errors = Callable[[np.ndarray, np.random.Generator], np.ndarray]
    Figures = Callable[[Seen], dict[str, str]]
    Page = Callable[[list[str], range], str]
    Measured = Callable[[int], dict[tuple[str, str], Seen]]

DATA = {"with bends": FULL, "no yaw, no accelerations": replace(FULL, channels=PLAIN)}
WHITE = Receiver(white_m=0.15)


def none(time_s: np.ndarray, _: np.random.Generator) -> np.ndarray:
    """Nothing but white noise of 0.15 m."""
    return np.zeros_like(time_s)


def level(time_s: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Off by the same all along, by 1 m or so."""
    return np.full_like(time_s, rng.normal())


def walk(time_s: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A random walk of 0.06 m in the root of a second."""
    return np.cumsum(rng.normal(0.0, 0.06 * np.sqrt(np.median(np.diff(time_s))), len(time_s)))


def wave(time_s: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A wave of 0.5 m every 30 s, as an echo makes, on a level."""
    return 0.5 * np.sin(2.0 * np.pi * time_s / 30.0 + rng.uniform(0.0, 6.28)) + 0.7 * rng.normal()


def flicker(time_s: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Noise whose power falls as one over the frequency, 0.4 m."""
    hz = np.fft.rfftfreq(len(time_s), np.median(np.diff(time_s)))[1:]
    parts = (rng.normal(size=len(hz)) + 1j * rng.normal(size=len(hz))) / np.sqrt(hz)
    values = np.fft.irfft(np.concatenate([[0.0], parts]), len(time_s))
    return 0.4 * values / values.std()


def steps(time_s: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Three jumps of 0.6 m, as satellites come and go."""
    found = np.zeros_like(time_s)
    for k in rng.integers(0, len(time_s), 3):
        found[k:] += 0.6 * rng.normal()
    return found


SHAPES: dict[str, Errors] = {
    "white": none,
    "a level": level,
    "a random walk": walk,
    "a wave": wave,
    "flicker": flicker,
    "jumps": steps,
}


def with_errors(log: Log, shape: str, rng: np.random.Generator) -> Log:
    """The log of a receiver with such errors on both axes."""
    moved = {n: replace(c, value=c.value + SHAPES[shape](c.time_s, rng)) for n, c in log.channels.items() if n in "xy"}
    return replace(log, channels={**log.channels, **moved})


def measured(seed: int) -> dict[tuple[str, str], Seen]:
    """A pair of equal laps, driven once and seen with each error."""
    trial, found = draw_feet_trial(seed, FULL, "equal"), {}
    for name, settings in DATA.items():
        logged = trial.logged(replace(settings, receiver=WHITE))
        for shape in SHAPES:
            found[name, shape] = measure(_seen_with(logged, shape, seed))
    return found


def _seen_with(trial: Trial, shape: str, seed: int) -> Trial:
    rng = np.random.default_rng(seed)
    return replace(trial, reference=with_errors(trial.reference, shape, rng), lap=with_errors(trial.lap, shape, rng))


def figures(seen: Seen) -> dict[str, str]:
    """How well the gap and its doubt are known, and what is claimed of laps that are equal."""
    return {**gap_of(seen), "claims ≥ 0.03 s": claimed_of(seen)}


def tables_of(measured: Measured, seeds: range, figures: Figures = figures) -> list[str]:
    """A table for the first of each key, a row for the second, of all pairs."""
    seen: dict[tuple[str, str], Seen] = defaultdict(Seen)
    with ProcessPoolExecutor(2) as pool:
        for found in pool.map(measured, seeds, chunksize=2):
            for key, one in found.items():
                seen[key].add(one)
    by_first: dict[str, dict[str, dict[str, str]]] = defaultdict(dict)
    for (first, second), one in seen.items():
        by_first[first][second] = figures(one)
    return [f"## {first.capitalize()}\n\n{table(rows)}" for first, rows in by_first.items()]


def page(tables: list[str], seeds: range) -> str:
    """The page with its tables."""
    shapes = "\n".join(f"- {name}: {make.__doc__}" for name, make in SHAPES.items())
    return (
        "# Accuracy with receivers of another kind\n\n"
        f"For each kind of error {len(seeds)} circuits drawn at random (seeds {seeds.start} to {seeds.stop - 1}), on each of them two equal laps of a\n"
        "driver with feet, logged at 100 Hz with positions at 10 Hz. The errors of these have shapes that neither the method\n"
        "(white noise, a filter, a drift that forgets) nor the simulator knows, and are drawn anew for each lap and axis; white noise of 0.15 m is\n"
        "added. Made by `make accuracy`.\n\n"
        f"{shapes}\n\n" + "\n".join(tables)
    )


def write(what: str | None, first: int, measured: Measured, page: Page, figures: Figures = figures) -> None:
    """Measure what the command line asks for, print the tables and write the page."""
    seeds, out = asked(what, 40, first)
    tables = tables_of(measured, seeds, figures)
    print("\n".join(tables))
    if out:
        out.write_text(page(tables, seeds), encoding="utf-8")


if __name__ == "__main__":
    write(__doc__, 9001, measured, page)
