"""Why a lap was slower, or faster, out of a corner or in its middle, where a channel shows it.

Out of it: the rear slid, the front pushed, a shift at another engine speed, another line, less throttle.  In its middle:
the front pushed, or the line was another.  Into it: one of both only rolled, rolled to the brake, or on after an early one.  A line is another where the bend of its
tightest part differs, or where it lies: an early apex is further in at first and further out at the end.  That the front pushes is seen by the wheel: more of it for no more bend
(Milliken & Milliken 1995, Race Car Vehicle Dynamics, § 5.3, on the steer angle that a bend asks for).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.technique import Technique

# The wheel is turned by this share more than the reference's for the same bend, and by so much (rad) at the least.
PUSHED_SHARE, PUSHED_RAD = 0.15, 0.07
# The tightest part of a bend that is tighter, or wider, by this share is another line.
LINE_SHARE = 0.07
# Pieces of a corner's length: its first part, its last, and the road that it opens onto.
FIRST, LAST, BEYOND = (-0.1, 0.4), (0.7, 1.05), (1.1, 1.5)
# By so much more a line lies further in, or out, over the first than over the last, and by so much more than positions
# drift; two laps on one line differ there by a third of it.
APEX_M, APEX_DRIFTS = 0.7, 1.1
# A line that stays in by so much beyond the corner was held in; a later apex has let it out again.
HELD_IN_M = 0.45
# That part of a corner; and from how many places it is told.
TIGHTEST, PLACES = 0.7, 40
# Slower than this yaw over speed says nothing, m/s.
SLOWEST_MPS = 3.0
# Countersteering for so much longer than the reference is no correction of the line.
SLID_S = 0.15
# A roll that is so much longer than the reference's is told.
ROLLED_S = 0.2
# A foot that leaves the throttle by so much farther before the brake than the reference's lifted early.
LIFTED_EARLY_M = 5.0
# Engine speeds at a shift that lie closer together are alike.
SHIFT_SHARE = 0.04
# The throttle on the way to full differs by this share of its travel, on average.
FED_SHARE = 0.08
# From the pick-up on a throttle is fed for so long.
FEEDING_S = 1.5


def exit_reason(
    passages: tuple[Passage, Passage],
    corner: Corner,
    marks: tuple[Marks, Marks],
    how: tuple[Technique, Technique],
    *,
    slow: bool,
) -> str | None:
    """The reason of a slow (or fast) exit, in two or three words; None where no channel shows one.

    Args:
        passages: of the reference and of the lap.
        corner: on the reference's axis.
        marks: of both at the corner.
        how: the technique of both there.
        slow: whether the lap was slower out.
    """
    reference, lap = (h.countersteer_s or 0.0 for h in how)
    if slow and lap - reference >= SLID_S:
        return "the rear slid"
    if slow and _pushed(passages, _way_out(marks)):
        return "the front pushed"
    shifts = [_shift_rpm(p, m) for p, m in zip(passages, marks, strict=True)]
    if shifts[0] is not None and shifts[1] is not None and abs(shifts[1] / shifts[0] - 1.0) >= SHIFT_SHARE:
        return "shifted later" if shifts[1] > shifts[0] else "shifted earlier"
    line = _apex(passages[1], corner)
    if line is not None:
        return line
    fed = [_fed(p, m) for p, m in zip(passages, marks, strict=True)]
    if fed[0] is not None and fed[1] is not None and (fed[0] - fed[1] if slow else fed[1] - fed[0]) >= FED_SHARE:
        return "fed the throttle more slowly" if slow else "fed the throttle faster"
    return None


def braking_reason(marks: tuple[Marks, Marks]) -> str | None:
    """Why a lap slowed softer or harder where one of both (reference, lap) has not braked at all; None where both have."""
    reference, lap = (m.brake_on_m is not None for m in marks)
    if reference and not lap:
        return "only rolled"
    return "where the reference only rolls" if lap and not reference else None


def early_reason(marks: tuple[Marks, Marks]) -> str | None:
    """What an early brake point left to do, where that was to roll: for how much longer than the reference; else None."""
    reference, lap = marks
    longer = lap.coast_s - reference.coast_s
    released = (reference.brake_off_m, lap.brake_off_m)
    if None in released or longer < ROLLED_S or released[1] >= released[0]:  # type: ignore[operator]
        return None
    return f"then rolled {longer:.1f} s longer"


def coasting_reason(marks: tuple[Marks, Marks]) -> str | None:
    """Where a lap that coasts longer did so, where that was between its lift and its brake point; else None."""
    reference, lap = (
        m.brake_on_m - m.lift_m if m.brake_on_m is not None and m.lift_m is not None else None for m in marks
    )
    if reference is None or lap is None or lap - reference < LIFTED_EARLY_M:
        return None
    return "lifted early, and rolled to the brake"


def middle_reason(
    passages: tuple[Passage, Passage], corner: Corner, marks: tuple[Marks, Marks], *, slow: bool
) -> str | None:
    """The reason of a lower (or higher) speed in the middle of a corner, in a few words; None where no channel shows one.

    Args:
        passages: of the reference and of the lap.
        corner: on the reference's axis.
        marks: of both at the corner.
        slow: whether the lap was slower there.
    """
    turn_in = marks[0].turn_in_m if marks[0].turn_in_m is not None else corner.start_m
    if slow and _pushed(passages, (turn_in, max(m.slow_point_m for m in marks))):
        return "the front pushed"
    tight = [_tightest_1pm(p, corner) for p in passages]
    apex = _apex(passages[1], corner)
    if apex is not None or tight[0] is None or tight[1] is None:
        return apex
    share = tight[1] / tight[0] - 1.0
    if slow and share >= LINE_SHARE:
        return "on a tighter line"
    return "on a wider line" if not slow and share <= -LINE_SHARE else None


def _apex(lap: Passage, corner: Corner) -> str | None:
    """Where a lap's line lies otherwise than the reference's: an early or a late apex, or held in at the exit; None where it does not, or is not seen.

    By how much further in it is, on average, over the first part of the corner, over the last, and on the road after it.
    """
    offset_m, worth = lap.alignment.offset_m, lap.alignment.errors
    if offset_m is None:
        return None
    inside = 1.0 if corner.direction == "left" else -1.0
    places = corner.start_m + np.array([FIRST, LAST, BEYOND]) * (corner.end_m - corner.start_m)
    further_in = inside * np.interp(np.linspace(places[:, 0], places[:, 1], PLACES), lap.alignment.place_m, offset_m)
    first, last, beyond = further_in.mean(axis=0).tolist()
    least = max(APEX_M, APEX_DRIFTS * worth.drift_m if worth is not None else 0.0)
    if first - last >= least:
        return "an earlier apex"
    if last - first >= least:
        return "held in at the exit" if beyond >= HELD_IN_M else "a later apex"
    return None


def _way_out(marks: tuple[Marks, Marks]) -> tuple[float, float] | None:
    """The way out, metres: from both laps' pick-ups to where the reference is flat out; None where it never is."""
    begins = [m.throttle_on_m for m in marks]
    end = marks[0].full_throttle_m
    if end is None or begins[0] is None or begins[1] is None:
        return None
    return (max(begins[0], begins[1]), end)


