"""The page Next run as a hand uses it: cards, the way to a corner, the paddock screen, the plan as a file."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt

from jete.cli import main
from jete.main import Application
from jete.report.units import METRIC
from jete.report.words import difference
from jete.session import operations as ops
from jete.views.next.page import NextPage

if TYPE_CHECKING:
    from pathlib import Path

    from pytestqt.qtbot import QtBot


@pytest.fixture
def page(landmarked: Application, qtbot: QtBot) -> NextPage:
    """The demo's pair, gone to the page by its key."""
    qtbot.keyClick(landmarked.window, Qt.Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: landmarked.store.plan is not None and landmarked.tasks.idle, timeout=30000)
    return landmarked.window.page("next")


def test_at_most_three_cards_have_a_cue_each(page: NextPage) -> None:
    shown = [card for card in page.cards if card.isVisible()]
    assert 1 <= len(shown) <= 3
    for card in shown:
        assert card.cue.label.text()
        assert card.gain.text().startswith("−0.")
        assert card.gain.property("told") == "gain"
        assert "of 8 laps" in card.why.text() or "of 7 laps" in card.why.text()
        assert card.target.text().startswith("From ")
    assert "against " in page.of_what.text()
    assert page.passed.text().startswith("Passed over: ")


def test_a_card_leads_to_its_corner_and_asks_what_if(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    plan = landmarked.store.plan
    assert plan is not None
    qtbot.mouseClick(page.cards[0].see, Qt.MouseButton.LeftButton)
    session = landmarked.store.session
    assert (session.look.page, session.look.corner, session.display.beside) == (
        "corner",
        plan.aims[0].aim.corner,
        "what_if",
    )
    qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=30000)


def test_each_card_has_a_picture_of_its_own_corner_that_leads_there(
    page: NextPage, qtbot: QtBot, landmarked: Application
) -> None:
    plan = landmarked.store.plan
    assert plan is not None
    shown = [card for card in page.cards if card.isVisible()]
    for card, planned in zip(shown, plan.aims, strict=True):
        loss = card.picture.loss()
        assert loss is not None
        assert loss.corner.number == planned.aim.corner
        assert card.picture.view() is not None
        assert card.picture.height() >= 150
    landmarked.store.look_at(lambda s: ops.select_corner(s, 2))
    assert shown[0].picture.loss().corner.number == plan.aims[0].aim.corner, "whichever is selected"
    qtbot.mouseClick(shown[-1].picture, Qt.MouseButton.LeftButton)
    look = landmarked.store.session.look
    assert (look.page, look.corner) == ("corner", plan.aims[-1].aim.corner)
    qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=30000)


def test_the_paddock_screen_has_the_cues_and_the_cautions(page: NextPage, qtbot: QtBot) -> None:
    screen = page.show_paddock()
    assert screen is not None
    assert [c.text() for c in screen.cues] == [card.cue.label.text() for card in page.cards if card.take.isChecked()]
    assert min(c.font().pixelSize() for c in screen.cues) >= 40
    qtbot.keyClick(screen, Qt.Key.Key_F11)
    assert screen.isFullScreen()
    qtbot.keyClick(screen, Qt.Key.Key_Escape)


