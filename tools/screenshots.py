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

from jete.main import Application, build
from jete.notes.sheet import LapNote
from jete.session import operations as ops
from jete.session.state import LapKey

if TYPE_CHECKING:
    from collections.abc import Callable

RUNS = 5


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
    wait(app, lambda: len(parts.store.session.runs) == RUNS and parts.store.comparison is not None)
    store = parts.store
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
    parts.window.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path("docs/screenshots"))
