"""The JSON of the contract: names, sums, nulls."""

from __future__ import annotations

import json

import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.motion.split import split
from jete.report.contract import comparison_document, laps_document, values_object
from jete.report.table import comparison_table, laps_table
from jete.report.words import difference, lap_time
from jete.simulate.trials import Trial


def test_documents_are_strict_json(comparison: Comparison, trial: Trial) -> None:
    for document in (comparison_document(comparison), laps_document(trial.lap, split(trial.lap))):
        assert json.loads(json.dumps(document, allow_nan=False)) == document


def test_marks_are_numbers_or_null(comparison: Comparison) -> None:
    for corner in comparison.laps[0].corners:
        for name, value in values_object(corner.lap_marks).items():
            assert value is None or isinstance(value, int | float | str), name


def test_the_table_of_laps_has_a_line_for_each(trial: Trial) -> None:
    spans = split(trial.lap)
    text = laps_table(trial.lap, spans)
    assert all(lap_time(s.time_s) in text for s in spans)


def test_the_ledger_in_text_ends_with_the_gap(comparison: Comparison) -> None:
    text = comparison_table(comparison)
    lap = comparison.laps[0]
    assert text.count("unexplained") == len(lap.corners) + 1
    total = next(line for line in text.splitlines() if line.strip().startswith("sum"))
    assert difference(lap.gap_s) in total


@pytest.mark.parametrize("key", ["start_m", "end_m", "window_start_m", "window_end_m", "gap_s", "gap_sigma_s"])
def test_each_corner_carries_its_places(comparison: Comparison, key: str) -> None:
    document = comparison_document(comparison)
    assert all(isinstance(c[key], float) for c in document["laps"][0]["corners"])
