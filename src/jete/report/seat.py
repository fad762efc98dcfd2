"""Words from the seat: landmarks, places told from them, what kind of corner it is and what it is worth."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Final

from jete.core.circuit.landmarks import AT_M, LandmarkKind
from jete.report.read_off import apart_m
from jete.report.units import KMH, METRIC, SPEEDS, Units

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.circuit.height import Word
    from jete.core.circuit.landmarks import FromLandmark, Hazard, Landmark, Side
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.circuit.stakes import CornerKind, Stakes

LANDMARK_WORDS: Final[dict[LandmarkKind, str]] = {
    LandmarkKind.BOARD: "board", LandmarkKind.CONE: "cone", LandmarkKind.KERB_BEGINS: "kerb begins",
    LandmarkKind.KERB_ENDS: "kerb ends", LandmarkKind.POST: "marshal post", LandmarkKind.GANTRY: "gantry",
    LandmarkKind.BRIDGE: "bridge", LandmarkKind.BUILDING: "building", LandmarkKind.TREE: "tree",
    LandmarkKind.TYRES: "tyre stack", LandmarkKind.MARK: "mark on the road", LandmarkKind.PATCH: "patch on the road",
    LandmarkKind.SURFACE: "change of surface", LandmarkKind.PIT: "pit entry", LandmarkKind.WALL: "wall",
    LandmarkKind.STATE: "state", LandmarkKind.OTHER: "landmark",
}  # fmt: skip
# Of several that are called alike.
_NTH: Final = {0: "", 1: "first ", 2: "second ", 3: "third "}
_EDGE: Final = {LandmarkKind.KERB_BEGINS: "beginning", LandmarkKind.KERB_ENDS: "end"}
KIND_WORDS: Final[dict[CornerKind, str]] = {
    "entry": "entry corner", "exit": "exit corner", "both": "entry and exit corner", "link": "link of a sequence", "flat": "flat",
}  # fmt: skip


def landmark_words(landmark: Landmark) -> str:
    """A landmark as one would say it.

    >>> from jete.core.circuit.landmarks import Landmark
    >>> landmark_words(Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=0.0, text="100")), landmark_words(Landmark(id=2, kind=LandmarkKind.KERB_ENDS, circuit_m=0.0))
    ('100 board', 'end of the kerb')
    """
    kind, text = landmark.kind, landmark.text
    if kind is LandmarkKind.BOARD:
        return f"{text} board".strip()
    if kind in _EDGE:
        return f"{_EDGE[kind]} of the {text or 'kerb'}"
    return text or LANDMARK_WORDS[kind]


def landmark_short(landmark: Landmark) -> str:
    """A landmark as it stands in a table: without articles, a kerb by its name alone.

    >>> from jete.core.circuit.landmarks import Landmark
    >>> landmark_short(Landmark(id=1, kind=LandmarkKind.KERB_BEGINS, circuit_m=0.0, text="exit kerb")), landmark_short(Landmark(id=2, kind=LandmarkKind.KERB_ENDS, circuit_m=0.0))
    ('exit kerb', 'kerb end')
    """
    if landmark.kind is LandmarkKind.KERB_BEGINS:
        return landmark.text or "kerb"
    if landmark.kind is LandmarkKind.KERB_ENDS:
        return f"{landmark.text or 'kerb'} end"
    return landmark_words(landmark)


def told_apart(landmarks: Sequence[Landmark], units: Units = METRIC) -> list[str]:
    """Landmarks by their short names; those that share one are told by their places too.

    >>> from jete.core.circuit.landmarks import Landmark
    >>> kerbs = [Landmark(id=k, kind=LandmarkKind.KERB_BEGINS, circuit_m=m) for k, m in enumerate((600.0, 655.0))]
    >>> told_apart(kerbs), told_apart(kerbs[:1])
    (['kerb 600 m', 'kerb 655 m'], ['kerb'])
    """
    names = [landmark_short(m) for m in landmarks]
    return [
        f"{name} {units.length_text(mark.circuit_m)}" if names.count(name) > 1 else name
        for name, mark in zip(names, landmarks, strict=True)
    ]


def from_landmark_short(told: FromLandmark, units: Units = METRIC) -> str:
    """A place told from a landmark as it stands in a table.

    >>> from jete.core.circuit.landmarks import FromLandmark, Landmark
    >>> from_landmark_short(FromLandmark(Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=0.0, text="100"), -9.2))
    '9 m before 100 board'
    """
    return _told(told, f"{_NTH.get(told.nth, f'{told.nth}th ')}{landmark_short(told.landmark)}", units)


def _told(told: FromLandmark, name: str, units: Units) -> str:
    if abs(told.metres) < AT_M:
        return f"at {name}"
    return f"{units.length_text(abs(told.metres))} {'past' if told.metres > 0.0 else 'before'} {name}"


def from_landmark(told: FromLandmark, units: Units = METRIC) -> str:
    """A place told from a landmark.

    >>> from jete.core.circuit.landmarks import FromLandmark, Landmark
    >>> from_landmark(FromLandmark(Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=0.0, text="100"), -9.2))
    '9 m before the 100 board'
    >>> from_landmark(FromLandmark(Landmark(id=1, kind=LandmarkKind.KERB_BEGINS, circuit_m=0.0), 10.0, 2))
    '10 m past the beginning of the second kerb'
    """
    nth, name = _NTH.get(told.nth, f"{told.nth}th "), landmark_words(told.landmark)
    edge, of, kerb = name.partition(" of the ")
    return _told(told, f"the {edge} of the {nth}{kerb}" if of else f"the {nth}{name}", units)


def both_told(
    circuit: CircuitOnAxis, at_m: tuple[float | None, float | None], units: Units
) -> tuple[FromLandmark | None, FromLandmark | None]:
    """The reference's place and the lap's, from landmarks, None where none is near.

    Where one landmark tells both, the reference's metres are counted from the lap's by the difference that is shown of both
    places: rounded each by itself, 3 m past and 5 m before would stand beside a difference of 9 m.
    """
    reference_m, lap_m = at_m
    if reference_m is None or lap_m is None:
        return tuple(None if m is None else circuit.told(m) for m in at_m)  # type: ignore[return-value]
    reference, lap = circuit.both_told((reference_m, lap_m))
    if reference is None or lap is None or reference.landmark.id != lap.landmark.id:
        return reference, lap
    shown = round(units.length_of(lap.metres)) / units.length_of(1.0)
    return replace(reference, metres=shown - apart_m(reference_m, lap_m, units)), lap


def place_words(place_m: float | None, circuit: CircuitOnAxis | None, units: Units = METRIC) -> str:
    """A place of the reference's axis as it is seen from the seat; empty where no landmark is near."""
    told = circuit.told(place_m) if circuit is not None and place_m is not None else None
    return from_landmark(told, units) if told is not None else ""


