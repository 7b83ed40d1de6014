"""The card for the bench: the steps of a channel's first power with windows and empty boxes, on paper."""

import dataclasses
import datetime as dt
import re
from collections.abc import Sequence

from plinth import __version__
from plinth.builds.build import Build
from plinth.guide.judging import wait_words
from plinth.guide.progress import Stand, StepStand
from plinth.guide.school import School
from plinth.record.reading import Override, Reading
from plinth.report.html_page import rendered
from plinth.units.shown import shown

_NUMBER = re.compile(r"[0-9][0-9.,]*(?: ?[kmµM]?[VAΩ]\b)?")


@dataclasses.dataclass(frozen=True)
class CardLine:
    """A step on paper. ``filled`` what is known already, empty where a box is to be filled in with a pen."""

    number: int
    title: str
    ask: str
    expect: str
    filled: str
    power: bool
    caution: str


def card_lines(stands: Sequence[StepStand]) -> list[CardLine]:
    """The steps in order, in as few words as serve: paper is short.

    What is answered already, what was asked before with other numbers, and the soak's later looks only by their titles.
    Each sentence of a caution is said once, at the first step where it matters.
    """
    lines: list[CardLine] = []
    said: set[str] = set()
    asked: set[str] = set()
    soaking = False
    for number, stand in enumerate(stands, 1):
        step = stand.step
        caution = [one for one in _sentences(step.caution) if one not in said]
        expect = "" if step.window is None else step.window.words()
        if step.wait_s:
            expect = f"{expect}, after {wait_words(step.wait_s)}"
        title = step.title.partition(": ")[2]
        filled = _filled(stand)
        form = _NUMBER.sub("#", step.ask)
        ask = "" if filled or form in asked or (step.due_after and soaking) else step.ask
        asked.add(form)
        soaking = bool(step.due_after)
        lines.append(
            CardLine(
                number, f"{title[0].upper()}{title[1:]}", ask, expect, filled, step.power,
                " ".join(caution),
            )
        )  # fmt: skip
        said.update(caution)
    return lines


def _sentences(text: str) -> list[str]:
    """The sentences of a text, each with its full stop."""
    return [f"{one.rstrip('.')}." for one in text.split(". ") if one]


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
        version=__version__,
        made_at=f"{made_at.astimezone():%Y-%m-%d %H:%M}",
    )
