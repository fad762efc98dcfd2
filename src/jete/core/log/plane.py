"""Positions on a local plane, and the start/finish line on it."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Channel, Lap, Log

# WGS 84, NIMA TR8350.2 (2000), table 3.1.
EQUATOR_RADIUS_M = 6378137.0
# First eccentricity squared of WGS 84 (NIMA TR8350.2, table 3.3).
ECCENTRICITY_2 = 6.69437999014e-3


@dataclass(frozen=True)
class Origin:
    """Where the local plane touches the ellipsoid, degrees; None for logs in x and y."""

    latitude_deg: float | None = None
    longitude_deg: float | None = None

    def to_plane(self, latitude_deg: FloatArray, longitude_deg: FloatArray) -> tuple[FloatArray, FloatArray]:
        """East and north in metres, (n,) both, of degrees (n,); within 0.1 m over 10 km.

        By the ellipsoid's two radii at the origin (Snyder 1987, USGS Prof. Paper 1395, p. 24 f.).

        Raises:
            ValueError: a plane that is not in degrees.
        """
        east_radius, north_radius = self._radii()
        assert self.latitude_deg is not None
        assert self.longitude_deg is not None
        east = np.radians(longitude_deg - self.longitude_deg) * east_radius
        return east, np.radians(latitude_deg - self.latitude_deg) * north_radius

    def to_degrees(self, east_m: FloatArray, north_m: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Latitude and longitude, (n,) both, of metres (n,): :meth:`to_plane` backwards.

        Raises:
            ValueError: a plane that is not in degrees.
        """
        east_radius, north_radius = self._radii()
        assert self.latitude_deg is not None
        assert self.longitude_deg is not None
        latitude = self.latitude_deg + np.degrees(north_m / north_radius)
        return latitude, self.longitude_deg + np.degrees(east_m / east_radius)

    def carried_to(self, other: Origin, xy_m: FloatArray) -> FloatArray:
        """Points (n, 2) of this plane on the plane of another origin, (n, 2).

        Raises:
            ValueError: one of them is in degrees and the other is not.
        """
        if self.latitude_deg is None and other.latitude_deg is None:
            return xy_m
        return np.stack(other.to_plane(*self.to_degrees(xy_m[:, 0], xy_m[:, 1])), axis=1)

    def _radii(self) -> tuple[float, float]:
        """Metres of a radian to the east and to the north at the origin."""
        if self.latitude_deg is None or self.longitude_deg is None:
            message = "an origin in degrees is needed"
            raise ValueError(message)
        phi = radians(self.latitude_deg)
        bend = 1.0 - ECCENTRICITY_2 * sin(phi) ** 2
        return EQUATOR_RADIUS_M / bend**0.5 * cos(phi), EQUATOR_RADIUS_M * (1.0 - ECCENTRICITY_2) / bend**1.5


def origin_of(log: Log) -> Origin | None:
    """The plane for a log (and all that are compared with it); None without position."""
    latitude, longitude = log.get("latitude"), log.get("longitude")
    if latitude is not None and longitude is not None and len(latitude):
        return Origin(float(latitude.value[0]), float(longitude.value[0]))
    return Origin() if log.has_position() else None


def positions(log: Log | Lap, origin: Origin | None) -> tuple[Channel, Channel] | None:
    """East and north of a log or a lap on the plane of ``origin``; None where they don't exist there."""
    if origin is None:
        return None
    if origin.latitude_deg is None:
        x, y = log.get("x"), log.get("y")
        return (x, y) if x is not None and y is not None else None
    latitude, longitude = log.get("latitude"), log.get("longitude")
    if latitude is None or longitude is None:
        return None
    east, north = origin.to_plane(latitude.value, longitude.value)
    return Channel("x", "m", latitude.time_s, east), Channel("y", "m", latitude.time_s, north)


@dataclass(frozen=True)
class StartLine:
    """A point on the line and the direction of travel across it (mathematical, radians).

    The line reaches ``half_width_m`` to either side.
    """

    x_m: float
    y_m: float
    heading_rad: float
    half_width_m: float = 25.0

    def ahead_m(self, x: FloatArray, y: FloatArray) -> FloatArray:
        """Metres past the line along the direction of travel, (n,)."""
        return (x - self.x_m) * cos(self.heading_rad) + (y - self.y_m) * sin(self.heading_rad)

    def aside_m(self, x: FloatArray, y: FloatArray) -> FloatArray:
        """Metres to the left of the point on the line, (n,)."""
        return (y - self.y_m) * cos(self.heading_rad) - (x - self.x_m) * sin(self.heading_rad)
