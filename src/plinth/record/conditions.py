"""Under which conditions something was read, and whether they still hold.

A condition is a name with a number or a text: ``rail_v`` 36.0, ``module`` the mark of the very board. A record counts
only while every condition that is asked for today is in it and agrees; what is missing never agrees.
"""

from collections.abc import Mapping

from plinth.units.shown import shown

Conditions = Mapping[str, float | str]

# Rails, mains and loads are set and read to a few per cent; further apart it is another condition.
SAME_SHARE = 0.05

_NUMBERS = {
    "rail_v": ("the rail", "V"),
    "mains_v": ("the mains", "V"),
    "battery_v": ("the battery", "V"),
    "load_ohm": ("the load", "ohm"),
    "frequency_hz": ("the frequency", "Hz"),
}
_THINGS = {
    "module": "the module",
    "supply": "the supply",
    "load": "the load",
    "protection": "the protection board",
    "entry": "the entry",
    "relay_supply": "the relay supply",
    "trigger": "the trigger relay",
    "driven": "how many channels play",
}


def same(then: float | str, today: float | str) -> bool:
    """Whether two values of one condition are the same: numbers within 5 %, texts to the letter."""
    if isinstance(then, str) or isinstance(today, str):
        return then == today
    return abs(then - today) <= SAME_SHARE * max(abs(then), abs(today))


def conditions_words(conditions: Conditions | None) -> str:
    """Conditions that are numbers, for people: ``the mains 230 V, the load 8.11 Ω``."""
    held = conditions or {}
    said = [(words, held[name], unit) for name, (words, unit) in _NUMBERS.items() if name in held]
    return ", ".join(f"{words} {shown(float(value), unit)}" for words, value, unit in said)


def differences(then: Conditions | None, today: Conditions) -> list[str]:
    """What is not as it was, in words; empty where a record taken ``then`` still counts ``today``."""
    if then is None:
        return ["its conditions were not kept"] if today else []
    return [_difference(name, then.get(name), value) for name, value in today.items() if not _agrees(then, name, value)]


def _agrees(then: Conditions, name: str, value: float | str) -> bool:
    return name in then and same(then[name], value)


def _difference(name: str, then: float | str | None, today: float | str) -> str:
    if name in _NUMBERS and isinstance(today, float | int):
        words, unit = _NUMBERS[name]
        was = f"{shown(float(then), unit)} then" if isinstance(then, float | int) else "not written down"
        return f"{words} was {was}, {shown(float(today), unit)} now"
    words = _THINGS.get(name, name.replace("_", " "))
    return f"{words} is another one now" if then is not None else f"{words} was not written down"
