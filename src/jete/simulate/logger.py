"""A logger: samples a true trace at its own rates, with noise and an odometer's scale."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.log.lap import Channel, Log
from jete.simulate.driver import Trace
from jete.simulate.lines import Line
from jete.simulate.receiver import Receiver, filled_in, seen

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from jete.simulate.circuit import Circuit

    FloatArray = NDArray[np.float64]


# A receiver's Doppler speed, one standard deviation.
GPS_SPEED_NOISE_MPS = 0.08


@dataclass(frozen=True)
class LoggerSettings:
    """Rates, noise (one standard deviation) and what is recorded."""

    rate_hz: float = 100.0
    position_hz: float = 10.0
    position_noise_m: float = 1.0
    position_lag_s: float = 0.0
    speed_noise_mps: float = 0.03
    speed_lag_s: float = 0.15
    pedal_noise: float = 0.003
    odometer_scale: float = 1.0
    receiver: Receiver | None = None
    channels: tuple[str, ...] = (
        "lap", "distance", "speed", "throttle", "brake", "steering", "gear", "rpm", "x", "y",
        "acc_long", "acc_lat", "yaw_rate",
    )  # fmt: skip


def record(
    trace: Trace,
    line: Line,
    settings: LoggerSettings,
    seed: int,
    laps: tuple[float, float] | None = None,
    source: str = "log.csv",
) -> Log:
    """Record laps ``laps[0]`` to ``laps[1]`` (exclusive) of a trace; all of it by default.

    The first sample lies a random part of a sample past the line, as with real loggers.
    """
    rng = np.random.default_rng(seed)
    first, last = laps or (0, round(trace.station_m[-1] / trace.circuit.length_m))
    start, end = trace.crossing_s(first), min(trace.crossing_s(last), float(trace.time_s[-1]))
    step = 1.0 / settings.rate_hz
    time = np.arange(start + rng.uniform(0.05, 0.95) * step, end + step, step)
    time = time[time <= trace.time_s[-1]]
    samples = _Samples(trace, line, time, start)
    channels: dict[str, Channel] = {"time": Channel("time", "s", time - start, time - start)}
    for name in settings.channels:
        if name not in ("x", "y"):
            channels[name] = _channel(name, samples, settings, rng)
    if "x" in settings.channels:
        channels.update(_positions(samples, settings, rng))
    return Log(source=source, channels=channels)


@dataclass(frozen=True, eq=False)
class _Samples:
    """The truth at the logger's times."""

    trace: Trace
    line: Line
    time: FloatArray
    start: float

    def of(self, values: FloatArray, time: FloatArray | None = None) -> FloatArray:
        """A dense series at the sample times."""
        return np.interp(self.time if time is None else time, self.trace.time_s, values)

    def station(self, time: FloatArray | None = None) -> FloatArray:
        """Running station."""
        return self.of(self.trace.station_m, time)

    def along_line(self, values: FloatArray) -> FloatArray:
        """A per-lap series (n,) of the line at the samples."""
        at = np.mod(self.station(), self.trace.circuit.length_m)
        grid = np.append(self.trace.circuit.station_m, self.trace.circuit.length_m)
        return np.asarray(np.interp(at, grid, np.append(values, values[0])))

    def rate(self) -> FloatArray:
        """Metres of path per metre of station."""
        return self.along_line(self.line.length_rate())

    def speed(self, time: FloatArray | None = None) -> FloatArray:
        """Speed along the path."""
        return self.of(self.trace.speed_mps, time) * self.rate()

    def curvature(self) -> FloatArray:
        """Curvature of the path: the road's and the line's own."""
        return self.along_line(self.line.curvature_1pm())


def _channel(name: str, s: _Samples, settings: LoggerSettings, rng: np.random.Generator) -> Channel:
    """One channel with its noise, in inside units."""
    value, noise, unit = _TRUTH[name](s, settings)
    noisy = value + rng.normal(0.0, noise, len(value)) if noise > 0.0 else value
    if name in ("throttle", "brake", "brake_front", "brake_rear"):
        noisy = np.maximum(noisy, 0.0)
    return Channel(name, unit, s.time - s.start, noisy)


def _distance(s: _Samples, settings: LoggerSettings) -> tuple[FloatArray, float, str]:
    """Odometer that resets at the line: path length times its scale."""
    circuit = s.trace.circuit
    lap = np.floor(s.station() / circuit.length_m)
    grid = np.append(circuit.station_m, circuit.length_m)
    own = np.interp(s.station() - lap * circuit.length_m, grid, s.line.along_m())
    return own * settings.odometer_scale, 0.0, "m"


