"""First power on a variable transformer: what to expect of the rails at each step of the mains."""

import dataclasses
import functools
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE, FINE, Grid
from plinth.predict.at_rest import at_rest
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import circuit_of, input_circuit_of, supplies_in_all
from plinth.predict.inputs import inputs_of
from plinth.predict.lamp_outlook import one_channel
from plinth.predict.power_state import PowerState
from plinth.predict.propagate import combined, contributions
from plinth.predict.source_chain import Ahead, ahead_of, turned
from plinth.predict.wall import core_current_rms_a, from_the_wall, rms_a

# Shares of the mains in force. Below a tenth nothing is to be read that a faulty build would not show as well.
SHARES = (0.10, 0.25, 0.50, 0.75, 1.00)
# Practice, not physics: long enough to read three meters, and to feel a sink that warms too fast.
DWELL_ASLEEP_S, DWELL_AWAKE_S = 15.0, 60.0


@dataclasses.dataclass(frozen=True)
class MainsStep:
    """What to expect at rest: the lower rail and the current from the wall, each with its standard uncertainty.

    ``awake``: the modules are at or above their lowest working rail, and draw their idle current. The current holds
    what the cores take only where that is stated. A flat top and a house's wires, which nobody states, are not in the
    uncertainties: the windows of first power allow for the mains by themselves.
    """

    mains_v_rms: float
    rail_v: float
    u_rail_v: float
    primary_rms_a: float
    u_primary_rms_a: float
    awake: bool
    dwell_s: float


def mains_steps(build: Build, situation: Situation, shares: tuple[float, ...] = SHARES) -> tuple[MainsStep, ...]:
    """The steps, rising. What modules below their lowest working rail draw falls with the rail.

    Raises PhysicsError for a supply without a transformer: a switcher starts all at once.
    """
    if build.supply.transformer is None:
        raise PhysicsError(
            "found no mains transformer, expected one: a switcher starts all at once or hunts, and a battery has no "
            "mains"
        )
    return tuple(_step(build, situation, share * situation.mains_rms(build)) for share in sorted(shares))


def _step(build: Build, situation: Situation, mains_v: float) -> MainsStep:
    inputs = inputs_of(build, situation)
    nominal = {key: quantity.value for key, quantity in inputs.items()}
    here = turned(situation, mains_v)
    with_inputs = build.supply.transformer is not None and build.supply.input_supply is not None

    # Most of what a build is made of does not move its rails at rest.
    known: dict[tuple[object, ...], PowerState] = {}

    def rest_of(circuit: PowerCircuit, grid: Grid) -> PowerState:
        key = (grid, circuit.supply_alone)
        if key not in known:
            known[key] = at_rest(circuit, grid)
        return known[key]

    def rest_at(values: Mapping[str, float], ahead: Ahead, grid: Grid = FINE) -> dict[str, float]:
        values = ahead.before(values)
        rest = rest_of(circuit_of(build, here, values), grid)
        further = None
        if with_inputs:
            small = input_circuit_of(build, here, values)
            further = rest_of(small, grid) if small.v_crest > small.v_drop else None
        i = from_the_wall(build, [(supplies_in_all(build), rest)], further)
        return {"rail": min(rail.mean(rail.v_node) for rail in rest.rails), "primary": rms_a(i)}

    circuit = circuit_of(build, here, nominal)
    if circuit.v_crest <= circuit.v_drop:
        # The diodes do not open yet; a core takes its current all the same.
        core = core_current_rms_a(build, mains_v, circuit.third_harmonic)
        return MainsStep(
            mains_v, 0.0, 0.0, primary_rms_a=core, u_primary_rms_a=0.0, awake=False, dwell_s=DWELL_ASLEEP_S
        )
    ahead = ahead_of(build)
    resting = rest_at(nominal, ahead)
    # The current hardly depends on how warm a thermistor is.
    for _ in range(2 if ahead.warms else 0):
        ahead = ahead.warmed(resting["primary"], situation.ambient_c)
        resting = rest_at(nominal, ahead)
    awake = resting["rail"] >= build.module.v_rail_min
    spread = contributions(lambda values: rest_at(values, ahead, COARSE), inputs)
    return MainsStep(
        mains_v,
        resting["rail"],
        combined(spread["rail"]),
        primary_rms_a=resting["primary"],
        u_primary_rms_a=combined(spread["primary"]),
        awake=awake,
        dwell_s=DWELL_AWAKE_S if awake else DWELL_ASLEEP_S,
    )


@functools.lru_cache(maxsize=32)
def wall_at_rest(build: Build) -> MainsStep:
    """One channel's board at rest on the whole nominal mains. Raises PhysicsError without a transformer."""
    return mains_steps(one_channel(build), Situation(), (1.0,))[0]
