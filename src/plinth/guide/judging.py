"""From a typed text at a step to a reading, what is said of it, and a kept reading against today's window."""

import dataclasses
import datetime as dt
from collections.abc import Sequence
from typing import assert_never

from plinth.builds.instruments import BenchKit
from plinth.guide.step import Hint, Step
from plinth.guide.trimmer_state import FACT, SAID, ask_which, beside_usual, parted, state_of, step_as_read
from plinth.judge.state import State
from plinth.judge.unit_question import BEYOND
from plinth.judge.window import Window, judge_reading
from plinth.physics.stages.bias import quiescent_a
from plinth.record.meaning import meaning_of, reading_of
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from plinth.units.shown import shown, shown_with_spread


@dataclasses.dataclass(frozen=True)
class StepVerdict:
    """What is said of a reading at a step: the verdict, what was expected, and what more there is to say."""

    words: str
    expected: str
    further: str

    @property
    def sentence(self) -> str:
        """All of it."""
        return f"{self.words}: expected {self.expected}. {self.further}".strip()


def reading_for_step(
    step: Step, typed: str, kit: BenchKit, at: dt.datetime, early_s: float = 0.0, since_on_s: float | None = None,
    *, on_the_way: bool = False,
) -> Reading:  # fmt: skip
    """Understand and judge what was typed at a step. Raises QuantityError with a sentence for nonsense.

    ``early_s`` how much of the watching time was left, ``since_on_s`` how long it was under power. Asks whether a board
    was set before where only that would be healthy, unless the reading is one ``on_the_way`` to where it rests.
    """
    request = step.request
    assert request is not None, f"{step.key} asks for no figure"
    assert request.window is not None, f"{step.key} is held against nothing"
    plain, trimmer = parted(typed)
    meaning = meaning_of(plain, request, kit)
    if not trimmer and not on_the_way and meaning.bound is Bound.NONE and beside_usual(request.window, meaning.value):
        ask_which(step, typed, meaning.value)
    facts: dict[str, float | str] = {FACT: trimmer} if trimmer else {}
    facts |= {
        name: number
        for name, number in (
            ("across_ohm", step.across_ohm),
            ("claim", step.claim),
            ("early_s", early_s or None),
            ("since_on_s", since_on_s),
        )
        if number is not None
    }
    return judged_today(step, reading_of(meaning, typed, at, facts))


def judged_today(step: Step, reading: Reading) -> Reading:
    """A reading with the state of today's window; what it was kept with is of the day it was taken."""
    step = step_as_read(step, reading)
    assert step.window is not None, f"{step.key} asks for no figure"
    verdict = judge_reading(reading.value, reading.u, step.window, reading.bound)
    return dataclasses.replace(reading, state=verdict.state, low=step.window.low, high=step.window.high)


def verdict_at(step: Step, reading: Reading) -> StepVerdict:
    """What today's window and the step's hints say of a reading."""
    step = step_as_read(step, reading)
    assert step.window is not None, f"{step.key} asks for no figure"
    verdict = judge_reading(reading.value, reading.u, step.window, reading.bound)
    further = [_understood_words(reading), _trimmer_words(reading)]
    if verdict.side and _is_the_claim(reading, step.claim):
        further += [_CLAIM_OF_ANOTHER, _through(reading, step.across_ohm)]
    elif verdict.side:
        hint = hint_for(step, verdict.side, reading.value)
        further += [_through(reading, step.across_ohm), hint.check if hint else ""]
    else:
        further += [_through(reading, step.across_ohm), _unusual(step.window, reading.value)]
    return StepVerdict(verdict.words, step.window.words(), _joined([*further, _early(reading)]))


def _unusual(window: Window, value: float) -> str:
    """What is not as it should be of a value that is inside, but not where it usually is."""
    if window.usual_high is not None and value > window.usual_high:
        return window.beyond_usual
    return window.below_usual if window.usual_low is not None and value < window.usual_low else ""


