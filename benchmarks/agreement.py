"""Count what is told against its own marks: random pairs of both simulators, edited speeds, and the demo.

python benchmarks/agreement.py [--pairs 50] [--first 70001]
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, cast, get_args

import numpy as np
from accuracy import lap_of

from jete.core.compare import compare
from jete.core.log.lap import Lap
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.formats.reader import read_log
from jete.simulate.agreement import contradictions
from jete.simulate.feet_trials import Made, draw_feet_trial
from jete.simulate.trials import draw_trial

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import Comparison
    from jete.core.log.lap import Log

DEMO = Path(__file__).parents[1] / "src/jete/app/assets/demo"
TOLD_S = 0.03
Found = tuple[Counter[str], list[str]]


def told_of(result: Comparison, of: str) -> Found:
    """How many claims of a size worth telling there are by kind, and the ones against their marks."""
    claims = Counter(
        str(f.kind) for lap in result.laps for c in lap.corners for f in c.findings if abs(f.loss_s) >= TOLD_S
    )
    against = [
        f"{of} {lap.passage.lap.label} corner {c.corner.shown}: {why}"
        for lap in result.laps
        for c in lap.corners
        for why in contradictions(replace(c, findings=tuple(f for f in c.findings if abs(f.loss_s) >= TOLD_S)))
    ]
    return claims, against


def edited(log: Log, seed: int) -> Log:
    """A log whose speed is another by up to 15 % over random pieces of a few seconds."""
    rng, speed = np.random.default_rng(seed), log.channels["speed"]
    factor = np.ones(len(speed.value))
    for middle in rng.uniform(0.0, float(speed.time_s[-1]), 6):
        factor *= 1.0 + rng.uniform(-0.15, 0.15) * np.exp(-0.5 * ((speed.time_s - middle) / rng.uniform(0.5, 2.0)) ** 2)
    return replace(log, channels={**log.channels, "speed": replace(speed, value=speed.value * factor)})


def drawn(job: tuple[str, int]) -> Found:
    """One pair, both ways round."""
    made, seed = job
    with_feet = made in get_args(Made)
    trial = draw_feet_trial(seed, made=cast("Made", made)) if with_feet else draw_trial(seed)
    logs = [trial.reference, edited(trial.lap, seed) if made == "edited" else trial.lap]
    claims, against = Counter[str](), list[str]()
    for ours, theirs in (logs, logs[::-1]):
        found = told_of(compare(lap_of(ours), [lap_of(theirs, line_of(ours))]), f"{made} {seed}")
        claims, against = claims + found[0], against + found[1]
    return claims, against


def demo(job: tuple[str, str]) -> Found:
    """All laps of one of the demo's runs against another's fastest."""
    ours, theirs = (read_log(DEMO / name) for name in job)
    laps = [Lap(theirs, s) for s in split(theirs, line_of(ours)) if s.complete]
    return told_of(compare(lap_of(ours), laps), job[0])


def main() -> None:
    """Count and print; exit status 1 where anything is told against its marks."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pairs", type=int, default=50)
    parser.add_argument("--first", type=int, default=70001)
    args = parser.parse_args()
    seeds = range(args.first, args.first + args.pairs)
    pairs = [(made, seed) for made in (*get_args(Made), "ours", "edited") for seed in seeds]
    runs = sorted(p.name for p in DEMO.glob("*-run-?.parquet"))
    with ProcessPoolExecutor(2) as pool:
        groups = {
            "drawn": list(pool.map(drawn, pairs, chunksize=2)),
            "demo": list(pool.map(demo, [(a, b) for a in runs for b in runs if a != b])),
        }
    wrong = 0
    for name, found in groups.items():
        claims = sum((c for c, _ in found), Counter[str]())
        against = [a for _, each in found for a in each]
        print(f"{name}: {sum(claims.values())} claims of {TOLD_S} s or more, {len(against)} against their marks")
        print("  " + ", ".join(f"{kind} {n}" for kind, n in claims.most_common()))
        print("\n".join(f"  {a}" for a in against[:40]))
        wrong += len(against)
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
