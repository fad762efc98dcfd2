"""From shares of time to findings: a cause, its cost, its mark, and whether it is real."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from math import erf, hypot, sqrt
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.doubt import Doubt
    from jete.core.marks import Marks
    from jete.core.profile import Anchors

Kind = Literal[
    "carried_speed",
    "early_braking",
    "late_braking",
    "soft_braking",
    "hard_braking",
    "overslowing",
    "more_speed",
    "coasting",
    "late_throttle",
    "early_throttle",
    "throttle_hesitation",
    "slow_exit",
    "fast_exit",
]

GRAVITY_MPS2 = 9.80665
LEAST_S = 0.006
SURE_SIGMAS = 2.5
LEAST_MOVE_M = 1.5
GIANT_S = 0.2
GIANT_GAPS = 3.0
LEAST_EXIT_KMH = 0.3
LEAST_SLOW_KMH = 0.4
LOGGED_SHARE = 0.3


@dataclass(frozen=True)
class Finding:
    """One cause at one corner; ``loss_s`` positive where the lap lost by it.

    ``measure`` in ``unit`` is how far the lap's mark lies from the reference's;
    ``confidence`` how likely it is that noise alone would have shown less.
    """

    kind: Kind
    loss_s: float
    at_m: float
    measure: float
    unit: str
    text: str
    confidence: float


@dataclass(frozen=True)
class _Moved:
    """A mark's difference, and whether it is more than the marks' own uncertainty."""

    kind: Kind
    at_m: float
    measure: float
    unit: str
    real: bool


@dataclass(frozen=True)
class Pair:
    """Both laps at one corner: marks and anchors, and the speeds at the window's ends (m/s).

    ``drive_kmh`` is the largest difference of the speeds after the pick-up.
    ``misfit_s`` is what the profiles of both laps miss of the gap; ``logged_kmh`` the
    difference of the lowest speeds as logged where the lines were not seen by positions.
    """

    marks: tuple[Marks, Marks]
    anchors: tuple[Anchors, Anchors]
    brake_shift_m: float
    arrival_mps: tuple[float, float]
    leaving_mps: tuple[float, float]
    drive_kmh: float
    coast_s: tuple[float, float]
    start_m: float
    end_m: float
    doubt: Doubt
    misfit_s: float
    logged_kmh: float | None = None


def findings_of(pair: Pair, shares: dict[str, float], gap_s: float) -> list[Finding]:
    """The real ones among the causes, dearest first.

    Args:
        pair: both laps at the corner.
        shares: seconds by factor of :mod:`jete.core.hybrid`.
        gap_s: of the window.
    """
    found = []
    for factor, loss in shares.items():
        moved = _MOVED[factor](pair)
        floor = max(LEAST_S, SURE_SIGMAS * pair.doubt.cost_s[factor], pair.misfit_s)
        if moved.real and abs(loss) >= floor and loss * _LOSES[moved.kind](moved.measure) >= 0.0:
            sure = confidence(loss, float(hypot(pair.doubt.cost_s[factor], 0.5 * LEAST_S)))
            text = sentence(moved.kind, moved.measure)
            found.append(Finding(moved.kind, loss, moved.at_m, moved.measure, moved.unit, text, sure))
    return sorted(_fewest(found, gap_s), key=lambda f: -abs(f.loss_s))


def confidence(loss_s: float, sigma_s: float) -> float:
    """Share of a normal error with a standard deviation that lies within a loss, 0 to 1.

    >>> round(confidence(0.02, 0.01), 3)
    0.954
    """
    return erf(abs(loss_s) / (sigma_s * sqrt(2.0)))


def _fewest(found: list[Finding], gap_s: float) -> list[Finding]:
    """Leave out, smallest first, what leaves more of the gap unexplained than it explains.

    Two causes that only undo each other within the error of the profiles go this way.
    """
    kept = sorted(_without_giants(_without_undone(found), gap_s), key=lambda f: abs(f.loss_s))
    for f in list(kept):
        rest = gap_s - sum(k.loss_s for k in kept)
        if abs(rest + f.loss_s) < abs(rest):
            kept.remove(f)
    return kept


_PICKUP: frozenset[Kind] = frozenset({"late_throttle", "early_throttle"})
_DIPS: frozenset[Kind] = frozenset({"throttle_hesitation"})
_DRIVE: frozenset[Kind] = frozenset({"slow_exit", "fast_exit"})
_BRAKE_POINT: frozenset[Kind] = frozenset({"early_braking", "late_braking"})
_BRAKING: frozenset[Kind] = frozenset({"soft_braking", "hard_braking"})
# Causes that both hang on where one mark was seen, and the share of the lesser that must be left of both.
_TOGETHER = (
    (_PICKUP, _DRIVE, 0.2),
    (_PICKUP, _DIPS, 0.2),
    (_DIPS, _DRIVE, 0.5),
    (_BRAKE_POINT, _BRAKING, 0.2),
)


def _without_giants(found: list[Finding], gap_s: float) -> list[Finding]:
    """Without two causes, each many times the gap, that all but cancel: a mark was read at two different places."""
    for one, other in itertools.combinations(found, 2):
        lesser = min(abs(one.loss_s), abs(other.loss_s))
        if lesser > max(GIANT_S, GIANT_GAPS * abs(gap_s)) and abs(one.loss_s + other.loss_s) < 0.2 * lesser:
            return _without_giants([f for f in found if f not in (one, other)], gap_s)
    return found


def _without_undone(found: list[Finding]) -> list[Finding]:
    """Without two causes that hang on one mark and whose losses all but cancel."""
    for one, other, share in _TOGETHER:
        pair = [next((f for f in found if f.kind in kinds), None) for kinds in (one, other)]
        if pair[0] is None or pair[1] is None:
            continue
        first, second = pair[0].loss_s, pair[1].loss_s
        if abs(first + second) < share * min(abs(first), abs(second)):
            found = [f for f in found if f not in pair]
    return found


def _arrival(pair: Pair) -> _Moved:
    change = 3.6 * (pair.arrival_mps[1] - pair.arrival_mps[0])
    return _Moved(
        "carried_speed", pair.start_m, change, "km/h", abs(change) >= 0.5 + _unsure_kmh(pair, pair.arrival_mps[0])
    )


def _unsure_kmh(pair: Pair, speed_mps: float) -> float:
    """What a speed on a straight may be off by: only an inferred one is unsure."""
    return SURE_SIGMAS * 3.6 * pair.doubt.speed * speed_mps


def _moved_m(sigma_m: float) -> float:
    """What a mark must have moved by to be another one."""
    return max(LEAST_MOVE_M, SURE_SIGMAS * sigma_m)


def _brake_point(pair: Pair) -> _Moved:
    reference, lap = pair.marks
    shift = pair.brake_shift_m
    on = (reference.onset_m, lap.onset_m)
    measure = on[1] - on[0] if on[0] is not None and on[1] is not None else shift
    kind: Kind = "early_braking" if shift < 0.0 else "late_braking"
    real = (
        abs(shift) > max(1.0, pair.doubt.brake_m)
        and measure * shift > 0.0
        and abs(measure) > _moved_m(pair.doubt.brake_m)
    )
    at = on[1] if on[1] is not None else pair.anchors[1].brake_m
    return _Moved(kind, at, measure, "m", real)


def _braking(pair: Pair) -> _Moved:
    change = (pair.anchors[1].braking_mps2 - pair.anchors[0].braking_mps2) / GRAVITY_MPS2
    both = all(m.brake_on_m is not None for m in pair.marks)
    kind: Kind = "soft_braking" if change < 0.0 else "hard_braking"
    return _Moved(
        kind,
        pair.anchors[1].brake_m,
        change,
        "g",
        both
        and abs(change)
        >= 0.01 + (0.01 + SURE_SIGMAS * pair.doubt.braking) * pair.anchors[0].braking_mps2 / GRAVITY_MPS2,
    )


def _slowest(pair: Pair) -> _Moved:
    change = 3.6 * (sqrt(2.0 * pair.anchors[1].least) - sqrt(2.0 * pair.anchors[0].least))
    kind: Kind = "overslowing" if change < 0.0 else "more_speed"
    unsure = SURE_SIGMAS * pair.doubt.pace * pair.marks[0].min_speed_kmh
    real = abs(change) >= LEAST_SLOW_KMH + unsure
    if pair.logged_kmh is not None:
        # A line that was only inferred must not make most of a difference in speed.
        real = real and pair.logged_kmh * change >= LOGGED_SHARE * change**2
    return _Moved(kind, pair.marks[1].slow_point_m, change, "km/h", real)


def _coasting(pair: Pair) -> _Moved:
    change = pair.coast_s[1] - pair.coast_s[0]
    return _Moved("coasting", pair.anchors[1].released_m, change, "s", abs(change) >= 0.05)


def _pickup(pair: Pair) -> _Moved:
    on = [m.throttle_on_m for m in pair.marks]
    change = on[1] - on[0] if on[0] is not None and on[1] is not None else 0.0
    kind: Kind = "late_throttle" if change > 0.0 else "early_throttle"
    return _Moved(kind, pair.anchors[1].pickup_m, change, "m", abs(change) >= _moved_m(pair.doubt.pickup_m))


def _dips(pair: Pair) -> _Moved:
    change = pair.anchors[1].own_dips - pair.anchors[0].own_dips
    return _Moved("throttle_hesitation", pair.anchors[1].pickup_m, float(change), "dips", change != 0)


def _drive(pair: Pair) -> _Moved:
    change = 3.6 * (pair.leaving_mps[1] - pair.leaving_mps[0])
    if change * pair.drive_kmh <= 0.0 or abs(change) < LEAST_EXIT_KMH:
        # At the end of a long straight, or where the lap brakes earlier, the speeds have met again.
        change = pair.drive_kmh
    kind: Kind = "slow_exit" if change < 0.0 else "fast_exit"
    return _Moved(kind, pair.anchors[1].pickup_m, change, "km/h", abs(change) >= LEAST_EXIT_KMH)


_MOVED = {
    "arrival": _arrival,
    "brake_point": _brake_point,
    "braking": _braking,
    "slowest": _slowest,
    "coasting": _coasting,
    "pickup": _pickup,
    "dips": _dips,
    "drive": _drive,
}


def _either(_: float) -> float:
    return 0.0


# Whether a measure can but lose (+) or gain (−); pedal points can do either.
_LOSES: dict[Kind, Callable[[float], float]] = {
    "carried_speed": lambda kmh: -kmh,
    "early_braking": _either,
    "late_braking": _either,
    "soft_braking": lambda g: -g,
    "hard_braking": lambda g: -g,
    "overslowing": lambda kmh: -kmh,
    "more_speed": lambda kmh: -kmh,
    "coasting": lambda longer_s: longer_s,
    "late_throttle": _either,
    "early_throttle": _either,
    "throttle_hesitation": lambda dips: dips,
    "slow_exit": lambda kmh: -kmh,
    "fast_exit": lambda kmh: -kmh,
}


def sentence(kind: Kind, measure: float) -> str:
    """One sentence on what the lap did, for people; sizes without sign.

    >>> sentence("early_braking", -9.04)
    'Braked 9 m before the reference.'
    """
    size = abs(measure)
    faster = measure > 0.0
    return {
        "carried_speed": f"Arrived {size:.1f} km/h {'faster' if faster else 'slower'} from the exit before.",
        "early_braking": f"Braked {size:.0f} m before the reference.",
        "late_braking": f"Braked {size:.0f} m past the reference.",
        "soft_braking": f"Braked softer by {size:.2f} g over the braking.",
        "hard_braking": f"Braked harder by {size:.2f} g over the braking.",
        "overslowing": f"Slowed {size:.1f} km/h more than the reference.",
        "more_speed": f"Kept {size:.1f} km/h more at the slow point.",
        "coasting": f"On neither pedal {size:.2f} s {'longer' if faster else 'less'}.",
        "late_throttle": f"Picked up the throttle {size:.0f} m later.",
        "early_throttle": f"Picked up the throttle {size:.0f} m earlier.",
        "throttle_hesitation": _dips_sentence(measure),
        "slow_exit": f"Left {size:.1f} km/h slower, for another cause than the pick-up.",
        "fast_exit": f"Left {size:.1f} km/h faster, for another cause than the pick-up.",
    }[kind]


def _dips_sentence(measure: float) -> str:
    count = round(abs(measure))
    times = "once" if count == 1 else f"{count} times"
    return (
        f"Came off the throttle again {times}."
        if measure > 0
        else f"Fed the throttle without {count} of the reference's lifts."
    )
