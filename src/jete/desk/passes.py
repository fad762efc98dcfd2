"""The passes of a circuit's laps, made once a lap and kept by the library."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.core.passes.passes import Pass, passes_of

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.circuit.mean_path import CircuitRoad
    from jete.core.log.lap import Lap
    from jete.library.circuits import Place
    from jete.library.library import Library
    from jete.library.pass_book import KeptPass
    from jete.library.records import RunRecord

# So many laps are laid on the founder at once: their arrays are let go of in between.
AT_ONCE = 10


def make_passes(
    library: Library, place: Place, told: Callable[[int, int], None], cancelled: Callable[[], bool] = lambda: False
) -> int:
    """Make the passes of a circuit that are missing; returns how many laps were taken apart.

    Args:
        library: that keeps them.
        place: the circuit.
        told: how many laps are done, of how many.
        cancelled: asked between laps.
    """
    founder, road = library.circuits.founder(place), library.circuits.road(place)
    missing = library.passes.missing(place)
    total, done = sum(len(v) for v in missing.values()), 0
    if founder is None or road is None or not place.corners or library.read_only:
        return 0
    for number, laps in missing.items():
        run = library.run(number)
        for k in range(0, len(laps), AT_ONCE):
            if cancelled():
                return done
            part = laps[k : k + AT_ONCE]
            found = _made(founder, [library.lap(run, n) for n in part], place.corners, road)
            library.passes.keep(number, part, found, place.corners)
            done += len(part)
            told(done, total)
    return done


def counted_passes(library: Library, place: Place, runs: Sequence[RunRecord]) -> Iterator[KeptPass]:
    """The passes of a circuit's corners on the laps of some runs that count, corner by corner in order."""
    counted = {(r.id, s.number) for r in runs for s in r.counted}
    for corner in place.corners or ():
        if corner.id is not None:
            kept = library.passes.of_corner(place, corner.id, {r.id for r in runs})
            yield from (one for one in kept if (one.run, one.lap) in counted)


def _made(
    founder: Lap, laps: Sequence[Lap], corners: Sequence[Corner], road: CircuitRoad
) -> Sequence[tuple[Pass, ...]]:
    """The passes of each lap; where one of them lies elsewhere, the others are looked at one by one."""
    try:
        return passes_of(founder, laps, corners, road)
    except InputError:
        return [_alone(founder, lap, corners, road) for lap in laps]


def _alone(founder: Lap, lap: Lap, corners: Sequence[Corner], road: CircuitRoad) -> tuple[Pass, ...]:
    try:
        return passes_of(founder, [lap], corners, road)[0]
    except InputError:
        return ()
