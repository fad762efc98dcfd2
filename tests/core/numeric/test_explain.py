"""The fewest causes that explain a gap."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.numeric.explain import NEVER, Share, explain

PLAIN = Share(0.0, 0.03, 9.0)


def shares(*seconds: float) -> list[Share]:
    return [PLAIN._replace(share_s=s) for s in seconds]


def test_what_noise_would_do_has_no_cause() -> None:
    assert explain(shares(0.03, -0.02, 0.01), 0.02, 0.01, 0.006) == {}


def test_a_sure_gap_goes_to_the_cause_that_has_most_of_it() -> None:
    costs = explain(shares(0.06, 0.02, 0.01), 0.09, 0.01, 0.006)
    assert list(costs) == [0]
    assert costs[0].loss_s == pytest.approx(0.06 + 0.03 * 0.9)


def test_two_causes_that_both_cost_are_both_told() -> None:
    assert set(explain(shares(0.2, 0.01, 0.15), 0.36, 0.01, 0.006)) == {0, 2}


def test_a_loss_and_a_gain_in_one_corner_are_both_told() -> None:
    costs = explain(shares(0.25, -0.2), 0.05, 0.01, 0.006)
    assert costs[0].loss_s > 0.0 > costs[1].loss_s


def test_the_rest_goes_to_the_share_that_is_least_sure() -> None:
    costs = explain([Share(0.2, 0.04, 9.0), Share(0.2, 0.02, 9.0)], 0.46, 0.001, 0.006)
    assert costs[0].loss_s - 0.2 == pytest.approx(4.0 * (costs[1].loss_s - 0.2))
    assert sum(c.loss_s for c in costs.values()) == pytest.approx(0.46, abs=1e-4)


def test_a_cause_whose_mark_has_not_moved_is_never_told() -> None:
    assert explain([Share(0.3, 0.01, NEVER)], 0.3, 0.01, 0.006) == {}
    assert list(explain([Share(0.3, 0.01, NEVER), Share(0.1, 0.03, 9.0)], 0.4, 0.01, 0.006)) == [1]


def test_a_doubtful_mark_needs_a_larger_cost() -> None:
    assert explain([Share(0.1, 0.03, 9.0)], 0.1, 0.03, 0.006)
    assert not explain([Share(0.1, 0.03, 25.0)], 0.1, 0.03, 0.006)


@pytest.mark.parametrize("must", [1.0, -1.0])
def test_a_cause_that_can_but_lose_never_gains(must: float) -> None:
    told = explain([Share(-0.2, 0.01, 9.0, must=must)], -0.2, 0.01, 0.006)
    assert bool(told) == (must < 0.0)


def test_the_sign_that_a_cause_seldom_has_needs_more() -> None:
    share = Share(-0.032, 0.01, 9.0)
    assert explain([share], -0.032, 0.03, 0.006)
    assert not explain([share._replace(mostly=1.0)], -0.032, 0.03, 0.006)


def test_no_cost_is_below_the_least() -> None:
    assert explain([Share(0.02, 0.001, 9.0)], 0.02, 0.001, 0.006)
    assert not explain([Share(0.02, 0.001, 9.0)], 0.02, 0.001, 0.03)


def test_the_stated_doubt_is_that_of_the_costs() -> None:
    rng = np.random.default_rng(3)
    errors = []
    for _ in range(400):
        noise = rng.normal(0.0, 0.03, 3)
        noise += (rng.normal(0.0, 0.01) - noise.sum()) / 3.0
        told = explain(shares(0.3 + noise[0], *noise[1:]), 0.3 + float(noise.sum()), 0.01, 0.006)
        errors.append((told[0].loss_s - 0.3) / told[0].sigma_s)
    assert float(np.std(errors)) < 1.15


def test_the_gap_alone_does_not_choose_between_two_that_are_alike() -> None:
    costs = explain(shares(0.05, 0.05), 0.1, 0.01, 0.006)
    assert sum(c.loss_s for c in costs.values()) == pytest.approx(0.1, abs=0.015)


def test_what_is_far_beyond_all_doubt_is_left_unexplained() -> None:
    costs = explain([Share(0.1, 0.01, 9.0), Share(0.0, 0.01, NEVER)], 0.5, 0.004, 0.006)
    assert costs[0].loss_s == pytest.approx(0.13, abs=0.005)
