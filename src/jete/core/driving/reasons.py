"""Why an exit was slow, or fast, where a channel shows it: the rear slid, a shift at another engine speed, less throttle."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.technique import Technique

# Countersteering for so much longer than the reference is no correction of the line.
SLID_S = 0.15
# Engine speeds at a shift that lie closer together are alike.
SHIFT_SHARE = 0.04
# The throttle on the way to full differs by this share of its travel, on average.
FED_SHARE = 0.08
# From the pick-up on a throttle is fed for so long.
FEEDING_S = 1.5


def exit_reason(
    passages: tuple[Passage, Passage], marks: tuple[Marks, Marks], how: tuple[Technique, Technique], *, slow: bool
) -> str | None:
    """The reason of a slow (or fast) exit, in two or three words; None where no channel shows one.

    Args:
        passages: of the reference and of the lap.
        marks: of both at the corner.
        how: the technique of both there.
        slow: whether the lap was slower out.
    """
    reference, lap = (h.countersteer_s or 0.0 for h in how)
    if slow and lap - reference >= SLID_S:
        return "the rear slid"
    shifts = [_shift_rpm(p, m) for p, m in zip(passages, marks, strict=True)]
    if shifts[0] is not None and shifts[1] is not None and abs(shifts[1] / shifts[0] - 1.0) >= SHIFT_SHARE:
        return "shifted later" if shifts[1] > shifts[0] else "shifted earlier"
    fed = [_fed(p, m) for p, m in zip(passages, marks, strict=True)]
    if fed[0] is not None and fed[1] is not None and (fed[0] - fed[1] if slow else fed[1] - fed[0]) >= FED_SHARE:
        return "fed the throttle more slowly" if slow else "fed the throttle faster"
    return None


def _shift_rpm(passage: Passage, marks: Marks) -> float | None:
    """Engine speed at the first upshift after the pick-up, 1/min."""
    gear, rpm = passage.lap.get("gear"), passage.lap.get("rpm")
    if gear is None or rpm is None or marks.throttle_on_m is None:
        return None
    up = np.flatnonzero((np.diff(gear.value) > 0.5) & (gear.value[:-1] >= 0.5)) + 1
    after = gear.time_s[up][gear.time_s[up] > passage.time_of(marks.throttle_on_m)]
    # The engine drops to the next gear as it shifts, so the top just before it counts.
    return float(rpm.at(np.linspace(after[0] - 0.3, after[0], 16)).max()) if len(after) else None


def _fed(passage: Passage, marks: Marks) -> float | None:
    """Mean throttle over the time in which it is fed, share of its travel."""
    if marks.throttle_on_m is None or passage.throttle.inferred:
        return None
    begin = passage.time_of(marks.throttle_on_m)
    return float(np.mean(passage.throttle.at(np.linspace(begin, begin + FEEDING_S, 60))))
