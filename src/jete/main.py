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
from jete.app.film_keeper import FilmKeeper
from jete.app.guide_keeper import GuideKeeper
from jete.app.imports import ImportQueue
from jete.app.parts import Parts
from jete.app.pass_keeper import PassKeeper
from jete.app.plan_keeper import PlanKeeper
from jete.app.player import Player
from jete.app.rehearsal import Rehearsal
from jete.app.shelf import Shelf
from jete.app.store import SessionStore
from jete.app.target_keeper import TargetKeeper
from jete.app.tasks import Tasks
from jete.app.team_keeper import TeamKeeper
from jete.app.what_if_keeper import WhatIfKeeper
from jete.session.state import Session
from jete.views.window import Window

# Opening in the background would slow the first paint down.
AFTER_PAINT_MS = 20


@dataclass(kw_only=True)
class Application(Parts):
    """The window and what stands behind it."""

    window: Window


def build(app: QApplication) -> Application:
    """The window with everything behind it, not yet shown."""
    display = settings.load()
    theme.load_fonts(app)
    parts = parts_of(SessionStore(Session(display=display)), Tasks())
    window = Window(parts)
    # A style sheet polishes a widget anew each time that it is put into another one: it comes when all are there.
    theme.apply(app, theme.THEMES[display.theme])
    return Application(window=window, **vars(parts))


def parts_of(store: SessionStore, tasks: Tasks) -> Parts:
    """All that works for a window."""
    shelf, player = Shelf(store, tasks), Player(store, tasks)
    imports = ImportQueue(store, tasks, shelf)
    return Parts(
        store=store, tasks=tasks, shelf=shelf, imports=imports, copies=Copies(tasks, shelf),
        analyst=Analyst(store, tasks, shelf, imports), evenness=EvennessFinder(store, tasks, shelf),
        passes=PassKeeper(store, tasks, shelf), what_if=WhatIfKeeper(store, tasks, shelf), plans=PlanKeeper(store, tasks, shelf), team=TeamKeeper(store, tasks, shelf), targets=TargetKeeper(store, tasks, shelf), guides=GuideKeeper(store, tasks, shelf),
        player=player, rehearsal=Rehearsal(store, tasks, shelf), films=FilmKeeper(store, tasks, shelf, player),
    )  # fmt: skip


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
