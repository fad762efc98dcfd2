"""What the tables show: rows, columns, words and sort keys, without a window."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QModelIndex, Qt
from pytestqt.modeltest import ModelTester

from jete.core.causes.verdict.result import Comparison
from jete.core.driving.passage import Passage
from jete.core.log.lap import Lap, LapSpan
from jete.notes.sheet import LapNote, LapSheet
from jete.report.sentences import sentence
from jete.report.shown import SETS, offered, sensible
from jete.report.units import Units
from jete.report.words import difference
from jete.session import operations as ops
from jete.session.state import LapKey, Run, Session
from jete.views.laps import model as laps
from jete.views.ledger import model as ledger
from jete.views.traces.curves import Panel, panels_of, since
from jete.views.traces.painter import Strip, numbers_of

METRIC = Units("km/h", "m", "bar")
IMPERIAL = Units("mph", "ft", "psi")
LAP = LapSpan(1, 0.0, 60.0, 3000.0, complete=True)


@pytest.fixture
def filled(comparison: Comparison) -> ledger.LedgerModel:
    model = ledger.LedgerModel()
    model.show(ledger.rows_of(comparison.laps[0], METRIC), by_loss=False)
    return model


def test_the_ledger_s_model_keeps_qt_s_rules(filled: ledger.LedgerModel, qtmodeltester: ModelTester) -> None:
    qtmodeltester.check(filled)


def test_numbers_stand_to_the_right_under_their_titles(filled: ledger.LedgerModel) -> None:
    for column in (ledger.GAP, ledger.RUNNING):
        title = filled.headerData(column, Qt.Orientation.Horizontal, Qt.ItemDataRole.TextAlignmentRole)
        cell = filled.index(0, column).data(Qt.ItemDataRole.TextAlignmentRole)
        assert title & Qt.AlignmentFlag.AlignRight
        assert cell & Qt.AlignmentFlag.AlignRight


def test_units_stand_in_the_heading(filled: ledger.LedgerModel) -> None:
    titles = [filled.headerData(c, Qt.Orientation.Horizontal) for c in range(filled.columnCount())]
    assert titles[ledger.GAP :] == ["gap s", "running s"]


def test_by_phase_each_row_holds_its_phases_and_the_same_sum(comparison: Comparison) -> None:
    lap = comparison.laps[0]
    causes, phases = (ledger.rows_of(lap, METRIC, by_phase=by_phase) for by_phase in (False, True))
    assert [r.gap_s for r in phases] == [r.gap_s for r in causes]
    for row, corner in zip(phases, lap.corners, strict=False):
        told = {p.span.phase: p.gap_s for p in corner.phases}
        assert all(part.seconds == told[part.cause] for part in row.parts)


def test_the_three_largest_phases_are_told_in_the_order_of_the_road() -> None:
    parts = tuple(
        ledger.Part(n, s) for n, s in (("approach", 0.01), ("braking", 0.2), ("turning", -0.1), ("exit", 0.3))
    )
    row = ledger.LedgerRow(1, "1", "left", 0.4, 0.0, "", parts, worst=False, tooltip="")
    assert [p.cause for p in row.told] == ["braking", "turning", "exit"]


@pytest.mark.parametrize(("sure", "words"), [(0.62, "possibly late throttle +0.100"), (0.9, "late throttle +0.100")])
def test_what_is_only_possible_is_called_so(sure: float, words: str) -> None:
    assert ledger.Part("late_throttle", 0.1, sure).in_words == words


def test_a_cause_that_is_on_few_laps_of_a_run_is_no_less_sure_for_it() -> None:
    assert ledger.Part("late_throttle", 0.1, 0.25, "2×").in_words == "late throttle +0.100 2×"


def test_the_tooltip_tells_each_cause_as_a_sentence(filled: ledger.LedgerModel, comparison: Comparison) -> None:
    number = next(i for i, c in enumerate(comparison.laps[0].corners) if c.findings)
    tip = filled.index(number, ledger.BAR).data(Qt.ItemDataRole.ToolTipRole)
    found = comparison.laps[0].corners[number].findings[0]
    assert sentence(found.kind, found.measure) in tip
    assert "Unexplained" in tip


def test_the_sum_says_that_it_balances(filled: ledger.LedgerModel, comparison: Comparison) -> None:
    tip = filled.rows[-1].tooltip
    assert tip.count(difference(comparison.laps[0].gap_s)) == 2


def test_cells_read_aloud_name_their_corner(filled: ledger.LedgerModel) -> None:
    assert filled.index(1, ledger.GAP).data(Qt.ItemDataRole.AccessibleTextRole).startswith("2: ")


def test_rows_are_found_by_corner(filled: ledger.LedgerModel) -> None:
    assert filled.row_of(3) == 2
    assert filled.row_of(None) is None
    assert filled.row_of(99) is None


def test_a_model_has_no_rows_below_a_row(filled: ledger.LedgerModel) -> None:
    parent = filled.index(0, 0)
    assert filled.rowCount(parent) == 0
    assert filled.columnCount(parent) == 0
    assert filled.rowCount(QModelIndex()) > 0


def test_the_bars_scale_holds_the_longest_side(filled: ledger.LedgerModel) -> None:
    for side, room in zip((-1, 1), filled.span_s(), strict=True):
        longest = max(sum(max(side * p.seconds, 0.0) for p in r.parts) for r in filled.rows[:-1])
        assert room >= longest


def test_only_losses_stand_out(equal_comparison: Comparison) -> None:
    rows = ledger.rows_of(equal_comparison.laps[0], METRIC)
    assert all(r.gap_s > r.sigma_s for r in rows if r.worst)


def laps_model() -> laps.LapsModel:
    spans = (
        LapSpan(0, 0.0, 30.0, 900.0, complete=False, why="out lap: it does not begin at the line"),
        LapSpan(1, 30.0, 120.5, 3900.0, complete=True),
        LapSpan(2, 120.5, 210.0, 3901.0, complete=True),
    )
    notes = LapSheet(((1, LapNote("traffic", note="held up")),))
    pieces = ((), (30.1, 30.2, 30.2), (29.5, 30.0, 30.0))
    session = ops.add_run(Session(), Run(1, "first", "/x/first.csv", spans, notes=notes, pieces=pieces))
    model = laps.LapsModel()
    chosen = ops.choose_reference(session, LapKey(1, 2))
    model.show(laps.rows_of(chosen, chosen.runs[0]))
    return model


def test_the_laps_model_keeps_qt_s_rules(qtmodeltester: ModelTester) -> None:
    qtmodeltester.check(laps_model())


@pytest.mark.parametrize(
    ("row", "texts"),
    [
        (0, ["", "0", "0:30.000", "", "", "", "", "out lap", ""]),
        (1, ["compared", "1", "1:30.500", "+1.000", "30.100", "30.200", "30.200", "traffic", "held up"]),
        (2, ["reference", "2", "1:29.500", "best", "29.500", "30.000", "30.000", "complete", ""]),
    ],
)
def test_laps_are_told_with_time_and_reason(row: int, texts: list[str]) -> None:
    model = laps_model()
    assert [model.index(row, c).data() for c in range(model.columnCount())] == texts


def test_only_notes_can_be_typed() -> None:
    model = laps_model()
    assert model.flags(model.index(1, laps.NOTE)) & Qt.ItemFlag.ItemIsEditable
    assert not model.flags(model.index(1, laps.TIME)) & Qt.ItemFlag.ItemIsEditable


def test_the_best_pieces_are_of_laps_that_count() -> None:
    assert [r.best_pieces for r in laps_model().rows[1:]] == [(False, False, False), (True, True, True)]


def test_the_same_number_of_rows_keeps_the_selection(qtbot: object) -> None:
    model = laps_model()
    resets: list[int] = []
    model.modelReset.connect(lambda: resets.append(1))
    model.show(list(model.rows))
    assert resets == []
    model.show(model.rows[:2])
    assert resets == [1]


@pytest.fixture(scope="module")
def panels(comparison: Comparison) -> dict[str, Panel]:
    return panels_of(comparison, METRIC, SETS["car"])


@pytest.mark.parametrize(
    ("name", "unit"),
    [("gap", "s"), ("speed", "km/h"), ("brake", "bar"), ("throttle", "%"), ("steering", "deg"), ("gear", "")],
)
def test_each_panel_has_its_unit_in_its_title(panels: dict[str, Panel], name: str, unit: str) -> None:
    assert panels[name].unit == unit
    assert panels[name].title_and_unit[1] == unit


def test_other_units_change_the_lines(comparison: Comparison, panels: dict[str, Panel]) -> None:
    other = panels_of(comparison, IMPERIAL, SETS["car"])
    metric, imperial = panels["speed"].lap, other["speed"].lap
    assert metric is not None
    assert imperial is not None
    assert imperial.at(500.0) == pytest.approx(metric.at(500.0) * 0.621371, rel=1e-4)
    assert other["brake"].unit == "psi"


def test_the_gap_panel_ends_with_the_gap(panels: dict[str, Panel], comparison: Comparison) -> None:
    line = panels["gap"].lap
    assert line is not None
    assert line.at(comparison.road.length_m) == pytest.approx(comparison.laps[0].gap_s)


def test_flags_stand_on_their_curves(panels: dict[str, Panel]) -> None:
    for name in ("speed", "brake", "throttle", "steering"):
        panel = panels[name]
        assert panel.flags
        assert panel.lap is not None
        for place, value in panel.lap_flags:
            assert value == pytest.approx(panel.lap.at(place))


def test_bounds_follow_what_is_seen_but_pedals_keep_their_span(panels: dict[str, Panel]) -> None:
    whole, piece = panels["speed"].bounds(0.0, 3000.0), panels["speed"].bounds(100.0, 160.0)
    assert piece[1] - piece[0] < whole[1] - whole[0]
    assert panels["throttle"].bounds(0.0, 3000.0) == panels["throttle"].bounds(100.0, 160.0)


def test_the_gap_s_bounds_hold_zero(panels: dict[str, Panel]) -> None:
    low, high = panels["gap"].bounds(1000.0, 1200.0)
    assert low <= 0.0 <= high


def test_a_channel_that_is_missing_says_so(comparison: Comparison) -> None:
    panel = panels_of(comparison, METRIC, ["lean"])["lean"]
    assert panel.unit == "not logged"
    assert panel.empty
    assert panel.bounds(0.0, 100.0) == (panel.low, panel.high)


def test_the_whole_reason_is_in_the_tooltip() -> None:
    model = laps_model()
    tips = [model.index(row, laps.STATE).data(Qt.ItemDataRole.ToolTipRole) for row in (0, 1)]
    assert tips[0] == "out lap: it does not begin at the line"
    assert tips[1].startswith("does not count: traffic")


def braked(passage: Passage, unit: str, full: float) -> Passage:
    """A passage whose brake was logged in another unit, up to another value."""
    return replace(passage, brake=replace(passage.brake, unit=unit, rest=0.0, full=full))


def test_a_softer_foot_looks_softer(comparison: Comparison) -> None:
    lap = comparison.laps[0]
    two = replace(
        comparison,
        reference=braked(comparison.reference, "%", 29.9),
        laps=(replace(lap, passage=braked(lap.passage, "%", 37.7)),),
    )
    panel = panels_of(two, METRIC, ["brake"])["brake"]
    assert panel.unit == "%"
    assert [round(float(line.y.max())) for line in panel.lines] == pytest.approx([30, 38], abs=2)


def test_a_percentage_is_of_the_hardest_press_of_all(comparison: Comparison) -> None:
    panel = panels_of(comparison, replace(METRIC, pressure="%"), ["brake"])["brake"]
    assert "hardest" in panel.title_and_unit[1]
    assert max(float(line.y.max()) for line in panel.lines) == pytest.approx(100.0)


@pytest.mark.parametrize("height", [14.0, 40.0, 90.0, 200.0])
def test_scales_say_where_off_and_full_are_and_count_gears(panels: dict[str, Panel], height: float) -> None:
    told = {}
    for name in SETS["car"]:
        strip = Strip(panels[name], 0.0, height, *panels[name].bounds(0.0, 4000.0))
        numbers = numbers_of(strip)
        assert len(numbers) >= 2, name
        assert all(strip.low <= v <= strip.high for v, _ in numbers)
        assert len({text for _, text in numbers}) == len(numbers), "each number is told from the next"
        told[name] = [text for _, text in numbers]
    assert {"0", "100"} <= set(told["throttle"])
    assert told["brake"][0] == "0"
    assert all(text.isdecimal() for text in told["gear"])


def test_a_corner_s_gap_begins_at_nought(panels: dict[str, Panel]) -> None:
    moved = since(panels["gap"], 700.0, "3")
    assert moved.lap is not None
    assert moved.lap.at(700.0) == pytest.approx(0.0, abs=1e-12)
    assert moved.title_and_unit == ("gap in 3", "s")


def test_a_motorcycle_shows_both_brakes_and_its_lean(comparison: Comparison) -> None:
    log = comparison.reference.lap.log
    names = ("speed", "throttle", "brake_front", "brake_rear", "lean", "rpm", "oil")
    channel = log.channels["speed"]
    lap = Lap(replace(log, channels={"time": log.channels["time"], **dict.fromkeys(names, channel)}), LAP)
    assert sensible("motorcycle", [lap]) == ("gap", "speed", "brake_front", "brake_rear", "throttle", "lean")
    assert {"rpm", "oil", "brake"} <= set(offered([lap]))


def test_what_was_not_logged_takes_no_panel(comparison: Comparison) -> None:
    log = comparison.reference.lap.log
    bare = Lap(replace(log, channels={n: log.channels[n] for n in ("time", "speed")}), LAP)
    assert sensible("car", [bare]) == ("gap", "speed", "brake", "throttle")
