"""A kept reading in words: its value with what is known of its spread, and what was said of it when it was taken.

The file keeps facts; each test and each step makes the sentence about its readings from them.
"""

from collections.abc import Callable

from plinth.bench import clipping, frequency_response, reading_sentence, supply_draw
from plinth.guide import judging
from plinth.guide.part_tests import part_test
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject
from plinth.units.shown import shown, shown_with_spread

_SENTENCES: dict[Kind, Callable[[Reading], str]] = {
    Kind.BRINGUP: judging.sentence_of,
    Kind.COURSE: judging.course_sentence_of,
    Kind.PART: part_test.sentence_of,
    Kind.CLIP: clipping.sentence_of,
    Kind.CLIP_1: clipping.sentence_of,
    Kind.CLIP_10: clipping.sentence_of,
    Kind.CLIP_DRAW: supply_draw.sentence_of,
    Kind.RESPONSE: frequency_response.sentence_of,
    Kind.TEST: reading_sentence.sentence_of,
}


def sentence_of(reading: Reading) -> str:
    """What was said of a reading when it was taken; of one from a file of before, the sentence kept there."""
    if reading.said:
        return reading.said
    make = _SENTENCES.get(read_subject(reading.subject).kind)
    return make(reading) if make is not None else ""


def reading_words(reading: Reading) -> str:
    """Value and 95 % spread of a reading; marked where it is only a bound, or was simulated."""
    if reading.bound.one_sided:
        words = f"{reading.bound.sign}{shown(reading.value, reading.unit)}"
    elif reading.u is None:
        words = f"{reading.bound.sign}{shown(reading.value, reading.unit)} ± not stated"
    else:
        words = f"{reading.bound.sign}{shown_with_spread(reading.value, 2.0 * reading.u, reading.unit)}"
    return f"simulated {words}" if reading.simulated else words


def short_words(reading: Reading) -> str:
    """The value alone, where its spread stands elsewhere."""
    words = f"{reading.bound.sign}{shown(reading.value, reading.unit)}"
    return f"simulated {words}" if reading.simulated else words
