"""The whole way from a lap, a run and a wish to seconds with their interval.  Start reading here.

run ──samples──> vehicle, grip shown
lap ──corner──> stretch ──way in──> ──way out──> E' ──> gap, carried        ──grip used──> offered or why not
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import hypot
from typing import TYPE_CHECKING, Final, NamedTuple

import numpy as np

from jete.core.whatif.driven_stretch import STEP_M, DrivenStretch, stretch_of
from jete.core.whatif.grip_shown import GripShown, grip_shown
from jete.core.whatif.new_slowing import PlannedSlowing, WayIn, can_slow, planned, way_in
from jete.core.whatif.replayed import WayOut, replay, share_cut_back
from jete.core.whatif.vehicle_fit import VehicleFit, samples_of, vehicle_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.causes.verdict.losses import Held
    from jete.core.whatif.asked_for import AskedChange, SetTo, What
    from jete.core.whatif.replayed import BoundBy

# The grip of the last laps is the one that counts: tyres change.
LAST_LAPS = 5
# Nine of ten of a normal error lie within so many standard deviations.
LEVEL, NINE_OF_TEN = 0.9, 1.645
# One standard deviation of a change: at least, seconds, and of its own size; besides what the accounts differ by.  A drive out
# is fed and cut back in ways that one lap does not show.
DOUBTS: Final[dict[What, tuple[float, float]]] = {
    "brake_on_m": (0.005, 0.15),
    "min_speed_kmh": (0.005, 0.15),
    "throttle_on_m": (0.008, 0.35),
    "feed": (0.018, 0.6),
}
# So much of all of them may be wrong alike.
COMMON = 0.12
# Grip is held against what was shown less so many of its own standard deviations.
MARGIN_SIGMAS = 1.5
# And where the lap itself used more there, within so many metres, no more than that.
NEAR_M = 12.0
# A throttle that is fed again where the lap is slower than it was may seem to use so much more.
SLOWER_USE = 0.05
# Accelerations of the changed curve are taken over so many steps to either side.
OVER_STEPS = 3
# A model that misses the speeds of the drives out by more, or the time of one by more, does not fit.
WORST_SPEED_KMH, WORST_PIECE_S = 4.0, 0.12


@dataclass(frozen=True, kw_only=True)
class FitError:
    """What the vehicle's model misses from pick-up to the next slowing: rms of speed, km/h, and of a piece's time, seconds."""

    speed_rms_kmh: float
    piece_rms_s: float


@dataclass(frozen=True, kw_only=True)
class KnownVehicle:
    """What a run tells of a vehicle and its driver's grip, from its slowest to its fastest, and why nothing is offered where it does not."""

    laps: int
    fit: VehicleFit
    grip: GripShown
    error: FitError
    speeds_mps: tuple[float, float]
    why: str | None


class ChangeTrace(NamedTuple):
    """Places (m), changed speeds (km/h) and the running gap (s) of a change, (n,) each."""

    place_m: FloatArray
    speed_kmh: FloatArray
    gap_s: FloatArray


@dataclass(frozen=True, eq=False, kw_only=True)
class ChangedCorner:
    """What a change of one corner does; seconds are of the lap time, negative for quicker, ``why`` where nothing is told.

    What asks for too much grip has its trace all the same: it shows what was asked, and is no offer.

    ``values`` are the old and the new value of each thing that is set.  The trace runs from the window's beginning to its end.
    """

    asked: AskedChange
    values: tuple[tuple[float | None, float | None], ...]
    window_m: tuple[float, float]
    why: str | None = None
    gap_s: float | None = None
    sigma_s: float = 0.0
    carried_s: float | None = None
    grip_used: float | None = None
    trace: ChangeTrace

    @property
    def offered(self) -> bool:
        """Whether it has seconds."""
        return self.gap_s is not None

    @property
    def range_s(self) -> tuple[float, float] | None:
        """What holds the truth in nine of ten cases, seconds."""
        return None if self.gap_s is None else within(self.gap_s, self.sigma_s)


