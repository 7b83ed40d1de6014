"""Typed strings: each is a value that can be kept and shown, or a sentence."""

import datetime as dt
import functools
import math
import random
from pathlib import Path

from plinth.demo.builds import STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.guide.judging import doubt, reading_for_step, sentence_of, understood_words
from plinth.guide.schools.limited_supply import plan_steps
from plinth.guide.step import Step
from plinth.predict.solve import idle_rail_v
from plinth.units.errors import QuantityError
from plinth.units.level import read_level
from plinth.units.shown import shown
from plinth.units.typed import read_number, read_secondary, understand_quantity

AT = dt.datetime(2026, 1, 1, tzinfo=dt.UTC)
_SCRAPS = [
    *"0123456789.,-+−  pPmMkKuµnGvVaAΩrRfFeE%°~<>≥≈×xX_'\"\\/\0\n\t", "pp", "rms", "p-p", "OL", "about ", "mV", "kΩ",
    "MF", "∞", "nan", "inf", "1e9", "1e-9", "35-0-35", "2x25", "٣", "½", "🙂", " " * 40, "9" * 30,
]  # fmt: skip


@functools.cache
def _steps() -> tuple[Step, ...]:
    return tuple(one for one in plan_steps(STAGE_PAIR, "left", idle_rail_v(STAGE_PAIR), {}) if one.window is not None)


def attack(_folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    for _ in range(200):
        text = "".join(pick.choice(_SCRAPS) for _ in range(pick.randint(0, 12))) * pick.choice((1, 1, 1, 1, 50))
        fell = _one(text, pick)
        if fell:
            return f"{text[:80]!r}: {fell}"
    return ""


def _one(text: str, pick: random.Random) -> str:
    unit = pick.choice(("V", "A", "ohm", "W", "F", "Hz", "s", "°C", "%", "dB", ""))
    for read in (read_number, read_level, read_secondary, lambda text: understand_quantity(text, unit)):
        try:
            read(text)
        except QuantityError as error:
            if not 5 < len(str(error)) < 500:
                return f"a sentence of {len(str(error))} characters"
    step = pick.choice(_steps())
    try:
        reading = reading_for_step(step, text, BENCH, AT)
    except QuantityError:
        return ""
    if not math.isfinite(reading.value) or not sentence_of(reading) or len(reading.typed) > 60:
        return f"kept as {reading}"
    said = [shown(reading.value, reading.unit), understood_words(reading)]
    asked = doubt(step, reading)
    return "" if all(said) and len(asked) < 500 else f"shown as {said}, asked {asked!r}"
