"""Shares of causes in a difference: the mean over all orders in which they can be exchanged.

The Shapley value (1953, "A value for n-person games", Annals of Mathematics Studies
28:307): the shares add up to the difference exactly, and no order is privileged.
"""

from __future__ import annotations

from functools import cache
from math import factorial

import numpy as np

from jete.core.arrays import FloatArray, IntArray


def shares_of(times_s: FloatArray, least_s: float = 5e-4) -> list[tuple[dict[int, FloatArray], FloatArray]]:
    """Shares of the factors in the time between reference and lap, and the rest, seconds, at each of c corners.

    Args:
        times_s: of every mixture on S stretches of each corner, (2,) * k + (c, S), one axis for
            each factor: 0 as the reference has it, 1 as the lap has it.
        least_s: factors that change no stretch's time by more on their own, put into the
            reference or taken out of the lap, move together as the rest.

    Returns:
        Share (S,) by factor (its axis), and the rest (S,); together the last times less the first.
    """
    matters = _matter(times_s, least_s)
    return [
        _shares(times_s[..., corner, :], [i for i, does in enumerate(each) if does])
        for corner, each in enumerate(matters)
    ]


def _matter(times_s: FloatArray, least_s: float) -> list[list[bool]]:
    """Whether each factor matters alone, at either end, by corner."""
    k = times_s.ndim - 2
    ones = np.eye(k, dtype=int)
    alone = times_s[tuple(ones)] - times_s[(0,) * k]
    without = times_s[tuple(1 - ones)] - times_s[(1,) * k]
    matter: list[list[bool]] = (np.maximum(np.abs(alone), np.abs(without)).max(axis=-1) > least_s).T.tolist()
    return matter


def _shares(times_s: FloatArray, active: list[int]) -> tuple[dict[int, FloatArray], FloatArray]:
    """Shares of the active factors at one corner, and of the others together."""
    grouped = _idle_together(times_s, active)
    values = shapley_values(grouped)
    rest = values[-1] if len(values) > len(active) else np.zeros(times_s.shape[-1])
    return dict(zip(active, values, strict=False)), rest


def _idle_together(times_s: FloatArray, active: list[int]) -> FloatArray:
    """The times with all idle factors on one axis, the last but that of the stretches; without it where none is idle."""
    k = times_s.ndim - 1
    idle = [i for i in range(k) if i not in active]
    if not idle:
        return times_s
    ends = [times_s.transpose([*active, *idle, k])[(..., *(end,) * len(idle), slice(None))] for end in (0, 1)]
    return np.stack(ends, axis=-2)


def shapley_values(times_s: FloatArray) -> FloatArray:
    """Shapley value of each axis but the last of a table of all mixtures on S stretches, (2,) * k + (S,), (k, S).

    >>> shapley_values(np.array([[[0.0], [1.0]], [[3.0], [4.0]]])).tolist()
    [[3.0], [1.0]]
    """
    index, weights = _orders(times_s.ndim - 1)
    flat = times_s.reshape(-1, times_s.shape[-1])
    gains = flat[index[:, 1]] - flat[index[:, 0]]
    return np.asarray(np.einsum("kos,o->ks", gains, weights))


@cache
def _orders(k: int) -> tuple[IntArray, FloatArray]:
    """For each of k players: the mixtures without and with it (k, 2, 2^(k-1)), and the weights of the steps."""
    mixtures = np.arange(2**k).reshape((2,) * k)
    index = np.stack([np.moveaxis(mixtures, player, 0).reshape(2, -1) for player in range(k)])
    sizes = np.array([i.bit_count() for i in range(2 ** (k - 1))])
    weights = np.array([factorial(s) * factorial(k - 1 - s) / factorial(k) for s in range(k)])
    return index, weights[sizes]
