"""Rails with the modules at rest on them: awake, below their lowest rail, hunting about it, or beside a short."""

import dataclasses

import numpy as np

from plinth.physics.numbers.errors import RailCollapseError
from plinth.physics.numbers.roots import bracketed
from plinth.physics.rails.common_period import Grid
from plinth.physics.rails.network_elements import RailElements, RailNetwork
from plinth.physics.rails.network_steady import NetworkState, RailSource, steady_state
from plinth.physics.rails.rail import RailCircuit, constant_current
from plinth.physics.rails.rail_march import RailOnGrid
from plinth.physics.rails.steady_state import RailSteadyState, solve_rail
from plinth.physics.stages import draws
from plinth.predict.circuit import PowerCircuit
from plinth.predict.power_state import Period, PowerState, as_power_state, lay_period, plain_rail, source_of


def without_modules(circuit: PowerCircuit, period: Period, near: PowerState | None) -> PowerState:
    """The supply alone under what hangs on its rails."""
    g = 0.0 if circuit.rail_load_ohm is None else 1.0 / circuit.rail_load_ohm
    return _under(circuit, period, (circuit.rail_load_a or 0.0,) * circuit.rails, (g,) * circuit.rails, near)


def _under(
    circuit: PowerCircuit, period: Period, i_a: tuple[float, ...], g_s: tuple[float, ...], near: PowerState | None
) -> PowerState:
    """The rails under steady currents and conductances."""
    network, source = circuit.network, source_of(circuit, period)
    # From above the source's crest, where a rail at rest never stands, it would be sought by its slow discharge.
    below = near is not None and all(rail.v_cap[0] <= np.max(source.emf) for rail in near.rails)
    known = near.network if near is not None and below else None
    if len(network.rails) == 2 and len({*zip(network.rails, i_a, g_s, strict=True)}) == 1:
        single, first = _one_of(network), network.rails[0]
        if not (circuit.steady_v or first.two_stages or first.l_source_h):
            return _alike(circuit, period, _quick(single.rails[0], source, i_a[0], g_s[0], near), None)
        law = draws.at_rest(i_a[:1], g_s[:1], period.steps)
        state = steady_state(single, _first_of(source), law, 0.0, known)
        return _alike(circuit, period, as_power_state(circuit, period, 0.0, 0, state).plus, state)
    law = draws.at_rest(i_a, g_s, period.steps)
    return as_power_state(circuit, period, 0.0, 0, steady_state(network, source, law, 0.0, known))


def _one_of(network: RailNetwork) -> RailNetwork:
    """One of like rails alone: what both share carries both their currents, so to each it is twice as much."""
    first = network.rails[0]
    shared_ohm = len(network.rails) * network.r_shared_ohm
    return RailNetwork((dataclasses.replace(first, r_source_ohm=first.r_source_ohm + shared_ohm),))


def _first_of(source: RailSource) -> RailSource:
    return dataclasses.replace(source, emf=source.emf[:, :1], late_emf=source.late_emf[:, :1])


def _quick(rail: RailElements, source: RailSource, i_a: float, g_s: float, near: PowerState | None) -> RailSteadyState:
    """A rail without leakage and second stage marches the quick way: what its load's conductance takes as a bleeder."""
    circuit = RailCircuit(rail.r_source_ohm, rail.c_f, rail.esr_ohm, rail.g_bleed_s + g_s)
    load = constant_current(i_a, len(source.emf) - 1)
    guess = float(near.plus.v_cap[0]) if near else None
    rails = RailOnGrid(circuit, np.ascontiguousarray(source.emf[:, 0]), source.step_s, source.near_v)
    solved = solve_rail(rails, load, guess)
    middle = 0.5 * (solved.v_node[:-1] + solved.v_node[1:])
    return dataclasses.replace(solved, i_load_a=i_a + g_s * solved.v_node, i_load_mean_a=i_a + g_s * middle)


def _alike(circuit: PowerCircuit, period: Period, rail: RailSteadyState, state: NetworkState | None) -> PowerState:
    """Both rails from the one that was solved for them."""
    rail = dataclasses.replace(
        rail, circuit=circuit.network.rails[0], v_of_others=circuit.network.r_shared_ohm * rail.i_diode_a
    )
    return PowerState(circuit, period, 0.0, driven=0, plus=rail, minus=rail, network=state)


# How near to its lowest rail the mean of one that hunts about it is sought.
HUNTED_V = 1e-3
# A shorted output device with the copper to it.
SHORT_OHM = 0.05


