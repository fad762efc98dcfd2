"""Figures as they are told: whole thousandths that add up, none far from what was measured."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.passes.team import TeamCell, TeamRow
from jete.core.run import run_of
from jete.report.table import comparison_table
from jete.report.thousandths import adding_up, in_thousandths, rows_in_thousandths, run_in_thousandths
from known_laps import compare_trial, drawn

PART_S = 0.001
CELL = TeamCell(passes=8, best_s=9.9, median_s=10.0, spread_s=0.05, lost_s=0.0)


def whole(seconds: float) -> int:
    assert abs(seconds * 1000 - round(seconds * 1000)) < 1e-6
    return round(seconds * 1000)


@pytest.mark.parametrize("count", [1, 2, 7, 34])
def test_parts_add_up_to_the_whole_as_it_is_rounded(count: int) -> None:
    parts = np.random.default_rng(count).normal(0.0, 0.3, count).tolist()
    told = adding_up(parts, sum(parts))
    assert sum(map(whole, told)) == round(sum(parts) * 1000)
    assert max(abs(a - b) for a, b in zip(parts, told, strict=True)) < PART_S


def test_what_is_nothing_stays_nothing() -> None:
    assert adding_up([0.0, 0.1004, 0.1003, 0.1003], 0.301) == [0.0, 0.101, 0.1, 0.1]


def test_corners_causes_and_phases_add_up_as_they_are_told(comparison: Comparison) -> None:
    lap, measured = in_thousandths(comparison).laps[0], comparison.laps[0]
    assert sum(whole(c.gap_s) for c in lap.corners) == whole(lap.gap_s) == round(measured.gap_s * 1000)
    for corner in lap.corners:
        causes = sum(whole(f.loss_s) for f in corner.findings)
        assert causes + whole(corner.unexplained_s) == whole(corner.gap_s)
        assert sum(whole(p.gap_s) for p in corner.phases) == whole(corner.gap_s)
        for finding in corner.findings:
            assert sum(whole(s) for _, s in finding.phases) == whole(finding.loss_s)


def test_no_figure_moves_by_more_than_two_thousandths(comparison: Comparison) -> None:
    for told, measured in zip(in_thousandths(comparison).laps[0].corners, comparison.laps[0].corners, strict=True):
        pairs = [(told.gap_s, measured.gap_s), (told.unexplained_s, measured.unexplained_s)]
        pairs += [(a.loss_s, b.loss_s) for a, b in zip(told.findings, measured.findings, strict=True)]
        assert max(abs(a - b) for a, b in pairs) < 2 * PART_S


def test_told_twice_is_the_same(comparison: Comparison) -> None:
    once = in_thousandths(comparison)
    again = in_thousandths(once).laps[0].corners
    for a, b in zip(again, once.laps[0].corners, strict=True):
        assert (a.gap_s, a.unexplained_s, a.phases, a.findings) == (b.gap_s, b.unexplained_s, b.phases, b.findings)


def test_the_means_of_a_run_add_up() -> None:
    run = run_in_thousandths(run_of(compare_trial(drawn(5))))
    for corner in run.corners:
        assert sum(whole(c.mean_s) for c in corner.causes) + whole(corner.unexplained_s) == whole(corner.mean_s)


def test_the_table_of_the_command_line_adds_up_line_by_line(comparison: Comparison) -> None:
    lines = comparison_table(comparison).replace("\N{MINUS SIGN}", "-").splitlines()
    rows = [line.split() for line in lines if line[:3].strip().isdigit() and len(line.split()) > 3]
    running = 0
    for _, _, gap, total, *_ in rows:
        running += whole(float(gap))
        assert running == whole(float(total))
    assert len(rows) == len(comparison.corners)


def test_a_driver_s_corners_add_up_to_what_is_lost_in_all() -> None:
    cells = [None if k == 3 else replace(CELL, lost_s=0.0 if k == 0 else 0.1004 + 0.01 * k) for k in range(8)]
    lost_s = sum(c.lost_s for c in cells if c is not None)
    (row,) = rows_in_thousandths(
        [TeamRow(driver="Ines Karlsby", laps=9, cells=tuple(cells), lost_s=lost_s, straights_s=None)]
    )
    assert sum(whole(c.lost_s) for c in row.cells if c is not None) == whole(row.lost_s)
    assert [c is None for c in row.cells] == [c is None for c in cells]
    assert row.cells[0] == cells[0]
