"""A check of the inspection, and how it stands."""

import dataclasses
from collections.abc import Sequence

from plinth.record.book import RecordBook
from plinth.record.conditions import Conditions
from plinth.record.reading import Finding
from plinth.record.subject import Kind, Subject


@dataclasses.dataclass(frozen=True)
class Check:
    """``look`` at what or measure what, ``why``, with which ``tool``, what a ``bad`` result means.

    ``safety``: where it is bad, in doubt or left out, something burns or somebody is hurt, so it holds first power
    back. ``conditions``: of which parts its finding tells.
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

    @property
    def subject(self) -> str:
        """What its findings are about, as the file keeps it."""
        return Subject(Kind.INSPECT, what=self.key).text


@dataclasses.dataclass(frozen=True)
class Inspected:
    """A check with the finding that counts today, and why an earlier one does not."""

    check: Check
    finding: Finding | None
    stale: str = ""

    @property
    def sound(self) -> bool:
        """Whether it was found sound."""
        return self.finding is not None and self.finding.verdict == "sound"


def inspected(checks: Sequence[Check], book: RecordBook) -> tuple[Inspected, ...]:
    """How each check stands: a finding counts while the parts it was made of are those fitted."""
    found = []
    for check in checks:
        record = book.counting(check.subject, check.conditions)
        finding = record if isinstance(record, Finding) else None
        found.append(Inspected(check, finding, "" if finding else book.why_not(check.subject, check.conditions)))
    return tuple(found)


def due(found: Sequence[Inspected]) -> int:
    """The place of the check to take now: the first that is not answered, else the first that is not sound, else 0."""
    not_answered = (place for place, one in enumerate(found) if one.finding is None)
    not_sound = (place for place, one in enumerate(found) if not one.sound)
    return next(not_answered, next(not_sound, 0))


def held_by(found: Sequence[Inspected]) -> str:
    """Why first power waits for the inspection; empty where it does not.

    A safety check that is bad or in doubt holds it, and one that was left out of an inspection that was begun. An
    inspection that nobody has begun is told of and does not hold what is led step by step anyway.
    """
    wrong = [one.check.title for one in found if one.check.safety and one.finding and not one.sound]
    if wrong:
        return f"waits for Inspect: {_listed(wrong)} not sound"
    left = [one.check.title for one in found if one.check.safety and one.finding is None]
    if left and len(left) < sum(one.check.safety for one in found):
        return f"waits for Inspect: {_listed(left)} not looked at"
    return ""


def not_begun(found: Sequence[Inspected]) -> str:
    """A word on an inspection that nobody has begun; empty where there is nothing to say."""
    safety = [one for one in found if one.check.safety]
    if not safety or any(one.finding for one in safety):
        return ""
    return f"Nothing was inspected yet: {len(safety)} safety checks wait in Inspect. Unknown is not safe."


def _listed(titles: Sequence[str]) -> str:
    shown = ", ".join(title[0].lower() + title[1:] for title in titles[:2])
    return f"{shown} and {len(titles) - 2} more" if len(titles) > 2 else shown
