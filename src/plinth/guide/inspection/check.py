"""A check of the inspection, and how it stands."""

import dataclasses
import itertools
from collections.abc import Mapping, Sequence
from types import MappingProxyType

from plinth.record.book import RecordBook
from plinth.record.conditions import Conditions
from plinth.record.reading import Finding, Override
from plinth.record.subject import Kind, Subject

# What most checks want.
EYES = "eyes and a lamp"


@dataclasses.dataclass(frozen=True)
class Check:
    """``look`` at what or measure what, ``why``, with which ``tool``, what a ``bad`` result means.

    ``safety``: where it is bad, in doubt or left out, something burns or somebody is hurt, so it holds first power
    back. ``bad_holds``: it does where it is bad; ``doubt_holds_reforming``: in doubt it holds the hours at which old
    reservoirs are brought back. ``conditions``: of which parts its finding tells.
    """

    key: str
    station: str
    title: str
    look: str
    why: str
    tool: str
    bad: str
    safety: bool = False
    conditions: Conditions = dataclasses.field(default_factory=dict)
    bad_holds: bool = False
    doubt_holds_reforming: bool = False

    @property
    def subject(self) -> str:
        """What its findings are about, as the file keeps it."""
        return Subject(Kind.INSPECT, what=self.key).text


@dataclasses.dataclass(frozen=True)
class Inspected:
    """A check with the finding that counts today, or why it was passed over; why an earlier one does not count."""

    check: Check
    finding: Finding | None
    stale: str = ""
    passed: Override | None = None

    @property
    def sound(self) -> bool:
        """Whether it was found sound."""
        return self.finding is not None and self.finding.verdict == "sound"

    @property
    def answered(self) -> bool:
        """Whether it was looked at, or passed over in writing."""
        return self.finding is not None or self.passed is not None


def inspected(checks: Sequence[Check], book: RecordBook) -> tuple[Inspected, ...]:
    """How each check stands: a finding counts while the parts it was made of are those fitted."""
    answers = []
    for check in checks:
        record = book.counting(check.subject, check.conditions)
        finding = record if isinstance(record, Finding) else None
        passed = record if isinstance(record, Override) else None
        stale = "" if record is not None else book.why_not(check.subject, check.conditions)
        answers.append(Inspected(check, finding, stale, passed))
    return tuple(answers)


def waits_for(check: Check, arriving: Mapping[str, str]) -> str:
    """Which part of a check is still on its way, and when it is expected; empty where all are there.

    ``arriving`` words by slot; the conditions of a check name its slots, with _ for the dot.
    """
    for slot, words in arriving.items():
        flat = slot.replace(".", "_")
        if any(flat == place or flat.startswith(f"{place}_") for place in check.conditions):
            return words
    return ""


def due(answers: Sequence[Inspected], arriving: Mapping[str, str] = MappingProxyType({})) -> int:
    """The place of the check to take now.

    The first that is not answered and whose parts are there, else any not answered, else one not sound, else 0.
    """
    now = (p for p, answer in enumerate(answers) if not answer.answered and not waits_for(answer.check, arriving))
    not_answered = itertools.chain(now, (place for place, answer in enumerate(answers) if not answer.answered))
    not_sound = (place for place, answer in enumerate(answers) if answer.finding is not None and not answer.sound)
    return next(not_answered, next(not_sound, 0))


def held_by(answers: Sequence[Inspected], *, reforming: bool = False) -> str:
    """Why first power waits for the inspection; empty where it does not.

    A safety check holds it that is bad or in doubt, or that nobody has looked at: unknown is not safe. One that was
    passed over in writing does not. ``reforming``: old reservoirs are brought back under power for hours.
    """
    wrong = [answer for answer in answers if _holds(answer, reforming=reforming)]
    if wrong:
        why = wrong[0].check.why if len(wrong) == 1 else ""
        return f"waits for Inspect, not sound there: {_listed([answer.check.title for answer in wrong])}. {why}".strip(
            " ."
        )
    left = [answer.check.title for answer in answers if answer.check.safety and not answer.answered]
    if left:
        return f"waits for Inspect: {_listed(left)} not looked at"
    return ""


def _holds(answer: Inspected, *, reforming: bool) -> bool:
    check, finding = answer.check, answer.finding
    if finding is None or answer.sound:
        return False
    bad = finding.verdict == "bad"
    return check.safety or (bad and check.bad_holds) or (reforming and check.doubt_holds_reforming)


def _listed(titles: Sequence[str]) -> str:
    shown = ", ".join(title[0].lower() + title[1:] for title in titles[:2])
    return f"{shown} and {len(titles) - 2} more" if len(titles) > 2 else shown
