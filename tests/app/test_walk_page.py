"""The Walk page as a hand uses it: the clock is true, no mark is passed over, keys and clicks move it."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from jete.app import settings
from jete.app.player import Player
from jete.core.walk.course import Course
from jete.main import Application
from jete.session import operations as ops
from jete.views.walk.scene import scene_of

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot


@pytest.fixture
def page(landmarked: Application, qtbot: QtBot) -> Application:
    landmarked.store.look_at(lambda s: ops.go_to(ops.go_to_page(s, "walk"), 300.0))
    qtbot.waitUntil(lambda: landmarked.store.road is not None and landmarked.tasks.idle, timeout=20000)
    return landmarked


def player(app: Application) -> Player:
    return app.window.page("walk").player


def course(app: Application) -> Course:
    found = player(app).course
    assert found is not None
    return found


def test_it_plays_true_to_the_clock_of_the_data(page: Application, qtbot: QtBot) -> None:
    walk = page.window.page("walk")
    began, start = player(page).time_s(), time.perf_counter()
    qtbot.mouseClick(walk.play, Qt.MouseButton.LeftButton)
    assert walk.play.text() == "Stop"
    qtbot.wait(900)
    player(page).pause()
    took = time.perf_counter() - start
    # What passed between the last picture and the pause is at most a few pictures.
    assert player(page).time_s() - began == pytest.approx(took, abs=0.08)
    assert page.store.session.look.place_m > 300.0


def test_half_speed_is_half_as_quick_and_a_key_changes_it(page: Application, qtbot: QtBot) -> None:
    qtbot.keyClick(page.window, ".")
    assert player(page).rate == 0.5
    assert page.window.page("walk").rate.chosen == "½"
    began, start = player(page).time_s(), time.perf_counter()
    qtbot.keyClick(page.window, Qt.Key.Key_Space)
    assert player(page).playing
    qtbot.wait(600)
    player(page).pause()
    assert player(page).time_s() - began == pytest.approx(0.5 * (time.perf_counter() - start), abs=0.06)


def test_every_mark_of_both_laps_is_stopped_at(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.go_to(s, 0.0))
    seen = []
    for _ in range(400):
        before = page.store.session.look.place_m
        qtbot.keyClick(page.window, ",", Qt.KeyboardModifier.NoModifier)
        page.window.page("walk").player.step(1)
        seen += course(page).near(page.store.session.look.place_m)
        if page.store.session.look.place_m == before:
            break
    assert {s.place_m for s in seen} == {s.place_m for s in course(page).stops if s.place_m > 0.5}


def test_the_words_say_which_mark_it_is(page: Application) -> None:
    stop = next(s for s in course(page).stops if s.words == "brake point" and s.who == "reference")
    page.store.look_at(lambda s: ops.go_to(s, stop.place_m))
    assert "brake point (reference)" in page.window.page("walk").stop.text()


def test_a_corner_is_played_over_and_over(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.select_corner(s, 6))
    corner = page.store.session.lay.corner(6)
    assert corner is not None
    player(page).set_looped(True)
    page.store.look_at(lambda s: ops.go_to(s, corner.end_m - 12.0))
    player(page).play()
    qtbot.waitUntil(lambda: page.store.session.look.place_m < corner.apex_m, timeout=4000)
    assert page.store.session.look.corner == 6
    player(page).pause()


def test_who_moves_the_place_moves_the_player(page: Application, qtbot: QtBot) -> None:
    player(page).play()
    page.store.look_at(lambda s: ops.go_to(s, 1500.0))
    qtbot.wait(60)
    assert 1500.0 <= page.store.session.look.place_m < 1530.0
    page.store.look_at(lambda s: ops.go_to_page(s, "ledger"))
    assert not player(page).playing


def test_three_seconds_back_by_one_key(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.go_to(s, 1500.0))
    before = player(page).time_s()
    qtbot.keyClick(page.window, Qt.Key.Key_Backspace)
    assert before - player(page).time_s() == pytest.approx(3.0, abs=0.01)


def test_at_the_end_of_the_lap_it_stops(page: Application, qtbot: QtBot) -> None:
    page.store.look_at(lambda s: ops.go_to(s, s.lay.length_m - 15.0))
    player(page).play()
    qtbot.waitUntil(lambda: not player(page).playing, timeout=4000)
    assert page.store.session.look.place_m == pytest.approx(page.store.session.lay.length_m, abs=0.1)


def test_the_cue_is_there_in_time_to_be_read(page: Application) -> None:
    """One and a half seconds before each brake point the cue names that corner, and where to brake."""
    comparison = page.store.comparison
    assert comparison is not None
    for loss in comparison.laps[0].corners:
        brake = loss.reference_marks.brake_on_m
        if brake is None:
            continue
        now = course(page).time_s("reference", brake) - 1.5
        place = course(page).place_m("reference", now)
        ahead = [c for c in comparison.laps[0].corners if place <= c.reference_marks.slow_point_m]
        if ahead[0] is loss:
            player(page).set_who("reference")
            assert page.window.page("walk").cue(place).startswith(f"{loss.corner.shown} {loss.corner.name}")
            assert "brake" in page.window.page("walk").cue(place)


def test_figures_say_gear_speed_gap_and_how_far_the_other_is(page: Application) -> None:
    figures = dict(page.window.page("walk").feet.figures())
    assert set(figures) >= {"km/h", "gear", "1/min", "gap s"}
    assert any(t.startswith("reference") for t in figures)


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800)])
def test_every_picture_is_painted(page: Application, size: tuple[int, int]) -> None:
    walk = page.window.page("walk")
    page.window.resize(*size)
    for what in ("who", "together", "left", "line"):
        walk.turn(what)
        for place in (0.0, 450.0, 640.0, 1500.0, 2230.0, 3900.0):
            page.store.look_at(lambda s, p=place: ops.go_to(s, p))
            page.window.grab()
    for _ in range(3):
        walk.next_right()
        page.window.grab()
    page.store.look_at(lambda s: ops.display(s, theme="dark"))
    QApplication.processEvents()
    page.window.grab()


def test_without_a_pair_it_says_what_to_do(empty: Application) -> None:
    empty.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    assert "open the demo" in empty.window.page("walk").caption.text()
    empty.window.page("walk").player.play()
    assert not empty.window.page("walk").player.playing
    empty.window.grab()


def test_the_eye_is_set_as_one_likes_and_remembered(page: Application, qtbot: QtBot) -> None:
    seat = page.window.page("walk").seat
    scene = scene_of(page.store, player(page), in_time=True)
    assert scene is not None
    before = seat.camera(scene)
    dialog = page.window.page("walk").set_eye()
    box = dialog.boxes["eye_m"]
    box.selectAll()
    qtbot.keyClicks(box, "1.60")
    qtbot.keyClick(box, Qt.Key.Key_Tab)
    dialog.boxes["view_deg"].stepUp()
    after = seat.camera(scene)
    assert after.eye.z_m - before.eye.z_m == pytest.approx(0.45)
    assert after.focal_px < before.focal_px
    assert settings.load().eye_m == 1.6
    qtbot.mouseClick(dialog.usual, Qt.MouseButton.LeftButton)
    assert page.store.session.display.eye_m == 1.15
    dialog.close()


def test_a_cue_is_in_the_guides_own_words(page: Application, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: page.store.guide is not None and page.tasks.idle, timeout=20000)
    comparison = page.store.comparison
    assert comparison is not None
    corner = comparison.laps[0].corners[0]
    assert page.guides.write(corner.corner.id, "brake", "when the post passes the mirror")
    assert corner.reference_marks.brake_on_m is not None
    page.store.look_at(lambda s: ops.go_to(s, corner.reference_marks.brake_on_m - 40.0))
    assert "brake when the post passes the mirror · gear" in page.window.page("walk").caption.text()
