"""What if, as a hand uses it: steps, flags that are dragged, what stays, what is not offered."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt

from jete.app import what_if_keeper
from jete.main import Application
from jete.session import operations as ops
from jete.views.corner.what_if import WhatIfPanel

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

    from jete.core.whatif.asked_for import What


LEARNT: dict[object, object] = {}


@pytest.fixture
def panel(landmarked: Application, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> WhatIfPanel:
    """The demo's pair on the page Corner, at corner 1, asking what if; a process learns the vehicle once."""
    learn = what_if_keeper._known
    monkeypatch.setattr(
        what_if_keeper, "_known", lambda key, *rest: LEARNT.get(key) or LEARNT.setdefault(key, learn(key, *rest))
    )
    store = landmarked.store
    store.look_at(lambda s: ops.display(ops.select_corner(ops.go_to_page(s, "corner"), 1), beside="what_if"))
    qtbot.waitUntil(lambda: store.what_if is not None and landmarked.tasks.idle, timeout=30000)
    return landmarked.window.page("corner").what_if


def press(panel: WhatIfPanel, qtbot: QtBot, what: What, *keys: Qt.Key) -> None:
    panel.steppers[what].setFocus()
    for key in keys:
        qtbot.keyClick(panel.steppers[what], key)


def value(panel: WhatIfPanel, what: What) -> str:
    return panel.steppers[what].value.text()


LATER, EARLIER = Qt.Key.Key_Right, Qt.Key.Key_Left


def test_it_is_the_fourth_thing_beside_the_corner(panel: WhatIfPanel) -> None:
    assert panel.isVisible()
    assert panel.answer.text() == "What if"
    assert all(value(panel, what) == "as driven" for what in panel.steppers)
    assert panel.learnt.text().startswith("Vehicle and grip learnt from ")


def test_a_step_by_key_has_its_seconds_and_what_stays(panel: WhatIfPanel, qtbot: QtBot) -> None:
    press(panel, qtbot, "brake_on_m", EARLIER, EARLIER)
    assert value(panel, "brake_on_m") == "−2 m"
    assert panel.answer.text().startswith("+0.0")
    assert panel.answer.property("told") == "loss"
    assert panel.words.text().startswith("Brake 2 m earlier and softer, same slow point. Between +0.")


def test_what_stays_can_be_chosen_and_costs_otherwise(panel: WhatIfPanel, qtbot: QtBot) -> None:
    press(panel, qtbot, "brake_on_m", EARLIER, EARLIER, EARLIER)
    softer = panel.answer.text()
    keep = panel.steppers["brake_on_m"].keep
    assert keep is not None
    qtbot.mouseClick(keep.buttons[1], Qt.MouseButton.LeftButton)
    assert "the whole slowing, as hard as before" in panel.words.text()
    assert float(panel.answer.text().split()[0]) > float(softer.split()[0])


