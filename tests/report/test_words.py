"""Numbers and findings in words."""

from __future__ import annotations

import pytest

from jete.core.axis.corners import Corner
from jete.core.causes.findings import Finding
from jete.core.causes.kinds import Kind
from jete.core.causes.result import CornerLoss
from jete.core.driving.marks import Marks
from jete.core.driving.windows import Span
from jete.report.sentences import bargains, sentence
from jete.report.units import Units, plain, signed
from jete.report.words import KIND_WORDS, cause_words, difference, lap_time, not_logged, printable


def corner_with(*findings: Finding) -> CornerLoss:
    """A corner of which no mark is known but what was found."""
    marks = Marks(None, None, None, None, None, 600.0, 650.0, 70.0, None, None, 90.0, 0.0, 0, None)
    corner = Corner(1, "left", 600.0, 650.0, 700.0)
    return CornerLoss(corner, Span(0.0, 1000.0), 0.044, 0.01, (), marks, marks, findings, 0.0)


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(-0.2144, "−0.214"), (0.05, "+0.050"), (0.0, "+0.000"), (-0.0001, "+0.000"), (12.3456, "+12.346")],
)
def test_differences_have_a_sign_three_decimals_and_a_true_minus(seconds: float, text: str) -> None:
    assert difference(seconds) == text


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(92.3144, "1:32.314"), (59.9996, "1:00.000"), (0.5, "0:00.500"), (3600.0, "60:00.000")],
)
def test_lap_times(seconds: float, text: str) -> None:
    assert lap_time(seconds) == text


def test_numbers_with_and_without_sign() -> None:
    assert signed(-1.26, 1) == "−1.3"
    assert signed(0.04, 1) == "+0.0"
    assert plain(-3.0, 0) == "−3"
    assert plain(-0.2, 0) == "0"


@pytest.mark.parametrize(
    ("length", "speed", "kind", "measure", "text"),
    [
        ("m", "km/h", "early_braking", -9.0, "Braked 9 m before the reference."),
        ("ft", "km/h", "early_braking", -10.0, "Braked 33 ft before the reference."),
        ("yd", "km/h", "late_throttle", 10.0, "Picked up the throttle 11 yd later."),
        ("m", "mph", "overslowing", -10.0, "Slowed 6.2 mph more than the reference."),
        ("ft", "mph", "coasting", 0.5, "On neither pedal 0.50 s longer."),
    ],
)
def test_findings_speak_in_the_chosen_units(length: str, speed: str, kind: str, measure: float, text: str) -> None:
    assert sentence(kind, measure, Units(speed, length, "bar")) == text  # type: ignore[arg-type]


def test_there_is_one_sentence_for_each_kind() -> None:
    texts = {sentence(k, 3.0) for k in Kind}
    assert len(texts) == len(KIND_WORDS)
    assert all(t.endswith(".") for t in texts)


@pytest.mark.parametrize(
    ("kind", "measure", "text"),
    [
        ("early_braking", -9.0, "Braked 9 m before the reference."),
        ("overslowing", -3.21, "Slowed 3.2 km/h more than the reference."),
        ("throttle_hesitation", 1.0, "Came off the throttle again once."),
        ("throttle_hesitation", 2.0, "Came off the throttle again 2 times."),
        ("carried_speed", -2.0, "Arrived 2.0 km/h slower from the exit before."),
    ],
)
def test_sentences_speak_plainly(kind: str, measure: float, text: str) -> None:
    assert sentence(kind, measure) == text  # type: ignore[arg-type]


def test_what_an_earlier_corner_left_is_named_by_it() -> None:
    assert cause_words("carried_speed", 0.1, "9") == "arrived slower (from corner 9)"
    assert cause_words("carried_speed", -0.1) == "arrived faster"


def test_what_would_steer_a_terminal_is_shown_as_what_it_is() -> None:
    assert printable("a\x1b[2Jb\u202ec\n") == "a\\x1b[2Jb\\u202ec\n"


def test_pressures_are_converted_and_shares_are_not() -> None:
    units = Units("km/h", "m", "psi")
    assert units.pressure_of(10.0, "bar") == (pytest.approx(145.04, abs=0.01), "psi")
    assert units.pressure_of(50.0, "%") == (50.0, "%")


@pytest.mark.parametrize(
    ("names", "says"),
    [
        ([], ""),
        (["speed"], "Speed was not logged and follows from the positions."),
        (["brake"], "Brake was not logged and follows from the speed: within a corner causes are less sure."),
    ],
)
def test_what_was_not_logged_is_said(names: list[str], says: str) -> None:
    assert not_logged(names) == says


def test_all_that_was_not_logged_is_joined() -> None:
    assert not_logged(["speed", "throttle", "brake"]).startswith("Speed, throttle and brake were not logged and follow")


def test_a_trade_tells_what_a_side_won_and_lost_again_once() -> None:
    """In the ledger both stand in one sentence; a cause that did both by itself has one of its own."""
    braked = Finding(Kind.LATE_BRAKING, -0.185, 431.0, 16.0, "m", 0.9, (("braking", -0.446), ("exit", 0.261)))
    late = Finding(Kind.LATE_THROTTLE, 0.229, 663.0, 12.0, "m", 0.9, (("exit", 0.229),))
    traded = corner_with(braked, late)
    assert " ".join(bargains(traded)) == (
        "Picked up the throttle 12 m later: lost 0.229 s; braked 16 m past the reference: gained 0.185 s "
        "(won 0.446 s on the way in, lost 0.261 s on the way out). Balance +0.044 s: it did not pay."
    )
    assert bargains(corner_with(braked)) == [
        "Braked 16 m past the reference: won 0.446 s on the way in, lost 0.261 s on the way out."
    ]
    assert bargains(corner_with(late)) == []
