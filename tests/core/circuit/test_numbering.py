"""A circuit's corners keep their numbers, and lie where they belong on every lap."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.circuit.numbering import corners_of, corners_on, extended
from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.motion.borders import line_of
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial
from known_laps import drawn, lap_of

NO_POSITION = tuple(n for n in LoggerSettings().channels if n not in ("x", "y"))


def both(trial: Trial):
    return lap_of(trial.reference), lap_of(trial.lap, line_of(trial.reference))


def test_a_first_list_is_what_a_comparison_with_its_founder_finds(trial: Trial) -> None:
    founder, lap = both(trial)
    listed = corners_of(founder)
    found = compare(founder, [lap]).corners
    assert [(c.label, c.id, c.apex_m) for c in listed] == [(str(c.number), c.number, c.apex_m) for c in found]


def test_on_the_founder_the_corners_are_the_list(trial: Trial) -> None:
    founder, _ = both(trial)
    listed = corners_of(founder)
    assert corners_on(listed, founder, founder) == listed


@pytest.mark.many
@pytest.mark.parametrize("channels", [LoggerSettings().channels, NO_POSITION], ids=["positions", "none"])
@pytest.mark.parametrize("seed", [61, 62, 63])
def test_corners_lie_on_another_lap_where_the_road_has_them(seed: int, channels: tuple[str, ...]) -> None:
    trial = drawn(seed, replace(LoggerSettings(), channels=channels))
    founder, lap = both(trial)
    listed = corners_of(founder)
    moved = corners_on(listed, founder, lap)
    assert [c.label for c in moved] == [c.label for c in listed]
    true = trial.station_m(np.array([c.apex_m for c in listed]))
    scale = lap.span.length_m / founder.span.length_m
    assert np.array([c.apex_m for c in moved]) == pytest.approx(trial.axis_m(true) * scale, abs=12.0)


def test_a_bend_that_is_missing_comes_in_behind_the_corner_ahead(trial: Trial) -> None:
    founder, lap = both(trial)
    listed = corners_of(founder)
    without = tuple(c for c in listed if c.label not in ("1", "4"))
    grown = extended(without, founder, lap)
    assert [c.label for c in grown][:4] == ["0a", "2", "3", "3a"]
    assert [c.number for c in grown] == list(range(1, len(listed) + 1))
    assert {c.id for c in without} < {c.id for c in grown}
    assert max(c.id or 0 for c in grown) == max(c.id or 0 for c in without) + 2
    assert extended(grown, founder, lap) == grown


def test_a_list_is_not_laid_on_a_lap_of_another_circuit(trial: Trial) -> None:
    founder, _ = both(trial)
    with pytest.raises(InputError, match="does not belong"):
        corners_on(corners_of(founder), founder, lap_of(drawn(8).reference))


def test_a_listed_bend_that_nobody_slows_for_stays(trial: Trial) -> None:
    founder, lap = both(trial)
    listed = list(corners_of(founder))
    ends = [c.end_m for c in listed]
    at = max(range(len(listed) - 1), key=lambda k: listed[k + 1].start_m - ends[k])
    middle = 0.5 * (ends[at] + listed[at + 1].start_m)
    flat = replace(listed[at], label=f"{at + 1}a", id=99, start_m=middle - 15.0, apex_m=middle, end_m=middle + 15.0)
    given = [replace(c, number=k) for k, c in enumerate([*listed[: at + 1], flat, *listed[at + 1 :]], start=1)]
    result = compare(founder, [lap], given).laps[0]
    assert [c.corner.shown for c in result.corners][at + 1] == f"{at + 1}a"
    assert result.corners[at + 1].lap_marks.brake_on_m is None
    assert sum(c.gap_s for c in result.corners) == pytest.approx(result.gap_s, abs=1e-9)


@pytest.mark.many
@pytest.mark.parametrize("seed", [64, 65])
def test_with_files_the_reference_alone_decides(seed: int) -> None:
    trial = drawn(seed)
    founder, lap = both(trial)
    alone = [(c.number, c.apex_m) for c in compare(founder, [founder]).corners]
    assert [(c.number, c.apex_m) for c in compare(founder, [lap]).corners] == alone