def moved_words(from_m: float, to_m: float, circuit: CircuitOnAxis | None, units: Units = METRIC) -> str:
    """From one place to another, both from the landmark that tells the second; empty where none does.

    The metres of the first are counted from those of the second by the step between them, as it is told.
    """
    there = circuit.told(to_m) if circuit is not None else None
    if there is None:
        return ""
    shown, step = round(units.length_of(there.metres)), round(units.length_of(to_m - from_m))
    here = replace(there, metres=(shown - step) / units.length_of(1.0))
    if min(abs(here.metres), abs(there.metres)) < AT_M or here.metres * there.metres < 0.0:
        return f"from {from_landmark(here, units)}, to be {from_landmark(there, units)}"
    return f"from {units.length_text(abs(here.metres))} to {from_landmark(there, units)}"


def place_and_metres(place_m: float | None, circuit: CircuitOnAxis | None, units: Units = METRIC) -> str:
    """A place from the seat with its metres beside it; the metres alone where no landmark is near; a dash for none."""
    if place_m is None:
        return "–"
    words, metres = place_words(place_m, circuit, units), units.length_text(place_m)
    return f"{words} ({metres})" if words else metres


def stakes_sentence(stakes: Stakes, units: Units = METRIC) -> str:
    """What kind of corner it is and why.

    >>> from jete.core.circuit.stakes import Stakes
    >>> stakes_sentence(Stakes(kind="exit", straight_m=640.0, straight_s=11.0, before_m=30.0, exit_kmh_worth_s=0.018, slow_kmh_worth_s=0.04, brake_m_worth_s=0.01))
    'exit corner: 640 m of straight after it'
    """
    reasons = {
        "exit": f"{units.length_text(stakes.straight_m)} of straight after it",
        "entry": f"{units.length_text(stakes.before_m)} of straight before it, little after",
        "both": f"{units.length_text(stakes.before_m)} of straight before it, {units.length_text(stakes.straight_m)} after",
        "link": "no straight before it and none after: set up for what comes next",
        "flat": "nobody has to slow",
    }
    return f"{KIND_WORDS[stakes.kind]}: {reasons[stakes.kind]}"


def worth_words(stakes: Stakes, units: Units = METRIC) -> list[str]:
    """What a little more is worth, a few words each."""
    per = KMH / SPEEDS[units.speed]
    slow = f", {stakes.slow_kmh_worth_s * per:.3f} s at the slow point" if stakes.slow_kmh_worth_s > 0.0 else ""
    told = [f"1 {units.speed} more, kept: {stakes.exit_kmh_worth_s * per:.3f} s at the exit{slow}"]
    if stakes.brake_m_worth_s > 0.0:
        one = 1.0 / units.length_of(1.0)
        told.append(f"all slowing 1 {units.length} later: {stakes.brake_m_worth_s * one:.3f} s")
    return told


def hazard_words(hazards: Sequence[Hazard]) -> str:
    """Hazards as one line; empty for none.

    >>> from jete.core.circuit.landmarks import Hazard
    >>> hazard_words([Hazard(1, 0.0, 9.0, "wall close on the way out", "left")])
    'Careful: wall close on the way out (left).'
    """
    if not hazards:
        return ""
    return f"Careful: {'; '.join(h.text + (f' ({h.side})' if h.side in ('left', 'right') else '') for h in hazards)}."


def road_words(words: Sequence[Word]) -> str:
    """What the road does there: "over a crest, off-camber"."""
    told = {"crest": "over a crest", "dip": "through a dip"}
    return ", ".join(told.get(w, w) for w in words)


def side_words(side: Side) -> str:
    """On which side of the road something stands."""
    return {"left": "left", "right": "right", "over": "over the road", "": ""}[side]
