"""One record for each kind of cause, and everything that speaks of causes knows each of them."""

from pathlib import Path

import pytest

from jete.core.causes.hybrids.hybrid import FACTORS
from jete.core.causes.kinds import CAUSES, Factor, Kind
from jete.core.causes.verdict.moved import MOVED
from jete.report.sentences import sentence

READING = (Path(__file__).parents[3] / "docs" / "reading-the-ledger.md").read_text(encoding="utf-8")


def test_hybrids_and_marks_know_the_same_factors():
    assert tuple(MOVED) == FACTORS
    assert {c.factor for c in CAUSES.values()} == set(MOVED)


@pytest.mark.parametrize("kind", Kind)
def test_each_kind_has_a_record_and_a_sentence_and_stands_in_the_guide(kind: Kind):
    cause = CAUSES[kind]
    assert sentence(kind, 3.0).endswith(".")
    row = next(line for line in READING.splitlines() if cause.title in line and cause.measured in line)
    assert f"| {cause.where} |" in row
    assert row.endswith(f"| {cause.unit} |")


@pytest.mark.parametrize("factor", Factor)
def test_both_ways_of_one_factor_are_measured_alike_and_cost_the_other_way_round(factor: Factor):
    measures = {c.measured: [] for c in CAUSES.values() if c.factor is factor}
    for cause in CAUSES.values():
        measures.get(cause.measured, []).append(cause)
    for ways in measures.values():
        assert len({(c.unit, c.where, c.costs, c.of_the_line) for c in ways}) == 1
        assert len(ways) == 1 or sum(c.mostly for c in ways) == 0
