"""How things are shown: every setting once, with what it begins with and what it may be.  All of it is remembered between starts.

A setting is one line of :class:`Display`.  What turns it is an action of ``app.actions``, a switch of a page, or both.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from typing import TYPE_CHECKING, Any, Final

from jete.notes.sheet import KINDS

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

KEPT: Final = "kept"
# What passes of a corner can be shown, told apart by, and drawn over; their words stand in ``report.passes``.
SCOPES: Final = ("run", "day", "driver", "season", "class")
WAYS: Final = ("gear", "brushes", "apex", "exit", "tag")
PASS_NUMBERS: Final = (
    "brake_on_m", "brake_peak", "turn_in_m", "slow_point_m", "min_speed_kmh", "throttle_on_m", "full_throttle_m", "exit_speed_kmh",
    "window_s", "whole_s",
)  # fmt: skip


def _setting(begins: Any, kept: Callable[[Any], Any]) -> Any:
    """A setting: what it begins with, and what is made of a remembered value; None for one that can't be."""
    return field(default=begins, metadata={KEPT: kept})


def _one_of(*choices: str, begins: str | None = None) -> Any:
    kept: Callable[[Any], Any] = lambda v: v if v in choices else None  # noqa: E731 - one of many alike
    return field(default=begins or choices[0], metadata={KEPT: kept, "choices": choices})


def _switch(begins: bool) -> Any:  # noqa: FBT001 - a field
    return _setting(begins, lambda v: v if isinstance(v, bool) else None)


def _within(begins: float, low: float, high: float) -> Any:
    def kept(value: Any) -> float | None:
        number = isinstance(value, int | float) and not isinstance(value, bool)
        return float(value) if number and low <= value <= high else None

    return field(default=begins, metadata={KEPT: kept, "bounds": (low, high)})


def _dots(value: Any) -> tuple[str, str] | None:
    match value:
        case [str(across), str(upwards)] if {across, upwards} <= set(PASS_NUMBERS):
            return across, upwards
    return None


def _panels(value: Any) -> tuple[tuple[str, tuple[str, ...]], ...] | None:
    """Panels by kind of vehicle; what is none is left out."""
    found = []
    for pair in value if isinstance(value, list) else ():
        match pair:
            case [str(kind), [*names]] if kind in KINDS and names and all(isinstance(n, str) for n in names):
                found.append((kind, tuple(str(n) for n in names)))
    return tuple(found)


@dataclass(frozen=True, kw_only=True)
class Display:
    """Theme, units, panels, the order of the ledger, what it sums up and divides by.

    ``from_apex``: the corner's metres count from its apex, else from the landmark one brakes by.  ``by_landmark``: places are told from
    landmarks, with the metres beside them, else in metres only.  On the page Corner: what stands ``beside`` the traces, whose passes
    are shown (``scope``), which two of their numbers are the ``dots``, and what tells two ``ways`` apart.

    From the seat: the eye's height, the angle of view, how far the road is seen.

    ``panels`` are those that a person chose, in their order, by kind of vehicle; none for the sensible set.
    """

    theme: str = _one_of("light", "dark", "contrast")
    speed: str = _one_of("km/h", "mph")
    length: str = _one_of("m", "ft", "yd")
    pressure: str = _one_of("bar", "psi", "%")
    panels: tuple[tuple[str, tuple[str, ...]], ...] = _setting((), _panels)
    by_loss: bool = _switch(begins=False)
    whole_run: bool = _switch(begins=False)
    by_phase: bool = _switch(begins=False)
    by_landmark: bool = _switch(begins=True)
    from_apex: bool = _switch(begins=True)
    beside: str = _one_of("marks", "shapes", "passes", "ways", "over_time", "what_if")
    scope: str = _one_of(*SCOPES, begins="driver")
    dots: tuple[str, str] = _setting(("throttle_on_m", "whole_s"), _dots)
    ways: str = _one_of(*WAYS)
    eye_m: float = _within(1.15, 0.5, 3.0)
    view_deg: float = _within(62.0, 30.0, 110.0)
    ahead_m: float = _within(260.0, 80.0, 600.0)
    look_m: float = _within(30.0, 0.0, 60.0)

    def panels_for(self, kind: str) -> tuple[str, ...]:
        """The panels that a person chose for a kind of vehicle; none where nobody did."""
        return dict(self.panels).get(kind, ())


def remembered(found: dict[str, Any]) -> Display:
    """A display from what was remembered of it; what is missing or can't be is as at the first start."""
    kept = {f.name: f.metadata[KEPT](found[f.name]) for f in fields(Display) if f.name in found}
    return Display(**{name: value for name, value in kept.items() if value is not None})


def choices(name: str) -> tuple[str, ...]:
    """What a setting that is a word may be."""
    return tuple(_metadata(name)["choices"])


def bounds(name: str) -> tuple[float, float]:
    """From and to where a setting that is a number may be set."""
    low, high = _metadata(name)["bounds"]
    return float(low), float(high)


def _metadata(name: str) -> Mapping[str, Any]:
    return next(f.metadata for f in fields(Display) if f.name == name)