def within(gap_s: float, sigma_s: float) -> tuple[float, float]:
    """The interval of nine in ten about a gap, seconds."""
    return gap_s - NINE_OF_TEN * sigma_s, gap_s + NINE_OF_TEN * sigma_s


def known_vehicle(laps: Sequence[Held]) -> KnownVehicle:
    """The vehicle by all laps of a run, and the grip by its last ones, each lap on its own axis."""
    samples = samples_of(laps)
    fit = vehicle_of(samples)
    grip = grip_shown(samples_of(laps[-LAST_LAPS:]), fit)
    error = _fit_error(laps[-LAST_LAPS:], fit)
    return KnownVehicle(
        laps=len(laps),
        fit=fit,
        grip=grip,
        error=error,
        speeds_mps=(float(samples.speed_mps.min()), float(samples.speed_mps.max())),
        why=_why_not(laps, fit, error),
    )


def _why_not(laps: Sequence[Held], fit: VehicleFit, error: FitError) -> str | None:
    """Why nothing can be offered on this run, in words; None where it can."""
    if any(h.passage.coarse for h in laps):
        return "the samples lie too far apart"
    if any(h.passage.throttle.inferred for h in laps):
        return "the throttle was not logged"
    if not fit.sure:
        return "too little full throttle on straights to learn the vehicle from"
    if error.speed_rms_kmh > WORST_SPEED_KMH or error.piece_rms_s > WORST_PIECE_S:
        return f"the model misses the drives out by {error.speed_rms_kmh:.1f} km/h, {error.piece_rms_s:.2f} s"
    return None


def changed(held: Held, known: KnownVehicle, asked: AskedChange) -> ChangedCorner:
    """What a change of a corner does to a lap.

    Args:
        held: the lap on its own axis.
        known: its vehicle.
        asked: corner and change; the corner is one of the lap's.
    """
    stretch = stretch_of(held, asked.corner - 1)
    if stretch is None:
        return _refused(asked, (0.0, 0.0), (), "the lap does not slow and pick up the throttle there")
    values = tuple(_value(stretch, one) for one in asked.sets)
    plan = planned(stretch, asked)
    why = known.why or _cannot(stretch, asked, plan)
    if why is not None:
        return _refused(asked, stretch.window_m, values, why)
    way = way_in(stretch, plan, known.grip)
    out = _way_out(stretch, way, asked)
    accounts = _accounts(stretch, known, way, out)
    energy = np.sum([share * e for share, e in accounts], axis=0)
    used = _grip_used(stretch, known, energy)
    if used.over:
        what = f"it asks for {100.0 * used.most:.0f} % of the grip shown here or in like corners"
        refused = _refused(asked, stretch.window_m, values, what)
        return replace(refused, grip_used=used.most, trace=_trace(stretch, energy))
    gaps = [(share, float(_running_s(stretch, e)[-1])) for share, e in accounts]
    middle = sum(share * gap for share, gap in gaps)
    doubt = sum(share * (gap - middle) ** 2 for share, gap in gaps) ** 0.5
    return _told(stretch, asked, values, energy, used.most, doubt)


def together(changes: Sequence[ChangedCorner]) -> tuple[float, float] | None:
    """Seconds of all changes and one standard deviation of them; None where one has no seconds."""
    gaps = [c.gap_s for c in changes]
    known = [g for g in gaps if g is not None]
    if len(known) < len(gaps) or not known:
        return None
    # What the model is wrong by it is wrong by everywhere.
    common = COMMON * abs(sum(known))
    own = hypot(*(max(c.sigma_s**2 - (COMMON * g) ** 2, 0.0) ** 0.5 for c, g in zip(changes, known, strict=True)))
    return sum(known), hypot(common, own)


def _accounts(stretch: DrivenStretch, known: KnownVehicle, way: WayIn, out: WayOut) -> list[tuple[float, FloatArray]]:
    """E by each account of the way in and of the drive out, with the share that it counts."""
    cut = share_cut_back(stretch, known.fit, known.grip)
    drives: list[tuple[BoundBy, float]] = [("time", 1.0 - cut), ("place", cut)]
    return [
        (shape * share, replay(stretch, known.fit, known.grip, e, out, by))
        for shape, e in way.accounts
        for by, share in drives
        if share > 0.0
    ]


