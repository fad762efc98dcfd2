"""Positions that were made up between two fixes are found and left out."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.log.fill import true_fixes, without_fill
from jete.core.log.lap import Log
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver
from known_laps import with_feet


def logged(rate_hz: float = 100.0, **receiver: object) -> Log:
    settings = LoggerSettings(rate_hz=rate_hz, receiver=Receiver(**receiver))  # type: ignore[arg-type]
    return with_feet(3, "equal").logged(settings).reference


def found(log: Log) -> tuple[str | None, float]:
    """How positions were filled in, and how many a second are the receiver's."""
    time = log.channels["x"].time_s
    places = np.stack([log.channels[n].value for n in ("x", "y")], axis=1)
    filled, fixes = true_fixes(time, places)
    return filled, len(fixes) / float(time[-1] - time[0])


@pytest.mark.parametrize("filled", ["linear", "cubic"])
@pytest.mark.parametrize("fix_hz", [5.0, 10.0])
def test_what_is_filled_in_is_found_with_its_rate(filled: str, fix_hz: float) -> None:
    how, rate = found(logged(fix_hz=fix_hz, filled=filled))
    assert how == filled
    assert rate == pytest.approx(fix_hz, rel=0.05)


def test_positions_of_a_rate_of_their_own_are_left_alone() -> None:
    assert found(logged())[0] is None
    log = logged()
    assert without_fill(log) is log


def test_rounding_does_not_hide_straight_lines() -> None:
    assert found(logged(50.0, fix_hz=10.0, filled="linear", round_m=0.011))[0] == "linear"


def test_what_is_left_out_is_told_and_counted() -> None:
    log = logged(filled="linear")
    thin = without_fill(log)
    (told,) = (r for r in thin.repairs if r.channel == "position")
    assert "10 times a second, filled in by straight lines" in told.what
    assert told.count == len(log.channels["x"]) - len(thin.channels["x"])
    assert thin.positions.filled == "linear"


def test_few_positions_tell_nothing() -> None:
    log = logged(filled="linear")
    short = replace(log.channels["x"], time_s=log.channels["x"].time_s[:50], value=log.channels["x"].value[:50])
    assert true_fixes(short.time_s, np.stack([short.value, short.value], axis=1))[0] is None
