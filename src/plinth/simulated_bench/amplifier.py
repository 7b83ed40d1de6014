"""The build on the bench: what it truly does under what is set, from the engine with a fault laid on.

Values are nominal: what a meter of the bench reads beside the prediction differs by the meter alone.
"""

import dataclasses
import functools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies.direct import DirectSupply
from plinth.builds.supply_parts import BenchPair
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE
from plinth.physics.stages.response import band_gain
from plinth.predict.circuits import drive_of, supplies_in_all
from plinth.predict.distortion import can_overdrive, driven_past
from plinth.predict.inputs import inputs_of
from plinth.predict.power_state import PowerState
from plinth.predict.solution import Solution
from plinth.predict.solve import solution_of
from plinth.predict.trimmer import with_trimmer_at
from plinth.predict.wall import wall_draw
from plinth.simulated_bench.fault_effects import HEALTHY, Effects
from plinth.simulated_bench.settings import Settings

Array = NDArray[np.float64]

NO_LOAD_OHM = 10_000.0
# What nobody states, in the simulation only.
USUAL_REJECTION_DB, USUAL_NOISE_V, USUAL_RESIDUE = 70.0, 100e-6, 3e-5
LEAST_SIGNAL_HZ, MOST_SIGNAL_HZ = 5.0, 100_000.0


@dataclasses.dataclass(frozen=True)
class Steady:
    """A steady state: one period of the rails, what holds the output, the current from the wall.

    ``plus`` and ``minus`` are volts to 0 V with their sign, over ``period_s``; ``amplitude_v`` the sine that the output
    would be, ``least`` and ``most`` what holds it; ``supply_a`` the mean current of a rail, ``heat_w`` of all modules.
    """

    period_s: float
    plus: Array
    minus: Array | None
    least: Array
    most: Array
    amplitude_v: float
    hz: float
    dc_v: float
    supply_a: float
    heat_w: float
    wall_v: Array | None
    wall_a: Array | None
    effects: Effects
    noise_v: float
    hum_share: float

    def at(self, wave: Array, t: Array) -> Array:
        """A wave of the period at any time."""
        place = (t / self.period_s) % 1.0 * (len(wave) - 1)
        return np.interp(place, np.arange(len(wave)), wave)

    def output(self, t: Array, noise: Array, mains: float) -> Array:
        """Volts of the left output; ``noise`` of standard deviation 1 at the same times, ``mains`` as a share of it."""
        effects = self.effects
        angle = 2.0 * math.pi * self.hz * t
        sine = np.sin(angle)
        wave = self.amplitude_v * (
            sine + USUAL_RESIDUE * np.sin(2.0 * angle) + 0.5 * USUAL_RESIDUE * np.sin(3.0 * angle)
        )
        if effects.crossover_v and self.amplitude_v:
            wave = np.sign(wave) * np.maximum(np.abs(wave) - effects.crossover_v, 0.0)
        held = np.clip(wave, mains * self.at(self.least, t), mains * self.at(self.most, t))
        if effects.dead:
            held = np.zeros_like(t)
        hum = (self.at(self.plus, t) - float(np.mean(self.plus))) * self.hum_share
        out = held + self.dc_v + hum + noise * math.hypot(self.noise_v, effects.noise_v)
        return -out if effects.turned else np.asarray(out)


