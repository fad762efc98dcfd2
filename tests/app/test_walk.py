"""A short walk at random through everything one can do (``make walk`` takes a long one)."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication, QFileDialog
from walk import no_files, walk

# 'make walk' goes on for ten minutes.
STEPS = 60


@pytest.mark.many
@pytest.mark.parametrize("seed", [1])
def test_a_random_walk_meets_no_exception(
    qapp: QApplication, tmp_path: Path, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("getSaveFileName", "getOpenFileName", "getOpenFileNames", "getExistingDirectory"):
        monkeypatch.setattr(QFileDialog, name, getattr(QFileDialog, name))
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    no_files(tmp_path)
    left = iter(range(STEPS))
    steps, walked = walk(qapp, seed, lambda: next(left, None) is not None)
    assert walked.failures == []
    assert steps == STEPS
