"""What was lost in one corner and is paid in the next is not charged to the next."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.causes.hybrids.driven import Driven
from jete.core.causes.kinds import Factor
from jete.core.causes.profiles.cells import Cells
from jete.core.causes.profiles.profile import Profile
from jete.core.causes.verdict.chains import carried, only_gains
from jete.core.driving.windows import Span
from jete.simulate.trials import draw_trial
from known_laps import compare_trial

SECONDS = {"arrival": 0.02, "brake_point": -0.01, "slowest": 0.3, "pickup": -0.05, "drive": 0.04}
SHARES = {Factor(name): np.array([s, 0.0]) for name, s in SECONDS.items()}
SLOWER = Driven(
    arrival_mps=(25.0, 21.0),
    leaving_mps=(38.0, 37.0),
    before_mps=(25.0, 21.0),
    slowing_mps=(25.0, 21.0),
    drive_kmh=-4.0,
    coast_s=(0.0, 0.0),
    rolled_off=(0.0, 0.0),
    shift_made_m=(0.0, 0.0),
    at_slow_mps=20.0,
)
FASTER = Driven(
    arrival_mps=(21.0, 25.0),
    leaving_mps=(37.0, 38.0),
    before_mps=(21.0, 25.0),
    slowing_mps=(21.0, 25.0),
    drive_kmh=4.0,
    coast_s=(0.0, 0.0),
    rolled_off=(0.0, 0.0),
    shift_made_m=(0.0, 0.0),
    at_slow_mps=20.0,
)


@pytest.mark.parametrize(("driven", "gains"), [(SLOWER, (False, True)), (FASTER, (True, False))])
def test_who_arrives_slower_and_only_gains_speed_has_carried_it(driven: Driven, gains: tuple[bool, bool]) -> None:
    left = {f: float(s.sum()) for f, s in carried(SHARES, driven, gains).items()}
    assert left == pytest.approx({Factor.ARRIVAL: 0.26, Factor.DRIVE: 0.04})


@pytest.mark.parametrize(
    ("driven", "gains"), [(SLOWER, (True, False)), (FASTER, (False, True)), (SLOWER, (False,) * 2)]
)
def test_who_slows_for_the_corner_is_charged_there(driven: Driven, gains: tuple[bool, bool]) -> None:
    assert carried(SHARES, driven, gains) == SHARES


def test_each_window_is_looked_at_on_its_own() -> None:
    cells = Cells.over([Span(0.0, 200.0), Span(200.0, 400.0), Span(400.0, 600.0)])
    at = cells.table.at_m
    v = np.select([at < 200.0, at < 300.0, at < 400.0], [40.0 + 0.05 * at, 30.0 + 0.02 * at, 44.0 - 0.02 * at], 20.0)
    none = np.zeros_like(at)
    profile = Profile(cells.table, 0.5 * v**2, none, none, none, ())
    assert only_gains(profile, cells).tolist() == [True, False, True]


def test_a_slow_exit_is_carried_through_the_next_corner() -> None:
    corner = compare_trial(draw_trial(11134)).laps[0].corners[2]
    assert corner.gap_s > 0.3
    assert [f.kind for f in corner.findings] == ["carried_speed"]