def _way_out(stretch: DrivenStretch, way: WayIn, asked: AskedChange) -> WayOut:
    pickup = stretch.pickup_m + asked.delta("throttle_on_m")
    # Who slows later than he picked up can only then pick up.
    pickup = max(pickup, min(way.over_m, stretch.pickup_m) if way.over_m <= stretch.over_m else way.over_m)
    return WayOut(pickup_m=pickup, quicker=1.0 + asked.delta("feed"))


def _value(stretch: DrivenStretch, one: SetTo) -> tuple[float | None, float | None]:
    """The old and the new value of what is set."""
    if one.what == "feed":
        return 1.0, 1.0 + one.delta
    old = stretch.marks.onset_m if one.what == "brake_on_m" else getattr(stretch.marks, one.what)
    return (old, old + one.delta) if old is not None else (None, None)


def _cannot(stretch: DrivenStretch, asked: AskedChange, plan: PlannedSlowing | None) -> str | None:
    """Why a change can't be driven at a corner, in words; None where it can."""
    if (asked.sets_one("brake_on_m") or asked.sets_one("min_speed_kmh")) and not can_slow(stretch):
        return "the lap slows too little there"
    if asked.sets_one("min_speed_kmh") and stretch.drives_between:
        return "the lap drives on and slows again within the corner"
    over_m = stretch.over_m + (plan.shift_m if plan is not None else 0.0)
    if asked.delta("throttle_on_m") < 0.0 and stretch.pickup_m + asked.delta("throttle_on_m") < over_m - STEP_M:
        return "the slowing is not over yet where the throttle would be picked up"
    if stretch.onset_m + asked.delta("brake_on_m") < stretch.place_m[0] + STEP_M:
        return "the corner begins later"
    if stretch.onset_m + asked.delta("brake_on_m") > stretch.over_m - 2.0 * STEP_M:
        return "no road would be left to slow on"
    return None


def _refused(
    asked: AskedChange,
    window: tuple[float, float],
    values: tuple[tuple[float | None, float | None], ...],
    why: str,
) -> ChangedCorner:
    none = ChangeTrace(np.zeros(0), np.zeros(0), np.zeros(0))
    shown = values or tuple((None, None) for _ in asked.sets)
    return ChangedCorner(asked=asked, values=shown, window_m=window, why=why, trace=none)


def _told(
    stretch: DrivenStretch,
    asked: AskedChange,
    values: tuple[tuple[float | None, float | None], ...],
    energy: FloatArray,
    used: float,
    apart_s: float,
) -> ChangedCorner:
    running = _running_s(stretch, energy)
    gap, end = float(running[-1]), stretch.window_m[1]
    carried = gap - float(np.interp(end, stretch.place_m, running))
    return ChangedCorner(
        asked=asked,
        values=values,
        window_m=stretch.window_m,
        gap_s=gap,
        sigma_s=_sigma_s(asked, gap, apart_s),
        carried_s=carried,
        grip_used=used,
        trace=_trace(stretch, energy),
    )


def _trace(stretch: DrivenStretch, energy: FloatArray) -> ChangeTrace:
    """Places, speeds and the running gap up to the window's end."""
    inside = stretch.place_m <= stretch.window_m[1]
    speed, running = np.sqrt(2.0 * energy) * 3.6, _running_s(stretch, energy)
    return ChangeTrace(stretch.place_m[inside], speed[inside], running[inside])


def _sigma_s(asked: AskedChange, gap_s: float, apart_s: float) -> float:
    """One standard deviation of a change, seconds, whose accounts lie so far apart; 0 for a change of nothing."""
    doubts = [DOUBTS[s.what] for s in asked.sets if s.delta]
    if not doubts:
        return 0.0
    return hypot(max(least for least, _ in doubts), max(size for _, size in doubts) * gap_s, apart_s)


