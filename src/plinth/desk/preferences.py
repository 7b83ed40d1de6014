"""What the window remembers between starts: look and last workshop. Losing it costs nothing but comfort."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import platformdirs

from plinth.report.file_out import write_whole

NAME = "plinth"


def folder() -> Path:
    """Where demo copies and new workshops go by themselves."""
    return Path(platformdirs.user_data_dir(NAME))


def backup_folder() -> Path:
    """Where the daily copies of workshops go."""
    return Path(platformdirs.user_state_dir(NAME)) / "copies"


def settings_file() -> Path:
    """Where the preferences are kept."""
    return Path(platformdirs.user_config_dir(NAME)) / "window.json"


def load() -> dict[str, Any]:
    """What is remembered; empty where there is nothing readable."""
    return _read()[0]


def load_checked() -> tuple[dict[str, Any], str]:
    """What is remembered and makes sense, and a sentence where something was set aside (else empty)."""
    kept_choices, trouble = _read()
    kept = {
        key: kept_choices[key]
        for key, makes_sense in _FIELDS.items()
        if key in kept_choices and makes_sense(kept_choices[key])
    }
    odd = [key for key in _FIELDS if key in kept_choices and key not in kept]
    if odd:
        trouble = f"What the window remembered of {', '.join(odd)} makes no sense and was set aside."
    return kept, trouble


# What may be remembered, and how to tell that it makes sense.
_FIELDS: dict[str, Callable[[Any], bool]] = {
    "dark": lambda value: isinstance(value, bool),
    "path_whole": lambda value: isinstance(value, bool),
    "keys": lambda value: (
        isinstance(value, dict)
        and len(value) <= 200
        and all(isinstance(k, str) and isinstance(v, str) and len(v) < 60 for k, v in value.items())
    ),
    "tour_offered": lambda value: isinstance(value, bool),
    "scale": lambda value: isinstance(value, int | float) and not isinstance(value, bool) and 0.5 <= value <= 3.0,
    "workshop": lambda value: isinstance(value, str) and 0 < len(value) < 4096 and "\0" not in value,
    "place": lambda value: (
        isinstance(value, list) and len(value) == 4 and all(type(v) is int and abs(v) < 100_000 for v in value)
    ),
}


def _read() -> tuple[dict[str, Any], str]:
    path = settings_file()
    try:
        text = path.read_text(encoding="utf-8") if path.is_file() else ""
    except (OSError, UnicodeDecodeError) as error:
        return {}, f"What the window remembered ({path}) could not be read ({error}); it begins anew."
    if not text:
        return {}, ""
    try:
        kept = json.loads(text)
    except (ValueError, RecursionError):
        kept = None
    if isinstance(kept, dict):
        return kept, ""
    return {}, f"What the window remembered ({path}) is damaged and was set aside; it begins anew."


def _save(**changes: object) -> None:
    path = settings_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        kept = {**load_checked()[0], **changes}
        write_whole(path, json.dumps({name: value for name, value in kept.items() if value is not None}))
    except OSError:
        return  # comfort only: a read-only home must not keep anybody from working


def save_dark(dark: bool) -> None:
    """Remember that light or dark was chosen."""
    _save(dark=dark)


def forget_dark() -> None:
    """Light or dark is the desktop's again."""
    _save(dark=None)


def save_scale(scale: float) -> None:
    """Remember the text size."""
    _save(scale=scale)


def save_path(whole: bool) -> None:
    """Remember whether the power path stays whole beside Plan."""
    _save(path_whole=whole)


def save_keys(own: dict[str, str]) -> None:
    """Remember keys of one's own, by action."""
    _save(keys=own)


def save_tour_offered() -> None:
    """Remember that the tour was offered: once is enough."""
    _save(tour_offered=True)


def save_place(x: int, y: int, width: int, height: int) -> None:
    """Remember where the window stands and how large it is."""
    _save(place=[x, y, width, height])


def save_workshop(path: Path) -> None:
    """Remember the workshop opened last."""
    _save(workshop=str(path.resolve()))
