"""A build in a situation -> figures, waveforms, warnings."""

import dataclasses
import functools
import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics import supply_flow, transients
from plinth.physics.common_period import COARSE, FINE
from plinth.physics.heat import sink_temperature_c
from plinth.physics.levels import level_fraction_for_crest, rms_from_peak
from plinth.predict.catalogue import CATALOGUE
from plinth.predict.figure import Contribution, Figure
from plinth.predict.inputs import Input, supply_and_module_inputs
from plinth.predict.linear_supply import (
    Drive,
    LinearCircuit,
    LinearState,
    OperatingPoints,
    solve_points,
    steady_load,
)
from plinth.predict.propagate import as_contributions, combined, contributions

Array = NDArray[np.float64]

SAFE_V = 5.0


@dataclasses.dataclass(frozen=True)
class Prediction:
    """Figures by name, the state whose waveforms are shown, the inputs used, and sentences of warning."""

    build: Build
    situation: Situation
    figures: Mapping[str, Figure]
    inputs: Mapping[str, Input]
    points: OperatingPoints
    mains_current_a: Array
    warnings: tuple[str, ...]

    def __getitem__(self, name: str) -> Figure:
        """The figure of that name."""
        return self.figures[name]

    @property
    def state(self) -> LinearState:
        """The steady state at the level asked for."""
        return self.points.at_level


def solve(build: Build, situation: Situation | None = None, spreads_of: Prediction | None = None) -> Prediction:
    """Predict a build with a linear supply and class AB modules, in no particular situation if none is given.

    With ``spreads_of`` an earlier prediction, only the values are computed and the relative spreads are
    taken from it: for the picture while a slider moves, a tenth of the work.

    Raises PhysicsError (RailCollapseError, NoSwingError) where no such circuit could run.
    """
    situation = situation or Situation()
    return _solve(build, situation, spreads_of) if spreads_of is not None else solve_fully(build, situation)


# Undo, another build and back, the same dummy load on two pages: all ask for what was just computed. Builds and
# situations are frozen, so an answer stays right; a few are kept, because each holds its waveforms.
@functools.lru_cache(maxsize=16)
def solve_fully(build: Build, situation: Situation) -> Prediction:
    """As ``solve``, with every spread computed; the last few answers are remembered."""
    return _solve(build, situation, None)


def _solve(build: Build, situation: Situation, spreads_of: Prediction | None) -> Prediction:
    inputs = supply_and_module_inputs(build)
    if situation.load_ohm is not None:
        inputs["r_load"] = Input("load", situation.load_ohm, "ohm", 0.0)
    nominal = {key: one.value for key, one in inputs.items()}
    drive = drive_of(build, situation)
    points = solve_points(circuit_of(build, situation, nominal), drive, FINE)
    values = figure_values(build, situation, nominal, points)
    if spreads_of is None:
        figures = _with_spread(values, _changes(build, situation, inputs, points, drive))
    else:
        figures = _with_spread_like(values, spreads_of)
    flow = _flow(points.at_level)
    warnings = tuple(_warnings(build, situation, inputs, points.at_level))
    return Prediction(build, situation, figures, inputs, points, flow.i_a, warnings)


def _changes(
    build: Build, situation: Situation, inputs: Mapping[str, Input], points: OperatingPoints, drive: Drive
) -> dict[str, list[tuple[Input, float]]]:
    rough = solve_points(points.circuit, drive, COARSE, points)

    def figures_of(values: Mapping[str, float]) -> dict[str, float]:
        circuit = circuit_of(build, situation, values)
        moved = rough if circuit == rough.circuit else solve_points(circuit, drive, COARSE, rough)
        return figure_values(build, situation, values, moved)

    return contributions(figures_of, inputs)


def _with_spread(values: Mapping[str, float], changes: Mapping[str, list[tuple[Input, float]]]) -> dict[str, Figure]:
    return {
        name: _figure(name, value, combined(changes[name]), as_contributions(changes[name]))
        for name, value in values.items()
    }


