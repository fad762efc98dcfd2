"""What is noted about a run and a lap besides what was logged: pure data, no storage.

Every field may be empty: conditions are often filled in later.  ``FIELDS`` is the one
table that forms, the command line and the storage read.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields, replace
from math import nan
from typing import TYPE_CHECKING, Final, Literal

from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterable

    from jete.core.log.lap import LapSpan

CONDITIONS: Final = ("dry", "damp", "wet")
KINDS: Final = ("car", "motorcycle")
LARGEST: Final = 1e9
ASIDE_WORDS: Final = {"traffic": "traffic", "yellow": "yellow flag", "off": "off track", "cut": "track cut"}


@dataclass(frozen=True)
class Field:
    """One field of a sheet: its title, its group on the form, what it holds and its unit.

    ``carried`` fields are taken over from the last run; the others belong to one run only.
    """

    name: str
    title: str
    group: str
    holds: Literal["text", "number", "count", "choice"] = "text"
    unit: str = ""
    choices: tuple[str, ...] = ()
    carried: bool = True


@dataclass(frozen=True)
class RunSheet:
    """Where, when, who, with what, in which conditions; empty text or None where not known."""

    circuit: str = ""
    layout: str = ""
    event: str = ""
    date: str = ""
    time: str = ""
    driver: str = ""
    coach: str = ""
    vehicle: str = ""
    kind: str = ""
    mass_kg: float | None = None
    gears: int | None = None
    group: str = ""
    condition: str = ""
    air_c: float | None = None
    track_c: float | None = None
    wind: str = ""
    tyres: str = ""
    tyre_laps: int | None = None
    cold_bar: str = ""
    hot_bar: str = ""
    fuel_l: float | None = None
    brake_bias: float | None = None
    setup: str = ""
    note: str = ""

    @property
    def title(self) -> str:
        """Driver, vehicle and time as one line, as far as known."""
        return " · ".join(p for p in (self.driver, self.vehicle, self.time) if p)


FIELDS: Final = (
    Field("circuit", "circuit", "where"), Field("layout", "layout", "where"), Field("event", "event", "where"),
    Field("date", "date", "where"), Field("time", "time", "where", carried=False),
    Field("driver", "driver", "who"), Field("coach", "coach", "who"),
    Field("vehicle", "vehicle", "who"), Field("kind", "kind", "who", "choice", choices=("", *KINDS)),
    Field("mass_kg", "mass", "who", "number", "kg"), Field("gears", "gears", "who", "count"),
    Field("group", "class", "who"),
    Field("condition", "road", "conditions", "choice", choices=("", *CONDITIONS)),
    Field("air_c", "air", "conditions", "number", "°C"), Field("track_c", "track", "conditions", "number", "°C"),
    Field("wind", "wind", "conditions"),
    Field("tyres", "tyres", "tyres and set-up"), Field("tyre_laps", "their age", "tyres and set-up", "count", "laps"),
    Field("cold_bar", "cold", "tyres and set-up", unit="bar"),
    Field("hot_bar", "hot", "tyres and set-up", unit="bar", carried=False),
    Field("fuel_l", "fuel at start", "tyres and set-up", "number", "l", carried=False),
    Field("brake_bias", "brake bias", "tyres and set-up", "number", "%"),
    Field("setup", "set-up change", "tyres and set-up", carried=False), Field("note", "note", "tyres and set-up", carried=False),
)  # fmt: skip
BY_NAME: Final = {f.name: f for f in FIELDS}
assert list(BY_NAME) == [f.name for f in fields(RunSheet)]


@dataclass(frozen=True)
class LapNote:
    """What is noted about one lap; ``aside`` says why it does not count, empty where it does."""

    aside: str = ""
    reason: str = ""
    note: str = ""
    star: bool = False


@dataclass(frozen=True)
class LapSheet:
    """The notes of a run's laps by their number."""

    notes: tuple[tuple[int, LapNote], ...] = field(default=())

    def of(self, lap: int) -> LapNote:
        """The note of a lap; an empty one where there is none."""
        return next((n for number, n in self.notes if number == lap), LapNote())

    def counted(self, laps: Iterable[LapSpan]) -> tuple[LapSpan, ...]:
        """The laps that count: complete and not set aside."""
        aside = {number for number, note in self.notes if note.aside}
        return tuple(s for s in laps if s.complete and s.number not in aside)

    def with_note(self, lap: int, note: LapNote) -> LapSheet:
        """The notes with one changed."""
        others = tuple((n, x) for n, x in self.notes if n != lap)
        return LapSheet(tuple(sorted((*others, (lap, note)), key=lambda p: p[0])) if note != LapNote() else others)


def value_of(name: str, text: str) -> str | float | int | None:
    """A field's value from what was typed; None or empty text where nothing was.

    Raises:
        InputError: an unknown field, or text where a number or one of a few words belongs.
    """
    kind = BY_NAME.get(name)
    plain = text.strip()
    if kind is None:
        raise InputError(name, "there is no such field.", f"Known are: {', '.join(BY_NAME)}.")
    if kind.holds == "text":
        return plain
    if kind.holds == "choice":
        if plain not in kind.choices:
            raise InputError(
                kind.title, f"'{plain}' is not known.", f"Known are: {', '.join(c for c in kind.choices if c)}."
            )
        return plain
    if not plain:
        return None
    try:
        number = float(plain.replace(",", "."))
    except ValueError:
        number = nan
    if not abs(number) < LARGEST:
        raise InputError(kind.title, f"'{plain}' is no number.", "Write a number, or leave it empty.")
    return round(number) if kind.holds == "count" else number


def with_value(sheet: RunSheet, name: str, text: str) -> RunSheet:
    """The sheet with one field set from what was typed.

    Raises:
        InputError: as :func:`value_of`.
    """
    return replace(sheet, **{name: value_of(name, text)})  # type: ignore[arg-type]


def carried_on(last: RunSheet) -> RunSheet:
    """What a next run takes over from the last one."""
    return RunSheet(**{f.name: getattr(last, f.name) for f in FIELDS if f.carried})


# What belongs to a day at a circuit, whoever drives.
WEATHER: Final = ("event", "condition", "air_c", "track_c", "wind")
# Where two laps differ in one of these, their gap is not the driver's alone.
MATTERS: Final = ("layout", "vehicle", "condition", "tyres")


def changed_since(before: Iterable[RunSheet], since: Iterable[RunSheet]) -> list[str]:
    """What matters and differs on later runs from earlier ones, in words, each once.

    >>> changed_since([RunSheet(condition="dry")], [RunSheet(condition="wet"), RunSheet(condition="wet")])
    ['road wet (before: dry)']
    """
    later = list(since)
    told = (words for one in before for other in later for words in differences(other, one))
    return list(dict.fromkeys(words.replace("(reference:", "(before:") for words in told))


def differences(a: RunSheet, b: RunSheet) -> list[str]:
    """What matters and differs between two runs, in words; unknown fields differ from nothing.

    >>> differences(RunSheet(condition="wet"), RunSheet(condition="dry"))
    ['road wet (reference: dry)']
    """
    pairs = [(BY_NAME[n].title, getattr(a, n), getattr(b, n)) for n in MATTERS]
    return [f"{title} {x} (reference: {y})" for title, x, y in pairs if x and y and x != y]
