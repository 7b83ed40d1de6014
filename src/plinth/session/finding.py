"""Builds looked for over the shelf: asked off the thread, tried, taken."""

from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType

from plinth.builds.parts import PART_KINDS, Part
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.core import Core
from plinth.session.fixing import Going
from plinth.session.plan import Plan
from plinth.session.predictions import Predictions
from plinth.session.shelf import Shelf
from plinth.shelf.find import Candidate, Rank, SearchResult, find, slots_for_clearing
from plinth.shelf.slots import joined_all
from plinth.shelf.wanted import Wanted

NOTHING: Mapping[str, Part] = MappingProxyType({})


class BuildSearch:
    """Find me."""

    def __init__(self, core: Core, plan: Plan, shelf: Shelf, predictions: Predictions) -> None:
        self._core, self._plan, self._shelf, self._predictions = core, plan, shelf, predictions

    def finds(
        self, wanted: Wanted, slots: Sequence[str], rank: Rank, fixed: Mapping[str, Part] = NOTHING
    ) -> Callable[[Going], SearchResult]:
        """The search from the build as it is kept, with parts that are ``fixed`` in it, to be run off the thread."""
        plan, items = self._core.plan_kept, self._shelf.items(tuple(PART_KINDS.values()))

        def work(task: Going) -> SearchResult:
            base = joined_all(plan.build, fixed)
            if isinstance(base, str):
                raise PhysicsError(f"it cannot join this build: {base}")
            return find(base, plan.situation, wanted, slots=slots, items=items, rank=rank, go_on=task.progress)

        return work

    def clearing_slots(self) -> tuple[str, ...]:
        """The stations where what is over can be fixed."""
        return slots_for_clearing(self._core.plan_kept.build, self._predictions.margins)

    def try_found(self, candidate: Candidate, fixed: Mapping[str, Part] = NOTHING) -> str:
        """Look at a build that was found, without keeping anything."""
        return self._plan.try_parts(_parts(candidate, fixed))

    def take_found(self, candidate: Candidate, wanted: Wanted, fixed: Mapping[str, Part] = NOTHING) -> bool:
        """Take its parts, as one step of undo; why stands in the diary."""
        parts = _parts(candidate, fixed)
        if not parts:
            self._plan.leave_trial()
            return True
        return self._plan.swap_all(parts, f"Found for: {wanted.words}.")


def _parts(candidate: Candidate, fixed: Mapping[str, Part]) -> dict[str, Part]:
    return {**fixed, **{slot: item.part for slot, item in candidate.items.items() if item is not None}}