@dataclasses.dataclass(frozen=True)
class _IdleLaw:
    """What all channels draw from each rail at rest, awake and below their lowest rail: (amperes, siemens).

    A rail with a short takes the short instead.
    """

    circuit: PowerCircuit
    shorted: bool = False

    def awake(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        i, rise = self.circuit.channels * self.circuit.i_idle_a, self.circuit.idle_rise
        return self._rails(i * (1.0 - rise), i * rise / self.circuit.v_idle)

    def asleep(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return self.like_a_resistor(0.0 if self.circuit.idle_stops else 1.0)

    def like_a_resistor(self, share: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """A share of the resistor that draws at the lowest rail what the stages do there."""
        c = self.circuit
        return self._rails(0.0, share * c.channels * c.i_idle_at(c.v_awake) / c.v_awake)

    def _rails(self, i_a: float, g_s: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
        others = self.circuit.rails - 1
        if not self.shorted:
            return (i_a,) * (1 + others), (g_s,) * (1 + others)
        return (0.0,) + (i_a,) * others, (1.0 / SHORT_OHM,) + (g_s,) * others

    def lowest_v(self, state: PowerState) -> float:
        """The lower mean of the rails that have no short."""
        rails = state.rails[1:] if self.shorted else state.rails
        return min((rail.mean(rail.v_node) for rail in rails), default=0.0)


def at_rest(circuit: PowerCircuit, grid: Grid, near: PowerState | None = None) -> PowerState:
    """All rails with the modules at rest on them, or with what hangs there in their place.

    Modules draw their idle current down to their lowest rail (a share of it following the rail where they say so).
    Below it, as a resistor would, in proportion to the rail: the law for stages of which nobody states another; or
    nothing: where they then wake again they hunt, and rest on the mean about their lowest rail. Either law alone says
    whether it is the one that holds, because a rail rises where less is drawn. Raises RailCollapseError where even that
    finds no rest.
    """
    if circuit.modules_away:
        period = rest_period(circuit, grid)
        return without_modules(circuit, period, near)
    return _resting_by(_IdleLaw(circuit), grid, near)


def at_rest_shorted(circuit: PowerCircuit, grid: Grid, near: PowerState | None = None) -> PowerState:
    """As ``at_rest`` with the + rail shorted to 0 V, the modules on the other one."""
    return _resting_by(_IdleLaw(circuit, shorted=True), grid, near)


def _resting_by(law: _IdleLaw, grid: Grid, near: PowerState | None) -> PowerState:
    circuit = law.circuit
    drawing = circuit.v_awake > 0.0 and circuit.i_idle_a > 0.0
    period = rest_period(circuit, grid)
    if near is not None and drawing and not circuit.idle_stops and law.lowest_v(near) < circuit.v_awake:
        # A similar case was asleep: looked at first, as marching awake towards no rest costs most.
        asleep = _under(circuit, period, *law.asleep(), near)
        if law.lowest_v(asleep) < circuit.v_awake:
            return asleep
    try:
        if law.shorted or circuit.idle_rise:
            rest = _under(circuit, period, *law.awake(), near)
        else:
            rest = resting(circuit, circuit.channels * circuit.i_idle_a, grid, near)
    except RailCollapseError:
        if not drawing:
            raise
    else:
        if not drawing or law.lowest_v(rest) >= circuit.v_awake:
            return rest
    asleep = _under(circuit, period, *law.asleep(), near)
    hunts = circuit.idle_stops and law.lowest_v(asleep) >= circuit.v_awake
    return _hunting(law, period, asleep) if hunts else asleep


def _hunting(law: _IdleLaw, period: Period, asleep: PowerState) -> PowerState:
    """A stage that stops below its lowest rail and wakes above it: as much of it as holds the rail's mean there.

    On the mean it draws like the resistor that leaves the rail there.
    """
    state, wanted = asleep, law.circuit.v_awake

    def over_v(share: float) -> float:
        nonlocal state
        state = _under(law.circuit, period, *law.like_a_resistor(share), state)
        return law.lowest_v(state) - wanted

    all_awake = over_v(1.0)
    if all_awake < 0.0:
        bracketed(over_v, (0.0, law.lowest_v(asleep) - wanted), (1.0, all_awake), HUNTED_V)
    return state


def as_biased(circuit: PowerCircuit, rest: PowerState) -> PowerCircuit:
    """The circuit with the idle current that its bias takes up on the rails of ``rest``."""
    if not circuit.idle_rise:
        return circuit
    share = circuit.i_idle_at(min(rail.mean(rail.v_node) for rail in rest.rails)) / circuit.i_idle_a
    share = max(share, 0.0)
    return dataclasses.replace(
        circuit, i_idle_a=share * circuit.i_idle_a, i_bias_a=share * circuit.i_bias_a, idle_rise=0.0
    )


def rest_period(circuit: PowerCircuit, grid: Grid) -> Period:
    """One half cycle: what a rail at rest comes round in."""
    f_hz = 100.0 if circuit.steady_v else 2.0 * circuit.mains_hz
    return lay_period(circuit, f_hz, 0.0, Grid(grid.per_half_cycle, 1, grid.near_v))


def resting(circuit: PowerCircuit, i_a: float, grid: Grid, near: PowerState | None = None) -> PowerState:
    """All rails under a steady current, over one half cycle."""
    period = rest_period(circuit, grid)
    if circuit.plain:
        load, guess = constant_current(i_a, period.steps), float(near.plus.v_cap[0]) if near else None
        rail = solve_rail(plain_rail(circuit, period), load, guess)
        return PowerState(circuit, period, 0.0, 0, rail, rail)
    return _under(circuit, period, (i_a,) * circuit.rails, (0.0,) * circuit.rails, near)
