"""Walks at random through everything one can do in the window, and looks for an exception.

python tools/walk.py [--minutes 10] [--steps N] [--seed 1]

Actions of the table, clicks on what can be clicked, keys and text into what has the focus,
pages, sizes, other shelves: each step is said in a log of the last ones when something breaks.
"""

from __future__ import annotations

import argparse
import os
import random
import resource
import sys
import tempfile
import time
import traceback
from collections import deque
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QWidget,
)

from jete.app.actions import ACTIONS
from jete.main import Application, build

if TYPE_CHECKING:
    from collections.abc import Callable

KEYS = (
    Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape, Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_Right,
    Qt.Key.Key_Space, Qt.Key.Key_Backspace, Qt.Key.Key_PageDown, Qt.Key.Key_Home, Qt.Key.Key_N, Qt.Key.Key_W, Qt.Key.Key_V,
)  # fmt: skip
TEXTS = ("Ines Karlsby", "Kes", "12", "12,5", "warm", "<b>x</b>", "", "2026-05-02", "a" * 300)
SIZES = ((1280, 800), (1024, 700), (800, 600), (1920, 1080))
NOT_WALKED = {"quit", "demo", "home", "watch", "server", "restore"}
KEPT = 30
# A window that stands still for longer is felt.
STALL_S, TOLD = 0.1, 12


class Walk:
    """One walk through one window."""

    def __init__(self, app: QApplication, parts: Application, seed: int) -> None:
        self.app, self.parts, self.chance = app, parts, random.Random(seed)
        self.steps: deque[str] = deque(maxlen=KEPT)
        self.failures: list[str] = []
        self.stalls: list[tuple[float, str]] = []
        sys.excepthook = self._failed

    def _failed(self, kind: type[BaseException], error: BaseException, trace: object) -> None:
        text = "".join(traceback.format_exception(kind, error, trace))  # type: ignore[arg-type]
        self.failures.append("\n".join([*self.steps, text]))

    def run(self, going_on: Callable[[], bool]) -> int:
        """Take steps as long as it is to go on; returns how many."""
        count = 0
        while going_on() and not self.failures:
            self.step()
            count += 1
        return count

    def step(self) -> None:
        """One step, and what follows from it."""
        kind = self.chance.choices(
            (self.action, self.click, self.type_text, self.press, self.resize, self.close_dialogs), (6, 8, 3, 8, 1, 2)
        )[0]
        self._timed(kind)
        for _ in range(self.chance.choice((1, 1, 2, 6))):
            self._timed(self.app.processEvents)
        # What is to be deleted later goes when a loop of events ends its round; here there is none.
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)

    def _timed(self, work: Callable[[], object]) -> None:
        """Do something, and remember it where the window stood still for long."""
        begin = time.perf_counter()
        work()
        took = time.perf_counter() - begin
        if took > STALL_S:
            self.stalls.append((took, self.steps[-1] if self.steps else ""))

    def say(self, text: str) -> None:
        """Remember a step."""
        self.steps.append(text)

    def action(self) -> None:
        """Trigger an action of the table that is enabled."""
        action = self.chance.choice([a for a in ACTIONS if a.id not in NOT_WALKED])
        item = self.parts.window.actions_by_id[action.id]
        if item.isEnabled():
            self.say(f"action {action.id}")
            item.trigger()

    def _shown(self) -> list[QWidget]:
        tops = [w for w in self.app.topLevelWidgets() if w.isVisible()]
        dialogs = [w for w in tops if isinstance(w, QDialog)]
        window = self.chance.choice(dialogs) if dialogs and self.chance.random() < 0.7 else self.parts.window
        return [w for w in window.findChildren(QWidget) if w.isVisible() and w.isEnabled()]

    def click(self) -> None:
        """Click into something that is shown."""
        wanted = [
            w for w in self._shown()
            if isinstance(w, (QAbstractButton, QAbstractItemView, QComboBox, QLineEdit)) or w.objectName() in ("traces", "ribbon", "corner-traces", "from-above", "dots")
        ]  # fmt: skip
        if not wanted:
            return
        widget = self.chance.choice(wanted)
        target = widget.viewport() if isinstance(widget, QAbstractItemView) else widget
        if target is None or target.width() < 2 or target.height() < 2:
            return
        at = QPoint(self.chance.randrange(target.width()), self.chance.randrange(target.height()))
        if isinstance(widget, QComboBox):
            self.say(f"choose in {widget.objectName()}")
            widget.setCurrentIndex(self.chance.randrange(max(widget.count(), 1)))
            widget.activated.emit(widget.currentIndex())
            return
        double = isinstance(widget, QAbstractItemView) and self.chance.random() < 0.3
        self.say(
            f"{'double ' if double else ''}click {type(widget).__name__} {widget.objectName()} {widget.accessibleName()}"
        )
        (QTest.mouseDClick if double else QTest.mouseClick)(
            target, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at
        )

    def type_text(self) -> None:
        """Type into a field."""
        fields = [w for w in self._shown() if isinstance(w, QLineEdit)]
        if fields:
            field, text = self.chance.choice(fields), self.chance.choice(TEXTS)
            self.say(f"type {text[:20]!r} into {field.objectName()}")
            field.setFocus()
            QTest.keyClicks(field, text)

    def press(self) -> None:
        """Press a key where the focus is."""
        popup = self.app.activePopupWidget()
        target = popup or self.app.focusWidget() or self.parts.window
        key = self.chance.choice(KEYS)
        self.say(f"key {key.name} on {type(target).__name__} {target.objectName()}")
        QTest.keyClick(target, key)

    def resize(self) -> None:
        """Another size of the window."""
        size = self.chance.choice(SIZES)
        self.say(f"resize {size}")
        self.parts.window.resize(*size)

    def close_dialogs(self) -> None:
        """Close what is open beside the window."""
        for widget in self.app.topLevelWidgets():
            if widget.isVisible() and isinstance(widget, (QDialog, QMenu)):
                widget.close()


