"""How quick and how frugal the library is, as ratios to plain references in one run.

python benchmarks/library.py

The file is 360,000 rows of 50 columns: an hour at 100 Hz.  Peak memory is that of a fresh
process each, less what the same process needs before it begins.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from statistics import median

import numpy as np

from jete.core.motion.split import split
from jete.formats.reader import read_log
from jete.library import models, recordings
from jete.library.bring_in import bring_in
from jete.library.edits import write_sheet
from jete.library.library import Library
from jete.library.location import Location
from jete.notes.search import holds, text_of
from jete.notes.sheet import RunSheet

PAGE = """
import sys, time
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from jete.main import build
from jete.library.location import Location
app = QApplication(["jete"])
parts = build(app)
parts.window.show()
app.processEvents()
if len(sys.argv) > 2:
    import jete.library.opening
    import sqlalchemy.dialects.sqlite
begin = time.perf_counter()
parts.shelf.open(Location(Path(sys.argv[1])))
while not parts.store.session.runs:
    app.processEvents()
    time.sleep(0.004)
app.processEvents()
parts.window.grab()
print(time.perf_counter() - begin)
parts.window.close()
"""
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROWS, COLUMNS = 360_000, 50
RUNS, LAPS = 1000, 20
DEMO = Path(__file__).parents[1] / "src/jete/app/assets/demo/ines-karlsby-run-1.parquet"
LAP_CHANNELS = (
    "lap", "distance", "speed", "throttle", "brake", "steering", "gear", "rpm", "latitude", "longitude", "acc_long", "acc_lat",
)  # fmt: skip

PEAK = """
def peak_kb():
    lines = open("/proc/self/status").read().splitlines()
    return next(float(x.split()[1]) for x in lines if x.startswith("VmHWM"))