def test_another_lap_of_another_run_is_planned_anew(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    before, choice = landmarked.store.plan, landmarked.store.session.choice
    assert choice.reference is not None
    landmarked.store.do(
        "the other way round", lambda s: ops.choose_lap(ops.choose_reference(s, choice.lap), choice.reference)
    )
    qtbot.waitUntil(lambda: landmarked.store.plan not in (None, before) and landmarked.tasks.idle, timeout=30000)
    assert page.isVisible()


def test_a_saved_plan_is_one_that_the_command_line_reviews(
    page: NextPage, tmp_path: Path, landmarked: Application
) -> None:
    path = tmp_path / "plan.json"
    page.write_plan(path)
    document = json.loads(path.read_text(encoding="utf-8"))
    assert document["reference"]["source"].startswith("library:")
    assert document["reference"]["lap"] == landmarked.store.session.choice.reference.lap  # type: ignore[union-attr]
    location = landmarked.shelf.location
    assert location is not None
    run = f"library:{landmarked.store.session.choice.lap.run}"  # type: ignore[union-attr]
    assert main(["review", str(path), run, "--library", str(location.folder)]) == 0


def test_a_place_that_can_t_be_written_to_is_told(
    page: NextPage, qtbot: QtBot, tmp_path: Path, landmarked: Application
) -> None:
    with qtbot.waitSignal(landmarked.shelf.failed) as told:
        page.write_plan(tmp_path / "nowhere" / "plan.json")
    assert "can't be written" in str(told.args[0])


def test_without_a_pair_it_says_what_to_do(empty: Application) -> None:
    empty.store.look_at(lambda s: ops.go_to_page(s, "next"))
    page = empty.window.page("next")
    assert "Choose a reference and a lap" in page.empty.text()
    assert not any(card.isVisible() for card in page.cards)


# --- all drivers


def test_the_team_s_table_leads_to_the_comparison_there(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    qtbot.mouseClick(page.view.buttons[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.team.table.rowCount() == 2, timeout=60000)
    table = landmarked.store.team
    assert table is not None
    assert page.team.table.item(0, 0).text() == table.rows[0].driver  # type: ignore[union-attr]
    # Before anything is chosen it is told where most is lost.
    most = max(c.lost_s for c in table.rows[1].cells if c is not None and c.learn_from)
    assert difference(most) in page.team.told.text()
    corner = next(k for k, c in enumerate(table.rows[1].cells) if c is not None and c.learn_from)
    page.team.table.setCurrentCell(1, 3 + corner)
    assert f"on {table.rows[0].driver}" in page.team.told.text()
    qtbot.mouseClick(page.team.compare, Qt.MouseButton.LeftButton)
    session = landmarked.store.session
    assert (session.look.page, session.look.corner) == ("corner", corner + 1)
    runs = [session.run(k.run) for k in (session.choice.reference, session.choice.lap) if k is not None]
    assert [r.sheet.driver for r in runs if r is not None] == [table.rows[0].driver, table.rows[1].driver]
    qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=60000)


def test_each_driver_gets_a_card_with_his_own_aims(
    page: NextPage, qtbot: QtBot, landmarked: Application, tmp_path: Path
) -> None:
    qtbot.mouseClick(page.take, Qt.MouseButton.LeftButton)
    page.show_view(1)
    settled(landmarked, qtbot)
    with qtbot.waitSignal(landmarked.shelf.told, timeout=60000) as told:
        landmarked.window.page("next")._team.hand_out(tmp_path, METRIC)
    assert told.args[0].startswith("Cards of Tomasz Oryel are in ")
    assert [p.name for p in tmp_path.glob("*.pdf")] == ["next-run-tomasz-oryel.pdf"]
    page.show_view(0)


def test_the_logbook_has_a_row_a_run_and_finds_words(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    qtbot.mouseClick(page.view.buttons[2], Qt.MouseButton.LeftButton)
    assert page.book.title.text() == "Tomasz Oryel: 1 run here"
    assert page.book.table.item(0, 5).text() == "1:53.532"  # type: ignore[union-attr]
    assert "told once plans were looked back on" in page.book.cues.text()
    qtbot.keyClicks(page.book.search, "rain")
    assert page.book.table.isRowHidden(0)
    page.book.search.clear()
    assert not page.book.table.isRowHidden(0)
    page.book.table.cellActivated.emit(0, 0)
    assert landmarked.store.session.look.page == "laps"
    page.show_view(0)
    qtbot.waitUntil(lambda: landmarked.tasks.idle, timeout=60000)


# --- the plan on the shelf


def settled(application: Application, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: application.tasks.idle and not application.shelf.writer.pending, timeout=60000)


def test_a_plan_is_taken_along_and_undo_lets_it_go(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    assert page.take.text() == "Take these along"
    qtbot.mouseClick(page.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.take.text() == "Let the plan go", timeout=30000)
    (kept,) = landmarked.shelf.library().plans.all()
    assert kept.document["state"] == "open"
    assert kept.document["driver"] == "Tomasz Oryel"
    settled(landmarked, qtbot)
    assert "next run comes in" in page.hint.text()
    qtbot.keyClick(landmarked.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: landmarked.shelf.library().plans.all() == [], timeout=30000)
    settled(landmarked, qtbot)
    assert page.take.text() == "Take these along"


def test_what_a_person_chooses_and_writes_is_kept_and_offered_again(
    page: NextPage, qtbot: QtBot, landmarked: Application
) -> None:
    card = page.cards[0]
    card.cue.label.setFocus()
    qtbot.keyClick(card.cue.label, Qt.Key.Key_Return)
    card.cue.field.clear()
    qtbot.keyClicks(card.cue.field, "two cars later")
    qtbot.keyClick(card.cue.field, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: card.cue.label.text() == "Two cars later", timeout=30000)
    settled(landmarked, qtbot)
    assert card.cue.label.font().italic()
    completer = page.cards[1].cue.field.completer()
    assert completer is not None
    assert completer.completionCount() >= 1
    ticked = card.take.isChecked()
    qtbot.mouseClick(
        card.take, Qt.MouseButton.LeftButton, pos=card.take.rect().center() - card.take.rect().center() / 1.2
    )
    settled(landmarked, qtbot)
    (kept,) = landmarked.shelf.library().plans.all()
    aim = kept.document["aims"][0]
    assert (aim["typed"], aim["taken"]) == ("two cars later", not ticked)
    qtbot.mouseClick(card.cue.label, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(card.cue.field, "something else")
    qtbot.keyClick(card.cue.field, Qt.Key.Key_Escape)
    assert card.cue.label.text() == "Two cars later"


def test_another_aim_may_stand_in_its_place(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    card = page.cards[1]
    card.menu.aboutToShow.emit()
    titles = [a.text() for a in card.menu.actions() if a.text()]
    assert any("keep it as it is" in t for t in titles)
    assert any(t.startswith("Odd laps at corner ") for t in titles)
    next(a for a in card.menu.actions() if "one gear higher" in a.text()).trigger()
    qtbot.waitUntil(lambda: "one gear higher" in card.cue.label.text(), timeout=30000)
    settled(landmarked, qtbot)
    card.menu.aboutToShow.emit()
    next(a for a in card.menu.actions() if "keep it as it is" in a.text()).trigger()
    qtbot.waitUntil(lambda: card.cue.label.text().startswith("Keep it as it is"), timeout=30000)
    settled(landmarked, qtbot)
    assert page.aims[1].taken
    assert page.aims[1].judge is not None
    assert page.aims[1].judge.step == 0.0


def test_for_a_race_it_says_every_lap_and_asks_for_less(page: NextPage, qtbot: QtBot, landmarked: Application) -> None:
    before = landmarked.store.plan
    qtbot.mouseClick(page.race.buttons[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: landmarked.store.plan not in (None, before), timeout=30000)
    assert page.cards[0].cue.label.text().startswith("Every lap: ")
    qtbot.mouseClick(page.race.buttons[0], Qt.MouseButton.LeftButton)
    settled(landmarked, qtbot)


@pytest.mark.parametrize("ending", ["pdf", "html"])
def test_the_card_is_one_page_with_cues_and_cautions(page: NextPage, tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"card.{ending}"
    page.write_plan(path)
    content = path.read_bytes()
    if ending == "pdf":
        assert content.startswith(b"%PDF")
        assert content.count(b"/Type /Page\n") == 1
        return
    text = content.decode()
    data = text.partition('id="jete-data">')[2].partition("</script>")[0]
    assert json.loads(data)["schema"] == "jete.plan/1"
    assert "Closed circuits only" in text
    assert "src=" not in text
    assert "href=" not in text


def test_an_ending_that_is_no_card_is_told(
    page: NextPage, qtbot: QtBot, tmp_path: Path, landmarked: Application
) -> None:
    with qtbot.waitSignal(landmarked.shelf.failed) as told:
        page.write_plan(tmp_path / "card.docx")
    assert "is no kind of sheet" in str(told.args[0])
