"""The one writer of the state, and work in the background."""

from __future__ import annotations

import threading
import time
from typing import TYPE_CHECKING

from jete.app.store import SessionStore
from jete.app.tasks import Tasks
from jete.session import operations as ops
from jete.session.state import Changed, Choice, LapKey, Lay, Session

if TYPE_CHECKING:
    from collections.abc import Iterator

    from pytestqt.qtbot import QtBot

import pytest

A, B = LapKey(1, 1), LapKey(1, 2)


@pytest.fixture
def store() -> SessionStore:
    return SessionStore(ops.lay_out(Session(), Lay(1000.0)))


@pytest.fixture
def tasks() -> Iterator[Tasks]:
    tasks = Tasks()
    yield tasks
    tasks.close()


def test_an_equal_state_says_nothing(store: SessionStore, qtbot: QtBot) -> None:
    with qtbot.assertNotEmitted(store.changed):
        store.look_at(lambda s: ops.go_to_page(s, "laps"))


def test_undo_takes_back_the_choice_and_leaves_the_look(store: SessionStore) -> None:
    store.do("choice of the reference", lambda s: ops.choose_reference(s, A))
    store.look_at(lambda s: ops.go_to(s, 300.0))
    store.undo()
    assert store.session.choice == Choice()
    assert store.session.look.place_m == 300.0


def test_redo_does_it_again_and_a_new_step_forgets_it(store: SessionStore) -> None:
    store.do("first", lambda s: ops.choose_reference(s, A))
    store.undo()
    store.redo()
    assert store.session.choice.reference == A
    store.undo()
    store.do("second", lambda s: ops.choose_reference(s, B))
    assert store.redo_text is None
    assert store.undo_text == "second"


def test_what_changes_no_choice_is_no_step(store: SessionStore) -> None:
    store.do("nothing", lambda s: ops.go_to(s, 5.0))
    assert store.undo_text is None


def test_changes_made_in_a_slot_come_in_order_to_all(store: SessionStore) -> None:
    seen: list[float] = []

    def first(session: Session, _: Changed) -> None:
        if session.look.place_m == 100.0:
            store.look_at(lambda s: ops.go_to(s, 200.0))

    def second(session: Session, _: Changed) -> None:
        seen.append(session.look.place_m)

    store.changed.connect(first)
    store.changed.connect(second)
    store.look_at(lambda s: ops.go_to(s, 100.0))
    assert seen == [100.0, 200.0]


def test_results_come_back_on_the_window_s_thread(tasks: Tasks, qtbot: QtBot) -> None:
    got: list[int] = []
    tasks.start("k", lambda _: 41 + 1, got.append, lambda _: None)
    qtbot.waitUntil(lambda: got == [42])


def test_the_latest_of_a_key_wins(tasks: Tasks, qtbot: QtBot) -> None:
    got: list[int] = []
    tasks.start("k", lambda _: time.sleep(0.1) or 1, got.append, lambda _: None)
    tasks.start("k", lambda _: 2, got.append, lambda _: None)
    qtbot.waitUntil(lambda: tasks.idle)
    assert got == [2]


def test_a_failure_is_handed_over(tasks: Tasks, qtbot: QtBot) -> None:
    failed: list[Exception] = []

    def work(_: object) -> None:
        raise ValueError("no")

    tasks.start("k", work, lambda _: None, failed.append)
    qtbot.waitUntil(lambda: len(failed) == 1)
    assert isinstance(failed[0], ValueError)


def test_cancelled_work_is_asked_to_stop_and_says_nothing(tasks: Tasks, qtbot: QtBot) -> None:
    got: list[bool] = []
    token = tasks.start(
        "k", lambda t: [time.sleep(0.01) for _ in range(30) if not t.cancelled()], got.append, lambda _: None
    )
    tasks.cancel("k")
    qtbot.waitUntil(lambda: tasks.idle)
    assert token.cancelled()
    assert got == []


def test_what_was_overtaken_while_it_waited_for_a_thread_is_not_begun(tasks: Tasks, qtbot: QtBot) -> None:
    """A switch that was turned 120 times is worked out once."""
    free, begun = threading.Event(), []
    for k in range(2):
        tasks.start(f"busy {k}", lambda _: free.wait(5), lambda _: None, begun.append)
    for k in range(120):
        tasks.start("switch", lambda _, k=k: begun.append(k), lambda _: None, begun.append)
    free.set()
    qtbot.waitUntil(lambda: tasks.idle, timeout=5000)
    assert begun == [119]