def test_a_button_steps_too_and_all_is_taken_back(panel: WhatIfPanel, qtbot: QtBot) -> None:
    less, more = (b for b in panel.steppers["feed"].findChildren(type(panel.reset)) if b.property("step"))
    qtbot.mouseClick(more, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(more, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(less, Qt.MouseButton.LeftButton)
    assert value(panel, "feed") == "+5 %"
    qtbot.mouseClick(panel.reset, Qt.MouseButton.LeftButton)
    assert (value(panel, "feed"), panel.answer.text()) == ("as driven", "What if")


def test_past_the_grip_shown_there_are_no_seconds_and_it_is_hatched(panel: WhatIfPanel, qtbot: QtBot) -> None:
    press(panel, qtbot, "brake_on_m", *[LATER] * 20)
    assert panel.answer.text() == "Not offered"
    assert "of the grip shown here or in like corners" in panel.words.text()
    assert panel.curve.shown is not None
    assert panel.curve.shown.hatched
    assert panel.curve.shown.changed is not None


def test_a_flag_is_dragged_along_the_curve(panel: WhatIfPanel, qtbot: QtBot) -> None:
    curve = panel.curve
    assert curve.shown is not None
    what, along, speed = next(f for f in curve.shown.flags if f[0] == "brake_on_m")
    knob = curve.knob(what, curve.point(along, speed)).toPoint()
    metre = curve.point(along + 10.0, speed).x() - curve.point(along, speed).x()
    qtbot.mousePress(curve, Qt.MouseButton.LeftButton, pos=knob)
    qtbot.mouseMove(curve, knob - QPoint(round(metre / 2.0), 0))
    qtbot.mouseRelease(curve, Qt.MouseButton.LeftButton, pos=knob)
    assert value(panel, "brake_on_m") in ("−4 m", "−5 m", "−6 m")
    assert panel.answer.text().endswith(" s")


def test_the_slow_point_is_dragged_up_and_down(panel: WhatIfPanel) -> None:
    curve = panel.curve
    assert curve.shown is not None
    _, _, speed = next(f for f in curve.shown.flags if f[0] == "min_speed_kmh")
    curve.dragged.emit("min_speed_kmh", speed - 2.0)
    assert value(panel, "min_speed_kmh") == "−2.0 km/h"


def test_beside_a_flag_nothing_is_dragged(panel: WhatIfPanel, qtbot: QtBot) -> None:
    corner = QPointF(panel.curve.width() - 3.0, panel.curve.height() - 3.0).toPoint()
    qtbot.mousePress(panel.curve, Qt.MouseButton.LeftButton, pos=corner)
    qtbot.mouseMove(panel.curve, corner - QPoint(40, 0))
    assert all(value(panel, what) == "as driven" for what in panel.steppers)


def test_several_changes_have_their_seconds_alone_too(panel: WhatIfPanel, qtbot: QtBot) -> None:
    press(panel, qtbot, "brake_on_m", EARLIER)
    assert panel.steppers["brake_on_m"].seconds.text() == ""
    press(panel, qtbot, "throttle_on_m", LATER, LATER)
    alone = [panel.steppers[what].seconds.text() for what in ("brake_on_m", "throttle_on_m")]
    assert all(text.startswith("alone +0.") for text in alone)


def test_another_corner_begins_as_driven(panel: WhatIfPanel, qtbot: QtBot, landmarked: Application) -> None:
    press(panel, qtbot, "brake_on_m", EARLIER)
    landmarked.store.look_at(lambda s: ops.step_corner(s, 1))
    assert value(panel, "brake_on_m") == "as driven"


def test_in_other_units_steps_are_told_in_these(panel: WhatIfPanel, qtbot: QtBot, landmarked: Application) -> None:
    press(panel, qtbot, "brake_on_m", EARLIER)
    landmarked.store.look_at(lambda s: ops.display(s, speed="mph", length="ft"))
    assert value(panel, "brake_on_m") == "−3.3 ft"
    assert "Brake 3.28 ft earlier" in panel.words.text()


def test_where_there_is_no_room_the_steps_stay(panel: WhatIfPanel) -> None:
    panel.resize(320, 340)
    assert not panel.curve.isVisible()
    assert panel.steppers["feed"].isVisible()


@pytest.mark.parametrize(
    ("what", "by", "told"),
    [("brake_on_m", QPoint(-40, 0), "−"), ("throttle_on_m", QPoint(30, 0), "+"), ("min_speed_kmh", QPoint(0, 14), "−")],
)
def test_a_flag_is_dragged_in_the_traces(
    panel: WhatIfPanel, qtbot: QtBot, landmarked: Application, what: What, by: QPoint, told: str
) -> None:
    landmarked.store.look_at(lambda s: ops.display(s, beside="shapes"))
    traces = landmarked.window.page("corner").traces
    traces.grab()
    place = landmarked.store.session.look.place_m
    grip = traces.grip(what)
    assert grip is not None
    start = grip.toPoint()
    qtbot.mousePress(traces, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(traces, start + by)
    qtbot.mouseRelease(traces, Qt.MouseButton.LeftButton, pos=start + by)
    assert landmarked.store.session.display.beside == "what_if"
    assert value(panel, what).startswith(told)
    assert all(value(panel, other) == "as driven" for other in panel.steppers if other != what)
    assert landmarked.store.session.look.place_m == place
    assert (traces._change is None) is (panel.answer.text() == "Not offered")
    assert not traces.grab().isNull()
    qtbot.mouseClick(panel.reset, Qt.MouseButton.LeftButton)
    assert traces._change is None
