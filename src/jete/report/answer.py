"""The answer of a comparison: the corners that matter, a line each: what was lost, by what, and what the reference does there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.aims.aim import ASKS
from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.pair import LEAST_MOVE_M
from jete.report.read_off import apart_kmh, apart_m
from jete.report.seat import place_words
from jete.report.sentences import LEAST_TRAIL_M, onset_moved_m, short_words, trails_m
from jete.report.three import that_matter
from jete.report.units import METRIC, Units
from jete.report.words import KIND_WORDS

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import CornerNumber
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss, LapComparison
    from jete.core.causes.verdict.to_be_had import ToBeHad
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.marks import Marks
    from jete.core.run import RunSummary
    from jete.report.three import Often

# Marks that lie no farther apart are the same to a driver.
SAME_M, SAME_KMH = 1.0, 0.3


@dataclass(frozen=True)
class Answer:
    """One corner that matters.

    Attributes:
        corner: its number.
        title: as it is called.
        seconds: what it lost, as it stands in its row.
        done: what was done there.
        otherwise: what the reference does there; empty where no mark shows it.
        often: on how many laps; empty where no run is known.
    """

    corner: CornerNumber
    title: str
    seconds: float
    done: str
    otherwise: str = ""
    often: str = ""


def answers_of(
    had: Sequence[ToBeHad],
    corners: Sequence[CornerLoss],
    often: Often,
    circuit: CircuitOnAxis | None,
    units: Units = METRIC,
) -> list[Answer]:
    """The corners that matter of a lap, in the order of what stands beside them."""
    out = []
    for one in that_matter(had):
        loss = corners[one.corner - 1]
        title = loss.corner.called
        if one.dearest is None:
            there = ", ".join(corners[n - 1].corner.shown for n in one.spoils)
            out.append(Answer(one.corner, title, loss.gap_s, f"it slows the arrival at {there}"))
            continue
        out.append(
            Answer(
                one.corner,
                title,
                loss.gap_s,
                short_words(one.dearest, loss.marks, units),
                reference_words(one.dearest, loss, circuit, units),
                often.words(one.corner, one.dearest.kind),
            )
        )
    return sorted(out, key=lambda a: -a.seconds)


def answers_of_run(
    run: RunSummary,
    laps: Sequence[LapComparison],
    circuit: CircuitOnAxis | None = None,
    units: Units = METRIC,
    most: int = 3,
) -> list[Answer]:
    """The corners of a run that lose most in the mean, and what the reference does otherwise than the middle one of those laps.

    Args:
        run: what the laps have in common.
        laps: all of the run.
        circuit: with its landmarks, where places are told by them.
        units: that it is told in.
        most: how many corners.
    """
    counting = run.counting(laps)
    worst = sorted((c for c in run.corners if c.causes), key=lambda c: -c.mean_s)[:most]
    out = []
    for c in worst:
        dearest = max(c.causes, key=lambda x: x.mean_s)
        often = f"on {dearest.laps} of {run.counted} laps"
        middle = _middle_one(dearest.kind, c.corner.number, counting)
        otherwise = reference_words(*middle, circuit, units) if middle is not None else ""
        out.append(Answer(c.corner.number, c.corner.called, c.mean_s, KIND_WORDS[dearest.kind], otherwise, often))
    return out


def _middle_one(kind: Kind, corner: CornerNumber, laps: Sequence[LapComparison]) -> tuple[Finding, CornerLoss] | None:
    """A cause at a corner on the lap where its cost is the middle one of those that have it."""
    losses = [c for lap in laps for c in lap.corners if c.corner.number == corner]
    found = [(f, loss) for loss in losses for f in loss.findings if f.kind is kind]
    return sorted(found, key=lambda pair: pair[0].loss_s)[len(found) // 2] if found else None


def reference_words(finding: Finding, loss: CornerLoss, circuit: CircuitOnAxis | None, units: Units) -> str:
    """What the reference does at the mark that a cause is about, from the seat where a landmark tells; empty where no mark shows it."""
    if finding.kind is Kind.SLOWED_EARLY:
        return _slows_later(abs(finding.measure), loss.marks, units)
    measure = ASKS[finding.kind][0] if finding.kind in ASKS else ""
    reference, lap = loss.reference_marks, loss.lap_marks
    places = {
        "brake_on_m": ("brakes", reference.onset_m, lap.onset_m),
        "throttle_on_m": ("picks up", reference.throttle_on_m, lap.throttle_on_m),
    }
    if measure in places:
        verb, theirs, ours = places[measure]
        return _place(verb, theirs, ours, circuit, units) if theirs is not None and ours is not None else ""
    less = {
        "coast_s": f"coasts {lap.coast_s - reference.coast_s:.1f} s less" if lap.coast_s > reference.coast_s else "",
        "throttle_dips": "keeps the throttle once it is picked up"
        if lap.throttle_dips > reference.throttle_dips
        else "",
        "min_speed_kmh": _speed(reference.min_speed_kmh, lap.min_speed_kmh, units),
    }
    return less.get(measure, "")


def _slows_later(metres: float, marks: tuple[Marks, Marks], units: Units) -> str:
    """What keeps the reference fast for longer: its trail, or a brake that began at the same place and took longer."""
    trails = trails_m(marks)
    if trails is not None and trails[0] - trails[1] >= LEAST_TRAIL_M:
        return f"trails the brake {units.length_text(apart_m(trails[1], trails[0], units))} farther"
    moved = onset_moved_m(marks, units)
    if moved is not None and abs(moved) < LEAST_MOVE_M:
        return "brakes there too, then slows for longer"
    return f"slows {units.length_text(metres)} later"


def _speed(reference_kmh: float, lap_kmh: float, units: Units) -> str:
    more = -apart_kmh(reference_kmh, lap_kmh, units)
    return f"keeps {units.speed_text(abs(more))} {'more' if more > 0.0 else 'less'}" if abs(more) >= SAME_KMH else ""


def _place(verb: str, reference_m: float, lap_m: float, circuit: CircuitOnAxis | None, units: Units) -> str:
    later = -apart_m(reference_m, lap_m, units)
    seen = place_words(reference_m, circuit, units)
    where = f", {seen}" if seen else ""
    if abs(later) < SAME_M:
        return f"{verb} there too{where}"
    return f"{verb} {units.length_text(abs(later))} {'later' if later > 0.0 else 'earlier'}{where}"