class Amplifier:
    """A build, with a fault or none: its steady states, each solved once, and the reservoirs between them."""

    def __init__(self, build: Build, effects: Effects) -> None:
        self.build, self.effects = build, effects
        self._known: dict[tuple[float | bool, ...], Steady | None] = {}
        module = build.module
        self.offset_v = 0.3 * module.offset_max_v + effects.dc_v

    def steady(self, settings: Settings) -> Steady | None:
        """What comes to rest under these settings; None where nothing feeds it, or nothing comes to rest."""
        if not (settings.mains_on or settings.supply_on) or (settings.mains_on and self.effects.no_mains):
            return None
        key = settings.circuit_key()
        if key not in self._known:
            if len(self._known) > 64:
                self._known.clear()
            try:
                self._known[key] = self._solved(settings)
            except PhysicsError:
                self._known[key] = None
        return self._known[key]

    @functools.cached_property
    def has_mains(self) -> bool:
        """Whether there is a primary to be fed from the wall."""
        return self.build.mains is not None

    @functools.cached_property
    def reservoir_f(self) -> float:
        """Capacitance of a rail, as far as it is a reservoir's."""
        reservoir = getattr(self.build.supply, "reservoir", None)
        return float(reservoir.c_f) if reservoir is not None else 1e-3

    @functools.cached_property
    def bleeder_ohm(self) -> float:
        """What empties a rail once the modules sleep; a meter's and the cans' own leakage where none is fitted."""
        reservoir = getattr(self.build.supply, "reservoir", None)
        stated = None if reservoir is None else reservoir.r_bleeder_ohm
        return 47_000.0 if stated is None else float(stated)

    def load_seen_ohm(self, settings: Settings) -> float:
        """What an ohmmeter at the left output reads with everything off."""
        own = self.build.module.r_discharge_ohm or 22_000.0
        load = settings.load_ohm if settings.load_on else math.inf
        if self.effects.dc_share > 0.9:
            own = 0.3
        return 1.0 / (1.0 / own + (0.0 if math.isinf(load) else 1.0 / load))

    def left_after(self, volts: float, seconds: float) -> float:
        """A rail ``seconds`` after its source is gone: the modules draw until they sleep, then the bleeder alone."""
        awake = self.build.module.v_rail_min
        idle = self.build.module.i_quiescent_a + self.build.module.driver_a
        current = idle * self.build.modules_per_channel * len(self.build.channels) / supplies_in_all(self.build)
        if volts > awake and current > 0.0:
            sleeps = self.reservoir_f * (volts - awake) / current
            if seconds < sleeps:
                return volts - current * seconds / self.reservoir_f
            volts, seconds = awake, seconds - sleeps
        return volts * math.exp(-seconds / (self.bleeder_ohm * self.reservoir_f))

    def _met(self, settings: Settings) -> Effects:
        """What the fault does under these settings: nothing where a bench supply takes the place of what is faulty."""
        return HEALTHY if self.effects.upstream and not settings.mains_on else self.effects

    def _wired(self, settings: Settings) -> Build:
        """The build as a hand has left it."""
        # What opens or turns over a bias leaves a trimmer nothing to turn down.
        build = with_trimmer_at(self.build, 1.0 if self.effects.idle > 1.0 else settings.trimmer)
        if not settings.one_board:
            return build
        return build.model_copy(update={"channels": build.channels[:1], "channel_keys": build.channel_keys[:1]})

    def _fed(self, settings: Settings) -> tuple[Build, Situation]:
        hz = min(max(settings.generator_hz, LEAST_SIGNAL_HZ), MOST_SIGNAL_HZ)
        load = settings.load_ohm if settings.load_on else NO_LOAD_OHM
        driven = "all" if settings.all_driven else "one"
        if settings.mains_on:
            situation = Situation(
                mains_v_rms=settings.mains_v, mains_hz=settings.mains_hz, frequency_hz=hz, load_ohm=load,
                channels_driven=driven,
            )  # fmt: skip
            return self._wired(settings), situation
        build = self._wired(settings)
        reservoir = getattr(self.build.supply, "reservoir", None)
        supply = DirectSupply(
            source=BenchPair(
                name="bench supply", rails="single" if build.supply.single_rail else "dual",
                v_rail=max(settings.supply_v, 1.0), i_limit_a=max(settings.supply_limit_a, 0.01), r_source_ohm=0.01,
            ),
            reservoir=reservoir,
        )  # fmt: skip
        fed = build.model_copy(update={"supply": supply, "mains": None})
        return fed, Situation(frequency_hz=hz, load_ohm=load, channels_driven=driven)

    def _solved(self, settings: Settings) -> Steady:
        build, situation = self._fed(settings)
        amplitude = self._amplitude(settings, situation)
        nominal = {key: value.value for key, value in inputs_of(build, situation).items()}
        solution = solution_of(build, situation.model_copy(update={"level": 0.0}), nominal, COARSE)
        clip = solution.points.clip_v_peak
        circuit = solution.points.circuit
        if amplitude > 0.0:
            level = min(amplitude / clip, 1.0)
            solution = solution_of(build, situation.model_copy(update={"level": level}), nominal, COARSE)
        state = solution.points.at_level
        bound = np.full(state.period.steps + 1, clip)
        least, most = -bound, bound
        if amplitude > clip and can_overdrive(circuit):
            state, least, most = driven_past(circuit, drive_of(build, situation), amplitude)
            # The modules' own current limit, which knows no rails.
            least, most = np.maximum(least, -circuit.v_at_limit), np.minimum(most, circuit.v_at_limit)
        return self._laid(settings, solution, state, (least, most), amplitude, situation.frequency_hz)

    def _amplitude(self, settings: Settings, situation: Situation) -> float:
        """Peak volts at the output if nothing held them."""
        if not settings.generator_on:
            return 0.0
        module, build = self.build.module, self.build
        legs = 2.0 if build.wiring == "bridged" else 1.0
        load, _ = situation.impedance(build)
        divided = load / (load + (module.r_output_ohm or 0.02))
        gain = module.gain * legs * band_gain(situation.frequency_hz, module.f_low_hz, module.f_high_hz)
        at_high_load = 1.0 if not settings.load_on else divided
        return math.sqrt(2.0) * settings.generator_v * gain * at_high_load * self.effects.gain

    def _laid(
        self, settings: Settings, solution: Solution, state: PowerState, bounds: tuple[Array, Array], amplitude: float,
        hz: float,
    ) -> Steady:  # fmt: skip
        """The state with the fault on it, and the supply at its limit where it is there."""
        effects, module = self._met(settings), self.build.module
        idle_a = state.circuit.i_idle_a * state.circuit.channels
        mean_a = max(rail.mean(rail.i_load_a) for rail in state.rails)
        supply_a = mean_a + (effects.idle - 1.0) * idle_a + effects.extra_a
        held = 1.0
        if not settings.mains_on and supply_a > settings.supply_limit_a:
            # A source at its limit lets its volts fall until no more than that is drawn.
            held, supply_a = settings.supply_limit_a / supply_a, settings.supply_limit_a
        rails = [self._rail(rail.v_node, effects) * held for rail in state.rails]
        plus = rails[0] * effects.plus
        minus = None if len(rails) < 2 else -rails[1] * effects.minus
        asleep = float(np.mean(plus)) < module.v_rail_min or (
            minus is not None and -float(np.mean(minus)) < module.v_rail_min
        )
        wall = solution.wall
        if wall is not None and state is not solution.points.at_level:
            driven = dataclasses.replace(solution.points, at_level=state)
            wall = wall_draw(solution.build, solution.situation, solution.values, driven, solution.input_rest)
        draw = effects.wall * (1.0 + max(effects.idle - 1.0, 0.0) * 0.3 + effects.extra_a * 0.2)
        return Steady(
            period_s=state.period.shared.seconds, plus=plus, minus=minus, least=bounds[0] * held,
            most=bounds[1] * held, amplitude_v=0.0 if asleep else amplitude, hz=hz,
            dc_v=(0.0 if asleep else self.offset_v) + effects.dc_share * float(np.mean(plus)),
            supply_a=supply_a,
            heat_w=supplies_in_all(solution.build) * (
                sum(rail.p_load_w for rail in state.rails) - state.driven * _in_load(state, bounds, amplitude)
            ) * max(effects.idle, 1.0) * held,
            wall_v=None if wall is None else wall.v, wall_a=None if wall is None else wall.i_a * draw,
            effects=effects, noise_v=module.noise_v_rms or USUAL_NOISE_V,
            hum_share=10.0 ** (-(module.rejection_db or USUAL_REJECTION_DB) / 20.0),
        )  # fmt: skip

    @staticmethod
    def _rail(v: Array, effects: Effects) -> Array:
        mean = float(np.mean(v))
        return np.asarray(mean + (v - mean) * effects.ripple)


def _in_load(state: PowerState, bounds: tuple[Array, Array], amplitude: float) -> float:
    """Watts of one driven load, its sine held as it is."""
    wave = np.clip(amplitude * state.period.signal_sine, *bounds)
    return float(np.mean(wave[:-1] ** 2)) / state.circuit.r_load
