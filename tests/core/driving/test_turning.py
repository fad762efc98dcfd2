"""Where the wheel begins to turn: ramps whose beginning is known."""

from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.driving.turning import turn_in

TIME = np.arange(0.0, 8.0, 0.05)


def turned(angle: np.ndarray | None, previous_s: float = 0.0) -> float | None:
    """Turn-in of a wheel's angle in a corner whose apex is passed at 6 s, and that begins to count at 1 s."""
    passage = SimpleNamespace(centred_steering=None if angle is None else (TIME, angle))
    return turn_in(passage, SimpleNamespace(before_s=1.0, previous_s=previous_s, apex_s=6.0))  # type: ignore[arg-type]


@pytest.mark.parametrize("side", [1.0, -1.0])
@pytest.mark.parametrize("begins", [2.0, 3.52])
def test_an_even_turn_begins_where_its_edge_meets_straight_ahead(begins: float, side: float) -> None:
    angle = side * 0.8 * np.clip((TIME - begins) / 1.5, 0.0, 1.0)
    assert turned(angle) == pytest.approx(begins, abs=0.05)


def test_a_correction_before_it_is_not_the_turn_in() -> None:
    flick = 0.6 * np.exp(-(((TIME - 2.0) / 0.15) ** 2))
    assert turned(flick + 0.8 * np.clip((TIME - 4.0) / 1.0, 0.0, 1.0), previous_s=2.6) == pytest.approx(4.0, abs=0.06)


def test_without_steering_there_is_no_turn_in() -> None:
    assert turned(None) is None