"""
BARE = """
import sys, time
from pyarrow import csv, parquet
before = peak_kb()
begin = time.perf_counter()
table = csv.read_csv(sys.argv[1])
parsed = time.perf_counter() - begin
peak = peak_kb()
parquet.write_table(table, sys.argv[2], compression="zstd")
print(time.perf_counter() - begin, (peak - before) / 1024.0, parsed)
"""
OURS = """
import sys, time
from pathlib import Path
import pyarrow.csv, pyarrow.parquet
from jete.library.bring_in import bring_in
from jete.library.library import Library
from jete.library.location import Location
library = Library(Location(Path(sys.argv[2])))
before = peak_kb()
begin = time.perf_counter()
bring_in(library, Path(sys.argv[1]))
print(time.perf_counter() - begin, (peak_kb() - before) / 1024.0)
library.close()
"""


def write_large(path: Path) -> None:
    """An hour of a made-up log with laps of 90 s."""
    import pyarrow as pa
    from pyarrow import csv

    time_s = np.arange(ROWS) * 0.01
    noise = np.random.default_rng(1)
    wave = np.sin(2.0 * np.pi * time_s / 90.0)
    columns = {"time [s]": time_s, "lap": np.floor(time_s / 90.0), "speed [km/h]": 150.0 + 60.0 * wave}
    columns |= {
        "throttle [%]": np.clip(50.0 + 80.0 * wave, 0.0, 100.0),
        "brake [bar]": np.clip(-40.0 * wave, 0.0, 60.0),
    }
    columns |= {f"channel {k}": noise.normal(20.0, 5.0, ROWS).round(3) for k in range(COLUMNS - len(columns))}
    csv.write_csv(pa.table({n: pa.array(np.round(v, 4)) for n, v in columns.items()}), path)


def run(script: str, *arguments: object) -> list[float]:
    """Numbers that a fresh process prints."""
    out = subprocess.run(
        [sys.executable, "-c", PEAK + script, *map(str, arguments)], check=True, capture_output=True, text=True
    )
    return [float(x) for x in out.stdout.split()]


def row(what: str, here: str, ratio: str, wanted: str) -> None:
    """A line of the table."""
    print(f"| {what} | {here} | {ratio} | {wanted} |")


def reading(folder: Path) -> None:
    """Bringing in a large CSV file against a bare parse and a bare Parquet file."""
    path = folder / "hour.csv"
    write_large(path)
    bare = sorted(run(BARE, path, folder / f"bare{k}.parquet") for k in range(3))[1]
    ours = sorted(run(OURS, path, folder / f"library{k}") for k in range(3))[1]
    row(
        "an hour of 50 channels as CSV into the library",
        f"{ours[0]:.2f} s",
        f"{ours[0] / bare[0]:.2f} x parse and write ({bare[0]:.2f} s)",
        "<= 2.5 x",
    )
    row(
        "peak memory of it",
        f"{ours[1]:.0f} MB",
        f"{ours[1] / bare[1]:.2f} x the bare parse ({bare[1]:.0f} MB)",
        "<= 3 x",
    )


def laps(folder: Path) -> None:
    """One lap of twelve channels back from the library."""
    library = Library(Location(folder / "demo"))
    record = library.run(bring_in(library, DEMO).run)
    times = []
    for _ in range(30):
        begin = time.perf_counter()
        library.lap(record, 3, LAP_CHANNELS)
        times.append(1000.0 * (time.perf_counter() - begin))
    row("a lap of 12 channels from the library", f"{median(times):.1f} ms", "-", "<= 15 ms")
    library.close()


def shelf(folder: Path) -> None:
    """A library of 20,000 laps: its runs read, and searched."""
    library = Library(Location(folder / "many"))
    log = read_log(DEMO)
    lap = next(s for s in split(log) if s.complete)
    digest = recordings.store(library.location.folder, log)
    with library.writing() as session:
        session.add(models.Recording(digest=digest, source_digest="x", source="made", repairs=[]))
        session.flush()
        sheet = RunSheet(
            circuit="Kestrel Sands", driver="Ines Karlsby", event="club day", vehicle="club car", group="endurance"
        )
        for k in range(RUNS):
            one = models.Run(recording_digest=digest, imported_at=datetime.now(tz=UTC))
            session.add(one)
            session.flush()
            spans = [replace(lap, number=n) for n in range(LAPS)]
            session.add_all(
                models.Lap(run_id=one.id, position=n, number=s.number, start_s=s.start_s, end_s=s.end_s, length_m=3900.0, complete=True,
                           first_s=30.0, second_s=30.0, third_s=30.0)
                for n, s in enumerate(spans)
            )  # fmt: skip
            write_sheet(session, one, replace(sheet, date=f"2026-{1 + k % 12:02d}-{1 + k % 28:02d}", note=f"note {k}"))
    begin = time.perf_counter()
    runs = library.runs()
    row("the runs of a library of 20,000 laps", f"{time.perf_counter() - begin:.2f} s", "-", "-")
    texts = [text_of(r.sheet, r.notes, r.source) for r in runs]
    begin = time.perf_counter()
    found = sum(holds(t, "kestrel 77 ines") for t in texts)
    row(f"search among them ({found} found)", f"{1000.0 * (time.perf_counter() - begin):.1f} ms", "-", "<= 50 ms")
    library.close()
    cold = median(run(PAGE, folder / "many")[0] for _ in range(3))
    warm = median(run(PAGE, folder / "many", "loaded")[0] for _ in range(3))
    row(
        "its page opened and painted",
        f"{warm:.2f} s",
        f"{cold:.2f} s while the database's machinery is loaded",
        "<= 1 s",
    )


def main() -> None:
    """Print the table."""
    print("| what | here | ratio | wanted |\n|---|---|---|---|")
    with tempfile.TemporaryDirectory(prefix="jete-bench-") as name:
        folder = Path(name)
        laps(folder)
        shelf(folder)
        reading(folder)


if __name__ == "__main__":
    main()
