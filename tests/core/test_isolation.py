"""The core knows neither the window nor files."""

from __future__ import annotations

import subprocess
import sys

import pytest

HEAVY = ("PyQt6", "pyarrow", "scipy.signal", "scipy.interpolate")


@pytest.mark.parametrize("module", ["jete.core.compare", "jete.session.operations", "jete.report.contract", "jete.cli"])
def test_a_fresh_process_loads_nothing_heavy(module: str) -> None:
    code = f"import sys, {module}; print([m for m in {HEAVY!r} if m in sys.modules])"
    result = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True, env={"PYTHONPATH": "src"}
    )
    assert result.stdout.strip() == "[]"
