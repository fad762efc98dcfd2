"""Drawings of the guide: to scale, inside their box, with words that can do no harm."""

from __future__ import annotations

from xml.etree import ElementTree as ET

import numpy as np
import pytest

from jete.core.guide.plans import Plan
from jete.report.drawings import Drawing, Words, map_drawing, plan_drawing, svg_of, trace_drawing


@pytest.fixture
def plan() -> Plan:
    along = np.linspace(0.0, 200.0, 51)
    turned = np.clip((along - 100.0) / 60.0, 0.0, 1.0) * 1.6
    path = np.cumsum(4.0 * np.stack([np.cos(turned), np.sin(turned)], axis=1), axis=0)
    speed = 160.0 - 0.5 * np.minimum(along, 120.0)
    return Plan(
        place_m=along,
        path_m=path,
        speed_kmh=speed,
        brake=np.where(along < 90.0, 0.8, 0.0),
        throttle=np.where(along > 130.0, 1.0, 0.0),
        apex_m=125.0,
        brake_m=20.0,
        pickup_m=135.0,
    )


def points(drawing: Drawing) -> np.ndarray:
    return np.array([p for line in drawing.lines for p in line.points])


def test_a_plan_begins_upwards_and_stays_in_its_box(plan: Plan) -> None:
    drawing = plan_drawing(plan, None, "6")
    assert drawing is not None
    road = np.array(drawing.lines[0].points)
    assert road[0, 1] > road[10, 1]
    assert abs(road[10, 0] - road[0, 0]) < 1.0
    inside = points(drawing)
    assert inside.min() >= 0.0
    assert inside[:, 0].max() <= drawing.width
    assert inside[:, 1].max() <= drawing.height


def test_a_left_bend_is_drawn_to_the_left(plan: Plan) -> None:
    drawing = plan_drawing(plan, None, "6")
    assert drawing is not None
    road = np.array(drawing.lines[0].points)
    assert road[-1, 0] < road[0, 0] - 5.0


def test_where_it_brakes_is_a_full_bar_and_where_it_picks_up_an_open_one(plan: Plan) -> None:
    drawing = plan_drawing(plan, None, "6")
    assert drawing is not None
    bars = [line.filled for line in drawing.lines if len(line.points) == 5]
    assert bars == [True, False]


def test_without_a_path_there_is_no_plan_but_a_trace(plan: Plan) -> None:
    bare = Plan(
        place_m=plan.place_m,
        path_m=None,
        speed_kmh=plan.speed_kmh,
        brake=None,
        throttle=None,
        apex_m=125.0,
        brake_m=None,
        pickup_m=None,
    )
    assert plan_drawing(bare, None, "6") is None
    words = [w.text for w in trace_drawing(bare, "6").words]
    assert "km/h" in words
    assert "brake" not in words


def test_a_trace_counts_from_the_apex(plan: Plan) -> None:
    drawing = trace_drawing(plan, "6")
    ticks = {w.text: w.x for w in drawing.words if w.anchor == "middle"}
    assert list(ticks) == ["−100", "−50", "apex", "+50"]
    assert ticks["apex"] - ticks["−50"] == pytest.approx(ticks["−50"] - ticks["−100"])


def test_a_map_is_to_scale_with_north_up() -> None:
    square = np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 200.0], [0.0, 200.0]])
    drawing = map_drawing(square, [("1", 100.0, 200.0)])
    (a, b, c, _) = drawing.lines[0].points
    assert c[1] < b[1]
    assert (b[1] - c[1]) / (b[0] - a[0]) == pytest.approx(2.0)


def test_words_in_svg_are_escaped() -> None:
    drawing = Drawing('a "name" <b>', 100.0, 50.0, (), (Words(1.0, 2.0, "<script>alert(1)</script>"),))
    tree = ET.fromstring(svg_of(drawing))
    assert tree.get("aria-label") == 'a "name" <b>'
    assert tree[0].text == "<script>alert(1)</script>"
