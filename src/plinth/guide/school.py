"""A school of first power: by which steps a channel is brought up, with windows computed for the very build."""

import dataclasses
from collections.abc import Callable, Mapping
from typing import Protocol

from plinth.builds.build import Build
from plinth.guide.bleeding import BleedDown, highest_bleed_down
from plinth.guide.progress import StepStand, stands
from plinth.guide.step import Step
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.units.bounds import Bound


class PlanSteps(Protocol):
    """Makes all steps for a channel.

    ``v_build_idle`` this build's rail at idle, ``readings`` values by step key: windows use what was already measured.
    """

    def __call__(
        self, build: Build, channel: str, v_build_idle: float, readings: Mapping[str, float], /
    ) -> tuple[Step, ...]: ...


@dataclasses.dataclass(frozen=True)
class School:
    """``key`` in code and file, ``name`` as shown, ``steps`` what it asks for.

    ``why_not`` a build cannot be brought up so, empty where it can. ``foretell`` what its windows need and what takes
    longer than a moment: computed once for a build, off the window's thread, and remembered by whoever computes it.
    ``rails`` whether rails are read on the way, which a fault changes. ``bleed_down`` how long what it puts under power
    stays charged, by the build's rail at idle.
    """

    key: str
    name: str
    steps: PlanSteps
    why_not: Callable[[Build], str] = lambda _build: ""
    foretell: Callable[[Build], object] | None = None
    bleed_down: Callable[[Build, float], BleedDown] = highest_bleed_down
    rails: bool = False

    def counting_values(self, build: Build, channel: str, v_build_idle: float, book: RecordBook) -> dict[str, float]:
        """Values by step key of the readings that count today; what a window needs of them."""
        found = {}
        for step in self.steps(build, channel, v_build_idle, {}):
            record = book.counting(step.subject, step.conditions)
            if isinstance(record, Reading) and record.bound is Bound.NONE:
                found[step.key] = record.value
        return found

    def stands(
        self, build: Build, channel: str, v_build_idle: float, book: RecordBook, held: str = ""
    ) -> tuple[StepStand, ...]:
        """Where a channel stands on its way through this school; ``held`` why nothing may be switched on."""
        values = self.counting_values(build, channel, v_build_idle, book)
        steps = self.steps(build, channel, v_build_idle, values)
        if held:
            steps = tuple(dataclasses.replace(one, blocked=one.blocked or held) if one.power else one for one in steps)
        return stands(steps, book)
