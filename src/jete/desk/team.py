"""The coach's table: the drivers of a class on a circuit of the shelf, by the passes that are kept."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.compare import compare, stakes_in
from jete.core.errors import InputError
from jete.core.passes.team import team_of
from jete.desk.passes import counted_passes, make_passes

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.axis.road.corners import Corner, CornerId
    from jete.core.circuit.stakes import Stakes
    from jete.core.passes.passes import Pass
    from jete.core.passes.team import TeamRow
    from jete.library.circuits import Place
    from jete.library.library import Library
    from jete.library.pass_book import KeptPass


@dataclass(frozen=True, eq=False, kw_only=True)
class TeamTable:
    """Drivers × corners.

    Attributes:
        circuit: its name and layout.
        group: the class; empty where its runs have none.
        corners: in order.
        rows: the quickest driver first.
        vehicles: of each driver.
        best: run and lap of each driver's best pass, by driver and corner number.
        left_out: runs that nobody is noted to have driven.
    """

    circuit: tuple[str, str]
    group: str
    corners: tuple[Corner, ...]
    rows: tuple[TeamRow, ...]
    vehicles: dict[str, tuple[str, ...]]
    best: dict[tuple[str, int], tuple[int, int]]
    left_out: int


def team_table(
    library: Library,
    place: Place,
    group: str | None = None,
    told: Callable[[int, int], None] = lambda *_: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> TeamTable:
    """The table of a circuit's drivers.

    Args:
        library: the shelf.
        place: the circuit.
        group: only runs of this class; None for the one that has most runs.
        told: how many laps are taken apart, of how many, where passes are missing.
        cancelled: asked between laps.

    Raises:
        InputError: a circuit without corners, or without a run of the class that somebody is noted to have driven.
    """
    if not place.corners:
        raise InputError(place.name, "no complete lap shows its corners yet.", "Bring one in first.")
    make_passes(library, place, told, cancelled)
    runs = [r for r in library.runs() if (r.sheet.circuit, r.sheet.layout) == (place.name, place.layout)]
    if group is None:
        group = Counter(r.sheet.group for r in runs).most_common(1)[0][0] if runs else ""
    runs = [r for r in runs if r.sheet.group == group]
    drivers = {r.id: r.sheet.driver for r in runs if r.sheet.driver}
    if not drivers:
        raise InputError(place.name, "no run there says who drove it.", "Note the driver on its runs first.")
    numbers = {c.id: c.number for c in place.corners}
    passes: dict[str, dict[CornerId, list[Pass]]] = defaultdict(lambda: defaultdict(list))
    quickest: dict[tuple[str, int], KeptPass] = {}
    for kept in counted_passes(library, place, [r for r in runs if r.sheet.driver]):
        driver, corner = drivers[kept.run], kept.numbers.corner
        passes[driver][corner].append(kept.numbers)
        at = (driver, numbers[corner])
        if at not in quickest or kept.numbers.whole_s < quickest[at].numbers.whole_s:
            quickest[at] = kept
    vehicles = {
        d: tuple(sorted({r.sheet.vehicle for r in runs if r.sheet.driver == d and r.sheet.vehicle})) for d in passes
    }
    return TeamTable(
        circuit=(place.name, place.layout),
        group=group,
        corners=place.corners,
        rows=tuple(team_of(passes, place.corners, _stakes(library, place))),
        vehicles=vehicles,
        best={at: (kept.run, kept.lap) for at, kept in quickest.items()},
        left_out=sum(not r.sheet.driver for r in runs),
    )


def _stakes(library: Library, place: Place) -> list[Stakes]:
    """What each corner is worth, by the lap that the circuit is known by; nothing where that can't be read."""
    founder = library.circuits.founder(place)
    if founder is None:
        return []
    try:
        return stakes_in(compare(founder, [founder], place.corners))
    except InputError:
        return []
