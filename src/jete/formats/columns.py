"""From named columns to a log: spellings, units, the clock, and refusals by name."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.errors import InputError
from jete.core.log import repair
from jete.core.log.channels import (
    BRAKE_RATIO_UNITS,
    CHANNELS,
    UNCHANGED,
    Conversion,
    canonical_name,
    conversion,
    known_units,
)
from jete.core.log.fill import without_fill
from jete.core.log.in_step import in_step
from jete.core.log.lap import Log, Repair
from jete.core.log.lapclock import lap_of_beacon, lap_resets, starts_anew, time_from_lap_clock
from jete.core.log.odometer import unwrapped
from jete.core.log.plausible import without_impossible, without_jumps, without_strays
from jete.core.log.speeds import with_speed
from jete.core.log.torn import torn_channels, torn_clock
from jete.core.log.units_agree import unclear_units, with_agreeing_units
from jete.formats.limits import refuse_rows

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

NORTH_POLE_DEG = 90.0
LEAST_SAMPLES = 20


@dataclass(frozen=True, eq=False)
class Columns:
    """What a file holds before it is understood: names and units as written, numbers (n,) or None for text; when it began, seconds since 1970 UTC, where it says so."""

    source: str
    names: tuple[str, ...]
    units: tuple[str | None, ...]
    values: tuple[FloatArray | None, ...]
    repairs: tuple[Repair, ...] = ()
    started_s: float | None = None


def headings_of(columns: Columns) -> list[str]:
    """Headings ``name [unit]`` of the columns that hold numbers."""
    return [
        f"{name} [{unit}]" if unit else name
        for name, unit, values in zip(columns.names, columns.units, columns.values, strict=True)
        if values is not None
    ]


def known_values(columns: Columns) -> list[FloatArray]:
    """The columns that hold numbers, (n,) each."""
    return [values for values in columns.values if values is not None]


class UnknownColumnsError(InputError):
    """A file that can be read, but whose columns don't make a log: a person may say what they are."""

    def __init__(self, where: str, what: str, mend: str) -> None:
        super().__init__(where, what, mend)
        self.columns: Columns | None = None

    @property
    def worth_mapping(self) -> bool:
        """Whether the file holds enough samples for a lap, once its columns are known."""
        return self.columns is not None and max(map(len, known_values(self.columns)), default=0) >= LEAST_SAMPLES


_OPEN, _CLOSE = "[(", "])"


# A spreadsheet takes a cell that begins like this for something to work out, or to run.
FORMULAS = ("=", "+", "-", "@")
GUARD = "'"


def guarded(heading: str) -> str:
    """A heading that a spreadsheet takes for words; :func:`split_heading` reads it as it was.

    >>> guarded("+cmd|calc"), guarded("speed [m/s]"), split_heading(guarded("-g [1]"))
    ("'+cmd|calc", 'speed [m/s]', ('-g', '1'))
    """
    return GUARD + heading if heading.startswith(FORMULAS) else heading


def split_heading(cell: str) -> tuple[str, str | None]:
    """Name and unit of a heading ``name``, ``name [unit]`` or ``name (unit)``.

    >>> split_heading("GPS Speed [km/h]"), split_heading("gear")
    (('GPS Speed', 'km/h'), ('gear', None))
    """
    text = cell.strip().strip('"').strip()
    if text.startswith(GUARD) and text[1:].startswith(FORMULAS):
        text = text[1:]
    # Looked for from the end, once: a cell of a million brackets is no work.
    closed = max(text.rfind(sign, 0, -1) for sign in _CLOSE) if text[-1:] in tuple(_CLOSE) else len(text)
    opened = min((k for sign in _OPEN if (k := text.find(sign, closed + 1)) >= 0), default=0)
    name = text[:opened].strip()
    return (name, text[opened + 1 : -1].strip()) if name else (text, None)


def assign(names: Sequence[str]) -> dict[str, int]:
    """Canonical channel to column; the canonical spelling wins, then the first one.

    Columns whose names are unknown keep their own name.
    """
    taken: dict[str, int] = {}
    for i, name in enumerate(names):
        if name.strip().casefold() in CHANNELS:
            taken.setdefault(name.strip().casefold(), i)
    for i, name in enumerate(names):
        canonical = canonical_name(name)
        if canonical and i not in taken.values():
            taken.setdefault(canonical, i)
    for i, name in enumerate(names):
        if name.strip() and i not in taken.values():
            taken.setdefault(name.strip(), i)
    return taken


def log_of(columns: Columns) -> Log:
    """A log from what a file holds, its columns told by their names.

    Raises:
        InputError: as :func:`log_from_columns`; an ``UnknownColumnsError`` carries the columns.
    """
    places = {name: i for name, i in assign(columns.names).items() if columns.values[i] is not None}
    held = {name: values for name, i in places.items() if (values := columns.values[i]) is not None}
    try:
        log = log_from_columns(
            columns.source, held, {name: columns.units[i] for name, i in places.items()}, columns.repairs
        )
        return replace(log, started_s=columns.started_s)
    except UnknownColumnsError as error:
        error.columns = columns
        raise


