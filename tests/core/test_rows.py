"""Rows of equations over neighbouring unknowns, against dense matrices."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.numeric.banded import Rows

RNG = np.random.default_rng(11)
SIZE = 14


def dense(rows: Rows) -> np.ndarray:
    out = np.zeros((len(rows.first), SIZE))
    columns = rows.first[:, None] + rows.stride * np.arange(rows.values.shape[1])
    out[np.arange(len(out))[:, None], columns] = rows.values
    return out


def drawn() -> Rows:
    return Rows(RNG.integers(0, SIZE // 2 - 3, 30), RNG.normal(size=(30, 3)))


@pytest.mark.parametrize("rows", [drawn(), drawn().by_turns(0), drawn().by_turns(1)], ids=["plain", "first", "second"])
def test_products_are_the_dense_ones(rows: Rows) -> None:
    unknowns, weights = RNG.normal(size=(SIZE, 2)), RNG.uniform(0.5, 2.0, 30)
    assert rows.times(unknowns) == pytest.approx(dense(rows) @ unknowns)
    assert rows.pulled(SIZE, weights) == pytest.approx(dense(rows).T @ weights)


@pytest.mark.parametrize("rows", [drawn(), drawn().by_turns(1)], ids=["plain", "by turns"])
def test_the_band_is_that_of_the_normal_matrix(rows: Rows) -> None:
    weights = RNG.uniform(0.5, 2.0, 30)
    normal = dense(rows).T @ (weights[:, None] * dense(rows))
    band = np.zeros(SIZE * SIZE)
    found = rows.band(SIZE, weights)
    band[: len(found)] = found
    for below, diagonal in enumerate(band.reshape(SIZE, SIZE)):
        assert diagonal[: SIZE - below] == pytest.approx(np.diagonal(normal, -below))


def test_two_sets_by_turns_do_not_touch() -> None:
    rows = drawn()
    assert not np.any(dense(rows.by_turns(0))[:, 1::2])
    assert not np.any(dense(rows.by_turns(1))[:, 0::2])