def _with_spread_like(values: Mapping[str, float], earlier: Prediction) -> dict[str, Figure]:
    figures = {}
    for name, value in values.items():
        like = earlier[name]
        scale = abs(value / like.value) if like.value and math.isfinite(like.value) else 1.0
        figures[name] = _figure(name, value, like.u * scale, like.contributions)
    return figures


def _figure(name: str, value: float, u: float, rows: tuple[Contribution, ...]) -> Figure:
    entry = CATALOGUE[name]
    return Figure(name, entry.label, value, entry.unit, u, entry.origin, rows)


@functools.lru_cache(maxsize=64)
def idle_rail_v(build: Build) -> float:
    """The rail at idle and nominal mains, V, without its uncertainty. Raises PhysicsError."""
    values = {key: one.value for key, one in supply_and_module_inputs(build).items()}
    circuit = circuit_of(build, Situation(), values)
    rail = steady_load(circuit, circuit.channels * circuit.i_idle_a, FINE, None)
    return rail.mean(rail.v_node)


def drive_of(build: Build, situation: Situation) -> Drive:
    """What a situation asks of the circuit."""
    return Drive(
        f_signal_hz=situation.frequency_hz,
        phase_deg=situation.phase_deg,
        driven=situation.driven(build),
        level=situation.level,
        programme_level=min(situation.level, level_fraction_for_crest(situation.crest_db)),
        high_mains_v_rms=build.mains.v_nominal_rms * (1.0 + build.mains.tolerance),
    )


def circuit_of(build: Build, situation: Situation, values: Mapping[str, float]) -> LinearCircuit:
    """The circuit with ``values`` (by the keys of the inputs) put into it."""
    bleeder = build.supply.reservoir.r_bleeder_ohm
    return LinearCircuit(
        mains_v_rms=situation.mains_rms(build),
        mains_hz=situation.frequency_of_mains(build),
        v_primary_rms=build.supply.transformer.v_primary_rms,
        va=build.supply.transformer.va,
        v_secondary=values["v_secondary"],
        regulation=values["regulation"],
        drops=1 if build.supply.rectifier.bridges == "one" else 2,
        v_forward=values["v_forward"],
        r_dynamic=values["r_dynamic"],
        c=values["c"],
        esr=values["esr"],
        g_bleed=0.0 if bleeder is None else 1.0 / bleeder,
        v_sat=values["v_sat"],
        r_out=values["r_out"],
        r_load=values["r_load"],
        i_idle_a=values["i_quiescent"],
        channels=len(build.channels),
        third_harmonic=situation.third_harmonic,
    )


def _flow(state: LinearState) -> supply_flow.MainsSide:
    circuit = state.circuit
    return supply_flow.mains_side(
        state.plus, state.minus, circuit.v_amplitude, state.period.mains_wave, circuit.turns_ratio
    )


