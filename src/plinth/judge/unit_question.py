"""A bare number that may stand in two units: asked about wherever the other one changes the verdict."""

from plinth.judge.window import Window, judge_reading
from plinth.units.bounds import Bound
from plinth.units.errors import AmbiguousError
from plinth.units.prefixes import PREFIXES
from plinth.units.shown import shown
from plinth.units.typed import Quantity

# Which other prefixes a meter may have shown, by unit and by the prefix that is meant where none is typed.
_OTHERS: dict[tuple[str, str], tuple[str, ...]] = {
    ("V", "m"): ("",), ("A", "m"): ("",), ("A", ""): ("m",), ("ohm", ""): ("k", "M"), ("ohm", "m"): ("",),
}  # fmt: skip
# A window whose edges lie within this factor of each other is not met by chance in another unit, nor is what lies
# within this factor of such a window.
NARROW = 3.0
# Meters show a little more than what is there; beyond this it cannot be there.
BEYOND = 1.2


def unit_label(unit: str, prefix: str = "") -> str:
    """A unit as a meter shows it: ``mV``, ``kΩ``."""
    return f"{prefix}{'Ω' if unit == 'ohm' else unit}"


def hold_to_unit(
    quantity: Quantity, typed: str, unit: str, bare_prefix: str, window: Window, most: float | None = None
) -> None:
    """Ask for the unit of a bare number where another one would change the verdict.

    ``most`` (SI) the most that can be read there: a unit in which it would be more was not meant. Raises
    AmbiguousError, whose ``texts`` are what to type instead.
    """
    others = _OTHERS.get((unit, bare_prefix), ())
    if not quantity.bare or quantity.value == 0.0 or not others:
        return
    here = judge_reading(quantity.value, None, window, quantity.bound)
    if _meant_by_its_size(quantity, window):
        return
    number = quantity.value / PREFIXES[bare_prefix]
    meanings = [(bare_prefix, quantity.value, here)]
    for prefix in others:
        value = number * PREFIXES[prefix]
        if most is not None and abs(value) > BEYOND * most:
            continue
        there = judge_reading(value, None, window, quantity.bound)
        if (there.side, there.words) != (here.side, here.words):
            meanings.append((prefix, value, there))
    if len(meanings) == 1:
        return
    texts = tuple(f"{' '.join(typed.split())} {unit_label(unit, prefix)}" for prefix, _, _ in meanings)
    said = " or ".join(
        f"{shown(value, unit)} ({verdict.words[0].lower()}{verdict.words[1:]})" for _, value, verdict in meanings
    )
    raise AmbiguousError(
        f"found {typed.strip()!r} without a unit, expected to know which: {said}? Look at the meter, and type "
        f"{' or '.join(texts)}",
        tuple(value for _, value, _ in meanings),
        texts,
    )


def _meant_by_its_size(quantity: Quantity, window: Window) -> bool:
    if window.low is None or window.high is None or quantity.bound is not Bound.NONE:
        return False
    narrow = 0.0 < window.high <= NARROW * window.low
    return narrow and window.low / NARROW <= quantity.value <= window.high * NARROW
