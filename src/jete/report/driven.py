"""How a lap drove a corner against the reference, in words: habits, which are no mistakes by themselves."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.driving.technique import Release, Technique, technique_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.driving.passage import Passage

# Below these a difference is not worth a word.
SECONDS = 0.08
METRES = 4.0

# What the lap did, and the reference in brackets behind it.
_RELEASES: dict[Release, tuple[str, str]] = {
    "one stage": ("released in one step", "in one step"),
    "two stages": ("released in two steps", "in two steps"),
    "dropped": ("dropped the brake", "dropped it"),
}
_TIMES = (
    ("brake_build_s", "built the pressure in {} s (reference: {} s)"),
    ("overlap_s", "on both pedals for {} s (reference: {} s)"),
    ("left_over_brake_s", "still on the brake after the pick-up for {} s (reference: {} s)"),
)


def driven_against(passages: tuple[Passage, Passage], loss: CornerLoss, length: Callable[[float], str]) -> list[str]:
    """What the lap did otherwise than the reference at a corner, a few words each; empty where it was driven alike.

    Args:
        passages: of the reference and the lap.
        loss: of the corner.
        length: writes metres in the chosen unit.
    """
    marks = (loss.reference_marks, loss.lap_marks)
    reference, lap = (technique_of(p, loss.corner, m) for p, m in zip(passages, marks, strict=True))
    return [
        *_brake(reference, lap, length), *_times(reference, lap), *_slide(reference, lap), *_gears(reference, lap, length)
    ]  # fmt: skip


def driven_alike(passages: tuple[Passage, Passage]) -> str:
    """What was logged of how both drove, and was alike; empty where nothing of it was.

    Args:
        passages: of the reference and the lap, driven alike at the corner.
    """
    known = {
        "release": not any(p.brake.inferred for p in passages),
        "gears": all(p.lap.get("gear") is not None for p in passages),
        "steering": all(p.lap.get("steering") is not None for p in passages),
    }
    names = [name for name, is_known in known.items() if is_known]
    listed = " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
    return f"same {listed}" if names else ""


def _brake(reference: Technique, lap: Technique, length: Callable[[float], str]) -> list[str]:
    words = []
    if reference.release and lap.release and reference.release != lap.release:
        theirs = _RELEASES[reference.release][lap.release != "dropped"]
        words.append(f"{_RELEASES[lap.release][0]} (reference: {theirs})")
    if lap.brake_applications != reference.brake_applications and lap.brake_applications * reference.brake_applications:
        words.append(f"braked {_often(lap.brake_applications)} (reference: {_often(reference.brake_applications)})")
    trails = (lap.trail_m, reference.trail_m)
    if trails[0] is not None and trails[1] is not None and abs(trails[0] - trails[1]) >= METRES:
        words.append(f"trail-braked {length(trails[0])}, the reference {length(trails[1])}")
    return words


def _often(times: int) -> str:
    return {1: "once", 2: "twice"}.get(times, f"{times} times")


def _times(reference: Technique, lap: Technique) -> list[str]:
    words = []
    for name, text in _TIMES:
        ours, theirs = getattr(lap, name), getattr(reference, name)
        if ours is not None and theirs is not None and abs(ours - theirs) >= SECONDS:
            words.append(text.format(f"{ours:.2f}", f"{theirs:.2f}"))
    return words


def _slide(reference: Technique, lap: Technique) -> list[str]:
    """Steering against the bend on the exit."""
    ours, theirs = lap.countersteer_s, reference.countersteer_s
    if ours is None or theirs is None or abs(ours - theirs) < SECONDS:
        return []
    if theirs < SECONDS:
        return [f"countersteered {ours:.1f} s: the rear slid"]
    return [f"countersteered {ours:.1f} s (reference: {theirs:.1f} s)"]


def _gears(reference: Technique, lap: Technique, length: Callable[[float], str]) -> list[str]:
    """Another number of downshifts, else the last one at another place."""
    ours, theirs = lap.downshift_m, reference.downshift_m
    if len(ours) != len(theirs):
        return [f"{len(ours)} downshift{'s' if len(ours) != 1 else ''} (reference: {len(theirs)})"]
    if ours and abs(ours[-1] - theirs[-1]) >= METRES:
        later = ours[-1] > theirs[-1]
        return [f"last downshift {length(abs(ours[-1] - theirs[-1]))} {'later' if later else 'earlier'}"]
    return []
