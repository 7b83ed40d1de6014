"""A school of first power: by which steps a channel is brought up, with windows computed for the very build."""

import dataclasses
import functools
from collections.abc import Callable, Mapping, Sequence
from typing import Protocol

from plinth.builds.build import Build
from plinth.guide.bleeding import BleedDown, highest_bleed_down
from plinth.guide.equipment import NOTHING, Equipment
from plinth.guide.precomputed import Precomputed
from plinth.guide.progress import StepStand, counting_today, stands
from plinth.guide.step import Step
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.units.bounds import Bound

# The step that allows a loudspeaker: what comes after it is the soak.
LOUDSPEAKER = "loudspeaker"


def to_loudspeaker(all_stands: Sequence[StepStand]) -> tuple[StepStand, ...]:
    """The steps up to the permission of a loudspeaker; all of them in a school that does not give it."""
    keys = [stand.step.key for stand in all_stands]
    return tuple(all_stands[: keys.index(LOUDSPEAKER) + 1] if LOUDSPEAKER in keys else all_stands)


class PlanSteps(Protocol):
    """Makes all steps for a channel.

    ``v_build_idle`` this build's rail at idle, ``readings`` values by step key: windows use what was already measured.
    ``equipment`` what there is to bring it up with, or what is known for it already.
    """

    def __call__(
        self,
        build: Build,
        channel: str,
        v_build_idle: float,
        readings: Mapping[str, float],
        equipment: Equipment | Precomputed = ...,
        /,
    ) -> tuple[Step, ...]: ...


@dataclasses.dataclass(frozen=True)
class School:
    """``key`` in code and file, ``name`` as shown, ``steps`` what it asks for.

    ``why_not`` a build cannot be brought up so, empty where it can. ``precompute`` computes what its windows need and
    what takes longer than a moment, off the window's thread: what it is given holds it, and is handed to ``steps``.
    ``rails`` whether rails are read on the way, which a fault changes; ``reforms`` whether old reservoirs are brought
    back. ``bleed_down`` how long what it puts under power
    stays charged, by the build's rail at idle.
    """

    key: str
    name: str
    steps: PlanSteps
    why_not: Callable[[Build], str] = lambda _build: ""
    precompute: Callable[[Precomputed], None] | None = None
    bleed_down: Callable[[Build, float], BleedDown] = highest_bleed_down
    rails: bool = False
    reforms: bool = False

    def counting_values(
        self,
        build: Build,
        channel: str,
        v_build_idle: float,
        book: RecordBook,
        equipment: Equipment | Precomputed = NOTHING,
    ) -> dict[str, float]:
        """Values by step key of the readings that count today; what a window needs of them."""
        values = {}
        for step in _before_any_reading(self, build, channel, v_build_idle, equipment):
            record = counting_today(step, book)
            if isinstance(record, Reading) and record.bound is Bound.NONE:
                values[step.key] = record.value
        return values

    def stands(
        self,
        build: Build,
        channel: str,
        v_build_idle: float,
        book: RecordBook,
        held: str = "",
        equipment: Equipment | Precomputed = NOTHING,
    ) -> tuple[StepStand, ...]:
        """Where a channel stands on its way through this school; ``held`` why nothing may be switched on."""
        values = self.counting_values(build, channel, v_build_idle, book, equipment)
        steps = self.steps(build, channel, v_build_idle, values, equipment)
        if held:
            steps = tuple(
                dataclasses.replace(step, blocked=step.blocked or held) if step.power else step for step in steps
            )
        return stands(steps, book)


# The same at every reading that is kept; only what was read changes its windows.
@functools.lru_cache(maxsize=64)
def _before_any_reading(
    school: School, build: Build, channel: str, v_build_idle: float, equipment: Equipment | Precomputed
) -> tuple[Step, ...]:
    return school.steps(build, channel, v_build_idle, {}, equipment)
