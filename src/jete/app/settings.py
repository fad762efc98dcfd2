"""How things are shown, remembered between starts in one small JSON file."""

from __future__ import annotations

import json
from dataclasses import asdict, fields, replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_path

from jete.notes.sheet import KINDS
from jete.report.passes import NUMBERS, SCOPES, WAYS
from jete.report.units import LENGTHS, PRESSURES, SPEEDS
from jete.session.operations import BESIDE
from jete.session.state import Display

_ALLOWED: dict[str, tuple[object, ...]] = {
    "theme": ("light", "dark"),
    "speed": tuple(SPEEDS),
    "length": tuple(LENGTHS),
    "pressure": tuple(PRESSURES),
    "by_loss": (True, False),
    "whole_run": (True, False),
    "by_phase": (True, False),
    "by_landmark": (True, False),
    "from_apex": (True, False),
    "beside": BESIDE,
    "scope": tuple(SCOPES),
    "ways": tuple(WAYS),
}

# What can be set of the eye on the walk, from and to: its height, its angle of view, how far the road is seen.
EYES: dict[str, tuple[float, float]] = {"eye_m": (0.5, 3.0), "view_deg": (30.0, 110.0), "ahead_m": (80.0, 600.0)}


def settings_path() -> Path:
    """Where the settings are kept."""
    return user_config_path("jete", appauthor=False) / "settings.json"


def watched() -> Path | None:
    """The folder that is watched for new logs."""
    text = kept_text("watched-folder")
    return Path(text) if text else None


def save_watched(folder: Path | None) -> None:
    """Remember which folder is watched."""
    keep_text("watched-folder", str(folder or ""))


def shelf_place() -> tuple[str, str]:
    """Where the shelf is: a folder or a database's URL, and the folder for its channel data; empty for the usual place."""
    from jete.library.location import masked, without_password

    place, _, folder = kept_text("shelf").partition("\n")
    if "://" in place and masked(place) != place:
        # An earlier version kept what was typed.
        place = without_password(place)
        save_shelf_place(place, folder)
    return place, folder


def save_shelf_place(place: str, folder: str = "") -> None:
    """Remember where the shelf is."""
    keep_text("shelf", f"{place}\n{folder}" if place else "")


def kept_text(name: str) -> str:
    """What a small file beside the settings holds; empty where there is none."""
    try:
        return settings_path().with_name(name).read_text(encoding="utf-8").strip()
    except OSError:
        return ""


def keep_text(name: str, text: str) -> None:
    """Write a small file beside the settings; a full or read-only disk only costs the memory of it."""
    path = settings_path().with_name(name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        new = path.with_suffix(".new")
        new.write_text(text, encoding="utf-8")
        new.replace(path)
    except OSError:
        return


def load() -> Display:
    """The remembered display; what is missing or unknown is as at the first start."""
    try:
        found = json.loads(settings_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return Display()
    return _checked(found) if isinstance(found, dict) else Display()


def _checked(found: dict[str, Any]) -> Display:
    known = {f.name for f in fields(Display)}
    kept: dict[str, Any] = {k: v for k, v in found.items() if k in known and v in _ALLOWED.get(k, ())}
    dots = found.get("dots")
    if isinstance(dots, list) and len(dots) == 2 and all(isinstance(d, str) and d in NUMBERS for d in dots):
        kept["dots"] = (str(dots[0]), str(dots[1]))
    panels = found.get("panels")
    if isinstance(panels, list):
        kept["panels"] = tuple(pair for p in panels if (pair := _panels_from(p)) is not None)
    for name, (low, high) in EYES.items():
        value = found.get(name)
        if isinstance(value, int | float) and not isinstance(value, bool) and low <= value <= high:
            kept[name] = float(value)
    return replace(Display(), **kept)


def _panels_from(pair: object) -> tuple[str, tuple[str, ...]] | None:
    """A kind of vehicle and its panels, None for anything else."""
    match pair:
        case [str(kind), [*names]] if kind in KINDS and names and all(isinstance(n, str) for n in names):
            return kind, tuple(str(n) for n in names)
    return None


def save(display: Display) -> None:
    """Write the display; a full or read-only disk only costs the memory of it."""
    path = settings_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        new = path.with_suffix(".new")
        new.write_text(json.dumps(asdict(display), indent=1), encoding="utf-8")
        new.replace(path)
    except OSError:
        return