def _running_s(stretch: DrivenStretch, energy: FloatArray) -> FloatArray:
    """The running gap, seconds, (n,): of the changed speeds against the lap's own."""
    pace = (2.0 * energy) ** -0.5 - (2.0 * stretch.energy) ** -0.5
    return np.concatenate([[0.0], np.cumsum(0.5 * STEP_M * (pace[1:] + pace[:-1]))])


@dataclass(frozen=True)
class _Used:
    """The most grip that a changed curve uses, as a share of what was shown, and whether that is more than may be offered."""

    most: float
    over: bool


def _grip_used(stretch: DrivenStretch, known: KnownVehicle, energy: FloatArray) -> _Used:
    """Grip along the changed part: past what was shown where it is past that and past what the lap itself used about there."""
    own, new = (_use(stretch, known, e) for e in (stretch.energy, energy))
    inside = np.abs(energy - stretch.energy) > 1e-3 * stretch.energy
    inside |= np.roll(inside, OVER_STEPS) | np.roll(inside, -OVER_STEPS)
    inside &= stretch.place_m <= stretch.next_m
    if not inside.any():
        return _Used(float(own.max()), over=False)
    reach = int(NEAR_M / STEP_M)
    near = np.max([np.roll(own, k) for k in range(-reach, reach + 1)], axis=0)
    allowed = np.maximum(1.0 - MARGIN_SIGMAS * known.grip.sigma, near)
    # Who is slower than the lap itself asks no more of the tyres than he gives them again on the throttle.
    allowed = np.where(energy < stretch.energy, allowed + SLOWER_USE, allowed)
    return _Used(float(new[inside].max()), over=bool(np.any((new > allowed)[inside])))


def _use(stretch: DrivenStretch, known: KnownVehicle, energy: FloatArray) -> FloatArray:
    v = np.sqrt(2.0 * energy)
    n = OVER_STEPS
    rise = np.gradient(energy, STEP_M)
    smooth = np.convolve(np.pad(rise, n, mode="edge"), np.ones(2 * n + 1) / (2 * n + 1), mode="valid")
    lateral = stretch.lateral_1pm * v**2
    return known.grip.used(v, known.fit.tyres_mps2(smooth, v, lateral), lateral)


def _fit_error(laps: Sequence[Held], fit: VehicleFit) -> FitError:
    """The model alone, from each pick-up to the next slowing, against what was driven."""
    speeds, pieces = [], []
    for held in laps:
        for index in range(len(held.corners)):
            stretch = stretch_of(held, index)
            if stretch is not None:
                missed = _missed(stretch, fit)
                speeds.append(missed[0])
                pieces.append(missed[1])
    if not speeds:
        return FitError(speed_rms_kmh=0.0, piece_rms_s=0.0)
    rms = [float(np.sqrt(np.median(np.square(each)))) for each in (speeds, pieces)]
    return FitError(speed_rms_kmh=rms[0], piece_rms_s=rms[1])


def _missed(stretch: DrivenStretch, fit: VehicleFit) -> tuple[float, float]:
    """Rms of speed (km/h) and the time (s) that the model alone misses on one drive out."""
    inside = (stretch.place_m >= stretch.pickup_m) & (stretch.place_m <= stretch.next_m)
    own, pedal, bends = stretch.energy[inside], stretch.throttle[inside].tolist(), stretch.lateral_1pm[inside].tolist()
    energy = float(own[0]) if own.size else 0.0
    out = []
    for throttle, bend in zip(pedal, bends, strict=True):
        out.append(energy)
        v = (2.0 * energy) ** 0.5
        energy = max(energy + fit.acceleration(v, throttle, v * v * bend) * STEP_M, 8.0)
    if len(out) < 2:
        return 0.0, 0.0
    v, driven = np.sqrt(2.0 * np.array(out)), np.sqrt(2.0 * own)
    return float(np.sqrt(np.mean((v - driven) ** 2))) * 3.6, float(np.sum(STEP_M / v - STEP_M / driven))
