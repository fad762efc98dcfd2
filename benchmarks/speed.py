"""Speed as ratios to plain references in the same run; prints a table.

python benchmarks/speed.py
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()
sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import numpy as np

from jete.commands.cores import on_all_cores
from jete.core.compare import compare
from jete.core.motion.borders import line_of
from jete.core.run import run_of
from jete.formats.reader import read_log
from jete.simulate.trials import draw_trial
from known_laps import csv_text, lap_of, rows_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.log.lap import Lap

ROOT = Path(__file__).parents[1]
RUN_LAPS = 30
BARE_NUMERICS = "import numpy, scipy.interpolate"
BARE_WINDOW = """
import numpy, sys
from PyQt6.QtWidgets import QApplication, QWidget
class W(QWidget):
    def paintEvent(self, e):
        print("drawn", flush=True); import os; os._exit(0)
app = QApplication([]); w = W(); w.resize(1280, 800); w.show(); app.exec()
"""
FIRST_PAINT = """
import sys, os
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from jete.main import AFTER_PAINT_MS, build
app = QApplication(["jete"]); parts = build(app)
paint = parts.window.paintEvent
def painted(event):
    paint(event); print("drawn", flush=True); os._exit(0)
parts.window.paintEvent = painted
parts.window.show(); QTimer.singleShot(AFTER_PAINT_MS, parts.window.open_demo); app.exec()
"""
DEMO_WINDOW = """
import sys, os
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from jete.main import AFTER_PAINT_MS, build
app = QApplication(["jete"]); parts = build(app); parts.window.show()
QTimer.singleShot(AFTER_PAINT_MS, parts.window.open_demo)
def look():
    if parts.store.comparison is not None and parts.window.page("ledger").traces._pixmap is not None:
        print("drawn", flush=True); os._exit(0)
timer = QTimer(); timer.timeout.connect(look); timer.start(2); app.exec()
"""


def median_ms(work: Callable[[], object], times: int = 15) -> float:
    """Median of several runs, after one to warm up."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return 1000.0 * statistics.median(taken)


def process_ms(command: list[str], times: int = 5) -> float:
    """Best of several runs of a process."""
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        subprocess.run(command, check=True, capture_output=True, env=env)
        taken.append(time.perf_counter() - start)
    return 1000.0 * min(taken)


def row(what: str, ms: float, reference: str, reference_ms: float, wanted: str) -> None:
    """One line of the table."""
    print(f"| {what} | {ms:.1f} ms | {ms / reference_ms:.2f} x {reference} ({reference_ms:.1f} ms) | {wanted} |")


def fresh(lap: Lap) -> list[Lap]:
    """A run of copies of a lap, of which nothing was worked out yet."""
    return [replace(lap) for _ in range(RUN_LAPS)]


def core(folder: Path) -> tuple[Path, Path]:
    """Reading and comparing two 90 s laps."""
    from pyarrow import csv

    trial = draw_trial(5)
    files = []
    for log, name in ((trial.reference, "reference.csv"), (trial.lap, "lap.csv")):
        path = folder / name
        path.write_text(csv_text(*rows_of(log)), encoding="utf-8")
        files.append(path)
    reference, lap = lap_of(trial.reference), lap_of(trial.lap, line_of(trial.reference))
    x = np.linspace(0.0, 1.0, 9000)
    at, table = np.linspace(0.0, 1.0, 4496), np.random.default_rng(1).normal(size=(12, 9000))
    bare = median_ms(lambda: [np.interp(at, x, y) for y in table])
    row(
        "compare two laps of 14 channels at 100 Hz",
        median_ms(lambda: compare(replace(reference), [replace(lap)])),
        "12 np.interp",
        bare,
        "<= 60 ms",
    )
    row(
        "the same, of laps known already",
        median_ms(lambda: compare(reference, [lap])),
        "12 np.interp",
        bare,
        "<= 20 ms",
    )
    run = median_ms(lambda: compare(replace(reference), fresh(lap)), 5)
    row(f"a run of {RUN_LAPS} laps against the reference", run, "12 np.interp", bare, "<= 600 ms")
    spread = median_ms(lambda: compare(replace(reference), fresh(lap), each=on_all_cores), 5)
    row(f"the same as a command, on {os.cpu_count()} cores", spread, "12 np.interp", bare, "<= 600 ms")
    many = compare(reference, [lap] * RUN_LAPS)
    row("its statistics, a lap", median_ms(lambda: run_of(many)) / RUN_LAPS, "12 np.interp", bare, "<= 2 ms")
    parse = median_ms(lambda: csv.read_csv(files[0]), 40)
    row("read one lap's CSV", median_ms(lambda: read_log(files[0]), 40), "pyarrow.csv.read_csv", parse, "<= 2 x")
    return files[0], files[1]


def processes(files: tuple[Path, Path]) -> None:
    """Start-up: the command line and the demo's window."""
    bare = process_ms([sys.executable, "-c", BARE_NUMERICS])
    command = [str(ROOT / "jete"), "compare", *map(str, files), "--json", "-"]
    row("./jete compare as a process", process_ms(command), "import numpy, scipy.interpolate", bare, "<= 2 x")
    window = process_ms([sys.executable, "-c", BARE_WINDOW])
    bare_window = "bare PyQt6 + numpy window"
    row("the demo's window", process_ms([sys.executable, "-c", FIRST_PAINT]), bare_window, window, "<= 2.5 x")
    row("the same with its ledger", process_ms([sys.executable, "-c", DEMO_WINDOW]), bare_window, window, "-")


def painting() -> None:
    """Frames of the traces at 1280x800 with all panels and two laps."""
    from PyQt6.QtGui import QImage
    from PyQt6.QtWidgets import QApplication

    from jete.main import build
    from jete.session import operations as ops

    app = QApplication(["jete"])
    parts = build(app)
    parts.window.show()
    parts.window.open_demo()
    while len(parts.store.session.runs) < 5 or parts.store.comparison is None:
        app.processEvents()
    traces = parts.window.page("ledger").traces
    image = QImage(traces.size(), QImage.Format.Format_ARGB32_Premultiplied)

    def frame(operation: Callable[[object], object]) -> Callable[[], None]:
        def work() -> None:
            parts.store.look_at(operation)  # type: ignore[arg-type]
            traces.render(image)

        return work

    bare = median_ms(lambda: image.fill(0xFFFFFFFF))
    parts.store.look_at(lambda s: ops.show_range(s, 200.0, 3200.0))
    steps = iter(range(10_000))
    row(
        "move the place line",
        median_ms(frame(lambda s: ops.go_to(s, 300.0 + next(steps))), 60),
        "fill",
        bare,
        "<= 2 ms",
    )
    row(
        "pan",
        median_ms(frame(lambda s: ops.show_range(s, 200.0 + next(steps), 3200.0 + next(steps))), 40),
        "fill",
        bare,
        "<= 16 ms",
    )
    row("zoom", median_ms(frame(lambda s: ops.zoom(s, 1500.0, 0.98)), 40), "fill", bare, "<= 16 ms")
    parts.window.close()


def main() -> None:
    """Print the table."""
    print("| what | here | ratio | wanted |\n|---|---|---|---|")
    with tempfile.TemporaryDirectory() as folder:
        processes(core(Path(folder)))
    painting()


if __name__ == "__main__":
    main()
