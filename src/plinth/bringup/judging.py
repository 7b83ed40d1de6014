"""From a typed text at a step to a reading with its verdict."""

import datetime as dt

from plinth.bringup.step import Step
from plinth.builds.instruments import BenchKit
from plinth.judge.window import judge_reading
from plinth.physics.bias import quiescent_a
from plinth.record.reading import Reading
from plinth.units.shown import shown, shown_with_spread
from plinth.units.typed import read_quantity


def reading_for_step(step: Step, typed: str, kit: BenchKit, at: dt.datetime) -> Reading:
    """Understand and judge what was typed at a step. Raises QuantityError with a sentence for nonsense."""
    assert step.window is not None, f"{step.key} asks for no figure"
    value = read_quantity(typed, step.unit, step.bare_prefix)
    instrument = kit.of(step.instrument)
    u = instrument.u(value)
    verdict = judge_reading(value, u, step.window)
    sentence = f"{verdict.words}: expected {step.window.words()}."
    if step.across_ohm is not None:
        through = f" That is {shown(quiescent_a(1000.0 * value, step.across_ohm), 'A')} through {step.across_ohm:g} Ω."
    else:
        through = ""
    if verdict.side and step.claim is not None and abs(value - step.claim) <= 0.05 * step.claim:
        sentence += " That is the listing's figure, and it does not belong to the resistor that is fitted."
        sentence += through
    elif verdict.side:
        checks = [hint for hint in step.hints if hint.side == verdict.side]
        sentence += through + (f" {checks[0].check}" if checks else "")
    else:
        sentence += through
    return Reading(
        subject=step.subject, label=step.title, typed=typed.strip(), value=value, unit=step.unit, u=u,
        instrument=instrument.name, taken_at=at, state=verdict.state, sentence=sentence,
        low=step.window.low, high=step.window.high,
    )  # fmt: skip


def understood_words(reading: Reading) -> str:
    """How the text was understood: ``33.5 ±0.3 mV``, with the spread where the instrument's accuracy is known."""
    if reading.u is None:
        return f"{shown(reading.value, reading.unit)}, accuracy of {reading.instrument} not stated"
    return shown_with_spread(reading.value, 2.0 * reading.u, reading.unit)