def figure_values(
    build: Build, situation: Situation, values: Mapping[str, float], points: OperatingPoints
) -> dict[str, float]:
    """Every figure of the catalogue as a plain number, read from solved operating points."""
    state, programme, clip_v = points.at_level, points.programme, points.clip_v_peak
    circuit, period = state.circuit, state.period
    rail_idle = points.idle_rail.mean(points.idle_rail.v_node)
    no_load = float(np.max(points.no_load.v_node))
    flow = _flow(state)
    balance = supply_flow.energy_balance(
        state.rails, circuit.v_amplitude, period.mains_wave, circuit.r_winding,
        circuit.drops * circuit.r_dynamic, circuit.v_drop,
    )  # fmt: skip
    winding = supply_flow.half_winding_rms_a(state.plus, state.minus)
    winding_programme = supply_flow.half_winding_rms_a(programme.plus, programme.minus)
    sink_c = sink_temperature_c(situation.ambient_c, programme.p_heat_w, values["r_sink"])
    bleeder = build.supply.reservoir.r_bleeder_ohm
    found = {
        "clip_v_peak": clip_v,
        "clip_v_rms": rms_from_peak(clip_v),
        "clip_power_w": clip_v**2 / (2.0 * circuit.r_load),
        "drive_v_rms": rms_from_peak(clip_v) / values["gain"],
        "output_v_peak": state.v_peak,
        "output_power_w": state.p_load_w,
        "output_i_peak_a": state.v_peak / circuit.r_load,
        "rail_no_load_v": no_load,
        "rail_no_load_high_v": float(np.max(points.no_load_high.v_node)),
        "rail_idle_v": rail_idle,
        "winding_rms_a": winding,
        "winding_load_ratio": winding / circuit.i_rated,
        "winding_programme_ratio": winding_programme / circuit.i_rated,
        "primary_rms_a": flow.i_rms_a,
        "primary_peak_a": flow.i_peak_a,
        "primary_crest_factor": flow.crest_factor,
        "mains_power_w": flow.p_w,
        "mains_apparent_va": flow.s_va,
        "power_factor": flow.power_factor,
        "heat_w": state.p_heat_w,
        "heat_programme_w": programme.p_heat_w,
        "sink_c": sink_c,
        "sink_sine_c": sink_temperature_c(situation.ambient_c, state.p_heat_w, values["r_sink"]),
        "junction_c": sink_c
        + programme.p_heat_w / state.driven * build.module.r_junction_sink_k_per_w,
        "inrush_peak_a": 2.0
        * transients.inrush_peak_a(circuit.v_crest, circuit.v_drop, circuit.rail.r_source_ohm, circuit.esr)
        / circuit.turns_ratio,
        "switch_on_s": transients.switch_on_s(
            circuit.rail, circuit.v_amplitude, circuit.v_drop, circuit.mains_hz,
            circuit.channels * circuit.i_idle_a, float(points.idle_rail.v_cap[0]),
            third_harmonic=circuit.third_harmonic,
        ),
        "bleed_s": transients.bleed_down_s(
            circuit.c, math.inf if bleeder is None else bleeder, no_load, SAFE_V
        ),
        "stored_j": circuit.c * no_load**2,
        "energy_error": balance.error,
    }  # fmt: skip
    for key, rail in (("plus", state.plus), ("minus", state.minus)):
        found |= {
            f"rail_{key}_mean_v": rail.mean(rail.v_node),
            f"rail_{key}_min_v": float(np.min(rail.v_node)),
            f"rail_{key}_max_v": float(np.max(rail.v_node)),
            f"rail_{key}_ripple_v_pp": float(np.ptp(rail.v_node)),
            f"rail_{key}_conduction_deg": rail.conduction_angle_deg(),
            f"diode_{key}_peak_a": float(np.max(rail.i_diode_a)),
            f"diode_{key}_mean_a": rail.mean(rail.i_diode_a),
            f"diode_{key}_rms_a": rail.rms(rail.i_diode_a),
            f"reservoir_{key}_ripple_a_rms": rail.rms(rail.i_cap_a),
        }
    return found


def _warnings(build: Build, situation: Situation, inputs: Mapping[str, Input], state: LinearState) -> list[str]:
    lines = [f"{one.label.capitalize()} is {one.why}." for one in inputs.values() if one.estimated]
    computed = state.period.shared.f_signal_hz
    if abs(computed / situation.frequency_hz - 1.0) > 1e-9:
        lines.append(f"Computed at {computed:.6g} Hz, the nearest frequency that shares a short period with the mains.")
    if build.supply.reservoir.r_bleeder_ohm is None:
        lines.append("No bleeder is fitted: the reservoirs stay charged after switch-off. Measure before touching.")
    primary = build.supply.transformer.v_primary_rms
    if not 0.85 <= situation.mains_rms(build) / primary <= 1.15:
        lines.append(
            f"The primary is wound for {primary:g} V and the mains has {situation.mains_rms(build):g} V: "
            "check the jumper or the tapping before power."
        )
    return lines
