"""From a typed text at a step to a reading with its verdict, and a kept reading against today's window."""

import dataclasses
import datetime as dt
from typing import assert_never

from plinth.builds.instruments import BenchKit
from plinth.guide.step import Hint, Step
from plinth.judge.state import State
from plinth.judge.window import judge_reading
from plinth.physics.stages.bias import quiescent_a
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.shown import shown, shown_with_spread
from plinth.units.typed import Quantity, understand_quantity

# Meters show a little more than what is there; beyond this it is asked about.
BEYOND = 1.2
# The least top range that ohmmeters have: what an overload says at the least, on the highest range.
OVERLOAD_OHM = 2e6


def reading_for_step(step: Step, typed: str, kit: BenchKit, at: dt.datetime) -> Reading:
    """Understand and judge what was typed at a step. Raises QuantityError with a sentence for nonsense."""
    assert step.window is not None, f"{step.key} asks for no figure"
    understood = _understood(step, typed)
    instrument = kit.of(step.instrument)
    value = understood.value
    reading = Reading(
        subject=step.subject, label=step.title, typed=" ".join(typed.split()), value=value, unit=step.unit,
        u=instrument.u(value) if understood.bound is not Bound.ABOVE or not understood.overload else None,
        instrument=instrument.name, taken_at=at, state=State.UNKNOWN, sentence="", low=step.window.low,
        high=step.window.high, bound=understood.bound, conditions=dict(step.conditions),
    )  # fmt: skip
    return judged_today(step, reading, understood.note)


def _understood(step: Step, typed: str) -> Quantity:
    found = understand_quantity(typed, step.unit, step.bare_prefix)
    if not found.overload:
        return found
    if step.unit != "ohm":
        raise QuantityError(f"found {typed.strip()!r}, expected a value: choose a higher range of the meter")
    return dataclasses.replace(
        found, value=OVERLOAD_OHM,
        note=f"taken as above {shown(OVERLOAD_OHM, 'ohm', 2)}, the least top range of usual meters; on its highest "
        "range only",
    )  # fmt: skip


def judged_today(step: Step, reading: Reading, note: str = "") -> Reading:
    """A reading with the verdict of today's window; what it was kept with is of the day it was taken."""
    assert step.window is not None, f"{step.key} asks for no figure"
    verdict = judge_reading(reading.value, reading.u, step.window, reading.bound)
    sentence = f"{verdict.words}: expected {step.window.words()}."
    if note:
        sentence += f" {note[0].upper()}{note[1:]}."
    if step.across_ohm is not None:
        through = f" That is {shown(quiescent_a(1000.0 * reading.value, step.across_ohm), 'A')} through "
        through += f"{step.across_ohm:g} Ω."
    else:
        through = ""
    if verdict.side and step.claim is not None and abs(reading.value - step.claim) <= 0.05 * step.claim:
        sentence += " That is the listing's figure, and it does not belong to the resistor that is fitted."
        sentence += through
    elif verdict.side:
        hint = hint_for(step, verdict.side, reading.value)
        sentence += through + (f" {hint.check}" if hint else "")
    else:
        over_usual = step.window.usual_high is not None and reading.value > step.window.usual_high
        sentence += through + (f" {step.window.beyond_usual}" if over_usual else "")
    return dataclasses.replace(
        reading, state=verdict.state, sentence=sentence, low=step.window.low, high=step.window.high
    )


def hint_for(step: Step, side: int, value: float) -> Hint | None:
    """What to check at a reading outside the window on that ``side``: the first whose least it reaches."""
    return next(
        (one for one in step.hints if one.side == side and (one.least is None or abs(value) >= one.least)), None
    )


def doubt(step: Step, reading: Reading) -> str:
    """A question where a reading is more than this step can show, with what it would be by another prefix; else empty.

    Never an answer: the reading may be true and the supply set to something else.
    """
    if step.most is None or abs(reading.value) <= BEYOND * step.most:
        return ""
    found = f"{shown(reading.value, reading.unit)} is more than there can be here ({shown(step.most, reading.unit)})."
    for factor, words in ((1e-3, "a thousandth"), (0.1, "a tenth")):
        other = factor * reading.value
        if abs(other) <= BEYOND * step.most:
            found += f" Was it {shown(other, reading.unit)}, {words} of it?"
            break
    return f"{found} Correct it, or press Enter once more to keep it as it is."


def understood_words(reading: Reading) -> str:
    """How the text was understood: ``33.5 ±0.3 mV``, with the spread where the instrument's accuracy is known."""
    number = shown(reading.value, reading.unit)
    match reading.bound:
        case Bound.ABOVE | Bound.BELOW | Bound.ABOUT:
            return f"{reading.bound} {number}"
        case Bound.NONE:
            if reading.u is None:
                return f"{number}, accuracy of {reading.instrument} not stated"
            return shown_with_spread(reading.value, 2.0 * reading.u, reading.unit)
        case _:
            assert_never(reading.bound)
