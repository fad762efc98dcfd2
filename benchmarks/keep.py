"""Measure what each special rule of the causes earns: every one is taken out by itself; writes docs/what-rules-earn.md.

python benchmarks/keep.py [--pairs 25] [--first 30001] [--out docs/what-rules-earn.md]
"""

from __future__ import annotations

import warnings
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from importlib import import_module
from typing import TYPE_CHECKING, Any, cast, get_args
from unittest.mock import patch

import numpy as np
from feet import CLAIM_S, DATA, FULL, REAL_S, Seen, asked, found_of, measure, right_of, share

from jete.core.causes.kinds import Factor
from jete.simulate.feet_trials import Made, draw_feet_trial

if TYPE_CHECKING:
    from collections.abc import Callable

CAUSES = "jete.core.causes"
WHITE, NONE, SLOW = "white", "no positions", "10 Hz position only"
SHOWN = (WHITE, NONE, SLOW)


def _same(value: Any) -> Callable[..., Any]:
    """A function that answers the same whatever it is asked."""
    return lambda *_, **__: value


# Each rule, and what stands in its place: the module, the name there, and what it becomes.
RULES: dict[str, tuple[str, str, Any]] = {
    "chains: an arrival has all of a corner that is only gained speed in": (
        "verdict.losses", "carried", lambda shares, *_: dict(shares)
    ),
    "a miss of the apex is told before any balance": ("verdict.losses", "overshot", _same(None)),
    "a roll is left by an early braking": ("verdict.moved", "_left_by_braking_s", _same(0.0)),
    "who rolled before the brake needs less of it": ("verdict.moved", "_rolled_mps2", _same(0.0)),
    "who arrives slower needs less of the brake": ("verdict.moved", "_needed_mps2", _same(0.0)),
    "softer braking, or a lower speed, needs an earlier brake point": ("verdict.brake_point", "_needed_for", _same(())),
    "a slowing over elsewhere from the same brake point": ("verdict.brake_point", "_unmade", _same(value=False)),
    "a roll or an arrival moves the end of a slowing": ("verdict.brake_point", "_shifted_by", _same(())),
    "later and harder is slowed early": ("verdict.brake_point", "against", _same(value=False)),
    "a lower speed is read off the marks where they show it": ("verdict.lowest_speed", "_read_off", _same(None)),
    "dips that only one lap has": ("profiles.take_apart", "own_dips", lambda dips, *_: list(dips)),
    "a longer roll ends the slowing": ("profiles.take_apart", "ended_by_roll", lambda profile, _: profile),
    "pick-ups that a longer slowing forces": (
        "hybrids.hybrid", "forced_m", lambda _, lap: np.zeros(len(lap.least))
    ),
    "marks that have not moved ask for more": ("verdict.findings", "LACK_PRICE", 0.0),
    "an unseen line asks for more": ("verdict.findings", "UNSEEN_PRICE", 0.0),
    "factors go along with the likeliest cause": ("verdict.moved", "GOES_WITH", dict.fromkeys(Factor, ())),
}  # fmt: skip
AS_IS = "as it is"
Figures = dict[str, dict[str, dict[Made, Seen]]]


def measured(job: tuple[int, Made]) -> dict[str, dict[str, Seen]]:
    """One pair, driven once, by each rule that is taken out and each kind of data."""
    warnings.simplefilter("ignore")
    seed, made = job
    trials = {name: draw_feet_trial(seed, FULL, made).logged(DATA[name]) for name in SHOWN}
    out = {AS_IS: {name: measure(trial) for name, trial in trials.items()}}
    for rule, (module, attribute, instead) in RULES.items():
        with ExitStack() as stack:
            stack.enter_context(patch.object(import_module(f"{CAUSES}.{module}"), attribute, instead))
            out[rule] = {name: measure(trial) for name, trial in trials.items()}
    return out


def told_of(by_made: dict[Made, Seen]) -> str:
    """Found, right, waits found, rolls found, trades named, overshoots told; claims on equal laps."""
    driven, trades = by_made["faults"], [t for t in by_made["trades"].trades if all(abs(s.cost_s) >= 0.1 for s in t)]
    ran_on = [told > 0.0 for cost, told in by_made["overshoots"].faults if cost >= 0.12]
    parts = [
        found_of(driven.faults, REAL_S),
        right_of(driven.claims, REAL_S),
        found_of(by_made["waits"].faults, REAL_S),
        found_of(by_made["rolls"].faults, REAL_S),
        share([all(s.told_s / s.cost_s > 0.1 for s in t) for t in trades]),
        share(ran_on),
    ]
    equal = sum(abs(c.loss_s) >= CLAIM_S for c in by_made["equal"].claims)
    return " · ".join([p.split(" %")[0] for p in parts] + [str(equal)])


def main() -> None:
    """Measure and write."""
    seeds, out = asked(__doc__, 25, 30001)
    made = cast("tuple[Made, ...]", get_args(Made))
    seen: Figures = {rule: {name: {m: Seen() for m in made} for name in SHOWN} for rule in (AS_IS, *RULES)}
    jobs = [(s, m) for s in seeds for m in made]
    with ProcessPoolExecutor(2) as pool:
        for (_, m), each in zip(jobs, pool.map(measured, jobs), strict=True):
            for rule, by_data in each.items():
                for name, one in by_data.items():
                    seen[rule][name][m].add(one)
    rows = "".join(
        f"| {rule} | {' | '.join(told_of(by_data[name]) for name in SHOWN)} |\n" for rule, by_data in seen.items()
    )
    table = f"| without | {' | '.join(SHOWN)} |\n|{'---|' * (len(SHOWN) + 1)}\n{rows}"
    print(table)
    if out:
        out.write_text(page(table, seeds), encoding="utf-8")


def page(table: str, seeds: range) -> str:
    """The page with its table."""
    return (
        "# What each special rule earns\n\n"
        f"Each rule of the causes is taken out by itself, on {len(seeds)} circuits drawn at random (seeds {seeds.start} to {seeds.stop - 1}), six\n"
        "pairs of laps on each of a driver with feet (as in [accuracy-feet.md](accuracy-feet.md)). In each cell, in per cent: faults ≥ 0.05 s found ·\n"
        "claims ≥ 0.05 s right · waiting feet found · early and rolling found · trades named · overshoots ≥ 0.12 s told; then the\n"
        "number of claims ≥ 0.03 s on equal laps. A figure of a few per cent is noise: some 60 faults, 60 claims and 35 trades stand\n"
        "behind each at 25 circuits. Made by `make keep`. A rule that earns nothing here, and nothing that a test holds, goes.\n\n"
        + table
    )


if __name__ == "__main__":
    main()
