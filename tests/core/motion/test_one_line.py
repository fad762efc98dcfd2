"""Laps of two logs whose own lines lie apart are taken from one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.log.lap import Log
from jete.core.motion.beacons import told_line
from jete.core.motion.borders import line_of
from jete.core.motion.one_line import NOWHERE, elsewhere_m
from jete.core.motion.split import split
from jete.simulate.circuit import draw
from jete.simulate.driver import LapPlan, Trace, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR

WITHOUT_DISTANCE = tuple(c for c in LoggerSettings().channels if c != "distance")


@pytest.fixture(scope="module")
def stint() -> Trace:
    return drive(draw(3), CAR, [LapPlan(grip=1.0 - 0.005 * k) for k in range(5)])


def recorded(stint: Trace, seed: int, channels: tuple[str, ...] = WITHOUT_DISTANCE) -> Log:
    settings = LoggerSettings(channels=channels, position_noise_m=0.5)
    return record(stint, draw_line(stint.circuit, 9), settings, seed, (0.6, 4.3))


def late_s(log: Log, metres: float) -> float:
    """How long the vehicle takes for so many metres past the line."""
    span = next(s for s in split(log) if s.complete)
    return metres / float(log.channels["speed"].at(np.array([span.start_s]))[0])


def by_another_beacon(log: Log, metres: float) -> Log:
    """The log with the number of its laps told that far past the line."""
    lap = log.channels["lap"]
    return replace(log, channels={**log.channels, "lap": replace(lap, time_s=lap.time_s + late_s(log, metres))})


@pytest.mark.parametrize("metres", [-35.0, 25.0, 60.0])
def test_laps_that_begin_elsewhere_are_taken_from_the_line_of_the_reference(stint: Trace, metres: float) -> None:
    known = line_of(recorded(stint, 4))
    other = by_another_beacon(recorded(stint, 5), metres)
    spans = split(other, known)
    complete = [s for s in spans if s.complete]
    assert [s.number for s in complete] == [1, 2, 3]
    for k, span in enumerate(complete):
        assert span.time_s == pytest.approx(stint.lap_time_s(k + 1), abs=0.02)
    borders = [s.start_s for s in split(recorded(stint, 5)) if s.complete]
    assert [s.start_s for s in complete] == pytest.approx(borders, abs=0.03)
    told = told_line(other, known).repairs[-1]
    assert told.channel == "lap"
    assert f"{abs(metres):.0f} m {'past' if metres > 0.0 else 'before'}" in told.what


def test_a_distance_that_starts_anew_elsewhere_is_no_other_line(stint: Trace) -> None:
    whole = recorded(stint, 5, tuple(c for c in LoggerSettings().channels if c != "lap"))
    distance = whole.channels["distance"]
    other = replace(whole, channels={**whole.channels, "distance": replace(distance, time_s=distance.time_s + late_s(whole, 40.0))})  # fmt: skip
    complete = [s for s in split(other, line_of(recorded(stint, 4))) if s.complete]
    assert [s.time_s for s in complete] == pytest.approx([stint.lap_time_s(k) for k in (1, 2, 3)], abs=0.02)


def test_a_line_that_is_near_is_the_same(stint: Trace) -> None:
    known = line_of(recorded(stint, 4))
    other = by_another_beacon(recorded(stint, 5), 5.0)
    assert told_line(other, known) is other
    assert [s.start_s for s in split(other, known)] == pytest.approx([s.start_s for s in split(other)], abs=0.02)


def test_a_lap_that_ends_before_the_line_is_not_complete(stint: Trace) -> None:
    other = by_another_beacon(recorded(stint, 5), -60.0)
    last = split(other)[-2]
    end_s = last.end_s + 0.3 * late_s(other, 60.0)
    cut = replace(other, channels={n: c.between(-1.0, end_s) for n, c in other.channels.items()})
    assert [s.number for s in split(cut) if s.complete] == [1, 2, 3]
    assert [s.number for s in split(cut, line_of(recorded(stint, 4))) if s.complete] == [1, 2]


@pytest.mark.parametrize(("metres", "first"), [(-40.0, 1), (40.0, 2)])
def test_a_log_that_begins_at_its_own_line_has_a_first_lap_only_from_the_known_one(
    stint: Trace, metres: float, first: int
) -> None:
    """What it drove before its own line it did not log."""
    whole = by_another_beacon(recorded(stint, 5), metres)
    begins = next(s.start_s for s in split(whole) if s.complete)
    cut = replace(whole, channels={n: c.between(begins, 1e6) for n, c in whole.channels.items()})
    time, driven = cut.channels["time"].time_s, np.zeros(len(cut.channels["time"]))
    driven[1:] = np.cumsum(np.diff(time) * cut.channels["speed"].at(time[1:]))
    cut = replace(
        cut,
        channels={**cut.channels, "distance": replace(cut.channels["time"], name="distance", unit="m", value=driven)},
    )
    complete = [s for s in split(cut, line_of(recorded(stint, 4))) if s.complete]
    assert complete[0].number == first
    for span in complete:
        assert span.time_s == pytest.approx(stint.lap_time_s(span.number), abs=0.02)


def test_positions_that_end_before_the_lap_does_say_nothing_of_its_end(stint: Trace) -> None:
    """Positions that came late and were moved back end a little before the log."""
    log = record(stint, draw_line(stint.circuit, 9), LoggerSettings(position_noise_m=0.5), 5, (1.0, 2.0))
    short = replace(
        log,
        channels={n: c.between(-1.0, c.time_s[-1] - 0.3) if n in {"x", "y"} else c for n, c in log.channels.items()},
    )
    assert [s.complete for s in split(short)] == [s.complete for s in split(log)]
    assert any(s.complete for s in split(short))


def test_positions_that_still_settle_at_the_beginning_move_no_start(stint: Trace) -> None:
    """A receiver that averages has no whole mean yet: its first places are those of a little later."""
    log = record(stint, draw_line(stint.circuit, 9), LoggerSettings(position_noise_m=0.5), 5, (1.0, 2.0))
    settling = {}
    for name in ("x", "y"):
        c = log.channels[name]
        settling[name] = replace(c, value=np.where(c.time_s < c.time_s[0] + 0.4, c.at(c.time_s + 0.4), c.value))
    spans = split(replace(log, channels={**log.channels, **settling}), line_of(log))
    assert [s.start_s for s in spans] == pytest.approx([s.start_s for s in split(log)], abs=0.02)
    assert [s.complete for s in spans] == [s.complete for s in split(log)]


def test_borders_that_lie_about_are_no_line(stint: Trace) -> None:
    log = recorded(stint, 5)
    known = line_of(log)
    borders = [s.start_s for s in split(log) if s.complete]
    assert elsewhere_m(log, [b + s for b, s in zip(borders, (0.5, 1.5, 2.5), strict=True)], known) == 0.0
    assert elsewhere_m(log, borders, NOWHERE) == 0.0


@pytest.mark.parametrize("off_s", [-0.45, 0.45])
def test_a_border_known_to_a_second_only_is_no_other_line(stint: Trace, off_s: float) -> None:
    known, whole = line_of(recorded(stint, 4)), recorded(stint, 5)
    border = next(s.start_s for s in split(whole) if s.complete) + off_s
    rows = np.arange(*whole.span_s())
    slow = replace(whole, channels={n: replace(c, time_s=rows, value=c.at(rows)) for n, c in whole.channels.items()})
    assert elsewhere_m(whole, [border], known) != 0.0
    assert elsewhere_m(slow, [border], known) == 0.0
