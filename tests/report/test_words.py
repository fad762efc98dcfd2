"""Numbers and findings in words."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.core.axis.road.corners import Corner
from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.findings import Finding
from jete.core.causes.verdict.result import CornerLoss
from jete.core.driving.marks import Marks
from jete.core.driving.windows import Span
from jete.report.sentences import bargains, sentence, short_words
from jete.report.units import Units, plain, signed
from jete.report.words import KIND_WORDS, cause_words, difference, lap_time, not_logged, printable


def corner_with(*findings: Finding) -> CornerLoss:
    """A corner of which no mark is known but what was found."""
    marks = Marks(
        brake_on_m=None,
        brake_peak=None,
        brake_unit=None,
        brake_off_m=None,
        lift_m=None,
        turn_in_m=600.0,
        slow_point_m=650.0,
        min_speed_kmh=70.0,
        throttle_on_m=None,
        full_throttle_m=None,
        exit_speed_kmh=90.0,
        coast_s=0.0,
        throttle_dips=0,
        gear=None,
    )
    corner = Corner(number=1, direction="left", start_m=600.0, apex_m=650.0, end_m=700.0)
    return CornerLoss(
        corner=corner,
        window=Span(0.0, 1000.0),
        gap_s=0.044,
        sigma_s=0.01,
        phases=(),
        reference_marks=marks,
        lap_marks=marks,
        findings=findings,
        unexplained_s=0.0,
        end_kmh=(200.0, 200.0),
    )


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
        ("throttle_hesitation", 1.0, "Came off the throttle again once where the reference did not."),
        ("throttle_hesitation", 2.0, "Came off the throttle again 2 times where the reference did not."),
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
    braked = Finding(
        kind=Kind.LATE_BRAKING,
        loss_s=-0.185,
        at_m=431.0,
        measure=16.0,
        unit="m",
        confidence=0.9,
        phases=(("braking", -0.446), ("exit", 0.261)),
    )
    late = Finding(
        kind=Kind.LATE_THROTTLE,
        loss_s=0.229,
        at_m=663.0,
        measure=12.0,
        unit="m",
        confidence=0.9,
        phases=(("exit", 0.229),),
    )
    traded = corner_with(braked, late)
    assert " ".join(bargains(traded)) == (
        "Picked up the throttle 12 m later: lost 0.229 s; braked 16 m past the reference: gained 0.185 s "
        "(won 0.446 s on the way in, lost 0.261 s on the way out). Balance +0.044 s: it did not pay."
    )
    assert bargains(corner_with(braked)) == [
        "Braked 16 m past the reference: won 0.446 s on the way in, lost 0.261 s on the way out."
    ]
    assert bargains(corner_with(late)) == []


def braked(**lap: float) -> tuple[Marks, Marks]:
    """The marks of a reference that brakes at 415 m and trails to 650 m, and of a lap that does otherwise."""
    reference = Marks(
        brake_on_m=415.2,
        brake_peak=39.0,
        brake_unit="bar",
        brake_off_m=650.0,
        lift_m=410.0,
        turn_in_m=587.0,
        slow_point_m=652.0,
        min_speed_kmh=55.2,
        throttle_on_m=651.0,
        full_throttle_m=683.0,
        exit_speed_kmh=77.0,
        coast_s=0.1,
        throttle_dips=0,
        gear=1,
    )
    return reference, replace(reference, **lap)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("kind", "measure", "lap", "says"),
    [
        (Kind.SLOWED_EARLY, -41.0, {"brake_on_m": 424.6, "brake_off_m": 610.0}, "On the brake 10 m later, but harder: down to speed 41 m too soon; let go sooner (trail 23 m, reference 63 m)."),
        (Kind.SLOWED_EARLY, -8.0, {"brake_on_m": 415.9}, "Braked where the reference does, but was down to speed 8 m too soon."),
        (Kind.SLOWED_EARLY, -8.0, {"brake_on_m": 405.0}, "Was down to speed 8 m too soon."),
        (Kind.SLOWED_LATE, 12.0, {"brake_on_m": 394.0, "brake_off_m": 662.0}, "On the brake 21 m earlier, but softer: down to speed 12 m later; held it longer (trail 75 m, reference 63 m)."),
        (Kind.SOFT_BRAKING, -0.2, {"brake_on_m": 394.0}, "Braked 21 m earlier and softer by 0.20 g over the braking."),
        (Kind.SOFT_BRAKING, -0.2, {"brake_on_m": 414.0}, "Braked softer by 0.20 g over the braking."),
        (Kind.HARD_BRAKING, 0.1, {"brake_on_m": 424.4}, "Braked 9 m later and harder by 0.10 g over the braking."),
        (Kind.SLOW_EXIT, -15.2, {"exit_speed_kmh": 77.3}, "15.2 km/h slower at the straight's end, for another cause than the pick-up."),
        (Kind.SLOW_EXIT, -4.0, {"exit_speed_kmh": 73.0}, "4.0 km/h slower at the exit, for another cause than the pick-up."),
        (Kind.FAST_STRAIGHT, 5.0, {"exit_speed_kmh": 74.0}, "5.0 km/h faster at the straight's end, though not at the exit."),
        (Kind.OVERSHOT, 58.0, {"slow_point_m": 710.0}, "Ran on past the apex: slowest 58 m after the reference."),
    ],
)  # fmt: skip
def test_a_sentence_says_what_the_marks_say(kind: Kind, measure: float, lap: dict[str, float], says: str) -> None:
    assert sentence(kind, measure, marks=braked(**lap)) == says


def test_a_row_says_that_a_softer_braking_began_earlier() -> None:
    soft = Finding(kind=Kind.SOFT_BRAKING, loss_s=0.333, at_m=394.0, measure=-0.16, unit="g", confidence=0.9)
    assert short_words(soft, braked(brake_on_m=394.0)) == "braked 21 m earlier, softer"
    assert short_words(soft, braked()) == "soft braking"
    early = Finding(kind=Kind.SLOWED_EARLY, loss_s=0.432, at_m=424.0, measure=-40.8, unit="m", confidence=0.9)
    assert short_words(early, braked()) == "slowed 41 m too soon"
