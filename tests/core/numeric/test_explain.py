"""The fewest causes that explain the curve of a gap."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.numeric.explain import NEVER, Cost, Share, explain

SIGMA_S = 0.01


def told(
    *curves: list[float], gap: list[float] | None = None, price: float = 9.0, must: float = 0.0, mostly: float = 0.0
) -> dict[int, Cost]:
    """What explains a gap (the sum of the curves unless given) that is known to 0.01 s on each stretch."""
    shares = [Share(np.array(c), price, must, mostly) for c in curves]
    whole = np.array(gap) if gap is not None else np.sum(curves, axis=0)
    return explain(shares, whole, SIGMA_S**2 * np.eye(len(whole)), 0.006)


def test_what_noise_would_do_has_no_cause() -> None:
    assert told([0.01, 0.005], [-0.01, 0.008]) == {}


def test_a_sure_gap_goes_to_the_cause_that_has_most_of_it() -> None:
    costs = told([0.1, 0.0], [0.015, 0.0])
    assert list(costs) == [0]
    assert costs[0].loss_s == pytest.approx(0.114, abs=0.002)


def test_a_loss_and_a_gain_on_other_pieces_of_road_are_both_told() -> None:
    costs = told([0.4, 0.0], [0.0, -0.4])
    assert [round(costs[i].loss_s, 2) for i in (0, 1)] == [0.4, -0.4]
    assert min(c.sure for c in costs.values()) > 0.99


def test_a_cause_that_loses_on_the_way_out_what_it_gains_on_the_way_in_is_as_sure_as_any() -> None:
    """Its sum is next to zero and of either sign; what it did is not."""
    costs = told([-0.3, 0.31], [0.02, 0.0], gap=[-0.29, 0.3])
    assert costs[0].seconds.tolist() == pytest.approx([-0.3, 0.31], abs=0.02)
    assert costs[0].sure > 0.99


def test_two_shares_that_cancel_place_by_place_are_a_mark_misread() -> None:
    assert told([0.4, 0.1], [-0.4, -0.1]) == {}


def test_no_cause_takes_of_a_piece_of_road_where_it_does_not_act() -> None:
    costs = told([0.2, 0.0], gap=[0.2, 0.15])
    assert costs[0].seconds.tolist() == pytest.approx([0.2, 0.0], abs=1e-3)


def test_what_no_cause_can_do_is_left_unexplained() -> None:
    costs = told([0.05, 0.0], gap=[0.5, 0.0])
    assert costs[0].loss_s <= 0.1


def test_a_cause_whose_mark_has_not_moved_is_never_told() -> None:
    assert told([0.3, 0.0], price=NEVER) == {}


def test_a_doubtful_mark_needs_a_larger_cost() -> None:
    assert told([0.04, 0.0])
    assert not told([0.04, 0.0], price=25.0)


@pytest.mark.parametrize("must", [1.0, -1.0])
def test_a_cause_that_can_but_lose_never_gains(must: float) -> None:
    assert bool(told([-0.2, 0.0], must=must)) == (must < 0.0)


def test_the_sign_that_a_cause_seldom_has_needs_more() -> None:
    assert told([-0.033, 0.0])
    assert not told([-0.033, 0.0], mostly=1.0)


def test_two_causes_that_are_alike_share_how_sure_they_are() -> None:
    costs = told([0.2, 0.1], [0.2, 0.1], gap=[0.2, 0.1])
    assert len(costs) == 1
    assert next(iter(costs.values())).sure == pytest.approx(0.5, abs=0.05)


def test_errors_that_go_together_are_told_from_a_cause() -> None:
    shared = np.array([0.03, -0.03])
    covariance = 0.02**2 * np.array([[1.0, -0.95], [-0.95, 1.0]])
    assert explain([Share(shared, 9.0)], shared, covariance, 0.006) == {}
    assert explain([Share(np.abs(shared), 9.0)], np.abs(shared), covariance, 0.006)
