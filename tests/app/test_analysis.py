"""From files to a comparison in the store, in the background: order, failures, stopping."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from jete.app.analysis import Analyst
from jete.app.imports import Import, ImportQueue
from jete.app.shelf import Shelf
from jete.app.store import SessionStore
from jete.app.tasks import Tasks, one_by_one
from jete.core.errors import InputError
from jete.session import operations as ops
from jete.session.state import LapKey

if TYPE_CHECKING:
    from collections.abc import Iterator

    from pytestqt.qtbot import QtBot

Pair = tuple[Path, Path]
Parts = tuple[SessionStore, ImportQueue, Tasks]


@pytest.fixture
def parts() -> Iterator[Parts]:
    store, tasks = SessionStore(), Tasks()
    shelf = Shelf(store, tasks)
    imports = ImportQueue(store, tasks, shelf)
    analyst = Analyst(store, tasks, shelf, imports)
    yield store, imports, tasks
    del analyst
    tasks.close()
    shelf.close()


def compared(parts: Parts, qtbot: QtBot, runs: int) -> None:
    store, _, tasks = parts
    qtbot.waitUntil(lambda: len(store.session.runs) == runs and tasks.idle, timeout=30000)


def test_two_files_become_two_runs_and_one_comparison(parts: Parts, pair_files: Pair, qtbot: QtBot) -> None:
    parts[1].open_files(pair_files)
    compared(parts, qtbot, 2)
    store = parts[0]
    assert [r.name for r in store.session.runs] == ["reference", "lap"]
    assert store.comparison is not None
    assert store.session.lay.length_m == pytest.approx(store.comparison.road.length_m)
    assert len(store.session.lay.corners) == len(store.comparison.corners)


def test_progress_names_the_file_and_ends_empty(parts: Parts, pair_files: Pair, qtbot: QtBot) -> None:
    seen: list[str] = []
    parts[1].progress.connect(lambda name, *_: seen.append(name))
    parts[1].open_files(pair_files)
    compared(parts, qtbot, 2)
    assert seen[0] == "reference.csv"
    assert "lap.csv" in seen
    assert seen[-1] == ""


def test_progress_goes_on_within_a_file(parts: Parts, pair_files: Pair, qtbot: QtBot) -> None:
    seen: list[tuple[int, int]] = []
    parts[1].progress.connect(lambda name, done, of: seen.append((done, of)) if name else None)
    parts[1].open_files(pair_files)
    compared(parts, qtbot, 2)
    assert any(done % 100 > 0 for done, _ in seen)
    assert [done for done, _ in seen] == sorted(done for done, _ in seen)
    assert seen[-1][0] <= seen[-1][1]


def test_what_a_stopped_reading_still_says_is_dropped(parts: Parts, pair_files: Pair, qtbot: QtBot) -> None:
    seen: list[str] = []
    parts[1].open_files([pair_files[1]])
    compared(parts, qtbot, 1)
    parts[1].open_files(pair_files)
    parts[1].cancel()
    parts[1].progress.connect(lambda name, *_: seen.append(name))
    parts[1]._read_so_far.emit(pair_files[0], 40)
    assert seen == []


def test_a_comparison_is_kept_and_comes_back_at_once(parts: Parts, pair_files: Pair, qtbot: QtBot) -> None:
    store, analyst, _ = parts
    analyst.open_files(pair_files)
    compared(parts, qtbot, 2)
    first = store.comparison
    keys = store.session.choice
    assert keys.lap is not None
    store.do("swap", lambda s: ops.choose_reference(s, LapKey(keys.lap.run, keys.lap.lap)))
    compared(parts, qtbot, 2)
    assert store.comparison is not first
    store.undo()
    assert store.comparison is first


def test_a_bad_file_between_two_good_ones_is_told_and_passed(
    parts: Parts, pair_files: Pair, tmp_path: Path, qtbot: QtBot
) -> None:
    bad = tmp_path / "bad.csv"
    bad.write_text("nothing here\n", encoding="utf-8")
    ended: list[Import] = []
    parts[1].ended.connect(ended.append)
    parts[1].open_files([pair_files[0], bad, pair_files[1]])
    compared(parts, qtbot, 2)
    assert [[o.fate for o in e.outcomes] for e in ended] == [["in", "refused", "in"]]
    assert isinstance(ended[0].outcomes[1].error, InputError)
    assert ended[0].summary == "2 logs came in · 1 refused"
    assert parts[0].comparison is not None


def test_one_good_file_and_a_bad_one_still_leave_a_choice(
    parts: Parts, pair_files: Pair, tmp_path: Path, qtbot: QtBot
) -> None:
    bad = tmp_path / "bad.csv"
    bad.write_bytes(b"")
    parts[1].open_files([pair_files[0], bad])
    compared(parts, qtbot, 1)
    assert parts[0].session.choice.reference == LapKey(1, 1)


def test_stopping_keeps_what_was_read(parts: Parts, pair_files: Pair, qtbot: QtBot) -> None:
    store, analyst, _ = parts
    analyst.open_files([pair_files[0]])
    compared(parts, qtbot, 1)
    analyst.open_files([pair_files[1]])
    analyst.cancel()
    qtbot.waitUntil(lambda: parts[2].idle, timeout=20000)
    assert len(store.session.runs) == 1


def test_work_over_many_laps_ends_with_the_lap_at_which_it_is_asked_to() -> None:
    done: list[int] = []
    with pytest.raises(InterruptedError):
        list(one_by_one(done.append, range(30), lambda: len(done) == 2))
    assert done == [0, 1]
