"""Clip onset of many variants of one build: the map over two choices, and samples of its uncertain inputs."""

import dataclasses
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.mains.transformer import estimate_regulation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE, QUICK, Grid
from plinth.physics.rails.many_onsets import OnePeriod, Rails, StoppedError, clip_onsets
from plinth.physics.rails.network_steady import NetworkOnset
from plinth.predict.at_rest import as_biased, at_rest
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import circuit_of, drive_of
from plinth.predict.input import Input
from plinth.predict.inputs import inputs_of
from plinth.predict.operating_points import Drive
from plinth.predict.power_state import lay_period, network_onset, plain_onsets, unit_load
from plinth.predict.solve import solution_of
from plinth.predict.source_chain import ahead_of
from plinth.predict.supply_kinds.numbers import Values
from plinth.processes.worker_pool import share

Array = NDArray[np.float64]
GoOn = Callable[[float], bool]

# Half the steps of a single prediction: within 1e-4 of it.
GRID = Grid(200, 20)
# So many of those that are not plain are solved in a row, each from its neighbour.
BESIDE = 12


@dataclasses.dataclass(frozen=True)
class Choice:
    """What a map varies: ``key`` an input of the build, ``mains_v_rms`` or ``va``; ``log`` spread by ratio."""

    key: str
    label: str
    unit: str
    low: float
    high: float
    log: bool = True

    def values(self, count: int) -> Array:
        """``count`` values over the range."""
        spread = np.geomspace if self.log else np.linspace
        return np.asarray(spread(self.low, self.high, count))


@dataclasses.dataclass(frozen=True)
class ClipMap:
    """``power_w`` [y][x] at clip onset per channel, NaN where the variant cannot run."""

    across: Choice
    up: Choice
    x: Array
    y: Array
    power_w: Array

    @property
    def value(self) -> Array:
        """What the map shows."""
        return self.power_w


def choices(build: Build) -> tuple[Choice, ...]:
    """What can be varied in a build, around what it is."""
    now = {key: quantity.value for key, quantity in inputs_of(build).items()}
    offered = [
        Choice("r_load", "load, each channel", "Ω", 2.0, 16.0),
        Choice("c", "reservoir per rail", "F", now["c"] / 5.0, now["c"] * 5.0),
    ]
    if build.supply.transformer is not None:
        v, va = now["v_secondary"], build.supply.transformer.va
        offered.insert(0, Choice("v_secondary", "secondary, each half", "V", round(0.6 * v), round(1.5 * v), log=False))
        offered.insert(1, Choice("va", "transformer", "VA", va / 4.0, va * 4.0))
        if build.mains is not None:
            mains = build.mains.v_nominal_rms
            offered.append(Choice("mains_v_rms", "mains", "V", 0.85 * mains, 1.15 * mains, log=False))
    else:
        v = now["v_set"]
        offered.insert(0, Choice("v_set", "rail as set", "V", 0.6 * v, 1.5 * v, log=False))
    return tuple(offered)


def clip_map(
    build: Build, situation: Situation, across: Choice, up: Choice, x: Array, y: Array, go_on: GoOn = lambda _: True
) -> ClipMap:
    """Clip power over two choices. ``go_on`` is told the share done; raises StoppedError where it says no."""
    xs, ys = (grid.ravel() for grid in np.meshgrid(x, y))
    values = inputs_of(build, situation)
    nominal = {key: value.value for key, value in values.items()}
    circuit = circuit_of(build, situation, {**nominal, "r_ahead": _soft_ahead_ohm(build, situation, nominal)})
    varied: dict[str, Array] = {}
    for choice, column in ((across, xs), (up, ys)):
        varied |= _fields(choice, column, build, values)
    onset = _onsets(circuit, varied, drive_of(build, situation), len(xs), go_on)
    r_load = varied.get("r_load", circuit.r_load)
    onset = np.minimum(onset, circuit.i_limit_a * r_load)
    power = onset**2 / (2.0 * r_load) * math.cos(circuit.load_phase_rad)
    return ClipMap(across, up, x, y, power.reshape(len(y), len(x)))


