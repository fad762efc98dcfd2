"""Measure how outcomes of aims are told, on marks and times drawn with known truth; writes docs/accuracy-review.md.

python benchmarks/review.py [--draws 4000] [--out docs/accuracy-review.md]
"""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from jete.core.aims.aim import TOLERANCES, AimSet, value_of
from jete.core.aims.judged import gained_of, judged
from jete.core.compare import compare
from jete.core.log.lap import Lap
from jete.core.motion.split import split
from jete.core.numeric.statistics import robust_sigma
from jete.desk.planned import PlannedAim
from jete.desk.reviews import review_of
from jete.simulate.review_trials import LEFT_M, STEP_M, drawn_review

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import Comparison
    from jete.simulate.circuit import Circuit
    from jete.simulate.review_trials import TrueAim, Truth

# Circuits that nothing was tuned on; a corner found is the one built where their apexes lie so near.
FIRST_SEED, NEAR_M = 7001, 40.0
LAPS, SCATTER_M, TIME_S, SHIFT_S = 8, 3.0, 0.06, 0.03
AIM = AimSet(measure="brake_on_m", start=0.0, target=5.0, tolerance=3.0)
# Twelve corners, the worst three of which are aimed at.
CORNERS, WORST = 12, 3


@dataclass(frozen=True)
class Drawn:
    """A way in which marks move: by how much (metres) on which share of the laps, with what shift from run to run."""

    name: str
    moved_m: float
    share: float
    shift_m: float
    runs: int = 1


CASES = (
    Drawn("nothing changed, no shift", 0.0, 1.0, 0.0),
    Drawn("nothing changed, 1 m of shift", 0.0, 1.0, 1.0),
    Drawn("5 m on 8 of 8 laps, no shift", 5.0, 1.0, 0.0),
    Drawn("5 m on 8 of 8 laps, 1 m of shift", 5.0, 1.0, 1.0),
    Drawn("5 m on 8 of 8 laps, no shift, 5 runs before", 5.0, 1.0, 0.0, 5),
    Drawn("nothing changed, 1 m of shift, 5 runs before", 0.0, 1.0, 1.0, 5),
    Drawn("12 m on 8 of 8 laps, 1 m of shift", 12.0, 1.0, 1.0),
    Drawn("5 m on 4 of 8 laps, 1 m of shift", 5.0, 0.5, 1.0),
)
OUTCOMES = ("worked", "done_slower", "overdone", "short", "not_done", "not_told")


def run_of(rng: np.random.Generator, middle: float, scatter: float, shift: float, count: int = LAPS) -> list[float]:
    """Values of one run's laps."""
    values: list[float] = (middle + shift * rng.normal() + scatter * rng.normal(size=count)).tolist()
    return values


def outcomes(case: Drawn, draws: int, rng: np.random.Generator) -> dict[str, int]:
    """How often each outcome is told; the start of an aim is the middle of the run before."""
    out = dict.fromkeys(OUTCOMES, 0)
    for _ in range(draws):
        before = [run_of(rng, 0.0, SCATTER_M, case.shift_m) for _ in range(case.runs)]
        start = float(np.median(before[-1]))
        aim = AimSet(measure="brake_on_m", start=start, target=start + 5.0, tolerance=AIM.tolerance)
        after = run_of(rng, 0.0, SCATTER_M, case.shift_m)
        done = round(case.share * LAPS)
        after = [v + case.moved_m * (k < done) for k, v in enumerate(after)]
        times = [run_of(rng, 10.0, TIME_S, SHIFT_S) for _ in range(2)]
        out[judged(aim, before, [after], ([times[0]], [times[1]]), ([], [])).outcome] += 1
    return out


def gains(gain_s: float, runs: int, draws: int, rng: np.random.Generator) -> tuple[float, float, float]:
    """Shares of gains told as such, as losses, and not told, for a corner that is so much quicker."""
    told = []
    for _ in range(draws):
        before = [run_of(rng, 10.0, TIME_S, SHIFT_S) for _ in range(runs)]
        after = [run_of(rng, 10.0 - gain_s, TIME_S, SHIFT_S) for _ in range(runs)]
        told.append(gained_of(before, after)[0])
    return tuple(sum(t is what for t in told) / draws for what in (True, False, None))  # type: ignore[return-value]


def worst_of_twelve(draws: int, rng: np.random.Generator) -> tuple[float, float, float]:
    """Nothing changed: share of the worst three told as gained, their mean change by the choosing run and by the others, seconds."""
    told, chosen, others = [], [], []
    for _ in range(draws):
        choosing = [run_of(rng, 10.0, TIME_S, SHIFT_S) for _ in range(CORNERS)]
        worst = np.argsort([-np.mean(c) for c in choosing])[:WORST]
        for corner in worst:
            before = [run_of(rng, 10.0, TIME_S, SHIFT_S) for _ in range(3)]
            after = [run_of(rng, 10.0, TIME_S, SHIFT_S) for _ in range(3)]
            told.append(gained_of(before, after)[0] is True)
            mean = float(np.mean(after))
            chosen.append(mean - float(np.mean(choosing[corner])))
            others.append(mean - float(np.mean(before)))
    return float(np.mean(told)), float(np.mean(chosen)), float(np.mean(others))


