"""How things are shown, remembered between starts in one small JSON file."""

from __future__ import annotations

import json
from dataclasses import asdict, fields, replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_path

from jete.report.units import LENGTHS, PRESSURES, SPEEDS
from jete.session.state import PANELS, Display

_ALLOWED: dict[str, tuple[object, ...]] = {
    "theme": ("light", "dark"),
    "speed": tuple(SPEEDS),
    "length": tuple(LENGTHS),
    "pressure": tuple(PRESSURES),
    "by_loss": (True, False),
    "whole_run": (True, False),
}


def settings_path() -> Path:
    """Where the settings are kept."""
    return user_config_path("jete", appauthor=False) / "settings.json"


def watched() -> Path | None:
    """The folder that is watched for new logs."""
    text = _kept("watched-folder")
    return Path(text) if text else None


def save_watched(folder: Path | None) -> None:
    """Remember which folder is watched."""
    _keep("watched-folder", str(folder or ""))


def shelf_place() -> tuple[str, str]:
    """Where the shelf is: a folder or a database's URL, and the folder for its channel data; empty for the usual place."""
    place, _, folder = _kept("shelf").partition("\n")
    return place, folder


def save_shelf_place(place: str, folder: str = "") -> None:
    """Remember where the shelf is."""
    _keep("shelf", f"{place}\n{folder}" if place else "")


def _kept(name: str) -> str:
    try:
        return settings_path().with_name(name).read_text(encoding="utf-8").strip()
    except OSError:
        return ""


def _keep(name: str, text: str) -> None:
    """Write a small file beside the settings; a full or read-only disk only costs the memory of it."""
    path = settings_path().with_name(name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8")
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
    order = tuple(p for p in found.get("panels", ()) if p in PANELS)
    hidden = tuple(p for p in found.get("hidden", ()) if p in PANELS)
    if sorted(order) == sorted(PANELS):
        kept["panels"] = order
    if len(hidden) < len(PANELS):
        kept["hidden"] = hidden
    return replace(Display(), **kept)


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