def log_from_columns(
    source: str,
    columns: Mapping[str, FloatArray],
    units: Mapping[str, str | None],
    repairs: Sequence[Repair] = (),
) -> Log:
    """A log from columns as read (canonical or extra names, logged units).

    Raises:
        InputError: no ``time``, neither speed nor position, an unknown unit, one sample.
    """
    if "time" not in columns and "lap_time" not in columns:
        raise UnknownColumnsError(
            source, "there is no 'time' column.", "Name the column with the time stamps 'time', in s or ms."
        )
    _refuse_empty(source, columns.keys())
    refuse_rows(source, max(len(values) for values in columns.values()))
    inside = {name: _converted(values, _conversion(source, name, units.get(name))) for name, values in columns.items()}
    inside, apart = _possible(inside)
    inside, told = _with_laps_and_time(inside)
    inside, agreed = with_agreeing_units(inside)
    _refuse_unclear(source, inside, units)
    inside, jumped = without_jumps(inside)
    clock, keep, mended = repair.mend_clock(inside["time"])
    if keep.sum() < 2:
        raise InputError(
            source, f"it holds {int(keep.sum())} sample(s), and a lap needs many.", "Export the whole log again."
        )
    torn = torn_clock(inside["time"][keep], clock[keep])
    whole = bool(keep.all())
    rows = {name: values if whole else values[keep] for name, values in inside.items()}
    shown = {name: _shown_unit(name, units.get(name)) for name in rows}
    clock = clock if whole else clock[keep]
    rows["time"] = clock
    if "distance" in rows:
        rows["distance"], overflown = unwrapped(rows["distance"], rows.get("lap"))
        mended += overflown
    channels, found = repair.channels_from(rows, shown, clock)
    _refuse_empty(source, channels.keys())
    log = with_speed(
        Log(
            source=source,
            channels=channels,
            repairs=(*repairs, *apart, *told, *agreed, *jumped, *mended, *found),
            torn=torn,
        )
    )
    log = replace(log, torn=(*torn, *torn_channels(log)))
    return in_step(without_fill(log))


def _possible(columns: dict[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns without values that can't be, degrees as such, and what was done."""
    taken, apart = _with_degrees_alone(columns)
    held, wrong = without_impossible(taken)
    near, strays = without_strays(held)
    return near, [*apart, *wrong, *strays]


def _converted(values: FloatArray, unit: Conversion) -> FloatArray:
    """Values in the inside unit; the same array where they are in it already."""
    if unit == UNCHANGED:
        return values
    with np.errstate(over="ignore"):
        return values * unit.factor + unit.offset if unit.offset else values * unit.factor


def _with_degrees_alone(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns with positions in degrees where degrees and minutes were written together (ddmm.mmmm)."""
    out = dict(columns)
    latitude = out.get("latitude")
    if latitude is None or not np.any(np.abs(latitude) > NORTH_POLE_DEG):
        return out, []
    known = np.sort(np.abs(latitude[np.isfinite(latitude)]))
    if len(known) == 0 or float(known[len(known) // 2]) <= NORTH_POLE_DEG:
        return out, []
    for name in {"latitude", "longitude"} & out.keys():
        out[name] = np.where(np.isfinite(out[name]), out[name], np.nan)
        whole = np.trunc(out[name] / 100.0)
        out[name] = whole + (out[name] - 100.0 * whole) / 60.0
    return out, [Repair("position", "degrees and minutes written together, taken apart", len(latitude))]


def _with_laps_and_time(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns with a time that runs on and, where one can be had, a ``lap``."""
    out = dict(columns)
    told: list[Repair] = []
    clock = out.get("time", out.get("lap_time"))
    assert clock is not None
    if "time" not in out or starts_anew(clock):
        out.setdefault("lap_time", clock)
        out["time"], told = time_from_lap_clock(clock)
    numbers = None
    if "lap" not in out and "beacon" in out:
        numbers = lap_of_beacon(out["beacon"])
    elif "lap" not in out and "lap_time" in out:
        numbers = lap_resets(out["lap_time"], out["time"])
    if numbers is not None:
        out["lap"] = numbers
    return out, told


def _refuse_empty(source: str, names: object) -> None:
    held = set(names)  # type: ignore[call-overload]
    if not ({"speed", "wheel_speed", "gps_speed"} & held or {"x", "y"} <= held or {"latitude", "longitude"} <= held):
        raise UnknownColumnsError(
            source,
            "it has neither 'speed' nor a position ('latitude' and 'longitude', or 'x' and 'y') with values.",
            "Export one of them as well.",
        )


def _refuse_unclear(source: str, inside: Mapping[str, FloatArray], units: Mapping[str, str | None]) -> None:
    """Ask for a unit that nobody said and the data do not tell.

    Raises:
        UnknownColumnsError: there is one.
    """
    unclear = unclear_units(inside, {name for name in ("time", "speed") if units.get(name, "") is None})
    if unclear is not None:
        name, why = unclear
        unit = {"time": "ms", "speed": "mph"}[name]
        mend = f"Say which it is behind its name, as in '{name} [{unit}]', or in the window."
        raise UnknownColumnsError(source, f"the unit of '{name}' is not clear: {why}.", mend)


def _conversion(source: str, name: str, unit: str | None) -> Conversion:
    """What makes values ones in the inside unit; extra channels stay as they are."""
    if name not in CHANNELS:
        return UNCHANGED
    found = conversion(name, unit)
    if found is None:
        raise UnknownColumnsError(
            source, f"channel '{name}' is in '{unit}', a unit that is not known.", f"Known are: {known_units(name)}."
        )
    return found


def _shown_unit(name: str, unit: str | None) -> str:
    """The unit that values carry from here on: pedals in % stay %, the rest is inside."""
    if name not in CHANNELS:
        return unit or ""
    if name.startswith("brake"):
        plain = (unit or "bar").strip().casefold()
        return "%" if plain in BRAKE_RATIO_UNITS else "bar"
    return CHANNELS[name].quantity.inside
