"""The demo's runs, and what is noted about them; all of it is made up."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from platformdirs import user_cache_path

from jete import __version__
from jete.app.theme import ASSETS

if TYPE_CHECKING:
    from pathlib import Path

    from jete.library.location import Location

FOLDER: Final = ASSETS / "demo"
_DAY: Final = {
    "circuit": "Kestrel Sands",
    "event": "club day",
    "date": "2026-05-02",
    "condition": "dry",
    "wind": "sea breeze",
}
_CAR: Final = {
    **_DAY, "vehicle": "club car", "kind": "car", "mass_kg": "980", "gears": "6", "group": "endurance", "tyres": "medium",
    "coach": "Edda Rowe", "brake_bias": "56.5", "cold_bar": "1.6 1.6 1.5 1.5",
}  # fmt: skip
_MOTORCYCLE: Final = {
    **_DAY,
    "vehicle": "middleweight",
    "kind": "motorcycle",
    "mass_kg": "188",
    "gears": "6",
    "group": "motorcycles",
    "tyres": "soft",
}

RUNS: Final[dict[str, dict[str, str]]] = {
    "ines-karlsby-run-1": {**_CAR, "driver": "Ines Karlsby", "time": "10:15", "air_c": "14", "track_c": "19", "fuel_l": "40", "tyre_laps": "3"},
    "tomasz-oryel-run-1": {**_CAR, "driver": "Tomasz Oryel", "time": "11:05", "air_c": "16", "track_c": "23", "fuel_l": "38", "tyre_laps": "13"},
    "ines-karlsby-run-2": {**_CAR, "driver": "Ines Karlsby", "time": "14:30", "air_c": "18", "track_c": "28", "fuel_l": "40", "tyre_laps": "23", "setup": "rear bar one step softer"},
    "tomasz-oryel-run-2": {**_CAR, "driver": "Tomasz Oryel", "time": "15:20", "air_c": "18", "track_c": "27", "fuel_l": "36", "tyre_laps": "33"},
    "noor-veldane-motorcycle": {**_MOTORCYCLE, "driver": "Noor Veldane", "time": "12:00", "air_c": "17", "track_c": "26", "tyre_laps": "10"},
}  # fmt: skip
PAIR: Final = ("ines-karlsby-run-1", "tomasz-oryel-run-1")


def file_of(name: str) -> Path:
    """The log of a run."""
    return FOLDER / f"{name}.parquet"


def demo_location() -> Location:
    """The demo's own library, apart from the user's; it may be thrown away at any time."""
    from jete.library.location import Location

    return Location(user_cache_path("jete", appauthor=False) / f"demo-{__version__}")
