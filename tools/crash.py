"""Kills a process again and again while it brings in runs and edits them, and looks for what is lost.

python tools/crash.py [--rounds 200] [--seed 1]

The process says on its standard output what was confirmed to it; after each kill the
library must open, and hold all of that.
"""

from __future__ import annotations

import argparse
import random
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from jete.core.log.lap import Channel, LapSpan, Log
from jete.library.library import Library
from jete.library.location import Location
from jete.library.opening import open_library
from jete.library.records import RunRecord
from jete.notes.sheet import LapNote, RunSheet

LONGEST_S = 1.2
SAMPLES = 1200


def made_log(seed: int) -> Log:
    """A short log that is like no other."""
    clock = np.arange(0.0, 60.0, 0.05)
    speed = 30.0 + np.random.default_rng(seed).normal(0.0, 1.0, len(clock))
    return Log(
        source=f"run-{seed}",
        channels={"time": Channel("time", "s", clock, clock), "speed": Channel("speed", "m/s", clock, speed)},
    )


def work(folder: Path, seed: int) -> None:
    """Bring in and edit until killed; each line on standard output was confirmed."""
    library = Library(Location(folder))
    say = sys.stdout
    say.write("ready\n")
    say.flush()
    for k in range(10_000):
        number = library.add(
            made_log(seed + k),
            [LapSpan(1, 5.0, 55.0, 1500.0, complete=True)],
            f"{seed + k}",
            RunSheet(driver=f"driver {k}"),
        )
        say.write(f"run {number} driver {k}\n")
        say.flush()
        library.note_run(number, replace(library.run(number).sheet, note=f"note {k}", setup=f"change {k}"))
        say.write(f"note {number} {k}\n")
        say.flush()
        library.note_lap(number, 1, LapNote("traffic", f"reason {k}"))
        say.write(f"lap {number} {k}\n")
        say.flush()
        if k % 3 == 0:
            library.remove(number)
            say.write(f"bin {number} {k}\n")
            say.flush()


def lost(library: Library, confirmed: list[str]) -> list[str]:
    """What was confirmed and is not there."""
    runs = {r.id: r for r in [*library.runs(), *library.runs(removed=True)]}
    removed = {r.id for r in library.runs(removed=True)}
    out = []
    for line in confirmed:
        kind, number, rest = line.split(" ", 2)
        run = runs.get(int(number))
        held = run is not None and _holds(library, run, kind, rest, run.id in removed)
        if not held:
            out.append(line)
    return out


def _holds(library: Library, run: RunRecord, kind: str, rest: str, removed: bool) -> bool:  # noqa: FBT001 - what was seen
    """Whether a run shows what was confirmed."""
    if kind == "run":
        return run.sheet.driver == rest and len(library.log(run).channels["speed"]) == SAMPLES
    if kind == "note":
        return run.sheet.note == f"note {rest}" and run.sheet.setup == f"change {rest}"
    return removed if kind == "bin" else run.notes.of(1).reason == f"reason {rest}"


def rounds(folder: Path, count: int, seed: int) -> list[str]:
    """Kill so many times over one library; returns what was lost, or did not open."""
    chance = random.Random(seed)
    out: list[str] = []
    for k in range(count):
        confirmed = _killed(folder / "library", seed + 100_000 * (k + 1), chance.uniform(0.0, LONGEST_S))
        library, _ = open_library(Location(folder / "library"))
        out += [f"round {k}: {line}" for line in lost(library, confirmed)]
        library.close()
    return out


def _killed(folder: Path, seed: int, after_s: float) -> list[str]:
    """Start the work, kill it a while after it is ready, and return what it said."""
    command = [sys.executable, __file__, "--work", str(folder), "--seed", str(seed)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(after_s)
        process.kill()
        said = process.stdout.read()
    return [line for line in said.split("\n")[:-1] if line]


def main() -> int:
    """Print what was lost; the exit status says whether anything was."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--rounds", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--work", type=Path)
    args = parser.parse_args()
    if args.work:
        work(args.work, args.seed)
    with tempfile.TemporaryDirectory(prefix="jete-crash-") as folder:
        found = rounds(Path(folder), args.rounds, args.seed)
    print(f"killed {args.rounds} times, opened {args.rounds} times, confirmed and lost: {len(found)}")
    print("\n".join(found))
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
