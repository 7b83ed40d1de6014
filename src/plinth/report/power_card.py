"""The card for the bench: the steps of a channel's first power with windows and empty boxes, on paper."""

import dataclasses
import datetime as dt
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.guide.judging import wait_words
from plinth.guide.progress import Stand, StepStand
from plinth.guide.school import School
from plinth.guide.step import Step
from plinth.record.reading import Override, Reading
from plinth.release import VERSION
from plinth.report.html_page import rendered
from plinth.units.shown import shown

# A sentence no longer than this says too little alone.
FEW_LETTERS = 14


@dataclasses.dataclass(frozen=True)
class CardLine:
    """A step on paper. ``filled`` what is known already, empty where a box is to be filled in with a pen.

    ``outside`` what to do where the reading is not as expected.
    """

    number: int
    title: str
    ask: str
    expect: str
    outside: str
    filled: str
    power: bool
    caution: str


def card_lines(stands: Sequence[StepStand]) -> list[CardLine]:
    """The steps in order, in as few words as serve: paper is short.

    What is answered already, what was asked before in the very same words, and the soak's later looks only by their
    titles.
    Each sentence of a caution is said once, at the first step where it matters.
    """
    lines: list[CardLine] = []
    said: set[str] = set()
    asked: set[str] = set()
    soaking = False
    for number, stand in enumerate(stands, 1):
        step = stand.step
        caution = [sentence for sentence in _sentences(step.caution) if sentence not in said]
        expect = "" if step.window is None else step.window.words()
        if step.wait_s:
            expect = f"{expect}, after {wait_words(step.wait_s)}"
        title = step.asks.title
        filled = _filled(stand)
        ask = "" if filled or step.ask in asked or (step.due_after and soaking) else step.ask
        asked.add(step.ask)
        soaking = bool(step.due_after)
        lines.append(
            CardLine(
                number,
                f"{title[0].upper()}{title[1:]}",
                ask,
                expect=expect,
                outside=_outside(step),
                filled=filled,
                power=step.power,
                caution=" ".join(caution),
            )
        )
        said.update(caution)
    return lines


def _outside(step: Step) -> str:
    """What to do below the window and above it: of each the first, in few words."""
    if step.window is None:
        return ""
    first = [next((hint.check for hint in step.hints if hint.side == side), "") for side in (-1, 1)]
    return " ".join(f"{sign} {_in_few_words(check)}" for sign, check in zip("<>", first, strict=True) if check)


def _in_few_words(check: str) -> str:
    """Its first sentence, and the next where that alone says little (``Off.``)."""
    sentences = _sentences(check)
    return " ".join(sentences[: 1 if len(sentences[0]) > FEW_LETTERS else 2])


def _sentences(text: str) -> list[str]:
    """The sentences of a text, each with its full stop or question mark."""
    return [
        sentence if sentence.endswith("?") else f"{sentence.rstrip('.')}." for sentence in text.split(". ") if sentence
    ]


def _filled(stand: StepStand) -> str:
    record = stand.record
    if isinstance(record, Reading):
        out = ", outside" if stand.stand is Stand.OUTSIDE else ""
        return f"{record.bound.sign}{shown(record.value, record.unit)}{out}"
    if isinstance(record, Override):
        return f"passed over: {record.reason}"
    return "done" if stand.stand is Stand.DONE else ""


def card_html(build: Build, channel: str, school: School, stands: Sequence[StepStand], made_at: dt.datetime) -> str:
    """One or two pages for the bench; nothing is fetched."""
    return rendered(
        "power_card.html",
        build=build,
        channel=channel,
        school=school,
        lines=card_lines(stands),
        version=VERSION,
        made_at=f"{made_at.astimezone():%Y-%m-%d %H:%M}",
    )
