"""Where a bring-up stands: which steps are done, which is due, which are held back and why."""

import dataclasses
import enum
from collections.abc import Sequence

from plinth.guide.judging import judged_today
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.record.book import RecordBook
from plinth.record.reading import Confirmation, Override, Reading, Record
from plinth.units.shown import shown


class Stand(enum.StrEnum):
    """Of one step."""

    DONE = "done"
    OUTSIDE = "outside"
    PASSED_OVER = "passed over"
    DUE = "due"
    HELD = "held"


@dataclasses.dataclass(frozen=True)
class StepStand:
    """A step with its stand, the record that counts today, why it is held back, and why an earlier one does not count.

    A reading carries the verdict of today's window.
    """

    step: Step
    stand: Stand
    record: Record | None
    why: str
    stale: str = ""

    @property
    def settled(self) -> bool:
        """Whether the next step may be taken."""
        return self.stand in (Stand.DONE, Stand.PASSED_OVER)


def stands(steps: Sequence[Step], book: RecordBook) -> tuple[StepStand, ...]:
    """The stand of every step. A step is held until all before it are done or passed over.

    A reading counts only under today's conditions and is judged by today's window, whatever was said of it when it
    was taken. One outside its window does not open the gate, nor one of which a bound does not tell, nor a simulated
    one; only a reading inside, or a written reason, does.
    """
    found: list[StepStand] = []
    blocker: Step | None = None
    for step in steps:
        record = _today(step, book)
        why = _stale_words(step, book)
        if step.blocked:
            found.append(StepStand(step, Stand.HELD, record, step.blocked))
            blocker = blocker or step
            continue
        if blocker is not None:
            found.append(StepStand(step, Stand.HELD, record, f"waits for: {blocker.title}"))
            continue
        found.append(StepStand(step, _stand(step, record), record, "", why))
        if not found[-1].settled:
            blocker = step
    return tuple(found)


def _today(step: Step, book: RecordBook) -> Record | None:
    record = book.counting(step.subject, step.conditions)
    if isinstance(record, Reading) and step.window is not None:
        return judged_today(step, record)
    return record


def _stale_words(step: Step, book: RecordBook) -> str:
    why, last = book.why_not(step.subject, step.conditions), book.last(step.subject)
    if not why or last is None:
        return ""
    if isinstance(last, Reading):
        return f"{shown(last.value, last.unit)} was read before and does not count any more: {why}. Read it again."
    return f"It was settled before and does not count any more: {why}."


def _stand(step: Step, record: Record | None) -> Stand:
    if isinstance(record, Override):
        return Stand.PASSED_OVER
    if isinstance(record, Confirmation):
        return Stand.DONE if step.asks_for == "word" else Stand.DUE
    if isinstance(record, Reading):
        return {State.OVER: Stand.OUTSIDE, State.UNKNOWN: Stand.DUE}.get(record.state, Stand.DONE)
    return Stand.DUE


def due(all_stands: Sequence[StepStand]) -> StepStand | None:
    """The step to take now; None when everything is settled."""
    return next((one for one in all_stands if not one.settled), None)


def settled_count(all_stands: Sequence[StepStand]) -> int:
    """How many steps are done or passed over."""
    return sum(one.settled for one in all_stands)
