"""Starts the application: hooks first, then fonts, theme, store and window."""

from __future__ import annotations

import faulthandler
import os
import sys
from dataclasses import dataclass

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from jete.app import errors, settings, theme
from jete.app.analysis import Analyst
from jete.app.copies import Copies
from jete.app.evenness import EvennessFinder
from jete.app.guide_keeper import GuideKeeper
from jete.app.imports import ImportQueue
from jete.app.pass_keeper import PassKeeper
from jete.app.shelf import Shelf
from jete.app.store import SessionStore
from jete.app.tasks import Tasks
from jete.session.state import Session
from jete.views.window import Window

# Opening in the background would slow the first paint down.
AFTER_PAINT_MS = 20


@dataclass
class Application:
    """The parts that live as long as the window."""

    store: SessionStore
    tasks: Tasks
    shelf: Shelf
    imports: ImportQueue
    copies: Copies
    analyst: Analyst
    evenness: EvennessFinder
    passes: PassKeeper
    guides: GuideKeeper
    window: Window


def build(app: QApplication) -> Application:
    """The window with everything behind it, not yet shown."""
    display = settings.load()
    theme.load_fonts(app)
    store, tasks = SessionStore(Session(display=display)), Tasks()
    shelf = Shelf(store, tasks)
    imports, copies = ImportQueue(store, tasks, shelf), Copies(tasks, shelf)
    analyst = Analyst(store, tasks, shelf, imports)
    evenness = EvennessFinder(store, tasks, shelf)
    passes, guides = PassKeeper(store, tasks, shelf), GuideKeeper(store, tasks, shelf)
    window = Window(store, shelf, imports, copies, analyst, passes, guides, tasks)
    # A style sheet polishes a widget anew each time that it is put into another one: it comes when all are there.
    theme.apply(app, theme.THEMES[display.theme])
    return Application(store, tasks, shelf, imports, copies, analyst, evenness, passes, guides, window)


def run(*, demo: bool) -> int:
    """Run the application until its window is closed."""
    if sys.platform.startswith("linux") and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    errors.install_hook()
    crash = errors.open_crash_log()
    faulthandler.enable(crash)
    app = QApplication.instance() or QApplication(["jete"])
    assert isinstance(app, QApplication)
    app.setApplicationName("Jete")
    app.setDesktopFileName("jete")
    parts = build(app)
    parts.window.show()
    QTimer.singleShot(AFTER_PAINT_MS, parts.window.open_demo if demo else parts.window.files.open_own)
    if not demo:
        QTimer.singleShot(AFTER_PAINT_MS, parts.window.files.resume_watch)
    earlier = errors.earlier_crash(crash)
    if earlier:
        QTimer.singleShot(0, earlier.tell)
    return int(app.exec())
