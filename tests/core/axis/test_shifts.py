"""Where a lap lies along and beside the reference's path: roads and lines of which that is known in closed form."""

import numpy as np
import pytest

from jete.core.axis.place.from_bends import shift_from_bends
from jete.core.axis.place.from_positions import most_likely_shift
from jete.core.axis.place.project import project
from jete.core.axis.positions.path import Fixes
from jete.core.axis.positions.position_errors import white
from jete.core.axis.road.road import Road
from jete.core.errors import InputError
from jete.core.numeric.spline import Curve, Knots, likeliest

LENGTH = 1200.0
RADIUS = 250.0


def circle(radius: float, along: np.ndarray) -> np.ndarray:
    """Places on a left-hand circle about (0, radius of the road), (n, 2), by distance along the road."""
    angle = along / RADIUS
    return np.stack([radius * np.sin(angle), RADIUS - radius * np.cos(angle)], axis=1)


def path() -> Curve:
    along = np.arange(0.0, LENGTH + 1.0, 5.0)
    knots = Knots.over(0.0, LENGTH, 20.0)
    sides = [likeliest(along, side, 0.01, knots, derivative=3, roughnesses=[1e-9]) for side in circle(RADIUS, along).T]
    return Curve(knots, np.stack([s.coefficients for s in sides], axis=1))


def road(curvature: np.ndarray) -> Road:
    grid = np.linspace(0.0, LENGTH, len(curvature))
    return Road(
        length_m=LENGTH,
        grid_m=grid,
        speed_mps=np.full(len(grid), 30.0),
        curvature_1pm=curvature,
        path=None,
        noise_m=0.05,
        measured=True,
        lasting_m=0.05,
    )


def fixes(aside: float, *, ahead: float = 0.0, backwards: bool = False) -> Fixes:
    """A lap on a circle ``aside`` metres to the left of the road's, whose odometer reads ``ahead`` metres too little."""
    place = np.arange(40.0, LENGTH - 40.0, 3.0)
    x, y = circle(RADIUS - aside, place[::-1] if backwards else place).T
    return Fixes(
        time_s=place / 30.0,
        distance_m=place - ahead,
        x_m=x,
        y_m=y,
        noise_m=0.05,
        lasting_m=0.05,
        errors=white(0.05, 0.1),
    )


BEND = road(np.full(1201, 1.0 / RADIUS))


@pytest.mark.parametrize(("aside", "ahead"), [(3.0, 0.0), (-3.0, 0.0), (0.0, 7.0), (4.0, -12.0)])
def test_a_circle_inside_the_road_s_is_seen_as_far_aside_and_as_far_along(aside: float, ahead: float) -> None:
    seen = project("lap", fixes(aside, ahead=ahead), BEND, path(), 1.0)
    assert seen.offset == pytest.approx(np.full(len(seen.u), aside), abs=0.02)
    assert seen.shift == pytest.approx(np.full(len(seen.u), ahead), abs=0.05)


def test_a_stray_position_is_left_out() -> None:
    lap = fixes(1.0)
    lap.x_m[100] += 12.0
    seen = project("lap", lap, BEND, path(), 1.0)
    assert len(seen.u) == len(lap.x_m) - 1
    assert np.abs(seen.offset - 1.0).max() < 0.05


def test_the_other_direction_and_another_road_are_refused() -> None:
    with pytest.raises(InputError, match="other direction"):
        project("lap", fixes(0.0, backwards=True), BEND, path(), 1.0)
    with pytest.raises(InputError, match="more than 30 m"):
        project("lap", fixes(-80.0), BEND, path(), 1.0)


def test_the_shift_follows_what_was_seen_through_its_noise() -> None:
    noise = np.random.default_rng(3).normal(0.0, 0.5, (2, len(fixes(0.0).x_m)))
    lap = fixes(2.0, ahead=5.0)
    noisy = Fixes(
        time_s=lap.time_s,
        distance_m=lap.distance_m,
        x_m=lap.x_m + noise[0],
        y_m=lap.y_m + noise[1],
        noise_m=0.5,
        lasting_m=0.5,
        errors=white(0.5, 0.1),
    )
    u = lap.distance_m
    found = most_likely_shift(project("lap", noisy, BEND, path(), 1.0), BEND, np.full(len(u), 30.0), u)
    inner = u[20:-20]
    assert np.abs(found.shift(inner) - 5.0).max() < 0.5
    assert np.abs(found.offset(inner) - 2.0).max() < 0.5


@pytest.mark.parametrize("late", [6.0, -9.0])
def test_bends_alone_show_by_how_much_an_odometer_is_off(late: float) -> None:
    grid = np.linspace(0.0, LENGTH, 1201)
    winding = 0.02 * np.sin(grid / 45.0) ** 3
    own = np.arange(30.0, LENGTH - 30.0, 1.5)
    found = shift_from_bends(np.interp(own + late, grid, winding), own, road(winding))
    assert np.abs(found.shift(own[40:-40]) - late).max() < 0.5
