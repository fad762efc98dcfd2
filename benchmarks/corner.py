"""How quickly the Corner page follows: another corner, 500 passes painted, the map dragged, passes made and read.

python benchmarks/corner.py
"""

from __future__ import annotations

import os
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
for place in ("CONFIG", "CACHE", "DATA", "STATE"):
    os.environ[f"XDG_{place}_HOME"] = tempfile.mkdtemp()

import numpy as np
from PyQt6.QtCore import QDeadlineTimer, QEventLoop, QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from jete.desk.passes import make_passes
from jete.main import Application, build
from jete.session import operations as ops
from jete.session.state import LapKey

if TYPE_CHECKING:
    from collections.abc import Callable

DEMO = Path("src/jete/app/assets/demo")
RUNS = [DEMO / f"{n}.parquet" for n in ("ines-karlsby-run-1", "tomasz-oryel-run-1")]
OVER = (4, 5, 6, 7, 8)
PASSES, ROUNDS = 500, 30


def wait(app: QApplication, until: Callable[[], bool]) -> None:
    """Let events run until something holds."""
    limit = QDeadlineTimer(60_000)
    while not until() and not limit.hasExpired():
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)


def median_ms(work: Callable[[int], object], rounds: int = ROUNDS) -> float:
    """The middle of several runs, milliseconds."""
    took = []
    for k in range(rounds):
        start = time.perf_counter()
        work(k)
        took.append(time.perf_counter() - start)
    return 1000.0 * float(np.median(took))


def opened(app: QApplication) -> Application:
    """The demo's pair with four more laps laid over, on the page Corner."""
    parts = build(app)
    parts.window.resize(1280, 800)
    parts.window.show()
    parts.imports.open_files(RUNS)
    store = parts.store
    wait(app, lambda: len(store.session.runs) == len(RUNS) and store.comparison is not None and parts.tasks.idle)
    lap = store.session.choice.lap
    assert lap is not None
    for number in OVER:
        store.do("over", lambda s, n=number: ops.lay_over(s, LapKey(lap.run, n)))
    store.look_at(lambda s: ops.go_to_page(s, "corner"))
    wait(app, lambda: store.comparison is not None and len(store.comparison.laps) > 4 and parts.tasks.idle)
    wait(app, lambda: store.passes is not None and store.passes.left == 0 and parts.tasks.idle)
    return parts


def main() -> None:
    """Measure and print."""
    app = QApplication(["jete"])
    parts = opened(app)
    store, page = parts.store, parts.window.page("corner")
    count = len(store.comparison.corners) if store.comparison is not None else 1

    def another(k: int) -> None:
        store.look_at(lambda s: ops.select_corner(s, 1 + k % count))
        parts.window.grab()

    print(f"another corner, {len(store.comparison.laps)} laps, whole window painted: {median_ms(another):.1f} ms")  # type: ignore[union-attr]
    wait(app, lambda: parts.tasks.idle and store.passes is not None)
    assert store.passes is not None
    kept = store.passes.passes
    chance = np.random.default_rng(1)
    many = [
        replace(
            kept[k % len(kept)],
            numbers=replace(
                kept[k % len(kept)].numbers,
                whole_s=kept[k % len(kept)].numbers.whole_s + float(chance.normal(0.0, 0.1)),
            ),
        )
        for k in range(PASSES)
    ]

    def dots(_: int) -> None:
        page.passes.dots.show_passes(many)
        page.passes.dots.grab()

    store.look_at(lambda s: ops.display(s, beside="passes"))
    print(f"{PASSES} passes painted: {median_ms(dots):.1f} ms")
    above = page.above
    QTest.mousePress(above, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(60, 60))

    def drag(k: int) -> None:
        QTest.mouseMove(above, QPoint(60 + 3 * (k % 20), 60 + 2 * (k % 20)))
        above.grab()

    print(f"map dragged, a frame: {median_ms(drag):.1f} ms")
    library = parts.shelf.library()
    place = library.circuits.places()[0]
    number = kept[0].numbers.corner
    print(f"{len(kept)} passes of a corner read: {median_ms(lambda _: library.passes.of_corner(place, number)):.1f} ms")
    with library.writing() as session:
        from jete.library import models

        session.query(models.Pass).delete()
    start = time.perf_counter()
    made = make_passes(library, place, lambda *_: None, lambda: False)
    print(f"passes made: {1000.0 * (time.perf_counter() - start) / made:.0f} ms a lap ({made} laps)")
    parts.window.close()


if __name__ == "__main__":
    main()
