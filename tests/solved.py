"""A build solved for its nominal values alone: what flows, and the figures made of it, without any spread.

A full prediction solves it again for each uncertain input, some twenty times. A test that asks for none of that asks
here.
"""

import dataclasses
import functools
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.predict.figure_values import figure_values
from plinth.predict.input import Input
from plinth.predict.inputs import inputs_of
from plinth.predict.operating_points import OperatingPoints
from plinth.predict.power_state import PowerState
from plinth.predict.solution import Solution
from plinth.predict.solve import solution_of
from plinth.predict.warnings import warnings_of


@dataclasses.dataclass(frozen=True)
class Value:
    """A figure's value alone."""

    value: float


@dataclasses.dataclass(frozen=True)
class Solved:
    """``solution`` and its figures by name."""

    solution: Solution
    values: Mapping[str, float]
    inputs: Mapping[str, Input]

    @property
    def points(self) -> OperatingPoints:
        """What was solved."""
        return self.solution.points

    @property
    def state(self) -> PowerState:
        """The state at the level asked for."""
        return self.solution.points.at_level

    @property
    def warnings(self) -> tuple[str, ...]:
        """What a prediction of it says besides figures."""
        return tuple(warnings_of(self.solution, self.inputs))

    def __getitem__(self, name: str) -> Value:
        return Value(self.values[name])


@functools.lru_cache(maxsize=64)
def solved(build: Build, situation: Situation | None = None) -> Solved:
    """As ``solve``, of nominal values. Raises PhysicsError as it does."""
    asked = situation or Situation()
    inputs = inputs_of(build, asked)
    solution = solution_of(build, asked, {key: given.value for key, given in inputs.items()})
    return Solved(solution, figure_values(solution), inputs)
