"""What the window remembers between starts: look and last workshop. Losing it costs nothing but comfort."""

import json
import os
from pathlib import Path
from typing import Any

import platformdirs

NAME = "plinth"


def folder() -> Path:
    """Where demo copies and new workshops go by themselves."""
    return Path(platformdirs.user_data_dir(NAME))


def _file() -> Path:
    return Path(platformdirs.user_config_dir(NAME)) / "window.json"


def load() -> dict[str, Any]:
    """What is remembered; empty where there is nothing readable."""
    try:
        found = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def _save(**changes: object) -> None:
    path = _file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        beside = path.with_suffix(".new")
        beside.write_text(json.dumps({**load(), **changes}), encoding="utf-8")
        os.replace(beside, path)
    except OSError:
        return  # comfort only: a read-only home must not keep anybody from working


def save_look(dark: bool, scale: float) -> None:
    """Remember theme and text size."""
    _save(dark=dark, scale=scale)


def save_workshop(path: Path) -> None:
    """Remember the workshop opened last."""
    _save(workshop=str(path.resolve()))
