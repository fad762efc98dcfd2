"""The Corner page as a hand uses it: traces, table, map, shapes, passes, two ways."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace
from typing import TYPE_CHECKING, Literal

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from jete.app.theme import THEMES
from jete.core.causes.kinds import Kind
from jete.main import Application
from jete.report.corner import mark_rows
from jete.report.units import METRIC, signed
from jete.session import operations as ops
from jete.session.state import LapKey
from jete.views.above.plan import Plan
from known_laps import a_pass

if TYPE_CHECKING:
    from collections.abc import Iterator

    from pytestqt.qtbot import QtBot

    from jete.core.causes.verdict.result import CornerLoss


@pytest.fixture
def page(landmarked: Application, qtbot: QtBot) -> Application:
    """The demo's pair with its circuit's landmarks, on the page Corner."""
    landmarked.store.look_at(lambda s: ops.select_corner(ops.go_to_page(s, "corner"), 1))
    qtbot.waitUntil(lambda: landmarked.store.road is not None and landmarked.tasks.idle, timeout=20000)
    return landmarked


def named(app: Application) -> str:
    comparison = app.store.comparison
    return comparison.corners[0].name if comparison is not None else ""


def loss(app: Application) -> CornerLoss:
    found = app.window.page("corner").loss()
    assert found is not None
    return found


def all_passes(app: Application, qtbot: QtBot, count: int = 16) -> None:
    def there() -> bool:
        return app.store.passes is not None and len(app.store.passes.passes) == count and app.tasks.idle

    qtbot.waitUntil(there, timeout=60000)


def test_the_head_says_what_the_corner_is_and_what_it_is_worth(page: Application) -> None:
    corner = page.window.page("corner")
    assert corner.title.text().startswith("1 Harbour · right · +")
    assert corner.worth.text().startswith("entry corner: 9")
    assert "1 km/h more, kept: 0.0" in corner.worth.text()
    assert corner.hazards.text() == "Careful: the harbour wall is close on the way out (left)."


def test_the_table_tells_places_from_landmarks_with_the_metres_under_them(page: Application) -> None:
    table = page.window.page("corner").marks.table
    rows = {table.item(k, 0).text(): [table.item(k, c).text() for c in range(1, 5)] for k in range(table.rowCount())}
    (_, reference), (words, lap) = (cell.split("\n") for cell in rows["brake"][:2])
    assert words.endswith(("150 board", "200 board"))
    assert rows["brake"][2] == f"{signed(int(lap.removesuffix(' m')) - int(reference.removesuffix(' m')), 0)} m"
    assert rows["lowest speed"][2] == signed(
        round(loss(page).lap_marks.min_speed_kmh, 1) - round(loss(page).reference_marks.min_speed_kmh, 1), 1
    )


def test_metres_alone_where_a_person_wants_them(page: Application, qtbot: QtBot) -> None:
    qtbot.keyClick(page.window, "e")
    assert "\n" not in page.window.page("corner").marks.table.item(1, 1).text()
    qtbot.keyClick(page.window, "e")
    assert "\n" in page.window.page("corner").marks.table.item(1, 1).text()


def test_sentences_and_table_hold_the_corners_gap(page: Application) -> None:
    corner = loss(page)
    costs = sum(r.cost_s for r in mark_rows(corner, None, METRIC))
    carried = sum(f.loss_s for f in corner.findings if f.kind == "carried_speed")
    assert costs + carried + corner.unexplained_s == pytest.approx(corner.gap_s, abs=1e-9)


def test_each_mark_has_a_pair_of_flags_with_the_metres_between(page: Application) -> None:
    pairs = {title: (a, b) for title, a, b in page.window.page("corner").traces.pairs()}
    assert pairs["brake"] == (loss(page).reference_marks.brake_on_m, loss(page).lap_marks.brake_on_m)
    assert list(pairs) == ["lift", "brake", "turn-in", "release", "slowest", "pick-up", "flat out"]


def test_the_straight_is_compressed_and_a_click_still_finds_its_place(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.select_corner(s, 6))
    traces = page.window.page("corner").traces
    window = loss(page).window
    assert traces.along(window.end_m) - traces.along(window.end_m - 50.0) < 25.0
    assert traces.place_of(traces.along(window.end_m - 30.0)) == pytest.approx(window.end_m - 30.0)
    place = loss(page).corner.apex_m - 20.0
    x = traces.frame().x(traces.along(place))
    qtbot.mouseClick(traces, Qt.MouseButton.LeftButton, pos=QPoint(round(x), traces.height() // 2))
    assert page.store.session.look.place_m == pytest.approx(place, abs=1.5)


def test_the_running_gap_begins_at_nought(page: Application) -> None:
    gap = next(p for p in page.window.page("corner").traces.shown_panels() if p.name == "gap")
    assert gap.lap is not None
    assert gap.lap.at(page.window.page("corner").traces.along(loss(page).window.start_m)) == pytest.approx(
        0.0, abs=1e-9
    )


def test_keys_go_from_corner_to_corner_and_all_of_the_page_follows(page: Application, qtbot: QtBot) -> None:
    qtbot.keyClick(page.window, "n")
    assert page.window.page("corner").title.text().startswith("2 Marram")
    assert page.window.page("corner").traces.pairs()[0][0] in ("lift", "brake")
    qtbot.keyClick(page.window, "b")
    assert page.window.page("corner").title.text().startswith("1 Harbour")


def test_the_map_says_how_far_the_lines_lie_apart(page: Application) -> None:
    road = page.store.road
    assert road is not None
    assert not road.drawn.schematic
    assert road.drawn.told_edges
    assert re.fullmatch(r"lap \d\.\d m further (left|right)", page.window.page("corner").above.words())


def test_a_landmark_that_is_dragged_tells_the_brake_point(page: Application, qtbot: QtBot) -> None:
    above, road = page.window.page("corner").above, page.store.road
    assert road is not None
    assert road.circuit is not None
    board = next(m for m in road.circuit.book.landmarks if m.text == "150")
    brake = loss(page).lap_marks.brake_on_m
    assert brake is not None
    view, drawn = above.view(), above._drawn()
    assert view is not None
    assert drawn is not None
    start = above._spot(view, drawn, board)
    x, y = (float(v[0]) for v in view.px(*(np.array([c]) for c in drawn.point(brake + 5.0))))
    qtbot.mousePress(above, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for share in (0.5, 1.0):
        at = start + (QPointF(x, y) - start) * share
        qtbot.mouseMove(above, at.toPoint())
    qtbot.mouseRelease(above, Qt.MouseButton.LeftButton, pos=QPointF(x, y).toPoint())

    def told() -> str:
        return page.window.page("corner").marks.table.item(1, 2).text().split("\n")[0]

    qtbot.waitUntil(lambda: told().endswith("before 150 board") and int(told().split()[0]) < 12, timeout=10000)
    assert int(told().split()[0]) == pytest.approx(5, abs=2)
    page.store.undo()
    qtbot.waitUntil(lambda: int(told().split()[0]) > 12 or "200" in told(), timeout=10000)


@pytest.mark.parametrize(("end", "name", "by"), [("start", "start_m", 12.0), ("end", "end_m", 15.0)])
def test_an_end_of_the_corner_is_dragged_along_the_road(
    page: Application, qtbot: QtBot, end: Literal["start", "end"], name: str, by: float
) -> None:
    above = page.window.page("corner").above
    before = getattr(loss(page).corner, name)
    view, drawn = above.view(), above._drawn()
    assert view is not None
    assert drawn is not None
    knobs = [view.across(drawn, place)[1] for place in (above._ends()[end], before + by)]
    qtbot.mousePress(above, Qt.MouseButton.LeftButton, pos=knobs[0].toPoint())
    for share in (0.5, 1.0):
        qtbot.mouseMove(above, (knobs[0] + (knobs[1] - knobs[0]) * share).toPoint())
    qtbot.mouseRelease(above, Qt.MouseButton.LeftButton, pos=knobs[1].toPoint())
    qtbot.waitUntil(lambda: getattr(loss(page).corner, name) != before, timeout=10000)
    assert getattr(loss(page).corner, name) == pytest.approx(before + by, abs=4.0)
    page.store.undo()
    qtbot.waitUntil(lambda: getattr(loss(page).corner, name) == pytest.approx(before, abs=0.01), timeout=10000)


def test_a_click_on_the_map_sets_the_place(page: Application, qtbot: QtBot) -> None:
    above, road = page.window.page("corner").above, page.store.road
    view = above.view()
    assert road is not None
    assert view is not None
    place = loss(page).corner.start_m - 30.0
    x, y = (round(float(v[0])) for v in view.px(*(np.array([c]) for c in road.drawn.point(place))))
    qtbot.mouseClick(above, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    assert page.store.session.look.place_m == pytest.approx(place, abs=3.0)


def test_shapes_say_how_both_press_and_feed(page: Application) -> None:
    panels = page.window.page("corner").shapes.panels
    assert [p.title.split()[0] for p in panels] == ["brake", "throttle", "steering", "engine", "grip"]
    press = panels[0].figures
    assert all("turn-in" in f and "trail" in f for f in press)
    assert all("of the grip shown" in f for f in panels[-1].figures)


def test_all_passes_are_dots_and_a_dot_that_is_clicked_is_compared(page: Application, qtbot: QtBot) -> None:
    corner = page.window.page("corner")
    for _ in range(2):
        qtbot.keyClick(page.window, "d")
    assert corner.beside.chosen == "All passes"
    all_passes(page, qtbot)
    for scope, count in (("run", 8), ("class", 16)):
        corner.passes.scope.setCurrentIndex(corner.passes.scope.findData(scope))
        corner.passes.scope.activated.emit(0)
        assert corner.passes.count.text() == f"{count} passes"
    corner.passes.dots.grab()
    at, kept = next(p for p in corner.passes.dots._points if p[1].run == 1 and p[1].lap == 6)
    before = page.store.session.choice.lap
    qtbot.mouseClick(corner.passes.dots, Qt.MouseButton.LeftButton, pos=at.toPoint())
    chosen = page.store.session.choice.lap
    assert chosen is not None
    assert chosen != before
    near = {(p.run, p.lap) for q, p in corner.passes.dots._points if (q - at).manhattanLength() < 9.0}
    assert (chosen.run, chosen.lap) in near | {(kept.run, kept.lap)}


def test_dots_can_be_walked_by_key(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.display(s, beside="passes", scope="class"))
    all_passes(page, qtbot)
    dots = page.window.page("corner").passes.dots
    dots.grab()
    dots.setFocus()
    qtbot.keyClick(dots, Qt.Key.Key_Down)
    qtbot.keyClick(dots, Qt.Key.Key_Down)
    assert "lap" in dots.accessibleDescription()
    qtbot.keyClick(dots, Qt.Key.Key_Return)
    kept = dots._points[1][1]
    assert LapKey(kept.run, kept.lap) in (page.store.session.choice.lap, page.store.session.choice.reference)


def test_the_corner_over_time_has_a_row_a_run_with_its_set_up_and_a_row_leads_to_its_quickest_pass(
    page: Application, qtbot: QtBot
) -> None:
    for number in (1, 2):
        page.shelf.notebook.note_run(number, replace(page.store.session.runs[number - 1].sheet, condition="dry"))
    page.store.look_at(lambda s: ops.display(s, beside="over_time", scope="season", dots=("whole_s", "brake_on_m")))
    all_passes(page, qtbot)
    panel = page.window.page("corner").passes
    rows = panel.over_time.rows
    assert [r.of.run for r in rows] == [1, 2]
    assert panel.count.text() == "16 passes"
    for row in rows:
        own = [p.numbers.brake_on_m for p in page.store.passes.passes if p.run == row.of.run]
        assert row.of.value.middle == pytest.approx(float(np.median(own)))
    assert ["road dry" in r.beside for r in rows] == [True, False], "only what has changed since the run before"
    quickest = min((p for p in page.store.passes.passes if p.run == 2), key=lambda p: p.numbers.whole_s)
    for _ in range(2):
        qtbot.keyClick(panel.over_time, Qt.Key.Key_Down)
    assert rows[1].title in panel.over_time.accessibleDescription()
    qtbot.keyClick(panel.over_time, Qt.Key.Key_Return)
    assert page.store.session.choice.lap == LapKey(2, quickest.lap)


def test_a_tag_parts_the_passes_in_two_ways(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.display(s, beside="ways", ways="tag", scope="class"))
    all_passes(page, qtbot)
    words = page.window.page("corner").passes.words
    assert "No way is told yet." in words.text()
    for lap in range(1, 9):
        tag = "late apex" if lap % 2 else "early apex"
        for run in (1, 2):
            page.shelf.notebook.note_pass((run, lap, 1), tag, "")
    page.passes.read_again()
    qtbot.waitUntil(lambda: "early apex: 8 passes (filled), late apex: 8 (open)." in words.text(), timeout=10000)


def test_a_tag_is_typed_and_undone(page: Application, qtbot: QtBot) -> None:
    all_passes(page, qtbot)
    dialog = page.window.circuit.ask_for_tag()
    assert dialog is not None
    qtbot.keyClicks(dialog.tag.lineEdit(), "tried third")
    qtbot.keyClick(dialog, Qt.Key.Key_Return)

    def tags() -> set[str]:
        return {p.tag for p in page.store.passes.passes if p.tag} if page.store.passes is not None else set()

    qtbot.waitUntil(lambda: tags() == {"tried third"}, timeout=10000)
    page.store.undo()
    qtbot.waitUntil(lambda: tags() == set(), timeout=10000)


def test_without_a_pair_the_page_says_what_to_do(empty: Application) -> None:
    empty.store.look_at(lambda s: ops.go_to_page(s, "corner"))
    assert "open the demo" in empty.window.page("corner").worth.text()
    assert empty.window.page("corner").marks.table.rowCount() == 0
    empty.window.grab()


@pytest.mark.parametrize("size", [(1024, 700), (1920, 1080)])
def test_the_page_is_painted_at_any_size_and_in_the_dark(page: Application, size: tuple[int, int]) -> None:
    page.window.resize(*size)
    page.store.look_at(lambda s: ops.display(s, theme="dark"))
    QApplication.processEvents()
    for number in range(1, 13):
        page.store.look_at(lambda s, n=number: ops.select_corner(s, n))
        page.window.grab()


def test_metres_count_from_the_landmark_one_brakes_by(page: Application, qtbot: QtBot) -> None:
    traces, road = page.window.page("corner").traces, page.store.road
    assert road is not None
    assert road.circuit is not None
    qtbot.keyClick(page.window, "d", Qt.KeyboardModifier.ShiftModifier)
    told = road.circuit.told(loss(page).reference_marks.slowing_m or 0.0)
    assert told is not None
    assert traces._piece is not None
    assert traces._piece.origin_m == told.landmark.circuit_m
    assert traces._origin_words.endswith("board")
    traces.grab()
    qtbot.keyClick(page.window, "d", Qt.KeyboardModifier.ShiftModifier)
    assert traces._piece.origin_m == loss(page).corner.apex_m


def test_the_ledger_tells_the_brake_points_from_the_seat_too(page: Application) -> None:
    page.store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    words = page.window.page("ledger").driven.text()
    assert "Brakes " in words
    assert "the 150 board" in words
    page.store.look_at(lambda s: ops.display(s, by_landmark=False))
    assert "board" not in page.window.page("ledger").driven.text()


def test_two_ways_are_compared_at_the_runs_end_too() -> None:
    from jete.library.pass_book import KeptPass
    from jete.views.corner.passes import _at_the_end, _compared

    chance = np.random.default_rng(6)
    both = []
    for run in range(1, 9):
        for lap in range(1, 13):
            second = (lap + run) % 2 == 0
            # The second way is as quick at first, and a tenth slower once the tyres are warm through.
            time = 20.0 + 0.1 * (second and lap > 8) + float(chance.normal(0.0, 0.02))
            one = a_pass(window_s=time, whole_s=time, gear=3 if second else 2, brushes=1)
            both.append((KeptPass(run, lap, one), "gear 3" if second else "gear 2"))
    counts, late = _compared(_at_the_end(both), "gear 3")
    assert counts == (16, 16)
    assert late is not None
    assert late.verdict == "told"
    assert late.difference_s == pytest.approx(0.1, abs=0.025)


def plans_with_marks(page: Application) -> Iterator[Plan]:
    """The plan of each corner with its marks, while it can still be painted into."""
    above = page.window.page("corner").above
    for number in range(1, 13):
        page.store.look_at(lambda s, n=number: ops.select_corner(s, n))
        view, drawn, image = above.view(), above._drawn(), QImage(above.size(), QImage.Format.Format_ARGB32)
        assert view is not None
        assert drawn is not None
        painter = QPainter(image)
        plan = Plan(painter, next(iter(THEMES.values())), view, drawn)
        plan.marks(loss(page))
        yield plan
        painter.end()


def test_letters_and_names_on_the_map_do_not_cover_each_other(page: Application) -> None:
    for plan in plans_with_marks(page):
        plan.landmarks(
            [(QPointF(200.0, 80.0), "cone"), (QPointF(204.0, 84.0), "post"), (QPointF(350.0, 80.0), "kerb")], 360
        )
        assert len(plan.taken) >= 7
        for a, b in itertools.combinations(plan.taken, 2):
            assert not a.intersects(b)


def test_marks_stand_where_there_is_room_and_nothing_is_cut_off(page: Application) -> None:
    corner = page.window.page("corner")
    for size, roomy in (((1280, 800), False), ((1024, 700), False), ((1920, 1080), True)):
        page.window.resize(*size)
        QApplication.processEvents()
        assert corner.beside.buttons[0].isHidden() is roomy, "marks that are seen anyway are not offered"
        assert corner.beside.chosen == ("Shapes" if roomy else "Marks")
        assert corner.above.height() >= 0.5 * corner.traces.height()
        for number in (1, 5, 9):
            page.store.look_at(lambda s, n=number: ops.select_corner(s, n))
            QApplication.processEvents()
            table = corner.marks.table
            assert table.isVisible()
            assert table.height() >= min(table.maximumHeight(), 300)


def test_from_above_goes_with_the_travel_to_the_right_or_upwards(page: Application) -> None:
    above = page.window.page("corner").above
    for number in range(1, 13):
        page.store.look_at(lambda s, n=number: ops.select_corner(s, n))
        view, drawn, piece = above.view(), above._drawn(), above.piece()
        assert view is not None
        assert drawn is not None
        assert piece is not None
        (x0, x1), (y0, y1) = view.px(*np.array([drawn.point(place) for place in piece]).T)
        assert max(x1 - x0, y0 - y1) > 0.0
        assert min(abs(x1 - x0), abs(y1 - y0)) < 0.05 * max(abs(x1 - x0), abs(y1 - y0)), "level, or upright"


@pytest.mark.parametrize("speed", ["km/h", "mph"])
def test_what_a_lower_speed_would_cost_multiplies_as_it_stands_and_the_rest_is_told(
    page: Application, speed: str
) -> None:
    page.store.look_at(lambda s: ops.display(s, speed=speed))
    told = 0
    for number in range(1, 13):
        page.store.look_at(lambda s, n=number: ops.select_corner(s, n))
        words = page.window.page("corner").worth.text()
        found = re.search(rf"([\d.]+) {speed} less, kept, would cost ([\d.]+) s: ([\d.]+) s of it", words)
        if found is None:
            continue
        less, kept, rest = (float(g) for g in found.groups())
        worth = re.search(r"([\d.]+) s at the slow point", words)
        cost = next(f.loss_s for f in loss(page).findings if f.kind is Kind.OVERSLOWING)
        assert worth is not None
        assert kept == pytest.approx(less * float(worth[1]), abs=0.00051)
        assert kept - rest == pytest.approx(round(cost, 3), abs=1e-9)
        told += 1
    assert told >= 2


def test_letters_of_marks_stand_beside_the_road(page: Application) -> None:
    on_road = [plan._on_road(box) > 0 for plan in plans_with_marks(page) for box in plan.taken]
    assert len(on_road) >= 80
    assert sum(on_road) <= 0.1 * len(on_road)
