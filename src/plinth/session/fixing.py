"""Ways to clear a limit of the current build: looked for off the thread, tried, taken."""

from collections.abc import Callable
from typing import Protocol

from plinth.builds.parts import PART_KINDS
from plinth.judge.margin import Margin
from plinth.predict.quick_estimate import well_known
from plinth.predict.solve import solve
from plinth.session.core import Core
from plinth.session.plan import Plan
from plinth.session.shelf import Shelf
from plinth.shelf.fixes import Fix, fixes


class Going(Protocol):
    """A job under way, as whoever runs it sees it."""

    def progress(self, share: float) -> bool:
        """Tell how much is done; False where the job should end."""


class Fixing:
    """What clears a limit."""

    def __init__(self, core: Core, plan: Plan, shelf: Shelf) -> None:
        self._core, self._plan, self._shelf = core, plan, shelf

    def fixes_of(self, margin: Margin) -> Callable[[Going], list[Fix]]:
        """The search for ways to clear a limit of the build as it is kept, to be run off the thread."""
        plan, items = self._core.plan_kept, self._shelf.items(tuple(PART_KINDS.values()))

        def work(task: Going) -> list[Fix]:
            known = well_known(solve(plan.build, plan.situation.model_copy(update={"lamp_w": None})))
            return fixes(known, margin.key, items, task.progress)

        return work

    def take_fix(self, fix: Fix) -> None:
        """Change the build so; one step of undo."""
        if fix.same:
            self._plan.leave_trial()
            self._plan.restate(fix.slot, fix.part)
        else:
            self._plan.swap(fix.slot, fix.part)
