"""The cards of a lap: what it did, with the spread of good laps, and nothing that no channel shows."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.core.axis.place.align import identity
from jete.core.axis.place.laying import prepare
from jete.core.axis.road.road import road_of
from jete.core.compare import bends_of
from jete.core.driving.marks import marks_of
from jete.core.driving.passage import Passage, passage_of
from jete.core.driving.technique import technique_of
from jete.core.guide.cards import Card, Good, cards_of, keeps
from jete.core.guide.plans import plans_of
from jete.core.log.lap import Channel, Log
from jete.core.log.plane import origin_of
from jete.core.passes.passes import Pass
from known_laps import a_pass, drawn, lap_of


@cache
def made(*without: str) -> tuple[Passage, list[Card]]:
    log = drawn(5).reference
    bare = Log(source=log.source, channels={n: c for n, c in log.channels.items() if n not in without})
    lap = lap_of(bare)
    ready = prepare(lap, origin_of(bare))
    road = road_of(lap, ready.motion, ready.fixes)
    passage = passage_of(lap, ready.motion, identity(ready.motion))
    corners = [replace(c, id=c.number) for c in bends_of(road, passage)]
    return passage, cards_of(passage, road, corners, Good({}, None))


def test_a_card_has_the_marks_of_the_lap() -> None:
    passage, cards = made()
    for card, marks in zip(cards, marks_of(passage, [c.corner for c in cards]), strict=True):
        assert (card.brake_m.value if card.brake_m is not None else None) == marks.brake_on_m
        assert card.min_speed_kmh.value == marks.min_speed_kmh
        assert card.gear == marks.gear
        assert card.gears == ((marks.gear,) if marks.gear is not None else ())


def test_truth_is_told_where_it_is_known() -> None:
    """The simulator's own brake points, on the log's axis, within what 100 Hz and the odometer allow."""
    trial = drawn(5)
    true = [
        float(trial.axis_m(c.brake_on_m))
        for c in trial.reference_trace.corners
        if c.lap == 1 and c.brake_on_m is not None
    ]
    told = [c.brake_m.value for c in made()[1] if c.brake_m is not None]
    assert len(told) >= 0.8 * len(true)
    for place in told:
        assert min(abs(place - t) for t in true) < 2.0


def test_without_pedals_nothing_is_invented() -> None:
    for card in made("throttle", "brake", "gear", "rpm")[1]:
        assert card.press is None
        assert card.feed is None
        assert card.release is None
        assert card.gear is None
        assert card.gears == ()


def test_the_spread_is_that_of_good_laps_and_holds_the_lap() -> None:
    passage, cards = made()
    card = next(c for c in cards if c.brake_m is not None)
    assert card.brake_m is not None
    base = a_pass(
        corner=card.corner.id or 0, brake_on_m=card.brake_m.value, brake_peak=50.0, slow_point_m=card.slow_point_m.value, gear=3, exit_off_m=1.2
    )  # fmt: skip
    passes = [replace(base, brake_on_m=card.brake_m.value + d, gear=g) for d, g in ((-4.0, 2), (3.0, 3), (1.0, 3))]
    good = Good({card.corner.id or 0: passes}, None)
    ready = prepare(passage.lap, None)
    road = road_of(passage.lap, ready.motion, None)
    found = next(c for c in cards_of(passage, road, [card.corner], good))
    assert found.brake_m is not None
    assert (found.brake_m.low, found.brake_m.high) == (card.brake_m.value - 4.0, card.brake_m.value + 3.0)
    assert set(found.gears) >= {2, 3}
    assert found.exit_off_m is not None
    assert found.exit_off_m.value == 1.2


def passes_like(card: Card, *offsets: tuple[float, float, int]) -> list[Pass]:
    """Passes that brake so many metres later, roll so much faster, in a gear."""
    assert card.brake_m is not None
    base = a_pass(
        corner=card.corner.id or 0, brake_on_m=card.brake_m.value, brake_peak=50.0, slow_point_m=card.slow_point_m.value,
        min_speed_kmh=card.min_speed_kmh.value, gear=3, entry_off_m=0.9,
    )  # fmt: skip
    return [
        replace(base, brake_on_m=card.brake_m.value + m, min_speed_kmh=card.min_speed_kmh.value + v, gear=g)
        for m, v, g in offsets
    ]


def anew(card: Card, good: Good) -> Card:
    passage = made()[0]
    ready = prepare(passage.lap, None)
    return cards_of(passage, road_of(passage.lap, ready.motion, None), [card.corner], good)[0]


def braking_card() -> Card:
    return next(c for c in made()[1] if c.brake_m is not None)


def test_the_middle_of_the_best_takes_the_place_of_the_lap() -> None:
    card = braking_card()
    assert card.brake_m is not None
    passes = passes_like(card, (-6.0, -1.0, 2), (-4.0, 0.5, 2), (1.0, 2.0, 3))
    found = anew(card, Good({card.corner.id or 0: passes}, None, middle=True))
    assert found.brake_m is not None
    assert found.brake_m.value == pytest.approx(card.brake_m.value - 4.0)
    assert found.brake_m.high == pytest.approx(card.brake_m.value + 1.0)
    assert found.min_speed_kmh.value == pytest.approx(card.min_speed_kmh.value + 0.5)
    assert found.gear == 2
    assert found.entry_off_m is not None
    assert found.entry_off_m.value == 0.9


def test_what_a_run_does_otherwise_than_its_lap_is_told_beyond_what_nobody_feels() -> None:
    card = braking_card()
    run = passes_like(card, *((-7.0 + 0.5 * k, -0.5, 3) for k in range(5)))
    race = anew(card, Good({}, None, {card.corner.id or 0: run})).race
    assert race is not None
    assert race.brake_m == pytest.approx(-6.0)
    assert race.min_speed_kmh is None
    assert race.laps == 5
    assert anew(card, Good({}, None, {card.corner.id or 0: run[:4]})).race is None


def test_settings_that_were_logged_are_told_where_the_corner_begins() -> None:
    passage, cards = made()
    log = passage.lap.log
    clock = log.channels["time"].time_s
    changes = np.where(clock < passage.lap.span.start_s + 20.0, 56.0, 54.5)
    bias = Channel("brake_bias", "%", clock, changes)
    with_bias = replace(passage, lap=lap_of(replace(log, channels={**log.channels, "brake_bias": bias})))
    road = road_of(passage.lap, passage.motion, None)
    told = [c.switches for c in cards_of(with_bias, road, [c.corner for c in cards], Good({}, None))]
    assert told[0] == (("brake_bias", 56.0),)
    assert told[-1] == (("brake_bias", 54.5),)


def test_plans_hold_what_the_lap_did_around_each_corner() -> None:
    passage, cards = made()
    ready = prepare(passage.lap, origin_of(passage.lap.log))
    for card, plan in zip(
        cards, plans_of(passage, road_of(passage.lap, ready.motion, ready.fixes), cards), strict=True
    ):
        assert plan.path_m is not None
        assert plan.brake is not None
        assert plan.place_m[0] <= card.corner.start_m < card.corner.end_m <= plan.place_m[-1] + 4.0
        slowest = np.interp(card.slow_point_m.value, plan.place_m, plan.speed_kmh)
        assert slowest == pytest.approx(card.min_speed_kmh.value, abs=2.0)
        assert 0.0 <= plan.brake.min() <= plan.brake.max() <= 1.0


def test_two_passes_are_no_spread() -> None:
    card = made()[1][0]
    assert card.min_speed_kmh.low is None


def test_a_lap_keeps_its_own_guide() -> None:
    passage, cards = made()
    for card, marks in zip(cards, marks_of(passage, [c.corner for c in cards]), strict=True):
        assert all(keeps(card, technique_of(passage, card.corner, marks), marks).values())


@pytest.mark.parametrize(
    ("field", "by", "part"),
    [("brake_on_m", -14.0, "brake"), ("min_speed_kmh", -6.0, "lowest_speed"), ("throttle_on_m", 9.0, "pick_up")],
)
def test_a_lap_that_strays_does_not_keep_that_part(field: str, by: float, part: str) -> None:
    passage, cards = made()
    marks = marks_of(passage, [c.corner for c in cards])
    at = next(k for k, m in enumerate(marks) if m.brake_on_m is not None and m.throttle_on_m is not None)
    other = replace(marks[at], **{field: getattr(marks[at], field) + by})
    kept = keeps(cards[at], technique_of(passage, cards[at].corner, marks[at]), other)
    assert not kept[part]
    assert all(v for k, v in kept.items() if k != part)
