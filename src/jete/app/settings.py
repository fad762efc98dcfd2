"""How things are shown, remembered between starts in one small JSON file."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

from platformdirs import user_config_path

from jete.session.display import Display, remembered


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
    return remembered(found) if isinstance(found, dict) else Display()


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
