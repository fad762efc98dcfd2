"""Makes the pictures in docs/screenshots from the demo data, without a monitor."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
for place in ("CONFIG", "CACHE", "DATA"):
    os.environ[f"XDG_{place}_HOME"] = tempfile.mkdtemp()

from PyQt6.QtCore import QDeadlineTimer, QEventLoop
from PyQt6.QtWidgets import QApplication

from jete.app import demo
from jete.main import Application, build
from jete.notes.sheet import LapNote
from jete.session import operations as ops
from jete.session.state import LapKey

if TYPE_CHECKING:
    from collections.abc import Callable


def wait(app: QApplication, until: Callable[[], bool], seconds: int = 30) -> None:
    """Let events run until something holds."""
    limit = QDeadlineTimer(1000 * seconds)
    while not until() and not limit.hasExpired():
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)


def take(app: QApplication, parts: Application, path: Path) -> None:
    """Save the window as it is."""
    for _ in range(5):
        app.processEvents()
    parts.window.grab().save(str(path))


def main(folder: Path) -> None:
    """Take all pictures."""
    folder.mkdir(parents=True, exist_ok=True)
    app = QApplication(["jete"])
    parts = build(app)
    parts.window.show()
    parts.window.open_demo()
    store = parts.store
    wait(
        app,
        lambda: len(store.session.runs) == len(demo.RUNS) and store.comparison is not None and parts.tasks.idle,
        180,
    )
    wait(app, lambda: store.comparison is not None and store.comparison.corners[0].name != "", 60)
    lap = store.session.choice.lap
    assert lap is not None
    store.look_at(lambda s: ops.select_run(s, lap.run))
    take(app, parts, folder / "ledger.png")
    store.look_at(lambda s: ops.display(s, whole_run=True))
    wait(app, lambda: store.run is not None)
    take(app, parts, folder / "ledger-run.png")
    store.look_at(lambda s: ops.display(s, whole_run=False))
    for number in (5, 7, 8):
        store.do("laps laid over", lambda s, n=number: ops.lay_over(s, LapKey(lap.run, n)))
    wait(app, lambda: store.comparison is not None and len(store.comparison.laps) == 4)
    store.look_at(lambda s: ops.select_corner(s, 6))
    take(app, parts, folder / "ledger-over.png")
    for _ in range(3):
        store.undo()
    wait(app, lambda: store.comparison is not None and len(store.comparison.laps) == 1)
    store.look_at(lambda s: ops.select_corner(ops.display(s, theme="dark"), 11))
    take(app, parts, folder / "ledger-dark.png")
    parts.shelf.notebook.note_lap(LapKey(lap.run, 4), LapNote("traffic", note="behind the blue car from 6 on"))
    parts.shelf.notebook.note_lap(LapKey(lap.run, 6), LapNote(note="calm, good exit of 12", star=True))
    store.look_at(lambda s: ops.go_to_page(ops.display(s, theme="light"), "laps"))
    wait(app, lambda: store.evenness is not None)
    take(app, parts, folder / "laps.png")
    corner_and_walk(app, parts, folder)
    parts.window.close()


def corner_and_walk(app: QApplication, parts: Application, folder: Path) -> None:
    """The pages Corner, Walk and Guide."""
    store = parts.store
    store.look_at(lambda s: ops.select_corner(ops.go_to_page(s, "corner"), 6))
    wait(app, lambda: store.passes is not None and store.passes.left == 0 and parts.tasks.idle, 180)
    take(app, parts, folder / "corner.png")
    store.look_at(lambda s: ops.display(ops.select_corner(s, 7), beside="ways", scope="season", ways="gear"))
    wait(app, lambda: store.passes is not None and store.passes.corner == 7 and parts.tasks.idle)
    take(app, parts, folder / "corner-ways.png")
    store.look_at(lambda s: ops.display(ops.select_corner(s, 6), beside="over_time", dots=("whole_s", "brake_on_m")))
    wait(app, lambda: store.passes is not None and store.passes.corner == 6 and parts.tasks.idle)
    take(app, parts, folder / "corner-over-time.png")
    store.look_at(lambda s: ops.display(ops.select_corner(s, 6), beside="what_if"))
    wait(app, lambda: store.what_if is not None and parts.tasks.idle)
    what_if = parts.window.page("corner").what_if
    what_if.steppers["brake_on_m"].stepped.emit(3)
    what_if.steppers["brake_on_m"].stays.emit(1)
    take(app, parts, folder / "corner-what-if.png")
    store.look_at(lambda s: ops.go_to(ops.go_to_page(s, "walk"), 1440.0))
    take(app, parts, folder / "walk.png")
    walk = parts.window.page("walk")
    store.look_at(lambda s: ops.go_to(s, 1640.0))
    walk.show_left(1)
    walk.show_right(2)
    wait(app, lambda: walk.film.picture.image is not None and walk.reference_film.picture.image is not None)
    take(app, parts, folder / "walk-films.png")
    walk.show_left(0)
    walk.show_right(0)
    store.look_at(lambda s: ops.select_corner(ops.go_to_page(s, "guide"), 7))
    wait(app, lambda: store.guide is not None and parts.tasks.idle)
    take(app, parts, folder / "guide.png")
    store.look_at(lambda s: ops.go_to_page(s, "next"))
    wait(app, lambda: store.plan is not None and parts.tasks.idle)
    take(app, parts, folder / "next.png")
    runs = {Path(r.path).stem: r for r in store.session.runs}
    keys = [
        LapKey(runs[n].number, best.number) for n in (demo.PLANNED[0], "hedda-ulvik-run-3") if (best := runs[n].best)
    ]
    store.do("another pair", lambda s: ops.choose_lap(ops.choose_reference(s, keys[0]), keys[1]))
    wait(
        app,
        lambda: (
            store.plan is not None and store.plans is not None and store.plans.back is not None and parts.tasks.idle
        ),
    )
    take(app, parts, folder / "came-of-it.png")
    page = parts.window.page("next")
    page.view.buttons[1].click()
    wait(app, lambda: store.team is not None and parts.tasks.idle, 180)
    page.team.table.setCurrentCell(2, 7)
    take(app, parts, folder / "team.png")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path("docs/screenshots"))