def on_logs(circuits: int) -> dict[str, dict[str, int]]:
    """Outcomes by truth, on logs of two runs of simulated drivers: marks as they are read, not as they were drawn."""
    out = {truth: dict.fromkeys(OUTCOMES, 0) for truth in LEFT_M}
    for seed in range(FIRST_SEED, FIRST_SEED + circuits):
        trial = drawn_review(seed)
        before, after = ([Lap(log, s) for s in split(log) if s.complete] for log in (trial.before, trial.after))
        reference = min(before, key=lambda lap: lap.span.time_s)
        others = [lap for lap in before if lap is not reference]
        chosen = compare(reference, others)
        aims = [aim for true in trial.aims if (aim := _aim_at(chosen, trial.circuit, true)) is not None]
        found = review_of(reference, ([others], [], [after]), [aim for aim, _ in aims], None)
        for one, (_, truth) in zip(found.aims, aims, strict=True):
            out[truth][one.came.outcome] += 1
    return out


def _aim_at(chosen: Comparison, circuit: Circuit, true: TrueAim) -> tuple[PlannedAim, Truth] | None:
    """The aim as a plan would have it; None where no mark is found at the corner as built."""
    apex = circuit.corners[true.corner - 1].apex_m
    corner = min(chosen.corners, key=lambda c: abs(c.apex_m - apex))
    marks = [lap.corners[corner.number - 1].lap_marks for lap in chosen.laps]
    values = [v for m in marks if (v := value_of(m, true.mark)) is not None]
    if abs(corner.apex_m - apex) > NEAR_M or len(values) < LAPS - 2:
        return None
    start = float(np.median(values))
    scatter = robust_sigma(np.array(values) - start)
    step = STEP_M if true.mark == "brake_on_m" else -STEP_M
    judge = AimSet(measure=true.mark, start=start, target=start + step, tolerance=max(scatter, TOLERANCES[true.mark]))
    return PlannedAim(number=1, corner=corner.number, judge=judge), true.truth


def main() -> None:
    """Draw, judge, write the table."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--draws", type=int, default=4000)
    parser.add_argument("--circuits", type=int, default=20)
    parser.add_argument("--out", default="docs/accuracy-review.md")
    args = parser.parse_args()
    rng = np.random.default_rng(20)
    lines = [
        "# Accuracy of reviews",
        "",
        f"Marks and times are drawn with known truth, {args.draws} times each: {LAPS} laps before and {LAPS} after, {SCATTER_M:g} m from lap to lap, an aim of",
        "5 m whose start is the middle of the run that chose it. *Shift* is what a mark's mean differs by from run to run for nobody's doing. Made by `make accuracy`.",
        "",
        "| what was driven | " + " | ".join(OUTCOMES) + " |",
        "|---|" + "---|" * len(OUTCOMES),
    ]
    for case in CASES:
        found = outcomes(case, args.draws, rng)
        lines.append(
            f"| {case.name} | " + " | ".join(f"{100.0 * found[o] / args.draws:.1f} %" for o in OUTCOMES) + " |"
        )
    lines += [
        "",
        f"Gains of a corner, {TIME_S:g} s from lap to lap and {SHIFT_S:g} s from run to run, on runs that did not choose the aim:",
        "",
        "| a corner is quicker by | runs before and after | told as gained | as lost | not told yet |",
        "|---|---|---|---|---|",
    ]
    for gain_s, runs in ((0.0, 3), (0.03, 3), (0.06, 3), (0.10, 3), (0.10, 1)):
        told = gains(gain_s, runs, args.draws, rng)
        lines.append(f"| {gain_s:.2f} s | {runs} and {runs} | " + " | ".join(f"{100.0 * t:.1f} %" for t in told) + " |")
    share, chosen, others = worst_of_twelve(args.draws // 4, rng)
    lines += [
        "",
        f"The worst {WORST} of {CORNERS} corners of a run when nothing is changed: told as gained {100.0 * share:.1f} %. In the mean they are {-chosen:.3f} s quicker than in the run that",
        f"chose them, which no review tells as a gain, and {abs(others):.3f} s {'quicker' if others < 0.0 else 'slower'} than in the others.",
    ]
    by_truth = on_logs(args.circuits)
    lines += [
        "",
        f"On logs of two runs of simulated drivers, {args.circuits} circuits drawn at random, three aims each (a brake or a pick-up, {STEP_M:g} m), marks as they are read:",
        "",
        "| what was driven | aims | " + " | ".join(OUTCOMES) + " |",
        "|---|---|" + "---|" * len(OUTCOMES),
    ]
    for truth, told in by_truth.items():
        count = max(sum(told.values()), 1)
        lines.append(
            f"| {truth} | {count} | " + " | ".join(f"{100.0 * told[o] / count:.0f} %" for o in OUTCOMES) + " |"
        )
    text = "\n".join(lines) + "\n"
    Path(args.out).write_text(text, encoding="utf-8")
    print(text)


if __name__ == "__main__":
    main()
