"""The bench as it is wired: settings, the amplifier on it, what its rails and its sink have come to by now."""

import math
import threading

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.simulated_bench.amplifier import Amplifier, Steady
from plinth.simulated_bench.clock import BenchClock
from plinth.simulated_bench.fault_effects import effects_of
from plinth.simulated_bench.settings import Settings
from plinth.simulated_bench.square_response import response, square

Array = NDArray[np.float64]

FILLS_S = 0.05
AMBIENT_C, USUAL_SINK_J_PER_K = 23.0, 600.0
SAFE_V = 1.0
_WANDERS = 0.002
# Joules beyond what a healthy build takes before something gives: a power package with its bit of sink warms by some
# 100 K of the first, a transformer or a bridge on its plate of the other. Orders of magnitude, of the simulation alone.
BURNS_J, SUPPLY_BURNS_J = 500.0, 5000.0


class Bench:
    """Everything that the instruments share. ``lock`` is held by whoever asks or sets."""

    def __init__(self, build: Build, fault: str | None = None, speed: float = 1.0, seed: int = 1) -> None:
        self.amplifier = Amplifier(build, effects_of(fault))
        self.settings = Settings(mains_v=build.mains.v_nominal_rms if build.mains else 230.0)
        if build.mains is not None:
            self.settings.mains_hz = build.mains.frequency_hz
        self.clock = BenchClock(speed)
        self.dice = np.random.default_rng(seed)
        self.lock = threading.RLock()
        self._since, self._left_v = 0.0, (0.0, 0.0)
        self._sink_c, self._sink_at = AMBIENT_C, 0.0
        self._healthy = None if fault is None else Amplifier(build, effects_of(None))
        self._strained_j, self._strained_at = 0.0, 0.0

    def changing(self) -> None:
        """Called before anything is set: rails and sink have come as far as they have."""
        now = self.clock.now()
        self.sink_c()
        self.strained_j()
        self._left_v, self._since = self.rail_means(), now

    def steady(self) -> Steady | None:
        """What the circuit comes to under what is set."""
        return self.amplifier.steady(self.settings)

    def mains_share(self) -> float:
        """What the mains is by now, as a share of what is set: it wanders by some parts in a thousand."""
        if not (self.settings.mains_on and self.amplifier.build.supply.follows_mains):
            return 1.0
        now = self.clock.now()
        return 1.0 + _WANDERS * (math.sin(now / 97.0) + 0.6 * math.sin(now / 31.0 + 1.0))

    def rail_means(self) -> tuple[float, float]:
        """Mean volts of the + and of the - rail by now (the latter below 0)."""
        state, passed = self.steady(), self.clock.now() - self._since
        plus, minus = self._left_v
        if state is None:
            return self.amplifier.left_after(plus, passed), -self.amplifier.left_after(-minus, passed)
        share, mains = math.exp(-passed / FILLS_S), self.mains_share()
        ends = mains * float(np.mean(state.plus)), 0.0 if state.minus is None else mains * float(np.mean(state.minus))
        return ends[0] + (plus - ends[0]) * share, ends[1] + (minus - ends[1]) * share

    def rail_wave(self, t: Array, *, plus: bool) -> Array:
        """A rail at times ``t``, which begin now."""
        state = self.steady()
        mean = self.rail_means()[0 if plus else 1]
        wave = None if state is None else state.plus if plus else state.minus
        if state is None or wave is None:
            return np.full(len(t), mean)
        return mean + state.at(wave, t + self.clock.now()) - float(np.mean(wave))

    def output_wave(self, t: Array) -> Array:
        """The left output at times ``t``, which begin now."""
        state = self.steady()
        noise = self.dice.standard_normal(len(t))
        if state is None:
            return 1e-5 * noise
        if self.settings.square and self.settings.generator_on and state.amplitude_v > 0.0:
            # As far as a sine of that size goes is what is computed; a cool one is held by nothing.
            settings, build = self.settings, self.amplifier.build
            load = settings.load_ohm if settings.load_on else math.inf
            turns = settings.generator_hz * (t + self.clock.now())
            wave = state.amplitude_v / math.sqrt(2.0) * response(build, load, settings.generator_hz, turns)
            return wave + state.dc_v + state.noise_v * noise
        return state.output(t + self.clock.now(), noise, self.mains_share())

    def input_wave(self, t: Array) -> Array:
        """The left input at times ``t``."""
        noise = 2e-6 * self.dice.standard_normal(len(t))
        if not self.settings.generator_on:
            return noise
        turns = self.settings.generator_hz * (t + self.clock.now())
        if self.settings.square:
            return self.settings.generator_v * square(turns) + noise
        return math.sqrt(2.0) * self.settings.generator_v * np.sin(2.0 * math.pi * turns) + noise

    def wall(self) -> tuple[float, float, float]:
        """Volts rms, amperes rms and watts that the mains source gives."""
        if not self.settings.mains_on:
            return 0.0, 0.0, 0.0
        state = self.steady()
        if state is None or state.wall_a is None or state.wall_v is None:
            return self.settings.mains_v, 0.0, 0.0
        share = self.mains_share()
        amperes = state.wall_a[:-1]
        watts = float(np.mean(amperes * state.wall_v[:-1]))
        return share * self.settings.mains_v, math.sqrt(float(np.mean(amperes**2))), share * watts

    def sink_c(self) -> float:
        """The sink by now."""
        now, state = self.clock.now(), self.steady()
        sink = self.amplifier.build.sink
        capacity = sink.heat_capacity_j_per_k or USUAL_SINK_J_PER_K
        r_sink = sink.r_k_per_w or 0.6
        end = AMBIENT_C + (0.0 if state is None else state.heat_w * r_sink)
        share = math.exp(-(now - self._sink_at) / (capacity * r_sink))
        self._sink_c, self._sink_at = end + (self._sink_c - end) * share, now
        return self._sink_c

    def strained_j(self) -> float:
        """Joules that the fault has put into board or supply by now, beyond what a healthy one takes there."""
        now, healthy = self.clock.now(), self._healthy
        state = None if healthy is None else self.steady()
        if state is not None and healthy is not None:
            self._strained_j += self._excess_w(state, healthy.steady(self.settings)) * (now - self._strained_at)
        self._strained_at = now
        return self._strained_j

    def _excess_w(self, state: Steady, healthy: Steady | None) -> float:
        if self.amplifier.effects.upstream:
            # In transformer and bridge: what is drawn from the wall in vain.
            own = 0.0 if healthy is None or healthy.wall_a is None else float(np.std(healthy.wall_a))
            drawn = 0.0 if state.wall_a is None else float(np.std(state.wall_a))
            return max(drawn - own, 0.0) * self.settings.mains_v
        amperes = max(state.supply_a - (0.0 if healthy is None else healthy.supply_a), 0.0)
        volts = float(np.mean(state.plus)) - (0.0 if state.minus is None else float(np.mean(state.minus)))
        return amperes * volts

    def truth(self) -> dict[str, float | bool]:
        """What a test holds its answers to, and nobody learns over a link."""
        joules = self.strained_j()
        return {
            "strained_j": joules, "burnt": joules > (SUPPLY_BURNS_J if self.amplifier.effects.upstream else BURNS_J),
        }  # fmt: skip

    def is_dead(self) -> bool:
        """Whether nothing feeds it and the rails are empty: ohms may be measured."""
        plus, minus = self.rail_means()
        fed = self.settings.mains_on or self.settings.supply_on
        return not fed and max(abs(plus), abs(minus)) < SAFE_V
