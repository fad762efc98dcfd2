"""Shares of causes in a difference: the mean over all orders in which they can be exchanged.

The Shapley value (1953, "A value for n-person games", Annals of Mathematics Studies
28:307): the shares add up to the difference exactly, and no order is privileged.
"""

from __future__ import annotations

from functools import cache
from math import factorial
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray, IntArray

Player = tuple[int, ...]


def shares_of(times_s: FloatArray, players: tuple[Player, ...]) -> FloatArray:
    """Shares of each player in the time between reference and lap on S stretches, seconds, (p, S).

    Args:
        times_s: of every mixture, (2,) * k + (S,), one axis for each factor: 0 as the
            reference has it, 1 as the lap has it.
        players: the factors (axes) that are exchanged together, every one in one player.

    Two factors that change together are one cause, whatever each would have done alone:

    >>> times = np.array([[[0.0], [5.0]], [[5.0], [4.0]]])
    >>> shares_of(times, ((0,), (1,))).tolist(), shares_of(times, ((0, 1),)).tolist()
    ([[2.0], [2.0]], [[4.0]])
    """
    flat = times_s.reshape(-1, times_s.shape[-1])
    return shapley_values(flat[_mixtures(players, times_s.ndim - 1)])


@cache
def _mixtures(players: tuple[Player, ...], factors: int) -> IntArray:
    """The mixture of factors that each mixture of players is, (2^p,)."""
    bits = np.array([sum(1 << (factors - 1 - axis) for axis in player) for player in players])
    chosen = np.arange(2 ** len(players))[:, None] >> np.arange(len(players))[::-1] & 1
    return np.asarray(chosen @ bits)


def shapley_values(times_s: FloatArray) -> FloatArray:
    """Shapley value of each of p players, from a table of all mixtures on S stretches, (2^p, S), (p, S).

    The first player counts most in the order of the rows.

    >>> shapley_values(np.array([[0.0], [1.0], [3.0], [4.0]])).tolist()
    [[3.0], [1.0]]
    """
    index, weights = _orders(len(times_s).bit_length() - 1)
    gains = times_s[index[:, 1]] - times_s[index[:, 0]]
    return np.asarray(np.einsum("pos,o->ps", gains, weights))


@cache
def _orders(k: int) -> tuple[IntArray, FloatArray]:
    """For each of k players: the mixtures without and with it (k, 2, 2^(k-1)), and the weights of the steps."""
    mixtures = np.arange(2**k).reshape((2,) * k)
    index = np.stack([np.moveaxis(mixtures, player, 0).reshape(2, -1) for player in range(k)])
    sizes = np.array([i.bit_count() for i in range(2 ** (k - 1))])
    weights = np.array([factorial(s) * factorial(k - 1 - s) / factorial(k) for s in range(k)])
    return index, weights[sizes]
