"""Everything solved of a build in a situation for one set of values."""

import dataclasses

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.rails.time_course import SoftStart
from plinth.predict.circuit import PowerCircuit
from plinth.predict.lamp_ahead import LampAhead
from plinth.predict.operating_points import OperatingPoints
from plinth.predict.power_state import PowerState
from plinth.predict.source_chain import Ahead, at_switch_on
from plinth.predict.supply_kinds.numbers import Values
from plinth.predict.wall import BatteryDraw, WallDraw


@dataclasses.dataclass(frozen=True)
class Solution:
    """``points`` of the main supply, what comes from wall or battery, and what stands ``ahead`` of the primaries.

    ``input_rest`` the input stages' own supply, where there is one.
    """

    build: Build
    situation: Situation
    values: Values
    points: OperatingPoints
    wall: WallDraw | None
    battery: BatteryDraw | None
    input_rest: PowerState | None
    ahead: Ahead

    @property
    def lamp(self) -> LampAhead | None:
        """The lamp in series, None without one."""
        return self.ahead.lamp

    @property
    def r_soft_ohm(self) -> float:
        """What a soft start that stays has at this level, ahead of all supplies together."""
        return self.ahead.r_soft_ohm

    @property
    def bare_circuit(self) -> PowerCircuit:
        """The circuit without what stands ahead of its primary: a course puts that in as warm as it is then."""
        circuit = self.points.circuit
        return dataclasses.replace(circuit, r_ahead=0.0) if circuit.r_ahead else circuit

    @property
    def at_switch_on(self) -> SoftStart | None:
        """What stands ahead of the primary when power comes on, as each of several like supplies sees it."""
        return at_switch_on(self.build, self.lamp)
