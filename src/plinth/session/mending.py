"""Ways to clear a limit of the build in hand: looked for off the thread, tried, taken."""

from collections.abc import Callable
from typing import Protocol

from plinth.builds.parts import PART_KINDS
from plinth.judge.margin import Margin
from plinth.predict.quick_estimate import well_known
from plinth.predict.solve import solve
from plinth.session.core import Core
from plinth.session.plan import Plan
from plinth.session.shelf import Shelf
from plinth.shelf.mend import Mend, mends


class Going(Protocol):
    """A job under way, as whoever runs it sees it."""

    def progress(self, share: float) -> bool:
        """Tell how much is done; False where the job should end."""


class Mending:
    """What clears a limit."""

    def __init__(self, core: Core, plan: Plan, shelf: Shelf) -> None:
        self._core, self._plan, self._shelf = core, plan, shelf

    def mends_of(self, margin: Margin) -> Callable[[Going], list[Mend]]:
        """The search for ways to clear a limit of the build as it is kept, to be run off the thread."""
        plan, items = self._core.plan_kept, self._shelf.items(tuple(PART_KINDS.values()))

        def work(task: Going) -> list[Mend]:
            known = well_known(solve(plan.build, plan.situation.model_copy(update={"lamp_w": None})))
            return mends(known, margin.key, items, task.progress)

        return work

    def take_mend(self, mend: Mend) -> None:
        """Change the build so; one step of undo."""
        if mend.same:
            self._plan.leave_trial()
            self._plan.restate(mend.slot, mend.part)
        else:
            self._plan.swap(mend.slot, mend.part)
