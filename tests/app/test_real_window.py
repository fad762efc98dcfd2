"""The program as a process with a real window on a virtual screen: start, keys, end."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

FLOW = """
import sys
from pathlib import Path
from PyQt6.QtCore import Qt, QDeadlineTimer, QPoint
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from jete.main import build

app = QApplication(["jete"])
assert app.platformName() == "xcb", app.platformName()
parts = build(app)
window, store = parts.window, parts.store
window.show()
QTest.qWaitForWindowExposed(window)
window.windowHandle().requestActivate()
QTest.qWait(200)

def wait(until):
    limit = QDeadlineTimer(60000)
    while not until():
        assert not limit.hasExpired(), "waited too long"
        QTest.qWait(20)

parts.imports.open_files([Path(p) for p in sys.argv[1:]])
wait(lambda: len(store.session.runs) == 2 and store.comparison is not None)
wait(lambda: store.comparison.laps[0].gap_s > 0.1)
QTest.mouseClick(window._page_buttons["ledger"], Qt.MouseButton.LeftButton)
assert store.session.look.page == "ledger"
table = window.page("ledger").table
QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=table.visualRect(window.page("ledger").model.index(2, 1)).center())
assert store.session.look.corner == 3, store.session.look
QTest.keyClick(table, Qt.Key.Key_N)
assert store.session.look.corner == 4, store.session.look
ribbon = window.ribbon
QTest.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(ribbon.width() // 2, 50))
assert abs(store.session.look.place_m - store.session.lay.length_m / 2) < 5
before = store.session.choice
window.laps.run._select(before.lap)
QTest.keyClick(window, Qt.Key.Key_R)
assert store.session.choice == before, "what could not be seen is not done"
QTest.mouseClick(window._page_buttons["laps"], Qt.MouseButton.LeftButton)
QTest.keyClick(window, Qt.Key.Key_R)
assert store.session.choice.reference == before.lap
QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
assert store.session.choice == before
window.close()
print("flow done")
"""


@pytest.mark.xvfb
def test_the_main_flow_in_a_real_window(pair_files: tuple[Path, Path], tmp_path: Path) -> None:
    if shutil.which("Xvfb") is None:
        pytest.skip("Xvfb is not installed")
    script = tmp_path / "flow.py"
    script.write_text(FLOW, encoding="utf-8")
    env = {**os.environ, "QT_QPA_PLATFORM": "xcb", "PYTHONPATH": str(Path("src").resolve())}
    command = ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", sys.executable, str(script), *map(str, pair_files)]
    result = subprocess.run(command, capture_output=True, text=True, env=env, timeout=120, check=False)
    assert "flow done" in result.stdout, result.stderr
