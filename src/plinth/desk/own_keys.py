"""Keys of one's own, beside those that every action has: which may be, and why another may not."""

import re
from collections.abc import Mapping, Sequence

from PySide6.QtGui import QKeySequence

from plinth.desk.commands import Command

# What desktops, input methods and screen readers take before any window sees it; some of them, somewhere.
TAKEN: Mapping[str, str] = {
    "Ctrl+Alt+L": "locks the screen", "Ctrl+Alt+D": "shows the desktop", "Ctrl+Alt+T": "opens a terminal",
    "Ctrl+Alt+Del": "ends the session", "Ctrl+Alt+Backspace": "ends the screen server",
    "Ctrl+Alt+Tab": "goes between windows", "Ctrl+Alt+Left": "changes the work space",
    "Ctrl+Alt+Right": "changes the work space", "Ctrl+Alt+Up": "changes the work space",
    "Ctrl+Alt+Down": "changes the work space", "Ctrl+Esc": "opens the menu of the desktop",
    "Ctrl+Shift+U": "types a character by its number", "Ctrl+Shift+E": "types an emoji", "Ctrl+.": "types an emoji",
    "Ctrl+Space": "changes the input method", "Alt+Tab": "goes between windows",
    "Alt+Shift+Tab": "goes between windows",
    "Alt+Esc": "goes between windows", "Alt+Space": "opens the menu of the window", "Alt+F1": "opens a menu",
    "Alt+F2": "runs a command of the desktop", "Alt+F4": "closes the window", "Alt+F7": "moves the window",
    "Alt+F8": "sizes the window", "Alt+F10": "makes the window large", "F10": "opens a menu",
    "Ctrl+Alt+F1": "goes to a console", "Ctrl+Alt+F2": "goes to a console", "Ctrl+Alt+F3": "goes to a console",
    "Ctrl+Alt+F4": "goes to a console", "Ctrl+Alt+F5": "goes to a console", "Ctrl+Alt+F6": "goes to a console",
    "Ctrl+Alt+F7": "goes back to the desktop", "Print": "takes a picture of the screen",
}  # fmt: skip
# What a field of text does with them.
IN_FIELDS: Mapping[str, str] = {
    "Ctrl+A": "selects all", "Ctrl+C": "copies", "Ctrl+V": "pastes", "Ctrl+X": "cuts", "Ctrl+Y": "does again",
    "Ctrl+U": "clears the line", "Ctrl+Left": "goes by words", "Ctrl+Right": "goes by words",
    "Ctrl+Ins": "copies", "Shift+Ins": "pastes", "Shift+Del": "cuts", "Ctrl+Del": "deletes a word",
}  # fmt: skip
_FUNCTION = re.compile(r"(?:Shift\+)?F\d+")


def portable(keys: QKeySequence) -> str:
    """As it is kept: the same on every desktop and in every language."""
    return keys.toString(QKeySequence.SequenceFormat.PortableText)


def taken_by(keys: str) -> str:
    """What else takes these keys, in words; empty where nothing is known to."""
    sequence = portable(QKeySequence(keys))
    if sequence in TAKEN:
        return f"{sequence} {TAKEN[sequence]} on some desktops"
    if sequence in IN_FIELDS:
        return f"{sequence} {IN_FIELDS[sequence]} in a field of text"
    parts = sequence.split("+")
    if "Meta" in parts:
        return f"{sequence} belongs to the desktop"
    if "Ins" in parts or "CapsLock" in parts:
        return f"{sequence} belongs to screen readers"
    return ""


def _fitting(keys: str) -> bool:
    """Whether no text is typed with it: it is held with Ctrl or Alt, or a function key."""
    return keys.startswith(("Ctrl+", "Alt+")) or _FUNCTION.fullmatch(keys) is not None


def why_not(keys: str, command: Command, commands: Sequence[Command], own: Mapping[str, str]) -> str:
    """Why an action cannot have these keys as its own, as a sentence; empty where it can."""
    sequence = QKeySequence(keys)
    if sequence.count() != 1:
        return "Found no key, expected one held with Ctrl or Alt, or a function key."
    shown = portable(sequence)
    taken = taken_by(shown)
    if taken:
        return f"{taken}: choose another."
    if not _fitting(shown):
        return f"Found {shown}, expected it held with Ctrl or Alt, or a function key: else it could not be typed."
    for other in commands:
        if shown in (portable(QKeySequence(other.keys)), own.get(other.key, "")):
            whose = "this action" if other is command else f"“{other.title}”"
            return f"{shown} leads to {whose} already: choose another."
    return ""


def sound_keys(kept: Mapping[str, str], commands: Sequence[Command]) -> dict[str, str]:
    """Of what was remembered that which still may be: an action may have gone, or have been given those keys."""
    sound: dict[str, str] = {}
    by_key = {command.key: command for command in commands}
    for key, keys in kept.items():
        if key in by_key and not why_not(keys, by_key[key], commands, sound):
            sound[key] = portable(QKeySequence(keys))
    return sound