def _pushed(passages: tuple[Passage, Passage], span: tuple[float, float] | None) -> bool:
    """Whether the lap turned the wheel more for no more bend, between two places."""
    if span is None or span[1] - span[0] < 1.0:
        return False
    places = np.linspace(*span, PLACES)
    wheels = [w for p in passages if (w := _wheel_rad(p, places)) is not None]
    bends = [b for p in passages if (b := _bend_1pm(p, places)) is not None]
    if len(wheels) < 2 or len(bends) < 2:
        return False
    ours, lap = (float(np.mean(np.abs(w))) for w in wheels)
    bent = [float(np.mean(np.abs(b))) for b in bends]
    asked = ours * bent[1] / max(bent[0], 1e-6)
    return lap - asked >= max(PUSHED_SHARE * asked, PUSHED_RAD)


def _wheel_rad(passage: Passage, place_m: FloatArray) -> FloatArray | None:
    """The steering about its middle at places (n,), (n,); None without it."""
    steering = passage.centred_steering
    return None if steering is None else np.interp(passage.time_at(place_m), *steering)


def _bend_1pm(passage: Passage, place_m: FloatArray) -> FloatArray | None:
    """The bend of the lap's own line at places (n,), by yaw rate over speed, 1/m, (n,); None without a yaw rate."""
    yaw = passage.lap.get("yaw_rate")
    if yaw is None or len(yaw) < PLACES or passage.motion.inferred:
        return None
    times = passage.time_at(place_m)
    speed = np.interp(times, passage.motion.time_s, passage.motion.quiet_mps)
    return np.asarray(yaw.at(times) / np.maximum(speed, SLOWEST_MPS))


def _tightest_1pm(passage: Passage, corner: Corner) -> float | None:
    """The bend of the tightest part of a lap's line through a corner, 1/m."""
    bend = _bend_1pm(passage, np.linspace(corner.start_m, corner.end_m, PLACES))
    return None if bend is None else max(float(np.quantile(np.abs(bend), TIGHTEST)), 1e-6)


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