def sampled_clip_power_w(
    build: Build, situation: Situation, samples: int = 2000, seed: int = 1, go_on: GoOn = lambda _: True
) -> Array:
    """Clip power with every uncertain input drawn at random: what the propagated uncertainty is checked against.

    Tolerances as rectangular, estimates as normal distributions of the same standard uncertainty (GUM supplement 1).
    """
    pick = np.random.default_rng(seed)
    inputs = inputs_of(build, situation)
    drawn: dict[str, Array | float] = {key: _draw(pick, quantity, samples) for key, quantity in inputs.items()}
    drawn["r_ahead"] = _soft_ahead_ohm(build, situation, {key: quantity.value for key, quantity in inputs.items()})
    circuit = circuit_of(build, situation, {key: float(np.mean(column)) for key, column in drawn.items()})
    if not circuit.plain:
        return _sampled_one_by_one(build, situation, drawn, samples, go_on)
    # A circuit is arithmetic on its numbers, so arrays in their place make all circuits at once; mypy knows floats.
    every = circuit_of(build, situation, drawn)  # type: ignore[arg-type]
    varied = {
        field.name: column
        for field in dataclasses.fields(PowerCircuit)
        if isinstance(column := getattr(every, field.name), np.ndarray)
    }
    onset = _onsets(circuit, varied, drive_of(build, situation), samples, go_on)
    onset = np.minimum(onset, varied.get("i_limit_a", circuit.i_limit_a) * varied.get("r_load", circuit.r_load))
    power: Array = onset**2 / (2.0 * varied.get("r_load", circuit.r_load)) * math.cos(circuit.load_phase_rad)
    return power


def _sampled_one_by_one(
    build: Build, situation: Situation, drawn: dict[str, Array | float], samples: int, go_on: GoOn
) -> Array:
    drive, power = drive_of(build, situation), np.empty(samples)
    for k in range(samples):
        values = {key: float(column[k]) if isinstance(column, np.ndarray) else column for key, column in drawn.items()}
        circuit = circuit_of(build, situation, values)
        onset = min(_one(circuit, drive, COARSE), circuit.v_at_limit)
        power[k] = onset**2 / (2.0 * circuit.r_load) * math.cos(circuit.load_phase_rad)
        if not go_on((k + 1) / samples):
            raise StoppedError
    return power


def is_quick(build: Build, situation: Situation) -> bool:
    """Whether thousands of onsets of a build are found at once, else one by one."""
    values = {key: quantity.value for key, quantity in inputs_of(build, situation).items()}
    return circuit_of(build, situation, values).plain and ahead_of(build).soft is None


def _soft_ahead_ohm(build: Build, situation: Situation, nominal: Values) -> float:
    """What a soft start that stays has ahead of the primary, as warm as the build itself keeps it."""
    if ahead_of(build).soft is None:
        return 0.0
    return solution_of(build, situation.model_copy(update={"lamp_w": None}), nominal, COARSE).r_soft_ohm


def _draw(pick: np.random.Generator, quantity: Input, samples: int) -> Array:
    if quantity.u == 0.0:
        return np.full(samples, quantity.value)
    half = math.sqrt(3.0) * quantity.u
    sample = (
        pick.normal(quantity.value, quantity.u, samples)
        if quantity.estimated
        else quantity.value + pick.uniform(-half, half, samples)
    )
    # None of the inputs can be negative.
    return np.maximum(sample, 0.0)


def _fields(choice: Choice, column: Array, build: Build, values: dict[str, Input]) -> dict[str, Array]:
    """The fields of the circuit that a choice sets."""
    if choice.key == "va":
        columns = {"va": column}
        if values["regulation"].estimated and build.supply.transformer is not None:
            core = build.supply.transformer.core
            columns["regulation"] = np.array([estimate_regulation(float(va), core)[0] for va in column])
        return columns
    return {{"v_set": "steady_v"}.get(choice.key, choice.key): column}


