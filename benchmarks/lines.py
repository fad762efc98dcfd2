"""Measure Jete on laps that take some corners on another line; writes docs/accuracy-lines.md.

python benchmarks/lines.py [--pairs 100] [--first 7001] [--out docs/accuracy-lines.md]
"""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from feet import CARRIES, DATA, REAL_S, asked, compared, share

from jete.core.causes.verdict.losses import gap_at
from jete.report.corner import reason_of
from jete.simulate.line_trials import OTHER, draw_line_trial

if TYPE_CHECKING:
    from jete.simulate.trials import Trial

KINDS = ("white", "cubics", "drifting", "filtered", "no yaw, no accelerations")
LINES = {"early": "an earlier apex", "late": "a later apex", "tight": "held in at the exit"}


@dataclass
class Seen:
    """What pairs showed: errors of the gap, costs and what was told of them, and what was given as the reason."""

    gap: list[float] = field(default_factory=list)
    covered: list[float] = field(default_factory=list)
    told: list[bool] = field(default_factory=list)
    named: list[bool] = field(default_factory=list)
    usual: list[bool] = field(default_factory=list)


def measured(seed: int) -> dict[str, Seen]:
    """One pair of laps, driven once and logged in each way, by the kind of data."""
    trial = draw_line_trial(seed)
    return {name: measure(trial.logged(DATA[name])) for name in KINDS}


def measure(trial: Trial) -> Seen:
    """One pair of logs."""
    result = compared(trial)
    station = np.linspace(0.0, trial.circuit.length_m, 800)
    axis, true, lap, out = trial.axis_m(station), trial.gap_s(station), result.laps[0], Seen()
    out.gap = [float(np.sqrt(np.mean((gap_at(result.reference, lap.passage, axis) - true) ** 2)))]
    apex = {c.number: float(np.interp(c.apex_m, station, axis)) for c in trial.circuit.corners}
    for corner in lap.corners:
        ends = [corner.window.start_m, corner.window.end_m]
        cost = float(np.diff(np.interp(ends, axis, true))[0])
        out.covered.append(abs(corner.gap_s - cost) / corner.sigma_s)
        here = [OTHER[int(f.fault.size)] for f in trial.faults if ends[0] <= apex[f.fault.corner] < ends[1]]
        reasons = {reason_of(f, corner, (result.reference, lap.passage)) for f in corner.findings}
        if not here:
            out.usual += [bool(reasons & set(LINES.values()))] if corner.findings else []
        elif abs(cost) >= REAL_S:
            out.told.append(sum(f.loss_s for f in corner.findings) / cost >= CARRIES)
            out.named += [LINES[s] in reasons for s in here if s in LINES]
    return out


def row(name: str, seen: list[Seen]) -> str:
    """The figures of one kind of data."""
    gap, z, told, named, usual = (
        [v for s in seen for v in getattr(s, n)] for n in ("gap", "covered", "told", "named", "usual")
    )
    sigmas = np.array(z)
    return (
        f"| {name} | {np.median(gap):.4f}; {max(gap):.3f} s | {100 * np.mean(sigmas < 1):.0f}, {100 * np.mean(sigmas < 2):.0f} % "
        f"| {share(told)} | {share(named)} | {share(usual)} |"
    )


def main() -> None:
    """Measure and write."""
    seeds, out = asked(__doc__, 100, 7001)
    with ProcessPoolExecutor(2) as pool:
        seen = list(pool.map(measured, seeds, chunksize=2))
    rows = [row(name, [each[name] for each in seen]) for name in KINDS]
    print("\n".join(rows))
    if out:
        out.write_text(page(rows, seeds), encoding="utf-8")


def page(rows: list[str], seeds: range) -> str:
    """The page with its table."""
    return (
        "# Accuracy on other lines\n\n"
        f"For each kind of data {len(seeds)} circuits drawn at random (seeds {seeds.start} to {seeds.stop - 1}), on each of them two laps of a\n"
        "driver with feet (`jete.simulate.line_trials`) who goes out, in and out; the compared lap takes two corners with an\n"
        "early or a late apex, with two apexes, or holds in at the exit, and is as quick as that line lets it be. A cost is\n"
        "told where the findings of its corner carry at least 0.6 of it; the line is named where it is given as the reason of\n"
        "one of them (two apexes have no such name). Made by `make accuracy`.\n\n"
        "| data | running gap rms, median; worst | window gaps within 1 σ, 2 σ | costs ≥ 0.05 s told in their corner | early, late and tight lines named there | findings elsewhere with a line as the reason |\n"
        "|---|---|---|---|---|---|\n" + "\n".join(rows) + "\n"
    )


if __name__ == "__main__":
    main()
