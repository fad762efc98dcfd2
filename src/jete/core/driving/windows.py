"""Windows and phases: every metre of the lap belongs to one corner and one phase."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.driving.marks import Marks

# The contract's 30 m before the first of lift and brake.
BEFORE_M = 30.0

PhaseName = Literal["approach", "braking", "turning", "exit", "straight"]


@dataclass(frozen=True)
class Span:
    """A piece of the reference's axis, metres."""

    start_m: float
    end_m: float


@dataclass(frozen=True)
class PhaseSpan(Span):
    """One phase of a window."""

    phase: PhaseName


def windows_of(
    corners: Sequence[Corner], reference: Sequence[Marks], lap: Sequence[Marks], length_m: float
) -> list[Span]:
    """Windows that tile the lap, one for each corner.

    A window begins 30 m before the earlier of the two laps' brake or lift points (for a
    flat corner: before its start), but not before the corner ahead of it ends; the first
    begins at the line and the last ends there.
    """
    starts = [0.0]
    for i in range(1, len(corners)):
        ahead, here = corners[i - 1], corners[i]
        points = [p for p in (reference[i].slowing_m, lap[i].slowing_m) if p is not None]
        begin = min(points, default=here.start_m) - BEFORE_M
        starts.append(max(begin, ahead.end_m, starts[-1] + 1.0))
    return [Span(a, b) for a, b in zip(starts, [*starts[1:], length_m], strict=True)]


def phases_of(window: Span, corner: Corner, reference: Marks, lap: Marks) -> list[PhaseSpan]:
    """The phases that exist, in the order of the road; they tile the window."""
    onsets = [m.brake_on_m for m in (reference, lap) if m.brake_on_m is not None] or [
        m.lift_m for m in (reference, lap) if m.lift_m is not None
    ]
    turn_in = reference.turn_in_m if reference.turn_in_m is not None else corner.start_m
    full = reference.full_throttle_m if reference.full_throttle_m is not None else window.end_m
    bounds: list[tuple[PhaseName, float]] = [
        ("approach", min(onsets) if onsets else corner.start_m),
        ("braking", turn_in if onsets else window.start_m),
        ("turning", reference.slow_point_m),
        ("exit", full),
        ("straight", window.end_m),
    ]
    out: list[PhaseSpan] = []
    at = window.start_m
    for name, end in bounds:
        stop = min(max(end, at), window.end_m)
        if stop - at > 1e-9:
            out.append(PhaseSpan(at, stop, name))
            at = stop
    return out
