"""How things are shown, remembered between starts in one small JSON file."""

from __future__ import annotations

import json
from dataclasses import asdict, fields, replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_path

from jete.app.units import LENGTHS, PRESSURES, SPEEDS
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
    try:
        text = _watched_path().read_text(encoding="utf-8").strip()
    except OSError:
        return None
    return Path(text) if text else None


def save_watched(folder: Path | None) -> None:
    """Remember which folder is watched."""
    path = _watched_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(str(folder or ""), encoding="utf-8")
    except OSError:
        return


def _watched_path() -> Path:
    return settings_path().with_name("watched-folder")


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
