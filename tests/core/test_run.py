"""Several laps of one run against a reference: medians, strays, habits."""

from __future__ import annotations

from functools import cache
from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.causes.verdict.findings import confidence
from jete.core.causes.verdict.result import Comparison
from jete.core.compare import compare
from jete.core.log.lap import Lap, Log
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.core.run import RunSummary, run_of, set_aside
from jete.simulate.driver import Fault, LapPlan, Style, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR
from known_laps import drawn

CORNERS = [SimpleNamespace(number=k + 1, shown=str(k + 1)) for k in range(4)]
LATE = Fault("late_throttle", 3, 18.0)


@cache
def six_laps() -> Comparison:
    """Six laps with a late throttle at one corner on four of them, held against a clean one."""
    circuit = drawn(5, faults=0).circuit
    line = draw_line(circuit, 1)
    plans = [LapPlan(), *[LapPlan((LATE,)) for _ in range(4)], LapPlan(), LapPlan(), LapPlan()]
    settings = LoggerSettings(rate_hz=50.0)

    def logged(laps: list[LapPlan], source: str, last: int) -> Log:
        return record(drive(circuit, CAR, laps, Style()), line, settings, 1, (1, last), source)

    reference = logged([LapPlan()] * 3, "reference.csv", 2)
    run = logged(plans, "run.csv", 7)
    source = line_of(reference)
    clean = next(s for s in split(reference, source) if s.complete)
    laps = [Lap(run, s) for s in split(run, source) if s.complete]
    return compare(Lap(reference, clean), laps)


@cache
def summary() -> RunSummary:
    return run_of(six_laps())


def test_a_cause_is_counted_on_the_laps_that_have_it() -> None:
    late = [(c.corner.number, x) for c in summary().corners for x in c.causes if x.kind == "late_throttle"]
    corner, cause = max(late, key=lambda x: x[1].mean_s)
    assert cause.laps == 4
    assert cause.mean_s == pytest.approx(cause.median_s * 4 / 6, rel=0.15)
    assert summary().corners[corner - 1].median_s > 0.05


def test_the_means_of_a_corner_add_up_to_its_mean() -> None:
    for c in summary().corners:
        assert sum(x.mean_s for x in c.causes) + c.unexplained_s == pytest.approx(c.mean_s, abs=1e-9)


def test_the_means_of_the_corners_add_up_to_the_mean_gap() -> None:
    gaps = [lap.gap_s for lap in six_laps().laps]
    assert sum(c.mean_s for c in summary().corners) == pytest.approx(np.mean(gaps), abs=1e-9)


def test_the_best_passes_together_are_no_slower_than_the_best_lap() -> None:
    times = [lap.passage.lap.span.time_s for lap in six_laps().laps]
    assert times[summary().best_lap] == min(times)
    assert min(times) - 1.0 < summary().best_sum_s <= min(times) + 1e-9


def test_the_best_pass_is_one_of_a_lap_without_the_fault() -> None:
    worst = max(summary().corners, key=lambda c: c.median_s)
    assert worst.best in (4, 5)


def gaps(laps: int = 7) -> np.ndarray:
    return 0.1 + 0.02 * np.random.default_rng(3).normal(size=(laps, 4))


def test_a_steady_run_sets_no_lap_aside() -> None:
    assert set_aside(gaps(), CORNERS) == [None] * 7  # type: ignore[arg-type]


def test_a_lap_hampered_at_one_corner_is_set_aside_with_its_reason() -> None:
    hampered = gaps()
    hampered[2, 3] += 1.4
    why = set_aside(hampered, CORNERS)  # type: ignore[arg-type]
    assert why[2] == "1.4 s over the run's median at corner 4"
    assert why.count(None) == 6


def test_a_slow_lap_all_round_is_set_aside() -> None:
    slow = gaps()
    slow[5] += 0.4
    why = set_aside(slow, CORNERS)  # type: ignore[arg-type]
    assert why[5] is not None
    assert "over the run's median" in why[5]


def test_a_fast_lap_is_never_set_aside() -> None:
    fast = gaps()
    fast[1] -= 3.0
    assert set_aside(fast, CORNERS)[1] is None  # type: ignore[arg-type]


def test_three_laps_tell_nothing_of_each_other() -> None:
    few = gaps(3)
    few[0] += 5.0
    assert set_aside(few, CORNERS) == [None] * 3  # type: ignore[arg-type]


def test_a_lap_that_is_kept_counts_whatever_it_did(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("jete.core.run.set_aside", lambda *_: ["slow", *[None] * 5])
    assert run_of(six_laps()).counted == 5
    assert run_of(six_laps(), kept=(0,)).counted == 6


def test_a_claim_is_surer_the_surer_the_method_and_the_more_of_its_corner_it_is() -> None:
    by_method = [confidence(sure, 1.0) for sure in (0.0, 0.6, 0.9, 1.0)]
    by_share = [confidence(1.0, share) for share in (0.0, 0.3, 0.6, 1.0)]
    assert by_method == sorted(by_method)
    assert by_share == sorted(by_share)
    assert 0.0 < by_method[0] < by_method[-1] < 1.0


def test_findings_that_are_claimed_are_likely() -> None:
    found = [f for lap in six_laps().laps for c in lap.corners for f in c.findings]
    assert found
    assert all(0.5 <= f.confidence < 1.0 for f in found)