def _onsets(circuit: PowerCircuit, varied: dict[str, Array], drive: Drive, count: int, go_on: GoOn) -> Array:
    if not circuit.plain:
        return _one_by_one(circuit, varied, drive, count, go_on)
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, GRID)
    # Arrays in place of numbers, as above.
    many = dataclasses.replace(circuit, **varied)  # type: ignore[arg-type]
    full = np.ones(count)
    per_volt = drive.driven / many.r_load
    limit = many.output_limit
    rails = Rails(
        r_source_ohm=full * many.rail.r_source_ohm, c_f=full * many.c, esr_ohm=full * many.esr,
        g_bleed_s=full * many.g_bleed, amplitude_v=full * many.v_amplitude, drop_v=full * many.v_drop,
        unit_a=full * per_volt, idle_a=full * (circuit.channels * many.i_idle_a), v_sat=full * limit.v_sat,
        volts_per_volt=full * limit.volts_per_volt,
    )  # fmt: skip
    of_one_ohm = dataclasses.replace(circuit, r_load=1.0)
    periods = []
    for towards in (1.0, -1.0):
        unit = unit_load(of_one_ohm, period, towards)
        periods.append(
            OnePeriod(period.step_s, period.mains_wave, unit.at, unit.mean, np.maximum(towards * period.signal_sine, 0))
        )
    onsets = clip_onsets(rails, tuple(periods), go_on)
    # The few that did not settle: one at a time, which also bisects.
    for k in np.flatnonzero(np.isnan(onsets)):
        onsets[k] = _one(_single(circuit, varied, int(k)), drive, GRID)
    return onsets


def _single(circuit: PowerCircuit, varied: dict[str, Array], k: int) -> PowerCircuit:
    # Fields by name, all of them numbers, which mypy cannot see of a dict.
    return dataclasses.replace(circuit, **{key: float(column[k]) for key, column in varied.items()})  # type: ignore[arg-type]


def _one(circuit: PowerCircuit, drive: Drive, grid: Grid) -> float:
    try:
        if circuit.plain:
            period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
            return min(onset.v_peak for onset in plain_onsets(circuit, period, drive.driven))
        return _network(circuit, drive, grid, None).v_peak
    except PhysicsError:
        return math.nan


def _network(circuit: PowerCircuit, drive: Drive, grid: Grid, near: NetworkOnset | None) -> NetworkOnset:
    if circuit.idle_rise:
        circuit = as_biased(circuit, at_rest(circuit, grid))
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
    return network_onset(circuit, period, drive.driven, near)


@dataclasses.dataclass(frozen=True)
class _Networks:
    """Circuits of no plain sort, one for each value of what varies."""

    circuit: PowerCircuit
    varied: dict[str, Array]
    drive: Drive


def _along(every: _Networks, span: tuple[int, int]) -> list[float]:
    """The onsets of some beside each other, each sought from the one before; NaN where it cannot run."""
    watts: list[float] = []
    near: NetworkOnset | None = None
    for k in range(*span):
        circuit = _single(every.circuit, every.varied, k)
        for start in (near, None) if near is not None else (None,):
            try:
                near = _network(circuit, every.drive, QUICK, start)
                break
            except PhysicsError:
                near = None
        watts.append(math.nan if near is None else near.v_peak)
    return watts


def _one_by_one(circuit: PowerCircuit, varied: dict[str, Array], drive: Drive, count: int, go_on: GoOn) -> Array:
    def told(share_done: float) -> None:
        if not go_on(share_done):
            raise StoppedError

    spans = [(k, min(k + BESIDE, count)) for k in range(0, count, BESIDE)]
    parts = share(_along, _Networks(circuit, varied, drive), spans, told)
    return np.array([watts for part in parts for watts in part])
