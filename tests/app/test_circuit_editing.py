"""Corners and landmarks edited by hand: the ledger still balances, every run follows, undo takes it back."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import Qt

from jete.core.circuit.landmarks import LandmarkKind
from jete.main import Application
from jete.session import operations as ops
from known_laps import DEMO

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

    from jete.core.axis.road.corners import Corner


@pytest.fixture
def page(shelf: Application, qtbot: QtBot) -> Application:
    shelf.store.look_at(lambda s: ops.select_corner(ops.go_to_page(s, "corner"), 5))
    qtbot.waitUntil(lambda: shelf.store.road is not None, timeout=20000)
    return shelf


def corners(app: Application) -> tuple[Corner, ...]:
    return app.store.comparison.corners if app.store.comparison is not None else ()


def balances(app: Application) -> bool:
    found = app.store.comparison
    assert found is not None
    return abs(sum(c.gap_s for c in found.laps[0].corners) - found.laps[0].gap_s) < 1e-9


def count(app: Application, qtbot: QtBot, number: int) -> None:
    qtbot.waitUntil(lambda: len(corners(app)) == number and app.tasks.idle, timeout=20000)


def act(app: Application, name: str) -> None:
    app.window.actions_by_id[name].trigger()


def test_a_corner_is_split_at_the_place_and_merged_again(page: Application, qtbot: QtBot) -> None:
    fifth = corners(page)[4]
    # Where no passes are shown none are made anew.
    page.store.look_at(lambda s: ops.go_to(ops.go_to_page(s, "ledger"), fifth.apex_m - 40.0))
    act(page, "corner:split")
    count(page, qtbot, 13)
    assert [c.shown for c in corners(page)][3:7] == ["4", "5a", "5b", "6"]
    assert balances(page)
    page.store.look_at(lambda s: ops.select_corner(s, 5))
    act(page, "corner:merge")
    count(page, qtbot, 12)
    assert balances(page)
    page.store.undo()
    count(page, qtbot, 13)
    page.store.undo()
    count(page, qtbot, 12)


def test_a_place_that_splits_nothing_is_told(page: Application, monkeypatch: pytest.MonkeyPatch) -> None:
    told: list[Exception] = []
    page.shelf.failed.disconnect()
    page.shelf.failed.connect(told.append)
    page.store.look_at(lambda s: ops.go_to(s, corners(page)[4].start_m - 5.0))
    page.store.look_at(lambda s: ops.go_to(s, corners(page)[4].start_m + 1.0))
    act(page, "corner:split")
    assert "shorter than 10 m" in str(told[0])
    assert len(corners(page)) == 12


def test_a_corner_is_numbered_and_named_for_every_run(page: Application, qtbot: QtBot) -> None:
    dialog = page.window.circuit.ask_for_name()
    assert dialog is not None
    fields = dialog.fields  # type: ignore[attr-defined]
    fields["number"].selectAll()
    qtbot.keyClicks(fields["number"], "4x")
    qtbot.keyClicks(fields["name"], "Lighthouse")
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: corners(page)[4].shown == "4x", timeout=20000)
    assert page.window.page("corner").title.text().startswith("4x Lighthouse")
    lap = page.store.session.choice.lap
    page.store.do("choice", lambda s: ops.choose_reference(s, lap))
    qtbot.waitUntil(
        lambda: page.store.session.choice.reference == lap and corners(page)[4].name == "Lighthouse", timeout=20000
    )


def test_ends_move_to_the_place(page: Application, qtbot: QtBot) -> None:
    before = corners(page)[4]
    page.store.look_at(lambda s: ops.go_to(s, before.end_m + 12.0))
    page.store.look_at(lambda s: s)
    act(page, "corner:end")
    qtbot.waitUntil(lambda: abs(corners(page)[4].end_m - before.end_m - 12.0) < 0.5, timeout=20000)
    assert balances(page)
    page.store.look_at(lambda s: ops.go_to(s, before.start_m - 9.0))
    act(page, "corner:begin")
    qtbot.waitUntil(lambda: abs(corners(page)[4].start_m - before.start_m + 9.0) < 0.5, timeout=20000)


def test_a_landmark_is_dropped_where_the_laps_brake_and_taken_off(page: Application, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: page.store.passes is not None and len(page.store.passes.passes) == 16, timeout=60000)
    dialog = page.window.circuit.ask_for_landmark()
    assert dialog is not None
    spots = [dialog.where.itemText(k) for k in range(dialog.where.count())]
    assert spots[0].startswith("at the place")
    assert any(s.startswith("where 8 laps of this run braked") for s in spots)
    dialog.where.setCurrentIndex(1)
    dialog.kind.setCurrentIndex(dialog.kind.findData(LandmarkKind.CONE))
    qtbot.keyClicks(dialog.words, "second cone")
    place = float(dialog.where.currentData())
    qtbot.keyClick(dialog, Qt.Key.Key_Return)

    def marks() -> list[str]:
        road = page.store.road
        return [m.text for m in road.circuit.book.landmarks] if road is not None and road.circuit is not None else []

    qtbot.waitUntil(lambda: marks() == ["second cone"], timeout=20000)
    assert "second cone" in page.window.page("corner").marks.table.item(1, 2).text()
    page.store.look_at(lambda s: ops.go_to(s, place + 4.0))
    act(page, "landmark:off")
    qtbot.waitUntil(lambda: marks() == [], timeout=20000)
    page.store.undo()
    qtbot.waitUntil(lambda: marks() == ["second cone"], timeout=20000)


def test_hazard_and_rules_are_typed(page: Application, qtbot: QtBot) -> None:
    dialog = page.window.circuit.ask_for_hazard()
    assert dialog is not None
    qtbot.keyClicks(dialog.fields["hazard"], "wet patch")  # type: ignore[attr-defined]
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: page.window.page("corner").hazards.text() == "Careful: wet patch.", timeout=20000)
    rules = page.window.circuit.ask_for_rules()
    assert rules is not None
    qtbot.keyClicks(rules.fields["rules"], "No overtaking; lights on")  # type: ignore[attr-defined]
    qtbot.keyClick(rules, Qt.Key.Key_Return)

    def known() -> tuple[str, ...]:
        road = page.store.road
        return road.circuit.book.rules if road is not None and road.circuit is not None else ()

    qtbot.waitUntil(lambda: known() == ("No overtaking", "lights on"), timeout=20000)


def test_a_circuit_goes_out_and_comes_in(page: Application, tmp_path: Path, qtbot: QtBot) -> None:
    assert page.shelf.circuits.take_in(DEMO / "kestrel-sands.geojson")
    qtbot.waitUntil(lambda: corners(page)[0].name == "Harbour", timeout=20000)
    assert page.shelf.circuits.hand_out(tmp_path / "out.geojson")
    assert (tmp_path / "out.geojson").read_text(encoding="utf-8").count('"jete:what": "corner"') == 12
    page.store.undo()
    qtbot.waitUntil(lambda: corners(page)[0].name == "", timeout=20000)


def test_a_file_that_is_no_circuit_is_told(page: Application, tmp_path: Path) -> None:
    told: list[Exception] = []
    page.shelf.failed.disconnect()
    page.shelf.failed.connect(told.append)
    (tmp_path / "x.geojson").write_text("{}", encoding="utf-8")
    assert not page.shelf.circuits.take_in(tmp_path / "x.geojson")
    assert "no circuit" in str(told[0])


def test_one_step_leads_to_the_corner_where_a_loss_began(page: Application) -> None:
    page.store.look_at(lambda s: ops.select_corner(s, 2))
    assert page.window.page("ledger").origin() in (None, 1)
    act(page, "origin")
    assert page.store.session.look.corner in (1, 2)
