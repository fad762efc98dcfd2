"""Films beside the data as hands use them: chosen, tied, followed both ways, lost and found."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from jete.core.walk.film import Tie
from jete.main import Application
from jete.session import operations as ops
from jete.views.walk.film import FilmPanel
from made_films import make_film, number_in

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

RATE = 25
# The film begins so long before the compared lap.
LEAD_S = 1.0


@pytest.fixture(scope="session")
def filmed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return make_film(tmp_path_factory.mktemp("films") / "in-car.mp4", 1000, rate=RATE, size=(96, 54))


@pytest.fixture
def film(filmed: Path, tmp_path: Path) -> Path:
    return Path(shutil.copy(filmed, tmp_path / "in-car.mp4"))


@pytest.fixture
def walk(shelf: Application, qtbot: QtBot) -> Application:
    shelf.store.look_at(lambda s: ops.go_to(ops.go_to_page(s, "walk"), 300.0))
    qtbot.waitUntil(lambda: shelf.store.road is not None and shelf.tasks.idle, timeout=20000)
    return shelf


def panel(app: Application) -> FilmPanel:
    return app.window.page("walk").film


def frame_shown(app: Application) -> int | None:
    image = panel(app).picture.image
    if image is None:
        return None
    bits = image.constBits()
    assert bits is not None
    pixels = np.frombuffer(bits.asstring(image.sizeInBytes()), np.uint8)
    return number_in(pixels.reshape(image.height(), image.width(), 4))


def lap_s(app: Application) -> float:
    course = app.window.page("walk").player.course
    assert course is not None
    return course.time_s("lap", app.store.session.look.place_m)


def go_to_lap_time(app: Application, seconds: float) -> None:
    course = app.window.page("walk").player.course
    assert course is not None
    place = course.place_m("lap", seconds)
    app.store.look_at(lambda s: ops.go_to(s, place))


@pytest.fixture
def added(walk: Application, film: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Application:
    """The film is chosen as by a hand, and shows its beginning."""
    qtbot.keyClick(walk.window, "j", Qt.KeyboardModifier.ControlModifier)
    assert panel(walk).isVisible()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: (str(film), ""))
    qtbot.mouseClick(panel(walk).choose, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: walk.tasks.idle and frame_shown(walk) == 0, timeout=8000)
    return walk


@pytest.fixture
def tied(added: Application, qtbot: QtBot) -> Application:
    """Frame 275 is where the lap is 10 s old."""
    go_to_lap_time(added, 10.0)
    panel(added).go_to((LEAD_S + 10.0) + 0.01)
    qtbot.waitUntil(lambda: frame_shown(added) == 275, timeout=4000)
    qtbot.mouseClick(panel(added).tie, Qt.MouseButton.LeftButton)
    assert "tied at one place" in panel(added).status.text()
    return added


def test_without_a_film_it_is_said_what_to_do(walk: Application) -> None:
    walk.window.page("walk").show_left(1)
    assert "No film of this run yet" in panel(walk).picture.words
    assert panel(walk).choose.isVisible()
    assert not panel(walk).tie.isVisible()


def test_a_film_that_is_not_tied_is_moved_alone(added: Application, qtbot: QtBot) -> None:
    place = added.store.session.look.place_m
    assert "not tied" in panel(added).status.text()
    for key, frame in ((Qt.Key.Key_Right, 1), (Qt.Key.Key_Right, 2), (Qt.Key.Key_Left, 1)):
        qtbot.keyClick(added.window, key, Qt.KeyboardModifier.AltModifier)
        qtbot.waitUntil(lambda f=frame: frame_shown(added) == f, timeout=4000)
    assert added.store.session.look.place_m == place


def test_the_film_follows_the_place(tied: Application, qtbot: QtBot) -> None:
    for seconds in (30.0, 2.0, 12.5):
        go_to_lap_time(tied, seconds + 0.01)
        frame = int((LEAD_S + seconds + 0.01) * RATE)
        qtbot.waitUntil(lambda f=frame: frame_shown(tied) == f, timeout=4000)


def test_the_place_follows_the_film(tied: Application, qtbot: QtBot) -> None:
    before = lap_s(tied)
    for _ in range(5):
        turn_wheel(panel(tied), down=True)
    assert lap_s(tied) - before == pytest.approx(5 / RATE, abs=0.5 / RATE)
    qtbot.waitUntil(lambda: frame_shown(tied) == 280, timeout=4000)
    panel(tied).slider.setValue(5000)
    assert lap_s(tied) == pytest.approx(0.5 * 1000 / RATE - LEAD_S, abs=0.05)


def turn_wheel(film: FilmPanel, *, down: bool) -> None:
    centre = QPointF(film.picture.rect().center())
    event = QWheelEvent(
        centre, film.picture.mapToGlobal(centre), QPoint(), QPoint(0, -120 if down else 120),
        Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(film.picture, event)


def test_a_second_place_finds_the_films_rate(tied: Application, qtbot: QtBot) -> None:
    panel(tied).set_alone(alone=True)
    go_to_lap_time(tied, 35.0)
    panel(tied).go_to(LEAD_S + 35.0 * 1.002)
    qtbot.waitUntil(lambda: frame_shown(tied) == int((LEAD_S + 35.0 * 1.002) * RATE), timeout=4000)
    qtbot.keyClick(tied.window, "t", Qt.KeyboardModifier.AltModifier)
    film = tied.store.films[1]
    assert film is not None
    assert film.clock is not None
    assert film.clock.rate == pytest.approx(1.0028, abs=0.0017)
    assert "tied at two places, runs 0." in panel(tied).status.text()


def test_it_is_tuned_by_a_frame_and_remembered_and_undone(tied: Application, qtbot: QtBot) -> None:
    qtbot.keyClick(tied.window, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(lambda: frame_shown(tied) == 276, timeout=4000)
    run = tied.store.session.choice.lap
    assert run is not None
    kept = tied.shelf.library().films.of_run(run.run)
    assert kept is not None
    assert kept.ties == (Tie(pytest.approx(11.04, abs=0.011), kept.ties[0].log_s),)
    tied.store.undo()
    qtbot.waitUntil(lambda: frame_shown(tied) == 275, timeout=4000)


def test_all_that_was_done_is_taken_back(tied: Application) -> None:
    tied.store.undo()
    assert "not tied" in panel(tied).status.text()
    tied.store.undo()
    assert tied.store.films == (None, None)
    tied.store.redo()
    tied.store.redo()
    assert "tied at one place" in panel(tied).status.text()


def test_places_of_two_laps_are_refused_in_words(tied: Application, qtbot: QtBot) -> None:
    panel(tied).set_alone(alone=True)
    go_to_lap_time(tied, 30.0)
    panel(tied).go_to(2.0)
    qtbot.keyClick(tied.window, "t", Qt.KeyboardModifier.AltModifier)
    box = tied.window.findChild(QMessageBox)
    assert box is not None
    assert "of another lap" in box.text() + box.informativeText()


def test_a_film_that_was_moved_is_asked_for_and_found(tied: Application, film: Path, qtbot: QtBot) -> None:
    other = film.with_name("elsewhere.mp4")
    film.rename(other)
    tied.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    tied.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    qtbot.waitUntil(lambda: "in-car.mp4 is not in" in panel(tied).picture.words, timeout=4000)
    assert panel(tied).choose.text() == "Find it…"
    drop(panel(tied), other)
    qtbot.waitUntil(lambda: tied.tasks.idle and frame_shown(tied) == 275, timeout=8000)
    assert "tied at one place" in panel(tied).status.text()


def test_another_film_in_its_place_is_refused(tied: Application, film: Path, qtbot: QtBot, tmp_path: Path) -> None:
    film.unlink()
    tied.store.look_at(lambda s: ops.go_to_page(s, "laps"))
    tied.store.look_at(lambda s: ops.go_to_page(s, "walk"))
    drop(panel(tied), make_film(tmp_path / "other.mp4", 50))
    qtbot.waitUntil(lambda: tied.window.findChild(QMessageBox) is not None, timeout=8000)
    box = tied.window.findChild(QMessageBox)
    assert box is not None
    assert "another film" in box.text() + box.informativeText()


def drop(film: FilmPanel, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    how = Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(QPoint(20, 20), *how)
    QApplication.sendEvent(film.picture, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(film.picture, QDropEvent(QPointF(20, 20), *how))


def test_what_is_no_film_is_refused_and_nothing_changes(walk: Application, qtbot: QtBot, tmp_path: Path) -> None:
    walk.window.page("walk").show_left(1)
    path = tmp_path / "notes.mp4"
    path.write_text("no film")
    drop(panel(walk), path)
    qtbot.waitUntil(lambda: walk.window.findChild(QMessageBox) is not None, timeout=8000)
    assert walk.store.films == (None, None)


def test_films_of_both_laps_are_at_the_same_place(tied: Application, filmed: Path, qtbot: QtBot) -> None:
    walk = tied.window.page("walk")
    for _ in range(2):
        qtbot.keyClick(tied.window, "j")
    assert walk.reference_film.isVisible()
    walk.films.add("reference", filmed)
    qtbot.waitUntil(lambda: tied.tasks.idle and walk.reference_film.picture.image is not None, timeout=8000)
    course = walk.player.course
    assert course is not None
    at = course.time_s("reference", tied.store.session.look.place_m)
    walk.reference_film.go_to(LEAD_S + at)
    walk.reference_film.tie_here()
    go_to_lap_time(tied, 20.0)
    place = tied.store.session.look.place_m
    qtbot.waitUntil(lambda: frame_shown(tied) in (524, 525), timeout=4000)
    assert walk.reference_film.film_s == pytest.approx(LEAD_S + course.time_s("reference", place), abs=0.05)


def test_a_film_that_plays_shows_every_place_in_time(tied: Application, qtbot: QtBot) -> None:
    walk = tied.window.page("walk")
    walk.player.play()
    qtbot.wait(700)
    walk.player.pause()
    frame = int((LEAD_S + lap_s(tied)) * RATE + 0.5)
    qtbot.waitUntil(lambda: frame_shown(tied) in (frame - 1, frame), timeout=2000)
    assert frame > 288


def test_a_film_taken_off_leaves_its_file(tied: Application, film: Path) -> None:
    tied.window.run_action(tied.window.actions_by_id["film:off"].data())
    assert tied.store.films == (None, None)
    assert film.exists()
    assert panel(tied).picture.image is None


def test_a_film_that_can_not_be_found_is_left_untied(added: Application, qtbot: QtBot) -> None:
    """The stripes of this film do not turn: nothing is claimed."""
    qtbot.mouseClick(panel(added).seek, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: added.tasks.idle, timeout=20000)
    assert "Tie it by hand" in added.window.told.text()
    assert "not tied" in panel(added).status.text()
