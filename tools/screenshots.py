"""Makes the pictures in docs/screenshots from the demo data, without a monitor."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

from PyQt6.QtCore import QDeadlineTimer, QEventLoop
from PyQt6.QtWidgets import QApplication

from jete.app.main import Application, build
from jete.session import operations as ops

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
    store.look_at(lambda s: ops.go_to_page(s, "laps"))
    take(app, parts, folder / "laps.png")
    store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    take(app, parts, folder / "ledger.png")
    store.look_at(lambda s: ops.display(s, whole_run=True))
    wait(app, lambda: store.run is not None)
    take(app, parts, folder / "ledger-run.png")
    store.look_at(lambda s: ops.display(s, whole_run=False))
    store.look_at(lambda s: ops.select_corner(ops.display(s, theme="dark"), 11))
    take(app, parts, folder / "ledger-dark.png")
    parts.window.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path("docs/screenshots"))
