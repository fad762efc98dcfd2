"""Plans on a shelf: kept, looked back on, and what they say to the next ones; on the demo's third driver."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING

import pytest

from jete.app import demo
from jete.core.errors import InputError
from jete.desk.book import book_of
from jete.desk.plan_shelf import (
    circumstances,
    look_back,
    plan_looked_back_on,
    plans_of_driver,
    taken_aims,
    with_aim,
)
from jete.desk.planned import aims_of
from jete.desk.team import team_table
from jete.library.bring_in import bring_in
from jete.library.library import Library
from jete.library.location import Location
from jete.notes.corrections import Correction
from jete.notes.sheet import LapNote
from jete.report.book import book_row, cues_words
from jete.report.review import outcome_words, review_body, review_table, shelf_document
from jete.report.team import table_document, table_text

if TYPE_CHECKING:
    from collections.abc import Iterator

    from jete.desk.plan_shelf import PlanOnShelf
    from jete.library.plan_records import PlanRecord

# Three runs are brought in and summed up; the same loop through the window is in every test run.
pytestmark = pytest.mark.long

INES, SECOND, THIRD = "ines-karlsby-run-4", "hedda-ulvik-run-2", "hedda-ulvik-run-3"


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Library]:
    """The reference, her second run with its plan, and the one after it."""
    library = Library(Location(tmp_path_factory.mktemp("plans")))
    for name in (INES, SECOND, THIRD):
        bring_in(library, demo.file_of(name), demo.RUNS[name])
    demo.note_plan(library)
    yield library
    library.close()


@pytest.fixture(scope="module")
def plan(shelf: Library) -> PlanRecord:
    (only,) = shelf.plans.all()
    return only


@pytest.fixture(scope="module")
def back(shelf: Library, plan: PlanRecord) -> PlanOnShelf:
    return look_back(shelf, plan, shelf.lap)


def test_one_was_forgotten_one_done_and_one_overdone(back: PlanOnShelf) -> None:
    assert back.found is not None
    assert back.runs == (3,)
    assert [one.came.outcome for one in back.found.aims] == ["not_done", "worked", "overdone"]
    assert [one.came.proposal for one in back.found.aims] == ["wait", "keep", "step_back"]


def test_words_say_the_same_as_marks(back: PlanOnShelf) -> None:
    assert back.found is not None
    told = [outcome_words(back.found, one, back.conditions) for one in back.found.aims]
    assert told[0] == "Not done: as asked on 0 of 8 laps."
    assert told[1].startswith("Done on ")
    assert told[1].endswith(" of 8 laps, and no slower.")
    assert told[2].startswith("Overdone: ")
    table = review_table(back.found)
    assert "it gained time" not in table
    assert "lowest speed 2." in table
    assert "km/h more" in table
    assert all(f"<b>{words}" in review_body(back.found).replace("&#39;", "'") for words in told)


def test_other_conditions_are_told_as_what_may_explain_it(shelf: Library, plan: PlanRecord) -> None:
    sheet = shelf.run(3).sheet
    shelf.note_run(3, replace(sheet, tyres="soft"))
    found = look_back(shelf, plan, shelf.lap)
    shelf.note_run(3, sheet)
    (words,) = found.conditions
    assert "soft" in words
    assert "(before: medium, new)" in words
    assert {tuple(a["explained_by"]) for a in shelf_document(found)["aims"]} == {(words,)}


def test_what_the_model_gives_is_told_apart_from_what_was_seen(back: PlanOnShelf) -> None:
    assert back.found is not None
    coasting, faster, _ = back.found.aims
    assert coasting.modelled_gap_s is None
    assert faster.modelled_gap_s is not None
    assert faster.modelled_gap_s < 0.0
    assert {mark for mark, _ in faster.beside} == {"brake_on_m", "throttle_on_m"}


def test_a_run_looks_back_on_the_plan_that_it_judges(shelf: Library, plan: PlanRecord) -> None:
    records = shelf.runs()
    assert plan_looked_back_on(3, [plan], records) == plan
    assert plan_looked_back_on(plan.run, [plan], records) == plan
    assert plan_looked_back_on(1, [plan], records) is None
    assert plans_of_driver(3, [plan], records) == (plan,)


def test_what_came_of_it_is_asked_for_by_later_plans(shelf: Library, plan: PlanRecord, back: PlanOnShelf) -> None:
    shelf.plans.note_review(plan.id, shelf_document(back))
    corners = back.found.comparison.corners if back.found is not None else ()
    given = circumstances(shelf, 3, 1, corners, race=False)
    assert [(t.measure, t.outcome) for t in given.tried][:2] == [("coast_s", "not_done"), ("min_speed_kmh", "worked")]
    shelf.plans.keep(replace(shelf.plans.all()[0], answers={"1": False}))
    assert [t.measure for t in circumstances(shelf, 3, 1, corners, race=False).tried] == ["min_speed_kmh"] * 2


def test_a_wet_road_and_a_lap_that_went_off_are_known(shelf: Library, back: PlanOnShelf) -> None:
    corners = back.found.comparison.corners if back.found is not None else ()
    record = shelf.run(3)
    shelf.note_run(3, replace(record.sheet, condition="wet"))
    shelf.note_lap(3, 4, LapNote(aside="off", reason="wide at 7, over the grass"))
    given = circumstances(shelf, 3, 1, corners, race=True)
    shelf.note_run(3, record.sheet)
    shelf.note_lap(3, 4, LapNote())
    assert (given.wet_after_dry, given.race, given.rider) == (True, True, False)
    assert {c.shown for c in corners if c.number in given.withdrawn} == {"7"}


def test_without_a_next_run_it_waits_and_asks_for_what_may_be_it(shelf: Library, plan: PlanRecord) -> None:
    sheet = shelf.run(3).sheet
    shelf.note_run(3, replace(sheet, driver=""))
    asked = look_back(shelf, plan, shelf.lap)
    shelf.remove(3)
    waiting = look_back(shelf, plan, shelf.lap)
    shelf.restore(3)
    shelf.note_run(3, sheet)
    assert (asked.found, asked.follow.asked) == (None, ((3, "who drove is not noted"),))
    assert "1 may have: choose it" in asked.why
    assert "is not here yet" in waiting.why


def test_a_person_s_word_on_the_run_counts(shelf: Library, plan: PlanRecord) -> None:
    assert look_back(shelf, replace(plan, judged_by=()), shelf.lap).found is None


def test_of_another_driver_s_laps_nothing_is_told(shelf: Library, plan: PlanRecord) -> None:
    sheet = shelf.run(3).sheet
    shelf.note_run(3, replace(sheet, driver="Tomasz Oryel"))
    found = look_back(shelf, replace(plan, judged_by=(3,)), shelf.lap)
    shelf.note_run(3, sheet)
    assert found.found is not None
    told = shelf_document(found)
    assert told["same_driver"] is False
    assert {(a["outcome"], a["proposal"], a["gained"]) for a in told["aims"]} == {("not_told", "wait", None)}
    assert told["aims"][0]["explained_by"] == ["another driver"]
    assert outcome_words(found.found, found.found.aims[0]) == "Not told: another driver drove."


def test_the_plan_of_a_run_in_the_bin_is_not_there(shelf: Library, plan: PlanRecord) -> None:
    shelf.remove(plan.run)
    gone = shelf.plans.all(), look_back(shelf, plan, shelf.lap).why
    shelf.restore(plan.run)
    assert gone == ([], "The run it was made on is in the bin.")
    assert [p.id for p in shelf.plans.all()] == [plan.id]


def test_a_plan_that_was_thrown_away_comes_back_under_its_number(shelf: Library) -> None:
    (kept,) = shelf.plans.all()
    shelf.plans.drop(kept.id)
    assert shelf.plans.all() == []
    shelf.plans.note_review(kept.id, {})
    assert shelf.plans.keep(kept) == kept


def test_an_aim_left_out_is_not_judged(plan: PlanRecord) -> None:
    assert [aim.number for aim in taken_aims(with_aim(plan, 2, taken=False))] == [1, 3]


def test_an_aim_follows_its_corner_or_says_that_it_ended(plan: PlanRecord, back: PlanOnShelf) -> None:
    assert back.found is not None
    corners = back.found.comparison.corners
    aim = aims_of(plan.document, "the plan")[1]
    here = aim.corner_in(corners)
    assert here is not None
    middle = (aim.at_m or 0.0) - 5.0
    halves = [replace(here, end_m=middle), replace(here, id=None, start_m=middle)]
    assert aim.corner_in(halves) == halves[1]
    assert aim.corner_in([c for c in corners if c.number != here.number]) is None


def test_the_coach_s_table_has_a_row_a_driver_and_a_way_to_each_cell(shelf: Library) -> None:
    found = team_table(shelf, shelf.circuits.places()[0])
    assert [row.driver for row in found.rows] == ["Ines Karlsby", "Hedda Ulvik"]
    assert found.group == "endurance"
    document = table_document(found)
    slower = document["drivers"][1]["corners"]
    assert {c["learn_from"] for c in slower} <= {"Ines Karlsby", None}
    assert sum(c["lost_s"] for c in slower) == pytest.approx(document["drivers"][1]["lost_s"])
    run, lap = (int(x) for x in slower[0]["best_lap"].split(":")[1:])
    assert shelf.run(run).sheet.driver == "Hedda Ulvik"
    assert any(s.number == lap for s in shelf.run(run).laps)
    assert "Hedda Ulvik: 1: " in table_text(found)
    with pytest.raises(InputError, match="who drove"):
        team_table(shelf, shelf.circuits.places()[0], "motorcycles")


def test_the_logbook_tells_what_was_tried_in_which_run_and_which_cues_worked(
    shelf: Library, plan: PlanRecord, back: PlanOnShelf
) -> None:
    shelf.plans.keep(replace(plan, answers={}))
    shelf.plans.note_review(plan.id, shelf_document(back))
    struck = Correction("wind", None, "calm", "west", datetime(2026, 5, 3, tzinfo=UTC))
    book = book_of(3, shelf.runs(), shelf.plans.all(), {2: (struck,)})
    assert (book.driver, [e.run.id for e in book.entries]) == ("Hedda Ulvik", [2, 3])
    first, second = book.entries
    assert first.tried == ()
    assert [t.outcome for t in second.tried] == ["not_done", "worked", "overdone"]
    assert second.together_s is not None
    assert second.best_s is not None
    assert second.together_s <= second.best_s
    counts = {c.kind: (c.worked, c.of) for c in book.cues}
    assert counts == {"a speed": (2, 2), "the pedals": (0, 1)}
    assert "wind: calm, corrected to west on 2026-05-03" in book_row(first)[8]
    assert "7: done (2.0 km/h more" in book_row(second)[7]
    assert "2 of 2 that began with a speed (42 to 100 %)" in cues_words(book)
