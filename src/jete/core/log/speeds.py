"""One speed from what wheels and a receiver say of it.

A wheel's speed is quick and quiet, but a wheel locks under braking and spins on the exit, up to
a tenth of the speed.  A receiver's does not, but comes late and only now and then.  So the
wheel's stands, but where both part by more than noise and lag make of them; there the receiver's
stands in for it, moved back by its lag and on the wheel's scale:

    g(t) = s (w(t) − τ w'(t)),

s and the lag τ by least squares over where they go together.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jete.core.arrays import BoolArray, FloatArray
from jete.core.log.lap import Channel, Log, Repair
from jete.core.numeric.interpolate import slopes
from jete.core.numeric.statistics import true_runs

# Wheels that roll part from the ground by less (tyre slip at the limit of driving is 3 to 5 %),
SLIPS = 0.045
# and by less than this, which noise and a late receiver make.
SLIPS_MPS = 1.0
# A wheel lets go and grips again within this of where it is seen to slip.
AROUND_S = 0.25
# Slower than this a share of the speed says nothing.
ROLLING_MPS = 5.0
# With fewer samples than these nothing is compared.
FEWEST = 50
# No receiver is later.
LATEST_S = 1.0


def with_speed(log: Log) -> Log:
    """The log with a ``speed``: its own or the wheels', mended where they slip, or else the receiver's."""
    receiver = log.get("gps_speed")
    name = next((n for n in ("speed", "wheel_speed") if log.get(n) is not None), None)
    if name is None:
        return log if receiver is None else _taken(log, receiver)
    wheels = log.channels[name]
    if receiver is None or min(len(receiver), len(wheels)) < FEWEST:
        return log if name == "speed" else _taken(log, wheels)
    ground = on_scale_of(wheels, receiver)
    slips = slipping(wheels, ground)
    if not slips.any():
        return _taken(log, wheels)
    mended = replace(wheels, name="speed", value=np.where(slips, ground, wheels.value))
    told = Repair("speed", "wheels locked or spinning, the receiver's speed instead", int(np.count_nonzero(slips)))
    return replace(log, channels={**log.channels, "speed": mended}, repairs=(*log.repairs, told))


def _taken(log: Log, channel: Channel) -> Log:
    """The log with a channel as its speed."""
    return replace(log, channels={**log.channels, "speed": replace(channel, name="speed")})


def on_scale_of(wheels: Channel, receiver: Channel) -> FloatArray:
    """The receiver's speed at the wheels' samples, (n,), without its lag and on the wheels' scale, m/s; NaN beyond its ends."""
    rate = slopes(wheels.value, wheels.time_s)
    w, dw = wheels.at(receiver.time_s), np.interp(receiver.time_s, wheels.time_s, rate)
    good = w > ROLLING_MPS
    scale, lag = 1.0, 0.0
    for _ in range(3):
        if np.count_nonzero(good) < FEWEST:
            break
        rows = np.stack([w[good], -dw[good]], axis=1)
        (scale, pull), *_ = np.linalg.lstsq(rows, receiver.value[good], rcond=None)
        lag = float(np.clip(pull / scale, 0.0, LATEST_S))
        off = receiver.value - scale * (w - lag * dw)
        good = (w > ROLLING_MPS) & (np.abs(off) < SLIPS * w)
    return np.asarray(np.interp(wheels.time_s, receiver.time_s - lag, receiver.value / scale, np.nan, np.nan))


def slipping(wheels: Channel, ground_mps: FloatArray) -> BoolArray:
    """Samples at which the wheels do not roll, and those about them, (n,)."""
    off = np.abs(wheels.value - ground_mps)
    slips = (off > SLIPS * ground_mps) & (off > SLIPS_MPS) & (ground_mps > ROLLING_MPS)
    out = np.zeros_like(slips)
    for first, last in zip(*true_runs(slips), strict=True):
        inside = slice(*wheels.time_s.searchsorted([wheels.time_s[first] - AROUND_S, wheels.time_s[last] + AROUND_S]))
        out[inside] = True
    return out
