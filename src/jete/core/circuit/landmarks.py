"""What can be seen from the seat: boards, cones, kerbs, posts; and a place told from them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING, Final, Literal

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

# Farther ahead a person looks for another landmark.
AHEAD_M = 80.0
# What has just gone by is still remembered so far behind.
BEHIND_M = 40.0
# Two of one name that lie closer together need to be told apart.
ALIKE_M = 120.0
# Nearer than this a person says "at".
AT_M = 1.5

Side = Literal["left", "right", "over", ""]
Seen = Literal["well", "fairly", "badly"]
SIDES: Final = ("left", "right", "over", "")
SEEN: Final = ("well", "fairly", "badly")


class LandmarkKind(StrEnum):
    """What a landmark is; the names of the JSON and of GeoJSON."""

    BOARD = "board"
    CONE = "cone"
    KERB_BEGINS = "kerb_begins"
    KERB_ENDS = "kerb_ends"
    POST = "marshal_post"
    GANTRY = "gantry"
    BRIDGE = "bridge"
    BUILDING = "building"
    TREE = "tree"
    TYRES = "tyre_stack"
    MARK = "mark"
    PATCH = "patch"
    SURFACE = "surface_change"
    PIT = "pit_entry"
    WALL = "wall"
    STATE = "state"
    OTHER = "other"


@dataclass(frozen=True, kw_only=True)
class Landmark:
    """One thing to drive by.

    Attributes:
        id: its own for good.
        kind: what it is; a ``state`` is what the driver feels there (wheel straight, top of the crest).
        circuit_m: its place on the circuit's axis, or on a reference's where it was moved there.
        text: the number of a board, or own words.
        side: of the road; "over" for a gantry or a bridge.
        seen: how well it is seen at speed.
        from_m: from how far before it is seen; 0 where nobody said.
    """

    id: int
    kind: LandmarkKind
    circuit_m: float
    text: str = ""
    side: Side = ""
    seen: Seen = "well"
    from_m: float = 0.0


@dataclass(frozen=True)
class Hazard:
    """Something to keep away from, over a piece of the axis."""

    id: int
    start_m: float
    end_m: float
    text: str
    side: Side = ""


@dataclass(frozen=True)
class RoadBook:
    """What people know of a circuit: landmarks, hazards, local rules, where sectors begin, how wide the road is.

    ``edges`` are places of the axis with the road's width to the left and to the right of the mean path there.
    """

    landmarks: tuple[Landmark, ...] = ()
    hazards: tuple[Hazard, ...] = ()
    rules: tuple[str, ...] = ()
    sectors_m: tuple[float, ...] = ()
    edges: tuple[tuple[float, float, float], ...] = ()

    @property
    def next_id(self) -> int:
        """A number that no landmark or hazard has."""
        return 1 + max((*(x.id for x in self.landmarks), *(h.id for h in self.hazards)), default=0)

    def with_landmark(self, landmark: Landmark) -> RoadBook:
        """The same with a landmark put in, or in the place of the one of its number."""
        others = [x for x in self.landmarks if x.id != landmark.id]
        return replace(self, landmarks=tuple(sorted([*others, landmark], key=lambda x: x.circuit_m)))

    def without(self, number: int) -> RoadBook:
        """Without the landmark or the hazard of a number."""
        return replace(
            self,
            landmarks=tuple(x for x in self.landmarks if x.id != number),
            hazards=tuple(x for x in self.hazards if x.id != number),
        )

    def hazards_in(self, start_m: float, end_m: float) -> tuple[Hazard, ...]:
        """The hazards that reach into a piece of the axis."""
        return tuple(h for h in self.hazards if h.start_m < end_m and h.end_m > start_m)


@dataclass(frozen=True)
class FromLandmark:
    """A place told from a landmark: ``metres`` past it, negative before it; ``nth`` of those near it that are called alike, 0 where it is the only one."""

    landmark: Landmark
    metres: float
    nth: int = 0


def told_from(place_m: float, landmarks: Sequence[Landmark]) -> FromLandmark | None:
    """A place from the nearest useful landmark ahead; from one just passed where none is ahead; None where none is near.

    What is badly seen, or only felt, counts only where nothing else is near.

    >>> board = Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=500.0, text="100")
    >>> told_from(491.0, [board]).metres, told_from(530.0, [board]).metres, told_from(700.0, [board])
    (-9.0, 30.0, None)
    """
    useful = [x for x in landmarks if x.seen != "badly" and x.kind is not LandmarkKind.STATE]
    for some in (useful, landmarks):
        found = _ahead(place_m, some) or _behind(place_m, some)
        if found is not None:
            return FromLandmark(found, place_m - found.circuit_m, _nth(found, landmarks))
    return None


def both_told_from(
    places_m: tuple[float, float], landmarks: Sequence[Landmark]
) -> tuple[FromLandmark | None, FromLandmark | None]:
    """Two places that are held against each other: from one landmark where one of theirs is near both, else from each one's own.

    >>> marks = [Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=500.0, text="50"), Landmark(id=2, kind=LandmarkKind.KERB_BEGINS, circuit_m=560.0)]
    >>> [(t.landmark.id, t.metres) for t in both_told_from((504.0, 495.0), marks)]
    [(1, 4.0), (1, -5.0)]
    """
    own = told_from(places_m[0], landmarks), told_from(places_m[1], landmarks)
    if own[0] is None or own[1] is None or own[0].landmark == own[1].landmark:
        return own
    for told in sorted((own[0], own[1]), key=lambda t: max(abs(p - t.landmark.circuit_m) for p in places_m)):
        one, other = (told_from(p, [told.landmark]) for p in places_m)
        if one is not None and other is not None:
            return replace(one, nth=told.nth), replace(other, nth=told.nth)
    return own


def _nth(one: Landmark, landmarks: Iterable[Landmark]) -> int:
    """Which of the landmarks near it that are called alike one is, from 1 on; 0 where it is the only one.

    >>> kerbs = [Landmark(id=k, kind=LandmarkKind.KERB_BEGINS, circuit_m=60.0 * k) for k in (1, 2, 9)]
    >>> [_nth(x, kerbs) for x in kerbs]
    [1, 2, 0]
    """
    alike = [
        x.circuit_m
        for x in landmarks
        if (x.kind, x.text) == (one.kind, one.text) and abs(x.circuit_m - one.circuit_m) < ALIKE_M
    ]
    return sorted(alike).index(one.circuit_m) + 1 if len(alike) > 1 else 0


def _ahead(place_m: float, landmarks: Iterable[Landmark]) -> Landmark | None:
    near = [x for x in landmarks if -AT_M <= x.circuit_m - place_m <= AHEAD_M]
    return min(near, key=lambda x: x.circuit_m, default=None)


def _behind(place_m: float, landmarks: Iterable[Landmark]) -> Landmark | None:
    near = [x for x in landmarks if 0.0 < place_m - x.circuit_m <= BEHIND_M]
    return max(near, key=lambda x: x.circuit_m, default=None)
