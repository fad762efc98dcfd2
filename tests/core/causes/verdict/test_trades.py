"""Trades on laps of a driver with feet: both sides told, and a foot that waits."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.findings import Finding
from jete.core.causes.verdict.result import CornerLoss
from jete.core.causes.verdict.trades import BothWays, both_ways, trade_of
from jete.core.driving.windows import PhaseName
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.names import names_of
from jete.simulate.trials import Trial
from known_laps import compare_trial


def finding(kind: Kind, loss_s: float) -> Finding:
    return Finding(kind=kind, loss_s=loss_s, at_m=100.0, measure=5.0, unit="m", confidence=0.9)


def corner_of(trial: Trial, number: int) -> CornerLoss:
    apex = float(trial.axis_m(next(c.apex_m for c in trial.circuit.corners if c.number == number)))
    return next(c for c in compare_trial(trial).laps[0].corners if c.window.start_m <= apex < c.window.end_m)


def test_a_loss_alone_is_no_trade() -> None:
    assert trade_of([finding(Kind.OVERSLOWING, 0.3), finding(Kind.COASTING, 0.1)]) is None


def test_a_breath_of_a_gain_is_no_side() -> None:
    assert trade_of([finding(Kind.OVERSLOWING, 0.4), finding(Kind.EARLY_THROTTLE, -0.05)]) is None


def test_what_an_earlier_corner_left_is_no_side() -> None:
    assert trade_of([finding(Kind.CARRIED_SPEED, 0.3), finding(Kind.EARLY_THROTTLE, -0.2)]) is None


def test_the_dearest_of_each_side_makes_the_trade() -> None:
    sides = [finding(Kind.OVERSLOWING, 0.4), finding(Kind.COASTING, 0.1), finding(Kind.EARLY_THROTTLE, -0.3)]
    trade = trade_of(sides)
    assert trade is not None
    assert (trade.lost.kind, trade.gained.kind) == (Kind.OVERSLOWING, Kind.EARLY_THROTTLE)
    assert trade.balance_s == pytest.approx(0.1)


@pytest.mark.parametrize(
    ("phases", "both"),
    [
        ((("braking", -0.2), ("exit", 0.3)), (-0.2, 0.3)),
        ((("braking", 0.1), ("turning", 0.1), ("exit", -0.05), ("straight", -0.05)), (0.2, -0.1)),
        ((("braking", -0.2), ("turning", 0.2), ("exit", 0.3)), None),
        ((("braking", -0.2), ("exit", 0.02)), None),
        ((("turning", 0.2), ("exit", 0.3)), None),
    ],
)
def test_one_cause_wins_on_the_way_in_and_loses_on_the_way_out(
    phases: tuple[tuple[PhaseName, float], ...], both: tuple[float, float] | None
) -> None:
    found = both_ways(replace(finding(Kind.LATE_BRAKING, sum(s for _, s in phases)), phases=phases))
    assert found == (None if both is None else BothWays(*(pytest.approx(s) for s in both)))


@pytest.mark.many
@pytest.mark.parametrize("seed", [601, 605])
def test_both_sides_of_a_driven_trade_are_told(seed: int) -> None:
    trial = draw_feet_trial(seed, made="trades", count=1)
    corner = corner_of(trial, trial.faults[0].fault.corner)
    told = {f.kind for f in corner.findings}
    assert all(told & set(names_of(f.fault.kind)) for f in trial.faults if abs(f.cost_s) > 0.1)


@pytest.mark.many
@pytest.mark.parametrize(
    ("seed", "number"),
    [
        # Brakes 8 m later, trails the brake to be slow 21 m later, and picks up 16 m later: a gap of 0.02 s.
        (4030, 5),
        # 7 km/h slower, on the throttle 5 m earlier: as quick as the reference 10 m on.
        (2028, 3),
        # Brakes later, and waits on neither pedal where the reference drives on already.
        (9038, 6),
    ],
)
def test_both_sides_of_a_trade_are_told_that_is_even_or_soon_over(seed: int, number: int) -> None:
    trial = draw_feet_trial(seed, made="trades")
    told = {f.kind: f.loss_s for f in corner_of(trial, number).findings}
    for fault in trial.faults:
        if fault.fault.corner == number:
            assert sum(told.get(kind, 0.0) for kind in names_of(fault.fault.kind)) * fault.cost_s > 0.0


@pytest.mark.many
@pytest.mark.parametrize("seed", [601, 609])
def test_what_a_waiting_foot_loses_is_the_late_throttle_s(seed: int) -> None:
    trial = draw_feet_trial(seed, made="waits", count=1)
    corner = corner_of(trial, trial.faults[0].fault.corner)
    late = next(f for f in corner.findings if f.kind == Kind.LATE_THROTTLE)
    assert late.loss_s == pytest.approx(trial.faults[0].cost_s, rel=0.35)


@pytest.mark.many
@pytest.mark.parametrize("seed", [500, 503])
def test_who_brakes_early_and_rolls_over_it_has_braked_early(seed: int) -> None:
    trial = draw_feet_trial(seed, made="rolls", count=1)
    corner = corner_of(trial, trial.faults[0].fault.corner)
    early = corner.findings[0]
    assert early.kind == Kind.EARLY_BRAKING
    assert early.loss_s == pytest.approx(trial.faults[0].cost_s, rel=0.4)
    assert Kind.COASTING not in {f.kind for f in corner.findings}


def test_seconds_by_phase_add_up() -> None:
    for corner in compare_trial(draw_feet_trial(601, made="trades", count=1)).laps[0].corners:
        for f in corner.findings:
            assert sum(s for _, s in f.phases) == pytest.approx(f.loss_s, abs=1e-9)
        assert sum(s for _, s in corner.unexplained_phases) == pytest.approx(corner.unexplained_s, abs=1e-9)
