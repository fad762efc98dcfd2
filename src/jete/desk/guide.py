"""The lap guide of a lap: made from it and the good laps around it, with what people wrote in their place."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from jete.core.compare import compare, held_of
from jete.core.guide.cards import FEWEST, Card, Good, cards_of, kept_of
from jete.core.guide.plans import Plan, plans_of

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner, CornerId
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap
    from jete.core.passes.passes import Pass
    from jete.library.circuits import Place
    from jete.library.guide_records import OwnWords, Photo
    from jete.library.library import Library

# The spread is that of so many of the run's fastest laps.
GOOD_LAPS = 5


@dataclass(frozen=True, eq=False, kw_only=True)
class Made:
    """A guide as numbers: of which lap, its cards and their plans, its circuit and path, what people wrote and put to it.

    ``laps`` is how many good laps it knows; with ``middle`` it tells the middle one of them instead of its lap.
    """

    lap: Lap
    cards: tuple[Card, ...]
    circuit: CircuitOnAxis | None
    path_m: FloatArray | None
    typed: dict[tuple[CornerId, str], OwnWords]
    laps: int
    plans: tuple[Plan, ...] = ()
    middle: bool = False
    photos: tuple[Photo, ...] = ()


@dataclass(frozen=True)
class Others:
    """The passes of other laps, by corner (its id): of the best few, and of all of the run that count."""

    best: Mapping[int, Sequence[Pass]] = field(default_factory=dict)
    run: Mapping[int, Sequence[Pass]] = field(default_factory=dict)


def guide_of(
    lap: Lap, circuit: CircuitOnAxis | None = None, others: Others | None = None, *, middle: bool = False
) -> Made:
    """The guide of a lap, by itself or with its circuit and the passes of other laps.

    Args:
        lap: to drive by.
        circuit: on its axis.
        others: laps of its run.
        middle: tell the middle one of the best few laps, where enough of them are known.

    Raises:
        InputError: a piece that is no lap.
    """
    others = others or Others()
    held = held_of(lap, circuit.corners if circuit is not None else (), ())
    passage, road, corners = held.passage, held.road, held.corners
    laps = max((len(p) for p in others.best.values()), default=1)
    middle = middle and laps >= FEWEST
    cards = cards_of(passage, road, corners, Good(others.best, circuit, others.run, middle))
    path = road.path(road.grid_m) if road.path is not None else None
    return Made(
        lap=lap,
        cards=tuple(cards),
        circuit=circuit,
        path_m=path,
        typed={},
        laps=laps,
        plans=tuple(plans_of(passage, road, cards)),
        middle=middle,
    )


def kept_by(made: Made, lap: Lap) -> list[dict[str, bool]]:
    """What another lap kept of each card of a guide.

    Raises:
        InputError: a lap of another circuit, layout or direction.
    """
    return kept_of(made.cards, compare(made.lap, [lap], [c.corner for c in made.cards]).laps[0])


def guide_in(library: Library, run: int, lap: Lap, *, middle: bool = False) -> Made:
    """The guide of one of a run's laps, or of the middle one of its best few, with what its circuit's book holds.

    Raises:
        InputError: a piece that is no lap.
    """
    circuit, place = library.circuits.circuit_on(run, lap), library.circuits.place(run)
    if circuit is None or place is None:
        return guide_of(lap)
    made = guide_of(lap, circuit, _others(library, run, place, circuit.corners), middle=middle)
    return replace(made, typed=library.guides.typed(place), photos=library.guides.photos(place))


def _others(library: Library, run: int, place: Place, corners: Sequence[Corner]) -> Others:
    """Passes of the run's laps, as far as they are made."""
    counted = library.run(run).counted
    best = {s.number for s in sorted(counted, key=lambda s: s.time_s)[:GOOD_LAPS]}
    numbers = {s.number for s in counted}
    kept = {c.lasting: library.passes.of_corner(place, c.lasting, [run]) for c in corners}
    return Others(
        {corner: [p.numbers for p in passes if p.lap in best] for corner, passes in kept.items()},
        {corner: [p.numbers for p in passes if p.lap in numbers] for corner, passes in kept.items()},
    )
