"""Findings of laps with known faults: kind, sign, size and balance."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from jete.core.causes.hybrids.hybrid import Hybrids
from jete.core.causes.hybrids.stretches import Stretches
from jete.core.causes.profiles.anchors import Anchors
from jete.core.causes.profiles.cells import Cells
from jete.core.causes.profiles.profile import Profile
from jete.core.causes.verdict.result import Comparison, CornerLoss
from jete.core.compare import compare
from jete.core.driving.windows import Span
from jete.core.motion.borders import line_of
from jete.core.numeric.shapley import shares_of
from jete.simulate.driver import Fault
from known_laps import compare_trial, drawn, lap_of, passed

SIZES = {
    "early_braking": 16.0,
    "late_braking": 8.0,
    "soft_braking": 0.22,
    "overslowing": 7.0,
    "coasting": 0.9,
    "late_throttle": 18.0,
    "throttle_hesitation": 0.5,
    "slow_exit": 0.22,
    "fast_exit": 0.1,
}

# Where each fault is made: coasting costs next to nothing where the corner is short.
CORNER = {**dict.fromkeys(SIZES, 2), "coasting": 3}


def loss_of(corner: CornerLoss, kind: str) -> float:
    return sum(f.loss_s for f in corner.findings if f.kind == kind)


@pytest.mark.many
@pytest.mark.parametrize("kind", SIZES)
def test_a_single_fault_is_found_as_its_kind_and_leads(kind: str) -> None:
    corner = passed(Fault(kind, CORNER[kind], SIZES[kind]))
    assert corner.findings
    assert corner.findings[0].kind == kind


@pytest.mark.many
@pytest.mark.parametrize("kind", SIZES)
def test_most_of_the_gap_of_a_single_fault_is_its_own(kind: str) -> None:
    corner = passed(Fault(kind, CORNER[kind], SIZES[kind]))
    assert loss_of(corner, kind) / corner.gap_s > 0.6


@pytest.mark.many
@pytest.mark.parametrize(
    ("kind", "measure", "within"),
    [("early_braking", -16.0, 1.5), ("late_throttle", 18.0, 2.0), ("overslowing", -7.0, 0.8), ("coasting", 0.8, 0.2)],
)
def test_the_measure_is_the_size_of_the_fault(kind: str, measure: float, within: float) -> None:
    found = next(f for f in passed(Fault(kind, CORNER[kind], SIZES[kind])).findings if f.kind == kind)
    assert found.measure == pytest.approx(measure, abs=within)


@pytest.mark.many
@pytest.mark.parametrize("seed", [51, 52, 53, 54])
def test_every_thousandth_is_booked(seed: int) -> None:
    lap = compare_trial(drawn(seed)).laps[0]
    for c in lap.corners:
        assert sum(p.gap_s for p in c.phases) == pytest.approx(c.gap_s, abs=1e-9)
    assert sum(c.gap_s for c in lap.corners) == pytest.approx(lap.gap_s, abs=1e-9)
    assert sum(s.gap_s for s in lap.sectors) == pytest.approx(lap.gap_s, abs=1e-9)


@pytest.mark.many
@pytest.mark.parametrize("seed", [51, 52, 55, 56, 57])
def test_equal_laps_make_no_claim(seed: int) -> None:
    lap = compare_trial(drawn(seed, faults=0)).laps[0]
    assert max((abs(f.loss_s) for c in lap.corners for f in c.findings), default=0.0) < 0.03


def test_a_fault_leaves_the_other_corners_alone() -> None:
    trial = drawn(5)
    at_fault = {f.fault.corner for f in trial.faults}
    after = {c % len(trial.circuit.corners) + 1 for c in at_fault}
    for corner in compare_trial(trial).laps[0].corners:
        station = float(trial.station_m(corner.corner.apex_m))
        number = min(trial.circuit.corners, key=lambda r: abs(r.apex_m - station)).number
        if number not in at_fault | after:
            assert sum(abs(f.loss_s) for f in corner.findings) < 0.05


def test_windows_tile_the_lap(comparison: Comparison) -> None:
    windows = [c.window for c in comparison.laps[0].corners]
    assert windows[0].start_m == 0.0
    assert windows[-1].end_m == pytest.approx(comparison.road.length_m)
    for a, b in itertools.pairwise(windows):
        assert a.end_m == b.start_m


def test_a_window_begins_30_m_before_the_first_lift_or_brake(comparison: Comparison) -> None:
    for before, c in zip(comparison.laps[0].corners, comparison.laps[0].corners[1:], strict=False):
        points = [m.slowing_m for m in (c.reference_marks, c.lap_marks) if m.slowing_m is not None]
        expected = max(min(points, default=c.corner.start_m) - 30.0, before.corner.end_m)
        assert c.window.start_m == pytest.approx(expected, abs=1e-6)


def test_phases_tile_their_window_in_order(comparison: Comparison) -> None:
    names = ["approach", "braking", "turning", "exit", "straight"]
    for c in comparison.laps[0].corners:
        assert [p.span.phase for p in c.phases] == [n for n in names if n in {p.span.phase for p in c.phases}]
        assert c.phases[0].span.start_m == c.window.start_m
        assert c.phases[-1].span.end_m == pytest.approx(c.window.end_m)


def test_all_of_one_lap_gives_that_lap_back() -> None:
    cells, profiles = _two_profiles()
    times = Hybrids(Stretches.between(cells, np.array([[150.0, 230.0]])), profiles).times_s()
    for k in (0, 1):
        energy = np.interp(cells.middles_m, profiles[k].grid.at_m, profiles[k].driven)
        exact = float((cells.width_m[0] / np.sqrt(2 * energy)).sum())
        assert float(times[(k,) * 8][0].sum()) == pytest.approx(exact, abs=0.004)


@pytest.mark.long
def test_corners_worked_out_together_are_those_worked_out_alone() -> None:
    trial = drawn(55)
    reference, lap = lap_of(trial.reference), lap_of(trial.lap, line_of(trial.reference))
    alone, twice = compare(reference, [lap]), compare(reference, [lap, lap])
    for a, b in zip(twice.laps[1].corners, alone.laps[0].corners, strict=True):
        assert [f.kind for f in a.findings] == [f.kind for f in b.findings]
        assert [f.loss_s for f in a.findings] == pytest.approx([f.loss_s for f in b.findings], abs=1e-9)


def _two_profiles() -> tuple[Cells, tuple[Profile, Profile]]:
    """A plain corner: 50 m/s, brake to 20, hold, drive; the second brakes 10 m earlier and slower by 1."""
    cells = Cells.over([Span(0.0, 500.0)])
    at, flat = cells.table.at_m, np.ones_like(cells.table.at_m)
    out = []
    for early, least in ((0.0, 20.0), (10.0, 19.0)):
        slowed, pickup = 210.0 - early, 230.0
        brake = slowed - (50.0**2 - least**2) / 2 / 10.0
        braked = 0.5 * least**2 + 10.0 * np.maximum(slowed - at, 0.0)
        energy = np.where(at < brake, 1250.0, braked) + 4.0 * np.maximum(at - pickup, 0.0)
        anchors = Anchors(
            lift_m=brake,
            brake_m=brake,
            released_m=slowed,
            slowed_m=slowed,
            pickup_m=pickup,
            fed_m=pickup,
            least=0.5 * least**2,
            braking_mps2=10.0,
            rolls_in=False,
        )
        out.append(Profile(cells.table, energy, 0 * at, flat, flat, (anchors,)))
    return cells, (out[0], out[1])


def test_shapley_values_add_up_and_share_equally() -> None:
    a, b, c = np.ogrid[:2, :2, :2]
    times = (1.0 * a + 2.0 * b + 3.0 * c + 0.6 * a * b)[..., None]
    assert shares_of(times, ((0,), (1,), (2,)))[:, 0].tolist() == pytest.approx([1.3, 2.3, 3.0])


def test_a_factor_that_does_nothing_has_no_share() -> None:
    a, _, c, d = np.ogrid[:2, :2, :2, :2]
    times = np.broadcast_to(1.0 * a + 2.0 * c - 1.0 * d, (2, 2, 2, 2))[..., None]
    assert shares_of(times, ((0,), (1,), (2,), (3,)))[1, 0] == pytest.approx(0.0)


def test_factors_that_are_exchanged_together_share_as_one() -> None:
    a, b, c = np.ogrid[:2, :2, :2]
    together, alone = shares_of((1.0 * a + 2.0 * b + 4.0 * c)[..., None], ((0, 2), (1,)))[:, 0]
    assert (together, alone) == pytest.approx((5.0, 2.0))


def test_each_stretch_has_shares_of_its_own() -> None:
    a, b = np.ogrid[:2, :2]
    times = np.stack([1.0 * a + 0.0 * b, 0.0 * a - 3.0 * b], axis=-1)
    assert shares_of(times, ((0,), (1,))) == pytest.approx(np.array([[1.0, 0.0], [0.0, -3.0]]))


def test_stretches_tile_the_window_and_keep_its_time() -> None:
    cells = Cells.over([Span(0.0, 100.0), Span(100.0, 430.0)])
    stretches = Stretches.between(cells, np.array([[30.0, 20.0, 70.0], [150.0, 150.0, 900.0]]))
    assert stretches.edges_m[:, [0, -1]].tolist() == [[0.0, 100.0], [100.0, 430.0]]
    summed = stretches.sum_up(cells.width_m[cells.of], np.arange(len(cells.of)))
    assert summed.sum(axis=1) == pytest.approx([100.0, 330.0])
    assert summed[1, 1] == 0.0


def test_cells_tile_the_windows_and_tables_reach_past_them() -> None:
    cells = Cells.over([Span(0.0, 100.0), Span(100.0, 430.0)])
    assert np.add.reduceat(cells.width_m[cells.of], cells.first) == pytest.approx([100.0, 330.0])
    ends = [cells.table.at_m[cells.table.part(i)][[0, -1]] for i in (0, 1)]
    assert ends[0] == pytest.approx([-56.9, 156.9], abs=3.6)
    assert ends[1] == pytest.approx([41.8, 488.2], abs=3.6)


def test_a_place_beyond_a_table_has_its_end_value_not_the_neighbours() -> None:
    grid = Cells.over([Span(0.0, 100.0), Span(100.0, 430.0)]).table
    values = np.where(grid.of == 0, 1.0, 2.0)
    assert grid.look_up(values, np.array([900.0, -900.0]), np.array([0, 1])).tolist() == [1.0, 2.0]
