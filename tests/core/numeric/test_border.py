"""Unknowns beside a band, against the same equations written in full."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.numeric.banded import BandedLeastSquares, Rows
from jete.core.numeric.border import Border, Loose

SIZE = 30


def equations() -> tuple[BandedLeastSquares, Border, np.ndarray, np.ndarray]:
    """Random rows over four neighbours of 30 unknowns and three more; the normal matrix and right side in full."""
    rng = np.random.default_rng(5)
    first = np.repeat(np.arange(SIZE - 3), 3)
    values, beside, goal = (
        rng.normal(size=(len(first), 4)),
        rng.normal(size=(len(first), 3)),
        rng.normal(size=len(first)),
    )
    whole = np.zeros((len(first), SIZE + 3))
    for k in range(4):
        whole[np.arange(len(first)), first + k] = values[:, k]
    whole[:, SIZE:] = beside
    system = BandedLeastSquares(SIZE, 4)
    system.add(Rows(first, values), 1.0, goal)
    normal, right = whole.T @ whole, whole.T @ goal
    return system, Border(normal[:SIZE, SIZE:], normal[SIZE:, SIZE:], right[SIZE:]), normal, right


def test_the_unknowns_are_those_of_the_full_equations() -> None:
    system, border, normal, right = equations()
    reduced = border.reduced(system)
    expected = np.linalg.solve(normal, right)
    assert reduced.found() == pytest.approx(expected[SIZE:])
    assert reduced.at(reduced.found()) == pytest.approx(expected[:SIZE])


def test_two_borders_side_by_side_are_one() -> None:
    system, border, normal, right = equations()
    normal[SIZE, SIZE + 1 :] = normal[SIZE + 1 :, SIZE] = 0.0
    one = Border(border.columns[:, :1], border.own[:1, :1], border.right[:1])
    two = Border(border.columns[:, 1:], border.own[1:, 1:], border.right[1:])
    reduced = one.beside(two).reduced(system)
    expected = np.linalg.solve(normal, right)
    assert reduced.found() == pytest.approx(expected[SIZE:])
    precision, goal = reduced.without_first()
    others = np.linalg.solve(precision, goal)
    assert others == pytest.approx(expected[SIZE + 1 :])
    assert reduced.first(others) == pytest.approx(expected[SIZE])


def test_what_they_leave_open_adds_to_the_band_s_own_doubt() -> None:
    system, border, normal, _ = equations()
    full = np.linalg.inv(normal)
    extra = Loose(border.columns, full[SIZE:, SIZE:])
    wanted = np.asfortranarray(np.random.default_rng(6).normal(size=(SIZE, 2)))
    half = system.half(wanted)
    found = half.T @ half + (extra.half(system).T @ half).T @ (extra.half(system).T @ half)
    assert found == pytest.approx(wanted.T @ full[:SIZE, :SIZE] @ wanted)


def test_the_last_can_be_taken_out_with_what_was_known_of_them_beforehand() -> None:
    system, border, shared, right = equations()
    normal = shared.copy()
    known = np.diag([2.0, 3.0])
    normal[SIZE + 1 :, SIZE + 1 :] += known
    rest, covariance = border.reduced(system).without_last(known)
    expected = np.linalg.solve(normal, right)
    assert rest.found() == pytest.approx(expected[SIZE : SIZE + 1])
    assert rest.at(rest.found()) == pytest.approx(expected[:SIZE])
    # Of the last, with the first at what it is.
    without = np.delete(np.delete(normal, SIZE, axis=0), SIZE, axis=1)
    assert covariance == pytest.approx(np.linalg.inv(without)[SIZE:, SIZE:])


def test_what_several_leave_open_adds_up() -> None:
    system, border, _, _ = equations()
    parts = [Loose(border.columns[:, :1], np.array([[0.4]])), Loose(border.columns[:, 1:], np.diag([0.2, 0.3]))]
    halves = [p.half(system) for p in parts]
    both = Loose.all_of(parts)
    assert both is not None
    assert both.half(system) @ both.half(system).T == pytest.approx(sum(h @ h.T for h in halves))
    assert Loose.all_of([]) is None
