"""The ledger of a whole run: medians, spread, laps set aside."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from jete.app.results import RunResult
from jete.main import Application
from jete.report.words import difference
from jete.session import operations as ops
from jete.session.state import Changed, Choice, LapKey
from jete.views.ledger.model import GAP, RUN_COLUMNS, rows_of_run

DEMO = Path(__file__).parents[2] / "src/jete/app/assets/demo"


@pytest.fixture
def run(shelf: Application, qtbot: QtBot) -> Application:
    """Two runs of the demo, and the ledger of the second one's laps."""
    shelf.store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    qtbot.mouseClick(shelf.window.page("ledger").scope.buttons[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: shelf.store.run is not None, timeout=30000)
    return shelf


def result(app: Application) -> RunResult:
    found = app.store.run
    assert found is not None
    return found


def test_the_rows_of_the_run_add_up_to_its_mean_gap(run: Application) -> None:
    rows, laps = run.window.page("ledger").model.rows, result(run).comparison.laps
    mean = sum(lap.gap_s for lap in laps) / len(laps)
    assert sum(r.gap_s for r in rows[:-1]) == pytest.approx(round(mean, 3), abs=1e-9)
    assert run.window.page("ledger").model.index(len(rows) - 1, GAP).data() == difference(mean)


def test_each_row_of_the_run_balances(run: Application) -> None:
    for row in run.window.page("ledger").model.rows:
        assert sum(p.seconds for p in row.parts) == pytest.approx(row.gap_s, abs=1e-9)


def test_the_words_say_on_how_many_laps(run: Application) -> None:
    words = " ".join(r.in_words for r in run.window.page("ledger").model.rows[:-1])
    assert "8×" in words
    assert run.window.page("ledger").model.columns is RUN_COLUMNS


def test_the_lap_in_comparison_has_the_corners_of_the_run(run: Application) -> None:
    assert run.store.comparison is not None
    assert run.store.comparison.corners == result(run).comparison.corners


def test_the_best_passes_are_told(run: Application) -> None:
    assert "8 of 8 laps" in run.window.page("ledger").balance.text()
    assert "best passes together" in run.window.page("ledger").balance.text()


def test_another_theme_does_not_sum_up_again(run: Application) -> None:
    before = result(run)
    run.store.look_at(lambda s: ops.display(s, theme="dark", speed="mph"))
    assert result(run) is before


def test_a_key_goes_back_to_the_lap(run: Application, qtbot: QtBot) -> None:
    qtbot.keyClick(run.window, Qt.Key.Key_A)
    assert run.window.page("ledger").scope.chosen == "Lap"
    assert "add up to it" in run.window.page("ledger").balance.text()


def test_a_lap_set_aside_is_told_and_taken_back_and_set_aside_again_by_undo(
    run: Application, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("jete.core.run.set_aside", lambda *_: [*[None] * 4, "1.4 s over the run's median", *[None] * 3])
    run.store.look_at(lambda s: s, also=Changed.RUNS)
    ledger = run.window.page("ledger")
    assert ledger.aside.isVisible()
    assert "lap 5, 1.4 s over the run's median" in ledger.aside.text()
    ledger.aside.linkActivated.emit("5")
    assert result(run).summary.counted == 8
    assert not ledger.aside.isVisible()
    run.store.undo()
    assert result(run).summary.counted == 7


def test_the_laps_of_a_run_leave_out_the_reference(run: Application) -> None:
    session = run.store.session
    own = replace(session, choice=Choice(LapKey(2, 2), LapKey(2, 3)))
    assert LapKey(2, 2) not in ops.laps_of_run(own)
    assert len(ops.laps_of_run(own)) == 7


def test_a_rare_cause_is_paler_than_one_on_every_lap(run: Application) -> None:
    parts = [p for r in rows_of_run(result(run).summary)[:-1] for p in r.parts if p.note]
    often = [p.confidence for p in parts if p.note == "8×"]
    rare = [p.confidence for p in parts if p.note == "1×"]
    assert min(often) > max(rare)
