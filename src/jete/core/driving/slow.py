"""The slow point of each corner: the centre of the valley of the speed, and its depth.

It divides the lap: a corner's marks are looked for between the slow points before and
after its own (a :class:`Zone`).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.driving.passage import Passage

# 0.5 km/h: as well as most logs know a speed.
FLAT_VALLEY_MPS = 0.14
# A lap may be slowest a little before the bend.
BEFORE_SLOW_M = 15.0
# Two apexes of one corner lie farther apart than this.
SAME_APEX_M = 25.0
# Within this two apexes are as slow as each other, and chance would choose.
AS_SLOW_MPS = 0.5
# A speed that falls by less and rises again has not dipped.
LEAST_DIP_MPS = 0.3
# A foot that comes off by less has not lifted.
LIFTED = 0.3
# The parabola about the slowest sample reaches so far.
LOWEST_REACH_S = 0.35
# 3 s at 200 Hz: longer valleys are no corner's.
VALLEY_SAMPLES = 600
# A lap turns in no farther before a bend.
TURNING_M = 60.0
# What is on at the first sample may have begun before the line.
BEFORE_LINE_S = -1.0


@dataclass(frozen=True, kw_only=True)
class Zone:
    """Where to look for a corner's marks: times of the slow points before, in and after it.

    ``start_s``, ``apex_s`` and ``end_s`` are when the lap passes the bend, ``before_s`` when
    it is 60 m short of it.
    """

    corner: Corner
    previous_s: float
    slow_s: float
    next_s: float
    before_s: float
    start_s: float
    apex_s: float
    end_s: float


def zones_of(passage: Passage, corners: Sequence[Corner], like_m: Sequence[float] | None) -> list[Zone]:
    """The zone of every corner, in order.

    Args:
        passage: the lap on the reference's axis.
        corners: of the road.
        like_m: the reference's slow points: where a corner has two apexes that are as slow
            within 0.5 m/s, the slow point is the one at the apex where the reference has it.
    """
    slow = [_slow_time(passage, corners, i) for i in range(len(corners))]
    if like_m is not None:
        slow = [_as_slow_near(passage, t, place) for t, place in zip(slow, like_m, strict=True)]
    times = [BEFORE_LINE_S, *slow, float(passage.motion.time_s[-1])]
    places = np.array([[c.start_m - TURNING_M, c.start_m, c.apex_m, c.end_m] for c in corners])
    passed: list[list[float]] = passage.time_at(places).tolist()
    return [
        Zone(
            corner=corner, previous_s=times[i], slow_s=times[i + 1], next_s=times[i + 2],
            before_s=before, start_s=start, apex_s=apex, end_s=end,
        )
        for i, (corner, (before, start, apex, end)) in enumerate(zip(corners, passed, strict=True))
    ]  # fmt: skip


def _slow_time(passage: Passage, corners: Sequence[Corner], i: int) -> float:
    """Time of the slowest sample of a corner."""
    corner = corners[i]
    lo = corner.start_m - BEFORE_SLOW_M
    hi = corner.end_m + 0.25 * (corner.end_m - corner.start_m)
    if i:
        lo = max(lo, 0.5 * (corners[i - 1].end_m + corner.start_m), corners[i - 1].apex_m + 2.0)
    if i + 1 < len(corners):
        hi = min(hi, 0.5 * (corner.end_m + corners[i + 1].start_m))
    return _slowest(passage, lo, hi, corner.apex_m)


def _as_slow_near(passage: Passage, slow_s: float, place_m: float) -> float:
    """The slowest sample within 25 m of a place, where it is as slow as the one found; else that one."""
    place, speed = passage.alignment.place_m, passage.motion.quiet_mps
    a, b = place.searchsorted([place_m - SAME_APEX_M, place_m + SAME_APEX_M])
    if b <= a:
        return slow_s
    k = int(a) + int(speed[a:b].argmin())
    lowest = float(np.interp(slow_s, passage.motion.time_s, speed))
    far = abs(passage.place_of(slow_s) - place_m) > SAME_APEX_M
    inside = a + 1 < k < b - 2
    return float(passage.motion.time_s[k]) if far and inside and speed[k] < lowest + AS_SLOW_MPS else slow_s


def _slowest(passage: Passage, lo: float, hi: float, apex: float) -> float:
    """Time of the least speed between two places; not where it only falls into, or rises out of, another corner."""
    place, speed = passage.alignment.place_m, passage.motion.quiet_mps
    a, middle, b = place.searchsorted([lo, apex, hi]).tolist()
    b = min(max(b, a + 2), len(place))
    middle = min(max(middle, a + 1), b - 1)
    reach = max(3, (b - a) // 12)
    k = a + int(speed[a:b].argmin())
    if not a + reach < k < b - reach:
        dip = _deepest(speed[a:b])
        if dip is None and speed[b - 1] > speed[a]:
            dip = _lifted_at(passage, a, b - 1)
        k = a + dip if dip is not None else _inside(speed, a, middle, b, reach)
    return float(passage.motion.time_s[min(k, len(place) - 1)])


def _lifted_at(passage: Passage, first: int, last: int) -> int | None:
    """Where a foot is off the throttle between two samples and goes back to it, samples from the first; None where it does not.

    Who lifts and goes on gaining speed, but less, is slowest for that corner there.
    """
    throttle, time_s = passage.throttle, passage.motion.time_s
    lo, hi = throttle.time_s.searchsorted(time_s[[first, last]])
    fed = throttle.value[lo:hi]
    if throttle.inferred or len(fed) < 3:
        return None
    lowest = int(fed.argmin())
    around = min(float(fed[: lowest + 1].max()), float(fed[lowest:].max()))
    if around - fed[lowest] < LIFTED:
        return None
    off = np.flatnonzero(fed < fed[lowest] + 0.5 * LIFTED)
    return int(time_s.searchsorted(throttle.time_s[lo + off[len(off) // 2]])) - first


def _deepest(speed: FloatArray) -> int | None:
    """Where a speed (n,) is lowest against the least of what it comes from and goes on to; None where it does not dip.

    >>> _deepest(np.array([20.0, 40.0, 35.0, 33.0, 36.0, 50.0, 25.0])), _deepest(np.array([20.0, 30.0, 40.0]))
    (3, None)
    """
    before, after = np.maximum.accumulate(speed), np.maximum.accumulate(speed[::-1])[::-1]
    depth = np.minimum(before, after) - speed
    k = int(depth.argmax())
    return k if depth[k] > LEAST_DIP_MPS else None


def _inside(speed: FloatArray, a: int, middle: int, b: int, reach: int) -> int:
    """The slowest of samples ``a`` to ``b`` without the fall at their end, or the rise at their beginning."""
    k = a + int(speed[a:b].argmin())
    end = middle + int(speed[middle:b].argmax()) + 1
    if k >= b - reach:
        k = a + int(speed[a:end].argmin())
    if k <= a + reach:
        start = a + int(speed[a : middle + 1].argmax())
        k = start + int(speed[start:end].argmin())
    return k


def valley(passage: Passage, slow_s: float) -> tuple[float, float, float]:
    """Times between which a lap is as slow as it gets, and the lowest speed as logged, m/s.

    The valley is where speed is within 0.5 km/h of its least there, so a flat valley has the
    same middle whatever the noise; who only lifts on the way out of another corner came from less.
    """
    t, v = passage.motion.time_s, passage.motion.quiet_mps
    k = int(t.searchsorted(slow_s))
    inside = slice(*t.searchsorted([slow_s - LOWEST_REACH_S, slow_s + LOWEST_REACH_S]))
    lowest = _lowest(t[inside] - slow_s, passage.motion.speed_mps[inside])
    k = min(k, len(v) - 1)
    low, high = min(lowest, float(v[k])) - FLAT_VALLEY_MPS, max(lowest, float(v[k])) + FLAT_VALLEY_MPS
    before, after = v[max(0, k - VALLEY_SAMPLES) : k + 1][::-1], v[k : k + VALLEY_SAMPLES]
    left = (before >= high) | (before < low), after >= high
    reach = [int(beyond.argmax()) if beyond.any() else len(beyond) - 1 for beyond in left]
    return float(t[k - reach[0]]), float(t[k + reach[1]]), lowest


def _lowest(t: FloatArray, v: FloatArray) -> float:
    """Minimum of a parabola through the samples around the slowest, so that noise does not bias it."""
    if len(t) < 5:
        return float(v.min())
    c2, c1, c0 = parabola(t, v)
    if c2 <= 0.0 or abs(c1 / (2 * c2)) > float(np.abs(t).max()):
        return float(v.min())
    fitted = c0 - c1**2 / (4 * c2)
    rest = v - (c0 + t * (c1 + t * c2))
    scatter = float(rest @ rest / len(t)) ** 0.5
    return fitted if abs(fitted - float(v.min())) < 3.0 * scatter + 0.05 else float(v.min())


def parabola(t: FloatArray, v: FloatArray) -> tuple[float, float, float]:
    """Coefficients c2, c1, c0 of c2 t² + c1 t + c0 by least squares; t and v (n,), n ≥ 3.

    By orthogonal polynomials (Forsythe 1957, J. SIAM 5:74), which needs no matrix.
    """
    middle = float(t.mean())
    p1 = t - middle
    spread = float(p1 @ p1)
    skew, mean_square = float(p1 @ p1**2) / spread, spread / len(t)
    p2 = p1 * (p1 - skew) - mean_square
    c2, slope = float(v @ p2) / float(p2 @ p2), float(v @ p1) / spread
    b, c = slope - c2 * skew, float(v.mean()) - c2 * mean_square
    return c2, b - 2.0 * c2 * middle, c - b * middle + c2 * middle**2
