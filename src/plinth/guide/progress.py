"""Where a bring-up stands: which steps are done, which is due, which are held back and why."""

import dataclasses
import datetime as dt
import enum
from collections.abc import Sequence

from plinth.guide.judging import judged_today, wait_words
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.record.book import RecordBook
from plinth.record.reading import Confirmation, Override, Reading, Record
from plinth.record.subject import Kind, Subject
from plinth.units.moments import day_and_clock
from plinth.units.shown import shown

# In place of a step: that something on the board was repaired.
# The word that files hold for it.
REPAIRED = "mended"
# A reading this much before its time, as a share of it, still counts.
EARLY_SHARE = 0.02


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

    A reading carries the verdict of today's window. ``stale`` also says why a reading that is there does not settle the
    step yet. ``due_at`` when it falls due, where it waits for a time.
    """

    step: Step
    stand: Stand
    record: Record | None
    why: str
    stale: str = ""
    due_at: dt.datetime | None = None

    @property
    def settled(self) -> bool:
        """Whether the next step may be taken."""
        return self.stand in (Stand.DONE, Stand.PASSED_OVER)


def stands(steps: Sequence[Step], book: RecordBook) -> tuple[StepStand, ...]:
    """The stand of every step. A step is held until all before it are done or passed over.

    A reading counts only under today's conditions and is judged by today's window, whatever was said of it when it
    was taken. One outside its window does not open the gate, nor one of which a bound does not tell, nor a simulated
    one; only a reading inside, or a written reason, does. One outside that was taken while it still settles is no
    fault yet: it is due again.
    """
    in_order: list[StepStand] = []
    blocker: Step | None = None
    answered: dict[str, dt.datetime] = {}
    for step in steps:
        record = _today(step, book)
        why = _stale_words(step, book)
        if record is not None:
            answered[step.key] = answered_at(record)
        if step.blocked:
            in_order.append(StepStand(step, Stand.HELD, record, step.blocked))
            blocker = blocker or step
            continue
        if blocker is not None:
            in_order.append(StepStand(step, Stand.HELD, record, f"waits for: {blocker.title}"))
            continue
        stand, not_yet = _stand(step, record, book)
        since = answered.get(step.due_after)
        if stand is Stand.DONE and record is not None and (early := _too_early(step, record, since)):
            stand, not_yet = Stand.DUE, early
        due_at = since + dt.timedelta(seconds=step.due_after_s) if since and stand is not Stand.DONE else None
        in_order.append(StepStand(step, stand, record, "", not_yet or why, due_at))
        if not in_order[-1].settled:
            blocker = step
    return tuple(in_order)


def repaired_subject(channel: str) -> str:
    """What it is kept under that a channel's board was repaired; ``channel`` what records know it by."""
    return Subject(Kind.BRINGUP, channel, REPAIRED).text


def repaired_since(step: Step, book: RecordBook, at: dt.datetime) -> str:
    """What of the board was repaired since ``at``, in the words of whoever did it; empty where nothing was.

    Whatever was read of the board before tells nothing of it afterwards; of the supply it still does.
    """
    last = book.last(repaired_subject(step.about.channel))
    if not isinstance(last, Override) or last.at <= at or "module" not in step.conditions:
        return ""
    return last.reason


def counting_today(step: Step, book: RecordBook) -> Record | None:
    """The record of a step that counts today: under its conditions, and of the board as it is since it was repaired."""
    record = book.counting(step.subject, step.conditions)
    return None if record is None or repaired_since(step, book, answered_at(record)) else record


def _today(step: Step, book: RecordBook) -> Record | None:
    record = counting_today(step, book)
    if isinstance(record, Reading) and step.window is not None:
        return judged_today(step, record)
    return record


def _stale_words(step: Step, book: RecordBook) -> str:
    why, last = book.why_not(step.subject, step.conditions), book.last(step.subject)
    if last is not None and not why and (words := repaired_since(step, book, answered_at(last))):
        why = f"repaired since: {words}"
    if not why or last is None:
        return ""
    if isinstance(last, Reading):
        return f"{shown(last.value, last.unit)} was read before and does not count any more: {why}. Read it again."
    return f"It was settled before and does not count any more: {why}."


def answered_at(record: Record) -> dt.datetime:
    """When something was answered."""
    return record.taken_at if isinstance(record, Reading) else record.at


def settling(step: Step, record: Record | None) -> bool:
    """Whether a reading outside was taken while what is watched still settles: a transient is no fault."""
    return (
        step.watch is not None and step.watch.transient and isinstance(record, Reading) and record.state is State.OVER
        and bool(record.number("early_s"))
    )  # fmt: skip


def _stand(step: Step, record: Record | None, book: RecordBook) -> tuple[Stand, str]:
    """The stand of a step that nothing holds back, and why a reading of it does not settle it yet."""
    if isinstance(record, Override):
        return Stand.PASSED_OVER, ""
    if isinstance(record, Confirmation):
        return Stand.DONE if step.request is None else Stand.DUE, ""
    if not isinstance(record, Reading):
        return Stand.DUE, ""
    if settling(step, record):
        return Stand.DUE, f"{shown(record.value, record.unit)} was read while it still settled. Read it again."
    if record.state is State.UNKNOWN:
        return Stand.DUE, ""
    if record.state is State.OVER:
        return Stand.OUTSIDE, ""
    rounds = _rounds_inside(step, book)
    if rounds < step.rounds:
        return Stand.DUE, f"Round {rounds} of {step.rounds} lies inside. Wait, and read again."
    return Stand.DONE, ""


def _too_early(step: Step, record: Record, since: dt.datetime | None) -> str:
    """Why a reading does not count yet whose time had not passed; empty where it had."""
    if not step.due_after or not isinstance(record, Reading) or since is None:
        return ""
    waited_s = (record.taken_at - since).total_seconds()
    if waited_s >= (1.0 - EARLY_SHARE) * step.due_after_s:
        return ""
    return (
        f"{shown(record.value, record.unit)} was read after {wait_words(max(waited_s, 0.0))} of "
        f"{wait_words(step.due_after_s)}: it is kept, and settles nothing. Read it again when its time has passed, or "
        "pass it over with a reason."
    )


def _rounds_inside(step: Step, book: RecordBook) -> int:
    """How many of the last readings in a row lie inside today's window."""
    if step.rounds == 1:
        return 1
    count = 0
    for record in reversed(book.series(step.subject, step.conditions)):
        if repaired_since(step, book, record.taken_at):
            break
        if judged_today(step, record).state in (State.OVER, State.UNKNOWN):
            break
        count += 1
    return count


def due(all_stands: Sequence[StepStand]) -> StepStand | None:
    """The step to take now; None when everything is settled."""
    return next((stand for stand in all_stands if not stand.settled), None)


def settled_count(all_stands: Sequence[StepStand]) -> int:
    """How many steps are done or passed over."""
    return sum(stand.settled for stand in all_stands)


def due_words(stand: StepStand, at: dt.datetime) -> str:
    """When a step falls due, or since when it is; empty where it waits for no time."""
    if stand.due_at is None or stand.settled:
        return ""
    left = (stand.due_at - at).total_seconds()
    moment = day_and_clock(stand.due_at.astimezone())
    if left > 0.0:
        return f"Due {moment}, in {wait_words(left)}; what is read sooner is kept, and settles nothing."
    return f"Due since {moment}."