def sentence_of(reading: Reading) -> str:
    """What was said of a reading of a step when it was taken, from what was kept of it."""
    if reading.low is None and reading.high is None:
        return reading.said
    window = Window(reading.low, reading.high, reading.unit, "")
    verdict = judge_reading(reading.value, reading.u, window, reading.bound)
    words = verdict.words
    if verdict.state is not reading.state and reading.state is State.CLOSE:
        words = "Inside the window, but not where it usually is"
    claim = _CLAIM_OF_ANOTHER if verdict.side and _is_the_claim(reading, reading.number("claim")) else ""
    further = [
        _understood_words(reading),
        _trimmer_words(reading),
        claim,
        _through(reading, reading.number("across_ohm")),
        _early(reading),
    ]
    return StepVerdict(words, window.words(), _joined(further)).sentence


def course_sentence_of(reading: Reading) -> str:
    """What was said of a reading on the way, when it was taken."""
    since = reading.number("since_on_s")
    return "Watched on." if since is None else f"{wait_words(since)} after switching on; watched on."


_CLAIM_OF_ANOTHER = "That is the listing's figure, and it does not belong to the resistor that is fitted."


def _is_the_claim(reading: Reading, claim: float | None) -> bool:
    return claim is not None and abs(reading.value - claim) <= 0.05 * claim


def _through(reading: Reading, across_ohm: float | None) -> str:
    if across_ohm is None:
        return ""
    return f"That is {shown(quiescent_a(1000.0 * reading.value, across_ohm), 'A')} through {across_ohm:g} Ω."


def _understood_words(reading: Reading) -> str:
    note = reading.word("understood")
    return f"{note[0].upper()}{note[1:]}." if note else ""


def _trimmer_words(reading: Reading) -> str:
    state = state_of(reading)
    return f"Said with it: {SAID[state]}." if state else ""


def _early(reading: Reading) -> str:
    left = reading.number("early_s")
    return f"Read with {wait_words(left)} of the watching time left." if left else ""


def wait_words(seconds: float) -> str:
    """``40 s``, ``12 min``, ``3.5 h``, ``2 days``."""
    if seconds > 48 * 3600:
        return f"{seconds / 86400:.3g} days"
    if seconds > 5400:
        return f"{seconds / 3600:.3g} h"
    return f"{seconds / 60:.0f} min" if seconds > 90 else f"{seconds:.0f} s"


def _joined(parts: Sequence[str]) -> str:
    return " ".join(part for part in parts if part)


def hint_for(step: Step, side: int, value: float) -> Hint | None:
    """What to check at a reading outside the window on that ``side``: the first that goes with its size."""
    return next(
        (
            hint for hint in step.hints
            if hint.side == side and (hint.least is None or abs(value) >= hint.least)
            and (hint.most is None or abs(value) <= hint.most)
        ),
        None,
    )  # fmt: skip


def doubt(step: Step, reading: Reading) -> str:
    """A question where a reading is more than this step can show, with what it would be by another prefix; else empty.

    Never an answer: the reading may be true and the supply set to something else.
    """
    if step.unit == "°C" and reading.bound is Bound.NONE and (cold := _colder_than_air(step, reading.value)):
        return cold
    if step.most is None or abs(reading.value) <= BEYOND * step.most:
        return ""
    question = (
        f"{shown(reading.value, reading.unit)} is more than there can be here ({shown(step.most, reading.unit)})."
    )
    for factor, words in ((1e-3, "a thousandth"), (0.1, "a tenth")):
        other = factor * reading.value
        if abs(other) <= BEYOND * step.most:
            question += f" Was it {shown(other, reading.unit)}, {words} of it?"
            break
    return f"{question} Correct it, or press Enter once more to keep it as it is."


# A sink can be so much below the air that its window was computed for: another room, a meter that is off.
COLDER_K = 12.0


def _colder_than_air(step: Step, value: float) -> str:
    low = None if step.window is None else step.window.low
    if low is None or value >= low - COLDER_K:
        return ""
    return (
        f"{shown(value, '°C')} is colder than the air can be here, and nothing on a board is. "
        "Correct it, or press Enter once more to keep it as it is."
    )


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
