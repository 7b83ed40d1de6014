"""What a build draws from the wall or from its battery, all its supplies together."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, SwitcherSupply
from plinth.builds.supply_parts import Transformer
from plinth.physics.mains.wave import mains_wave
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails import supply_flow
from plinth.physics.switchers import push_pull, wall
from plinth.predict.circuits import supplies_in_all
from plinth.predict.estimates import BULK_ESR_OHM, MAINS_BRIDGE_V, USUAL_BOOST_V
from plinth.predict.operating_points import OperatingPoints
from plinth.predict.power_state import PowerState
from plinth.predict.supply_kinds.battery import cable_ohm
from plinth.predict.supply_kinds.numbers import Values

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class WallDraw:
    """``v`` and ``i_a`` at the n + 1 instants of ``half_cycles`` mains half cycles; ``flow`` what they amount to."""

    seconds: float
    half_cycles: int
    v: Array
    i_a: Array
    flow: supply_flow.MainsSide
    bulk: wall.BulkState | None = None

    def at(self, t: Array) -> tuple[Array, Array]:
        """Volts and amperes at the times ``t`` (s, from 0): a period of odd half cycles repeats mirrored."""
        turns = np.floor(np.maximum(t / self.seconds - 1e-9, 0.0))
        place = (t / self.seconds - turns) * (len(self.v) - 1)
        sign = np.where(turns * self.half_cycles % 2 > 0, -1.0, 1.0)
        index = np.arange(len(self.v))
        return sign * np.interp(place, index, self.v), sign * np.interp(place, index, self.i_a)


@dataclasses.dataclass(frozen=True)
class BatteryDraw:
    """Watts, mean amperes and terminal volts of the battery, at the level asked for and on programme."""

    p_w: float
    i_a: float
    v: float
    i_programme_a: float


def supplies_of(build: Build, situation: Situation) -> tuple[int, int]:
    """How many whole supplies carry a driven channel, and how many rest."""
    if not build.one_supply_per_channel:
        return 1, 0
    driven = situation.driven(build)
    return driven, len(build.channels) - driven


def wall_draw(
    build: Build,
    situation: Situation,
    values: Values,
    points: OperatingPoints,
    input_rest: PowerState | None,
    near: WallDraw | None = None,
) -> WallDraw | None:
    """The current from the wall; None where the build has none."""
    supply = build.supply
    if supply.transformer is not None:
        return _linear(build, situation, points, input_rest)
    if isinstance(supply, SwitcherSupply):
        return _switcher(supply, situation, build, values, points.at_level, near)
    return None


def _linear(build: Build, situation: Situation, points: OperatingPoints, input_rest: PowerState | None) -> WallDraw:
    state = points.at_level
    driven, resting = supplies_of(build, situation)
    i = from_the_wall(build, [(driven, state), (resting, points.idle)], input_rest)
    v = math.sqrt(2.0) * state.circuit.mains_v_rms * state.period.mains_wave
    shared = state.period.shared
    return WallDraw(shared.seconds, shared.half_cycles, v, i, supply_flow.mains_side(i, v))


def from_the_wall(build: Build, supplies: list[tuple[int, PowerState]], input_rest: PowerState | None) -> Array:
    """Amperes from the wall at the instants of the first state's period: all supplies, the input stages', the cores.

    ``supplies`` how many whole supplies are in which state.
    """
    state = supplies[0][1]
    period = state.period
    frame = np.zeros(period.steps + 1)
    for count, each_supply in supplies:
        if count:
            frame = frame + count * _fitted(primary_frame(each_supply), each_supply, state)
    if input_rest is not None:
        frame = frame + supplies_in_all(build) * _fitted(primary_frame(input_rest), input_rest, state)
    return np.asarray(np.sign(period.mains_wave) * frame + core_currents(build, state))


def rms_a(current: Array) -> float:
    """RMS of one period's n + 1 samples."""
    return math.sqrt(float(np.mean(current[:-1] ** 2)))


def core_currents(build: Build, state: PowerState) -> Array:
    """What the cores of all transformers take, A, at the instants of a state's period."""
    period, circuit = state.period, state.circuit
    angle = np.linspace(0.0, np.pi * period.shared.half_cycles, period.steps + 1)
    return _cores(build, angle, circuit.mains_v_rms, circuit.third_harmonic)


def core_current_rms_a(build: Build, mains_v_rms: float, third_harmonic: float) -> float:
    """The same as an RMS, where nothing else flows."""
    i = _cores(build, np.linspace(0.0, np.pi, 401), mains_v_rms, third_harmonic)
    return math.sqrt(float(np.mean(i[:-1] ** 2)))


def cores_stated(build: Build) -> bool:
    """Whether every transformer of a build states what its core takes."""
    return all(part.p_core_w is not None and part.i_magnetising_a is not None for part in _transformers(build))


