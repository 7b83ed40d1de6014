"""What is predicted of a build in a situation: figures, waveforms, warnings."""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.predict.figure import Figure
from plinth.predict.input import Input
from plinth.predict.operating_points import OperatingPoints
from plinth.predict.power_state import PowerState
from plinth.predict.solution import Solution
from plinth.predict.wall import BatteryDraw, WallDraw


@dataclasses.dataclass(frozen=True)
class Prediction:
    """Figures by name, the states whose waveforms are shown, the inputs used, and sentences of warning."""

    build: Build
    situation: Situation
    figures: Mapping[str, Figure]
    inputs: Mapping[str, Input]
    solution: Solution
    warnings: tuple[str, ...]

    def __getitem__(self, name: str) -> Figure:
        """The figure of that name."""
        return self.figures[name]

    def get(self, name: str) -> Figure | None:
        """The figure of that name, None where this kind of build has none."""
        return self.figures.get(name)

    @property
    def points(self) -> OperatingPoints:
        """The operating points of the main supply."""
        return self.solution.points

    @property
    def state(self) -> PowerState:
        """The steady state at the level asked for."""
        return self.solution.points.at_level

    @property
    def wall(self) -> WallDraw | None:
        """The current from the wall, None without mains."""
        return self.solution.wall

    @property
    def battery(self) -> BatteryDraw | None:
        """What the battery gives, None without one."""
        return self.solution.battery
