"""Where a bring-up stands: which steps are done, which is due, which are held back and why."""

import dataclasses
import enum
from collections.abc import Mapping, Sequence

from plinth.bringup.step import Step
from plinth.judge.state import State
from plinth.record.reading import Confirmation, Override, Reading, Record


class Stand(enum.StrEnum):
    """Of one step."""

    DONE = "done"
    OUTSIDE = "outside"
    PASSED_OVER = "passed over"
    DUE = "due"
    HELD = "held"


@dataclasses.dataclass(frozen=True)
class StepStand:
    """A step with its stand, its record, and why it is held back."""

    step: Step
    stand: Stand
    record: Record | None
    why: str

    @property
    def settled(self) -> bool:
        """Whether the next step may be taken."""
        return self.stand in (Stand.DONE, Stand.PASSED_OVER)


def stands(steps: Sequence[Step], records: Mapping[str, Record]) -> tuple[StepStand, ...]:
    """The stand of every step. A step is held until all before it are done or passed over.

    A reading outside its window does not open the gate; only a reading inside, or a written reason, does.
    """
    found: list[StepStand] = []
    blocker: Step | None = None
    for step in steps:
        record = records.get(step.subject)
        if blocker is not None:
            found.append(StepStand(step, Stand.HELD, record, f"waits for: {blocker.title}"))
            continue
        stand = _stand(step, record)
        found.append(StepStand(step, stand, record, ""))
        if not found[-1].settled:
            blocker = step
    return tuple(found)


def _stand(step: Step, record: Record | None) -> Stand:
    if isinstance(record, Override):
        return Stand.PASSED_OVER
    if isinstance(record, Confirmation):
        return Stand.DONE if step.asks_for == "word" else Stand.DUE
    if isinstance(record, Reading):
        return Stand.OUTSIDE if record.state is State.OVER else Stand.DONE
    return Stand.DUE


def due(all_stands: Sequence[StepStand]) -> StepStand | None:
    """The step to take now; None when everything is settled."""
    return next((one for one in all_stands if not one.settled), None)


def settled_count(all_stands: Sequence[StepStand]) -> int:
    """How many steps are done or passed over."""
    return sum(one.settled for one in all_stands)
