"""The piece of the lap that a corner's traces show, and its axis: metres as they are, the straight behind it compressed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.views.traces.curves import Line, Panel

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import CornerLoss

# Shown before the first thing that happens, and past the last.
BEFORE_M, PAST_M = 30.0, 20.0
# The straight takes this share of the width, however long it is.
STRAIGHT_SHARE = 0.22


@dataclass(frozen=True)
class Piece:
    """What is shown of the lap: from and to, where the compression begins, by how much, and what metres count from."""

    start_m: float
    bend_m: float
    end_m: float
    share: float
    origin_m: float

    def along(self, place_m: float) -> float:
        """Metres on the axis that is shown."""
        over = max(place_m - self.bend_m, 0.0)
        return min(place_m, self.bend_m) + over * self.share

    def place(self, along_m: float) -> float:
        """A place of the lap."""
        return min(along_m, self.bend_m) + max(along_m - self.bend_m, 0.0) / self.share


def piece_of(loss: CornerLoss, origin_m: float) -> Piece:
    """From a little before the first slowing to where both are flat out, and the straight behind it compressed."""
    marks = (loss.reference_marks, loss.lap_marks)
    onsets = [m.slowing_m for m in marks if m.slowing_m is not None]
    flats = [m.full_throttle_m for m in marks if m.full_throttle_m is not None]
    start = max(min([*onsets, loss.corner.start_m]) - BEFORE_M, loss.window.start_m)
    bend = min(max([*flats, loss.corner.end_m]) + PAST_M, loss.window.end_m)
    left = loss.window.end_m - bend
    share = min(1.0, (bend - start) * STRAIGHT_SHARE / (1.0 - STRAIGHT_SHARE) / left) if left > 1.0 else 1.0
    return Piece(start, bend, max(loss.window.end_m, start + 1.0), share, origin_m)


def laid(panel: Panel, piece: Piece) -> Panel:
    """A panel on the axis of the piece, without flags: those stand in rows above."""
    lines = [None if line is None else _line(line, piece) for line in (panel.reference, panel.lap)]
    over = tuple(_line(line, piece) for line in panel.over)
    return replace(panel, reference=lines[0], lap=lines[1], over=over, flags=(), lap_flags=())


def _line(line: Line, piece: Piece) -> Line:
    over = np.maximum(line.x - piece.bend_m, 0.0)
    return Line(np.minimum(line.x, piece.bend_m) + over * piece.share, line.y)