def _transformers(build: Build) -> list[Transformer]:
    assert build.supply.transformer is not None
    further = build.supply.input_supply
    return [build.supply.transformer] + ([] if further is None else [further.transformer])


def own_primary_rms_a(part: Transformer, state: PowerState) -> float:
    """RMS amperes in the primary of one main transformer, its core counted; the others and the input stages' not."""
    angle = np.linspace(0.0, np.pi * state.period.shared.half_cycles, state.period.steps + 1)
    core = _core(part, angle, state.circuit.mains_v_rms, state.circuit.third_harmonic)
    return rms_a(np.asarray(np.sign(state.period.mains_wave) * primary_frame(state) + core))


def _cores(build: Build, angle: Array, mains_v_rms: float, third_harmonic: float) -> Array:
    total = np.zeros(len(angle))
    for part in _transformers(build):
        total += _core(part, angle, mains_v_rms, third_harmonic)
    return supplies_in_all(build) * total


def _core(part: Transformer, angle: Array, mains_v_rms: float, third_harmonic: float) -> Array:
    """What the core of one transformer takes; nothing where nobody states it."""
    if part.p_core_w is None and part.i_magnetising_a is None:
        return np.zeros(len(angle))
    return supply_flow.core_current(
        angle, mains_v_rms / part.v_primary_rms, part.v_primary_rms, part.p_core_w or 0.0, part.i_magnetising_a or 0.0,
        third_harmonic,
    )  # fmt: skip


def primary_frame(state: PowerState) -> Array:
    """Primary amperes of one supply, with the mains' sign taken out: every half cycle alike."""
    circuit = state.circuit
    wave = np.abs(state.period.mains_wave)
    # At the zero crossing itself the sign is that of the half cycle that begins.
    wave[wave == 0.0] = 1.0
    return supply_flow.secondary_current(state.rails, wave, circuit.v_drop) / circuit.turns_ratio


def _fitted(frame: Array, of: PowerState, onto: PowerState) -> Array:
    """A frame of one half cycle repeated over the period of another state; as it is where both share one."""
    if of.period is onto.period:
        return frame
    place = np.linspace(0.0, float(onto.period.shared.half_cycles), onto.period.steps + 1) % 1.0
    return np.interp(place, np.linspace(0.0, 1.0, len(frame)), frame)


def _switcher(
    supply: SwitcherSupply,
    situation: Situation,
    build: Build,
    values: Values,
    state: PowerState,
    near: WallDraw | None,
) -> WallDraw:
    part = supply.switcher
    p_in = wall.input_power_w(state.p_rails_w, part.p_continuous_w, values["efficiency"], part.p_idle_w)
    v_rms, f_hz = situation.mains_rms(build), situation.frequency_of_mains(build)
    if part.pfc:
        try:
            bulk = wall.corrected_state(
                p_in,
                v_rms,
                v_boost(supply),
                mains_hz=f_hz,
                c_f=values["c_bulk"],
                c_line_f=values["c_line"],
                thd=values["thd_line"],
                shape=values["shape_line"],
            )
        except ValueError as error:
            raise PhysicsError(str(error)) from error
    else:
        bulk = wall.bulk_state(
            p_in,
            v_rms,
            f_hz,
            c_f=values["c_bulk"],
            r_line_ohm=values["r_line"],
            third_harmonic=situation.third_harmonic,
            near=near.bulk if near else None,
            v_bridge=MAINS_BRIDGE_V,
            esr_ohm=BULK_ESR_OHM,
        )
    angle = np.linspace(0.0, np.pi, len(bulk.v))
    v = math.sqrt(2.0) * v_rms * mains_wave(angle, situation.third_harmonic)
    return WallDraw(0.5 / f_hz, 1, v, bulk.i_mains_a, supply_flow.mains_side(bulk.i_mains_a, v), bulk)


def v_boost(supply: SwitcherSupply) -> float:
    """Output of the power-factor stage: as stated, else the usual 390 V."""
    return supply.switcher.v_pfc_v or USUAL_BOOST_V


def battery_draw(supply: BatterySupply, v_rest: float, values: Values, points: OperatingPoints) -> BatteryDraw:
    """What the battery gives. Raises PhysicsError where it cannot give so much."""
    r = values["r_battery"] + cable_ohm(supply)
    i, v = _battery_current(supply, v_rest, r, values, points.at_level)
    i_programme, _ = _battery_current(supply, v_rest, r, values, points.programme)
    return BatteryDraw(i * v, i, v, i_programme)


def _battery_current(
    supply: BatterySupply, v_rest: float, r_ohm: float, values: Values, state: PowerState
) -> tuple[float, float]:
    part = supply.converter
    p_in = wall.input_power_w(state.p_rails_w, part.p_continuous_w, values["efficiency"], part.p_idle_w)
    try:
        i, v = push_pull.battery_current(p_in, v_rest, r_ohm)
    except ValueError as error:
        raise PhysicsError(str(error)) from error
    return i + (supply.i_other_a or 0.0), v
