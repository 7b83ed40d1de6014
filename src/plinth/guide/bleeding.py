"""How long what was under power stays charged after a stop: a board by itself, a supply with a board on it."""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.modules import Module
from plinth.physics.rails import transients
from plinth.predict.inputs import inputs_of


@dataclasses.dataclass(frozen=True)
class BleedDown:
    """Seconds until a board's own capacitors are below 5 V after switching off; ``estimated`` if nobody stated how."""

    v_start: float
    seconds: float
    resistance_ohm: float
    c_f: float
    estimated: bool

    def volts_after(self, seconds: float) -> float:
        """What is left on each rail after ``seconds``."""
        return transients.bleed_voltage(self.c_f, self.resistance_ohm, self.v_start, seconds)


def board_bleed_down(module: Module, v_rail: float) -> BleedDown:
    """Discharge of the module's own capacitors; without a stated path through what the drivers draw, doubled."""
    estimated = module.r_discharge_ohm is None
    # The drivers stop drawing as the rail falls, so their nominal resistance is taken twice.
    resistance = module.r_discharge_ohm or 2.0 * module.v_rail_nominal / max(module.driver_a, 1e-4)
    seconds = transients.bleed_down_s(module.c_local_f, resistance, v_rail, transients.SAFE_V)
    return BleedDown(v_rail, seconds, resistance, module.c_local_f, estimated)


def supply_bleed_down(build: Build, v_rail: float) -> BleedDown:
    """Discharge of this build's own supply with one channel's board on it; the slower of its rails.

    Through the bleeder alone where one is stated: a board may stop drawing as its rail falls. Without one through what
    the drivers draw, doubled, and said to be estimated.
    """
    supply, module = build.supply, build.module
    values = {key: quantity.value for key, quantity in inputs_of(build).items()}
    second = values.get("c2", 0.0)
    c = max(values["c"], values.get("c_minus", 0.0)) + second + build.modules_per_channel * module.c_local_f
    rails = [supply.reservoir.r_bleeder_ohm]
    minus = getattr(supply, "reservoir_minus", None)
    if minus is not None:
        rails.append(minus.r_bleeder_ohm)
    estimated = None in rails
    drivers = 2.0 * module.v_rail_nominal / max(module.driver_a, 1e-4)
    resistance = max(drivers if rail is None else rail for rail in rails)
    seconds = transients.bleed_down_s(c, resistance, v_rail, transients.SAFE_V)
    return BleedDown(v_rail, math.ceil(seconds), resistance, c, estimated)


def highest_bleed_down(build: Build, v_idle: float) -> BleedDown:
    """The same from the highest that the mains may be: what is held "up to" is not said too low."""
    high = 1.0 if build.mains is None else 1.0 + build.mains.tolerance
    return supply_bleed_down(build, high * v_idle)