def no_files(folder: Path) -> None:
    """Choosing files gives made-up places or none, without a dialog."""
    chance = random.Random(7)
    target = folder / "out"
    target.mkdir(exist_ok=True)

    def save(*_: object) -> tuple[str, str]:
        return (
            (str(target / f"file.{chance.choice(('csv', 'parquet', 'zip', 'doc', 'mf4', 'geojson'))}"), "")
            if chance.random() < 0.5
            else ("", "")
        )

    def opened(*_: object) -> tuple[list[str], str]:
        return [str(f) for f in target.iterdir()][:2], ""

    def one(*_: object) -> tuple[str, str]:
        return next((str(f) for f in target.iterdir()), ""), ""

    QFileDialog.getOpenFileName = staticmethod(one)  # type: ignore[method-assign]
    QFileDialog.getSaveFileName = staticmethod(save)  # type: ignore[method-assign, assignment]
    QFileDialog.getOpenFileNames = staticmethod(opened)  # type: ignore[method-assign, assignment]
    QFileDialog.getExistingDirectory = staticmethod(lambda *_: chance.choice(("", str(folder / "shelf"))))  # type: ignore[method-assign, assignment]


def walk(app: QApplication, seed: int, going_on: Callable[[], bool]) -> tuple[int, Walk]:
    """A walk through a window on the demo's shelf, and how many steps it took."""
    parts = build(app)
    parts.window.show()
    parts.window.open_demo()
    limit = time.monotonic() + 60.0
    while parts.store.comparison is None and time.monotonic() < limit:
        app.processEvents()
    walked = Walk(app, parts, seed)
    try:
        return walked.run(going_on), walked
    finally:
        walked.close_dialogs()
        parts.window.close()
        app.processEvents()


def main() -> int:
    """Print what failed; the exit status says whether anything did."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--seed", type=int, default=1)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="jete-walk-") as home:
        for place in ("CONFIG", "CACHE", "DATA", "STATE"):
            os.environ[f"XDG_{place}_HOME"] = str(Path(home) / place)
        no_files(Path(home))
        app = QApplication(["jete"])
        end = time.monotonic() + 60.0 * args.minutes
        steps, walked = walk(app, args.seed, lambda: time.monotonic() < end)
    print("\n\n".join(walked.failures))
    for took, after in sorted(walked.stalls, reverse=True)[:TOLD]:
        print(f"stood still for {took:.2f} s after: {after}")
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    print(f"{steps} steps, {len(walked.failures)} failures, {len(walked.stalls)} stalls over {STALL_S} s, {used} MB")
    return 1 if walked.failures else 0


if __name__ == "__main__":
    sys.exit(main())
