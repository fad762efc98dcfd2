"""Aims from a run against a reference: the corners where most is to be had, one change each, in small steps."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from math import sqrt
from typing import TYPE_CHECKING

import numpy as np

from jete.core.aims.aim import (
    ASKS,
    LAPS_NEEDED,
    RACE_STEP,
    RACE_TOLERANCE,
    RIDERS_SHARE,
    STEPS,
    TOLERANCES,
    Aim,
    AimSet,
    Measure,
    value_of,
)
from jete.core.aims.circumstances import Circumstances
from jete.core.axis.road.corners import CornerNumber
from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from jete.core.causes.kinds import Kind
    from jete.core.causes.verdict.result import LapComparison
    from jete.core.causes.verdict.to_be_had import ToBeHad

# Less than this a lap is what anybody drives differently from lap to lap.
LEAST_S = 0.03
# Fewer laps show no mark's middle.
FEWEST = 3
# Corners that differ by less have as much to be had.
EQUAL_S = 0.02
ANYWHERE = Circumstances()


@dataclass(frozen=True)
class PassedOver:
    """A corner with time to be had that no aim is proposed for, and why."""

    corner: int
    kind: Kind | None
    why: str


def proposed(
    had: Sequence[ToBeHad], laps: Sequence[LapComparison], given: Circumstances = ANYWHERE
) -> tuple[list[Aim], list[PassedOver]]:
    """Aims in the order of what may be had; corners that are passed over with the reason.

    Args:
        had: by corner, the most first, of one lap of the run weighed by how often it occurs.
        laps: of the run that count, against the reference.
        given: what they are proposed in.
    """
    aims: list[Aim] = []
    over: list[PassedOver] = []
    for one in sorted(had, key=lambda h: (-round(h.seconds / EQUAL_S), h.corner not in given.exits, -h.seconds)):
        if one.seconds < LEAST_S:
            continue
        found = _refused(one, given) or _aim(one, laps, given)
        if isinstance(found, Aim):
            aims.append(found)
        else:
            over.append(PassedOver(one.corner, one.dearest.kind if one.dearest is not None else None, found))
    return aims, over


def _refused(had: ToBeHad, given: Circumstances) -> str:
    """Why nothing is proposed at a corner, whatever its marks say; empty where that may be."""
    if had.corner in given.withdrawn:
        return given.withdrawn[had.corner]
    if given.wet_after_dry:
        return "the road is wet, and the reference was driven in the dry"
    return ""


def hangs_on(corner: CornerNumber, taken: Collection[int], given: Circumstances) -> str:
    """Why a corner has no aim beside those that are taken: one of them would change what it is read off; empty where none would."""
    if corner in given.follows and corner - 1 in taken:
        return "it hangs on the corner before it, which has an aim"
    if corner + 1 in given.follows and corner + 1 in taken:
        return "the corner after it hangs on it, and has an aim"
    return ""


def _aim(had: ToBeHad, laps: Sequence[LapComparison], given: Circumstances) -> Aim | str:
    """The aim of a corner, or why there is none: another way where the first one was tried in vain."""
    if had.dearest is None:
        return "what it costs began in a corner before it"
    if had.dearest.kind not in ASKS:
        return "no mark of the driver's shows it"
    vain = given.vain(had.corner, ASKS[had.dearest.kind][0])
    if not vain:
        return _aim_of(had.dearest.kind, had.corner, laps, given)
    for kind in _other_kinds(had, laps):
        if kind in ASKS and not given.vain(had.corner, ASKS[kind][0]):
            found = _aim_of(kind, had.corner, laps, given)
            if isinstance(found, Aim):
                return found
    return vain


def _other_kinds(had: ToBeHad, laps: Sequence[LapComparison]) -> list[Kind]:
    """What else costs at a corner over all laps, the dearest first."""
    cost: dict[Kind, float] = defaultdict(float)
    for lap in laps:
        for finding in lap.corners[had.corner - 1].findings:
            cost[finding.kind] += finding.loss_s
    first = had.dearest.kind if had.dearest is not None else None
    return sorted((k for k, s in cost.items() if s > 0.0 and k is not first), key=lambda k: -cost[k])


def _aim_of(kind: Kind, corner: CornerNumber, laps: Sequence[LapComparison], given: Circumstances) -> Aim | str:
    """The aim that a cause asks for, or why there is none."""
    measure, side = ASKS[kind]
    corners = [lap.corners[corner - 1] for lap in laps]
    values = [v for c in corners if (v := value_of(c.lap_marks, measure)) is not None]
    wanted = value_of(corners[0].reference_marks, measure) if corners else None
    if len(values) < FEWEST or wanted is None:
        return f"fewer than {FEWEST} laps show the mark"
    start = float(np.median(values))
    scatter = robust_sigma(np.array(values) - start)
    away, cap = (wanted - start) * side, _cap(corner, measure, given)
    if away < _least(measure, scatter, len(values)):
        return "the mark lies where the reference's does"
    judge = AimSet(
        measure=measure,
        start=start,
        target=start + side * min(away, cap),
        tolerance=max(scatter, TOLERANCES[measure]) * (RACE_TOLERANCE if given.race else 1.0),
        capped=away > cap,
    )
    return Aim(corner=corner, kind=kind, scatter=scatter, judge=judge)


def _cap(corner: CornerNumber, measure: Measure, given: Circumstances) -> float:
    """How far a run may ask a mark to move: half of it where the step before was not done cleanly on enough laps."""
    last = given.last_of(corner, measure)
    unsettled = last is not None and last.done < LAPS_NEEDED
    shares = ((given.rider, RIDERS_SHARE), (given.race, RACE_STEP), (unsettled, 0.5))
    return STEPS[measure] * float(np.prod([share for holds, share in shares if holds]))


def _least(measure: Measure, scatter: float, count: int) -> float:
    """How far from the reference's a mark's middle must lie to be elsewhere: beyond its doubt, and worth a word."""
    return max(0.5 * TOLERANCES[measure], 2.0 * scatter / sqrt(count))


def kept(corner: CornerNumber, laps: Sequence[LapComparison]) -> AimSet | None:
    """What of a corner is to stay as it is: its lowest speed, else its pick-up; None where neither is known."""
    for measure in ("min_speed_kmh", "throttle_on_m"):
        values = [v for lap in laps if (v := value_of(lap.corners[corner - 1].lap_marks, measure)) is not None]
        if len(values) >= FEWEST:
            start = float(np.median(values))
            tolerance = max(2.0 * robust_sigma(np.array(values) - start), TOLERANCES[measure])
            return AimSet(measure=measure, start=start, target=start, tolerance=tolerance)
    return None