_TRUTH: dict[str, Callable[[_Samples, LoggerSettings], tuple[FloatArray, float, str]]] = {
    "lap": lambda s, _: (np.floor(s.station() / s.trace.circuit.length_m), 0.0, ""),
    "distance": _distance,
    "speed": lambda s, c: (s.speed() * c.odometer_scale, c.speed_noise_mps, "m/s"),
    "throttle": lambda s, c: (s.of(s.trace.throttle), c.pedal_noise, "ratio"),
    "brake": lambda s, c: (_pressure(s), 100 * c.pedal_noise, "bar"),
    "brake_front": lambda s, c: (0.75 * _pressure(s), 100 * c.pedal_noise, "bar"),
    "brake_rear": lambda s, c: (0.25 * _pressure(s), 50 * c.pedal_noise, "bar"),
    "steering": lambda s, _: (
        s.curvature() * s.trace.vehicle.wheelbase_m * s.trace.vehicle.steering_ratio,
        0.003,
        "rad",
    ),
    "wheel_speed": lambda s, c: (s.speed() * c.odometer_scale * (1.0 + _slip(s)), c.speed_noise_mps, "m/s"),
    "gps_speed": lambda s, c: (s.speed(s.time - c.speed_lag_s), GPS_SPEED_NOISE_MPS, "m/s"),
    "gear": lambda s, _: (_gear(s), 0.0, ""),
    "rpm": lambda s, _: (_rpm(s), 20.0, "1/min"),
    "altitude": lambda s, _: (s.along_line(s.trace.circuit.height_m), 0.4, "m"),
    "acc_long": lambda s, _: (
        s.of(s.trace.acceleration_mps2) + 9.81 * s.along_line(s.trace.circuit.slope),
        0.15,
        "m/s2",
    ),
    "acc_vert": lambda s, _: (9.81 + s.speed() ** 2 * s.along_line(_rounding(s.trace.circuit)), 0.3, "m/s2"),
    "acc_lat": lambda s, _: (s.speed() ** 2 * s.curvature(), 0.15, "m/s2"),
    "yaw_rate": lambda s, _: (s.speed() * s.curvature(), 0.008, "rad/s"),
    "lean": lambda s, _: (np.arctan(s.speed() ** 2 * s.curvature() / 9.81), 0.006, "rad"),
}


def _gear(s: _Samples) -> FloatArray:
    """The gear that the driver chose, else the one that the speed tells."""
    chosen = s.trace.gear
    if chosen is None:
        return s.trace.vehicle.gear(s.of(s.trace.speed_mps))
    return chosen[np.minimum(np.searchsorted(s.trace.time_s, s.time), len(chosen) - 1)]


def _rpm(s: _Samples) -> FloatArray:
    tops = np.asarray(s.trace.vehicle.gear_tops_mps)[_gear(s).astype(int) - 1]
    return np.asarray(np.maximum(1500.0, 7400.0 * s.of(s.trace.speed_mps) / tops))


def _slip(s: _Samples) -> FloatArray:
    """What the wheels turn faster (driven) or slower (braked) than the road goes by, share of it.

    A tyre slips in proportion at first; near its limit it spins or locks (Pacejka 2012, Tire and
    Vehicle Dynamics, § 1.2).
    """
    used = s.of(s.trace.acceleration_mps2) / (9.81 * s.trace.vehicle.braking_g)
    return np.asarray(np.clip(0.03 * used + 0.25 * np.sign(used) * np.maximum(np.abs(used) - 0.85, 0.0), -0.12, 0.12))


def _rounding(circuit: Circuit) -> FloatArray:
    """How the road bends upwards, 1/m, (n,)."""
    step = circuit.length_m / len(circuit.height_m)
    return (np.roll(circuit.slope, -1) - np.roll(circuit.slope, 1)) / (2.0 * step)


def _pressure(s: _Samples) -> FloatArray:
    return s.of(s.trace.brake_mps2) * s.trace.vehicle.brake_bar_per_mps2


def _positions(s: _Samples, settings: LoggerSettings, rng: np.random.Generator) -> dict[str, Channel]:
    """X and y at the receiver's own rate, or filled in to the logger's."""
    receiver = settings.receiver or Receiver(
        settings.position_hz, settings.position_noise_m, lag_s=settings.position_lag_s
    )
    time = np.arange(s.time[0], s.time[-1], 1.0 / receiver.fix_hz)
    places = s.line.places(s.station(time - receiver.lag_s))
    out = {}
    for name, true in zip(("x", "y"), places, strict=True):
        value = seen(receiver, true, rng)
        if receiver.filled == "none":
            out[name] = Channel(name, "m", time - s.start, value)
        else:
            out[name] = Channel(name, "m", s.time - s.start, filled_in(receiver, time, value, s.time))
    return out
