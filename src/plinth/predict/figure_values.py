"""Every figure as a plain number, read from solved operating points. One function for each part of the path."""

import dataclasses
import math
from collections.abc import Callable

import numpy as np

from plinth.builds.modules import ClassABModule, ClassAModule
from plinth.builds.supplies import BatterySupply, SwitcherSupply
from plinth.physics.heat import thermal
from plinth.physics.heat.rises import sink_temperature_c
from plinth.physics.protection import dc_and_coils
from plinth.physics.rails import supply_flow, time_course, transients
from plinth.physics.rails.steady_state import RailSteadyState
from plinth.physics.stages import output_filter, output_stage
from plinth.physics.stages.levels import rms_from_peak
from plinth.physics.switchers import push_pull, wall
from plinth.predict.auxiliary_values import auxiliary_values, coils_of
from plinth.predict.circuits import mains_source, supplies_in_all
from plinth.predict.estimates import MOST_DUTY
from plinth.predict.lamp_ahead import LampAhead
from plinth.predict.power_state import PowerState
from plinth.predict.solution import Solution
from plinth.predict.supply_kinds.battery import cable_ohm
from plinth.predict.wall import WallDraw, supplies_of

Group = Callable[[Solution], dict[str, float]]


def figure_values(solution: Solution, *, surge: bool = True) -> dict[str, float]:
    """Every figure that this kind of build has, by name; without ``surge`` not those of the current at switch-on."""
    figures: dict[str, float] = {}
    for group in _OF_POINTS:
        figures |= group(solution)
    supply = solution.build.supply
    if supply.transformer is not None:
        figures |= _transformer(solution) | (_surge(solution) if surge else {})
    else:
        figures |= _supply_power(solution, supply.continuous_w)
    if isinstance(supply, SwitcherSupply):
        figures |= _switcher(solution, supply)
    elif isinstance(supply, BatterySupply):
        figures |= _battery(solution, supply)
    if solution.wall is not None:
        figures |= _wall(solution.wall)
    if solution.lamp is not None:
        figures |= _lamp(solution.lamp)
    if solution.input_rest is not None:
        figures |= _input_supply(solution, solution.input_rest)
    return figures | auxiliary_values(solution)


def _output(solution: Solution) -> dict[str, float]:
    build, points = solution.build, solution.points
    state, part = points.at_level, build.module
    circuit, clip_v = state.circuit, points.clip_v_peak
    real_part = math.cos(circuit.load_phase_rad)
    figures = {
        "clip_v_peak": clip_v,
        "clip_v_rms": rms_from_peak(clip_v),
        "clip_power_w": clip_v**2 / (2.0 * circuit.r_load) * real_part,
        "drive_v_rms": rms_from_peak(clip_v) / (solution.values["gain"] * build.modules_per_channel),
        "output_v_peak": state.v_peak,
        "output_power_w": state.p_load_w,
        "output_i_peak_a": state.i_output_peak_a,
        "output_i_asked_a": points.drive.level * points.rails_v_peak / circuit.r_load,
    }
    if part.slew_v_per_s is not None:
        figures["power_bandwidth_hz"] = output_stage.power_bandwidth_hz(
            part.slew_v_per_s, clip_v / build.modules_per_channel
        )
    if part.r_output_ohm:
        figures["damping_factor"] = output_stage.damping_factor(
            circuit.r_load, part.r_output_ohm * build.modules_per_channel
        )
    match part:
        case ClassABModule(safe_area=points_) if points_:
            figures["safe_area_share"] = _safe_area(state, [(p.v_device_v, p.i_a) for p in points_])
        case ClassAModule(topology="push_pull"):
            figures["class_a_limit_w"] = output_stage.class_a_limit_w(circuit.i_bias_a, circuit.r_load)
    return figures


def _safe_area(state: PowerState, points: list[tuple[float, float]]) -> float:
    """The device of the + rail of one module; the other one is its mirror image."""
    circuit, period = state.circuit, state.period
    each = float(circuit.stage.legs)
    amperes = state.v_peak / circuit.r_load * np.sin(period.angle - circuit.load_phase_rad)
    across = state.plus.v_node - state.v_output / each
    if state.minus is None:
        across = 0.5 * state.plus.v_node - state.v_output / each
    return output_stage.safe_area_share(across, np.maximum(amperes, 0.0), points)


def _class_d(solution: Solution) -> dict[str, float]:
    coil, circuit = solution.build.module.output_filter, solution.points.circuit
    if coil is None:
        return {}
    legs = 2.0 if circuit.stage.bridge else 1.0
    figures = {
        "filter_corner_hz": output_filter.corner_hz(coil.l_h, coil.c_f),
        # Each leg of a bridge sees half of the load.
        "filter_peak_db": output_filter.peak_db(coil.l_h, coil.c_f, circuit.r_load / legs),
        "filter_20khz_db": output_filter.gain_db(
            20_000.0, coil.l_h, coil.c_f, circuit.r_load / legs, circuit.load_phase_rad
        ),
    }
    if circuit.stage.pumps:
        rest, playing = _pumping(solution)
        rise = output_stage.pumped_rise_v(rest, circuit.r_load, circuit.c, 20.0, playing) if playing else 0.0
        figures["pumped_20hz_v"] = rest + rise
    return figures


def _pumping(solution: Solution) -> tuple[float, int]:
    """The rail that a half bridge pumps up from, and how many channels pump it together."""
    points = solution.points
    driven = max(points.at_level.driven, 1)
    # Two against each other cancel; an odd one is left over.
    playing = driven % 2 if points.circuit.antiphase else driven
    return points.no_load.plus.mean(points.no_load.plus.v_node), playing


def lockout_after_s(solution: Solution, v_lockout: float, f_hz: float) -> float:
    """How far into a beat of ``f_hz`` a half bridge has pumped its rail to a lock-out at the worst level, or infinite.

    Raises ValueError for a stage that does not pump.
    """
    circuit = solution.points.circuit
    if not circuit.stage.pumps:
        raise ValueError(f"found {circuit.stage.name}, expected class_d: only a half bridge pumps its rails")
    rest, playing = _pumping(solution)
    if not playing:
        return math.inf
    return output_stage.pumped_to_after_s(v_lockout - rest, rest, circuit.r_load, circuit.c, f_hz, playing)


def _rails(solution: Solution) -> dict[str, float]:
    points = solution.points
    state = points.at_level
    figures: dict[str, float] = {
        "rail_no_load_v": _highest(points.no_load),
        "rail_no_load_high_v": _highest(points.no_load_high),
        "rail_idle_v": points.idle.plus.mean(points.idle.plus.v_node),
    }
    if points.idle.circuit.steady_v == 0.0:
        figures["rail_idle_ripple_v_pp"] = float(np.ptp(points.idle.plus.v_node))
    for key, rail in (("plus", state.plus), ("minus", state.minus)):
        if rail is not None:
            figures |= _one_rail(key, rail)
            if state.circuit.steady_v == 0.0:
                figures |= _diodes(key, rail)
    return figures


def _highest(state: PowerState) -> float:
    return max(rail.v_max for rail in state.rails)


def _one_rail(key: str, rail: RailSteadyState) -> dict[str, float]:
    figures = {
        f"rail_{key}_mean_v": rail.mean(rail.v_node),
        f"rail_{key}_min_v": rail.v_min,
        f"rail_{key}_max_v": rail.v_max,
        f"rail_{key}_ripple_v_pp": float(np.ptp(rail.v_node)),
        f"rail_{key}_load_mean_a": float(np.mean(rail.i_load_mean_a)),
        f"reservoir_{key}_ripple_a_rms": rail.rms(rail.i_cap_a),
    }
    if rail.i_series_a is not None and rail.i_cap2_a is not None and float(np.max(np.abs(rail.i_cap2_a))) > 0.0:
        figures[f"smoothing_{key}_rms_a"] = rail.rms(rail.i_series_a)
        figures[f"smoothing_{key}_cap_a_rms"] = rail.rms(rail.i_cap2_a)
        assert rail.v_reservoir is not None
        figures[f"reservoir_{key}_ripple_v_pp"] = float(np.ptp(rail.v_reservoir))
    return figures


def _diodes(key: str, rail: RailSteadyState) -> dict[str, float]:
    return {
        f"rail_{key}_conduction_deg": rail.conduction_angle_deg(),
        f"diode_{key}_peak_a": float(np.max(rail.i_diode_a)),
        f"diode_{key}_mean_a": rail.mean(rail.i_diode_a),
        f"diode_{key}_rms_a": rail.rms(rail.i_diode_a),
    }


def _heat(solution: Solution) -> dict[str, float]:
    build, situation, points = solution.build, solution.situation, solution.points
    driven, resting = supplies_of(build, situation)
    r_sink = solution.values["r_sink"]
    idle_w = points.idle.p_rails_w
    sine_w = driven * points.at_level.p_heat_w + resting * idle_w
    programme_w = driven * points.programme.p_heat_w + resting * idle_w
    sink_c = sink_temperature_c(situation.ambient_c, programme_w, r_sink)
    each_w = points.programme.p_heat_w / (max(points.programme.driven, 1) * build.modules_per_channel)
    figures = _warming(solution, r_sink)
    return figures | {
        "heat_w": sine_w,
        "heat_programme_w": programme_w,
        "heat_idle_w": (driven + resting) * idle_w,
        "sink_c": sink_c,
        "sink_sine_c": sink_temperature_c(situation.ambient_c, sine_w, r_sink),
        "sink_idle_c": sink_temperature_c(situation.ambient_c, (driven + resting) * idle_w, r_sink),
        "junction_c": sink_c + each_w * (solution.values["r_junction"] + build.under_device_k_per_w),
    }


def _warming(solution: Solution, r_sink: float) -> dict[str, float]:
    """How the bias answers to the heat, where a module states its drift, and how long the sink takes."""
    build, rest, capacity = solution.build, solution.points.idle, solution.build.sink.heat_capacity_j_per_k
    figures, loop = {}, 0.0
    bias = build.module.bias
    tempco = None if bias is None else bias.tempco_per_k
    if bias is not None and tempco is not None:
        count = len(build.channels) * build.modules_per_channel
        between = sum(rail.mean(rail.v_node) for rail in rest.rails)
        i_all = count * solution.values["i_quiescent"]
        loop = thermal.bias_loop_gain(between, i_all, tempco, r_sink)
        heat_w = between * i_all
        rise = r_sink * heat_w / (1.0 - loop) if loop < 1.0 else math.inf
        figures = {"bias_loop_gain": loop, "bias_hot_a": bias.i_pair_a * (1.0 + tempco * rise)}
    if capacity is not None:
        figures["sink_settle_s"] = thermal.wait_s(max(loop, 0.0), r_sink, capacity)
    return figures


def _protection(solution: Solution) -> dict[str, float]:
    build, part, points = solution.build, solution.build.protection, solution.points
    figures: dict[str, float] = {}
    if part.dc_threshold_v is not None and part.dc_time_constant_s is not None:
        rail = points.idle.plus.mean(points.idle.plus.v_node)
        figures["dc_trip_s"] = dc_and_coils.dc_trip_s(rail, part.dc_threshold_v, part.dc_time_constant_s)
        figures["dc_false_trip_hz"] = dc_and_coils.dc_false_trip_hz(
            points.clip_v_peak, part.dc_threshold_v, part.dc_time_constant_s
        )
    usual_v, highest_v = points.at_level.plus.mean(points.at_level.plus.v_node), _highest(points.no_load_high)
    if build.relay_supply.fitted:
        # Behind a regulator of their own the coils see no rail.
        usual_v = highest_v = solution.values["relay_out"]
    usual, highest = coils_of(build, usual_v), coils_of(build, highest_v)
    if part.coil_v is not None and usual is not None and highest is not None:
        figures["coil_v"], figures["coil_high_v"] = usual.v_each, highest.v_each
        if part.r_dropper_ohm:
            figures["dropper_w"] = highest.p_dropper_w
    return figures


def _lamp(ahead: LampAhead) -> dict[str, float]:
    return {
        "lamp_v_rms": ahead.i_rms_a * ahead.r_ohm,
        "lamp_w": ahead.i_rms_a**2 * ahead.r_ohm,
        "lamp_k": ahead.t_k,
    }


def _at_rest(solution: Solution) -> dict[str, float]:
    points, circuit = solution.points, solution.points.circuit
    rest = [rail.mean(rail.v_node) for rail in points.no_load.rails]
    volts = _highest(points.no_load)
    sizes = [circuit.c + circuit.c2, (circuit.c_minus or circuit.c) + circuit.c2]
    balance = supply_flow.energy_balance(
        points.at_level.rails,
        circuit.v_drop,
        circuit.steady_r if circuit.steady_v else circuit.r_own,
        circuit.steady_shared_r if circuit.steady_v else circuit.r_shared,
        circuit.drops * circuit.r_dynamic,
    )
    return {
        # The rail that keeps its charge longest tells when it is safe.
        "bleed_s": max(
            transients.bleed_down_s(c + circuit.c2, _ohm(g), volts, transients.SAFE_V) for c, g in circuit.reservoirs
        ),
        "stored_j": sum(0.5 * c * v**2 for c, v in zip(sizes, rest, strict=False)),
        "energy_error": balance.error,
    }


def _transformer(solution: Solution) -> dict[str, float]:
    build, points, circuit = solution.build, solution.points, solution.points.circuit
    state, programme = points.at_level, points.programme
    winding = supply_flow.winding_rms_a(state.rails)
    i_level = min(rail.mean(rail.i_load_a) for rail in state.rails)
    figures = {}
    if (stays := solution.ahead.soft) is not None:
        assert solution.wall is not None
        figures["soft_start_w"] = solution.wall.flow.i_rms_a**2 * solution.r_soft_ohm
        if stays.ntc is not None:
            figures["soft_start_c"] = stays.ntc.steady(solution.wall.flow.i_rms_a, solution.situation.ambient_c)[0]
            figures["soft_start_ohm"] = solution.r_soft_ohm
    return figures | {
        "rail_hold_s": transients.bleed_down_s(
            circuit.c + circuit.c2, _ohm(circuit.g_bleed), state.plus.v_min, build.module.v_rail_min, i_level
        ),
        "winding_rms_a": winding,
        "winding_load_ratio": winding / circuit.i_rated,
        "winding_programme_ratio": supply_flow.winding_rms_a(programme.rails) / circuit.i_rated,
    }  # fmt: skip


def _surge(solution: Solution) -> dict[str, float]:
    """The current while reservoirs and core fill at switch-on."""
    build, circuit, each = solution.build, solution.points.circuit, solution.at_switch_on
    count, figures = supplies_in_all(build), {}
    cold = _soft_cold_ohm(each, solution)
    inrush, moment = time_course.worst_inrush(
        solution.bare_circuit.network, mains_source(circuit), circuit.turns_ratio, cold
    )
    if each is not None and solution.lamp is None and math.isfinite(each.bypass_s):
        figures["bridged_peak_a"] = count * time_course.bridged_peak_a(
            solution.bare_circuit.network, mains_source(circuit), circuit.turns_ratio, each,
            circuit.channels * circuit.i_idle_a, solution.situation.ambient_c,
        )  # fmt: skip
    copper = 0.5 * circuit.r_winding * circuit.turns_ratio**2 / circuit.halves
    return figures | {
        "inrush_peak_a": inrush * count,
        "inrush_phase_deg": moment,
        "core_inrush_a": circuit.v_crest * circuit.turns_ratio / (copper + cold) * count,
    }


def _ohm(g_s: float) -> float:
    return math.inf if g_s == 0.0 else 1.0 / g_s


def switch_on_s(solution: Solution) -> float:
    """Until the rails are up; with a soft start, as long as it lasts plus what is left after it, at most."""
    circuit, idle = solution.bare_circuit, solution.points.idle
    idle_a = circuit.channels * circuit.i_idle_a
    soft, count = solution.at_switch_on, supplies_in_all(solution.build)

    def seconds(r_ahead_ohm: float, most_s: float = math.inf) -> float:
        each = circuit.rail.r_source_ohm + circuit.rails * r_ahead_ohm / circuit.turns_ratio**2
        return transients.switch_on_s(
            dataclasses.replace(circuit.rail, r_source_ohm=each), circuit.v_amplitude, circuit.v_drop,
            circuit.mains_hz, idle_a, float(idle.plus.v_cap[0]), third_harmonic=circuit.third_harmonic,
            most_s=most_s,
        )  # fmt: skip

    if soft is None:
        return seconds(0.0)
    if solution.lamp is not None:
        # After its first flash the lamp is about as warm as the build at rest keeps it.
        return seconds(solution.lamp.r_ohm * count)
    through = seconds(_soft_cold_ohm(soft, solution), soft.bypass_s)
    return through if through <= soft.bypass_s else soft.bypass_s + seconds(0.0)


def _soft_cold_ohm(soft: time_course.SoftStart | None, solution: Solution) -> float:
    return 0.0 if soft is None else soft.ohm_at(0.0, solution.situation.ambient_c)


def _wall(draw: WallDraw) -> dict[str, float]:
    flow = draw.flow
    return {
        "primary_rms_a": flow.i_rms_a,
        "primary_peak_a": flow.i_peak_a,
        "primary_crest_factor": flow.crest_factor,
        "mains_power_w": flow.p_w,
        "mains_apparent_va": flow.s_va,
        "power_factor": flow.power_factor,
    }


def _supply_power(solution: Solution, p_continuous_w: float | None) -> dict[str, float]:
    points = solution.points
    if p_continuous_w is None:
        return {"supply_power_w": points.at_level.p_rails_w}
    peaks = [float(np.max(rail.i_load_a)) for rail in points.at_level.rails]
    return {
        "supply_power_w": points.at_level.p_rails_w,
        "supply_load_ratio": points.at_level.p_rails_w / p_continuous_w,
        "supply_programme_ratio": points.programme.p_rails_w / p_continuous_w,
        "supply_rail_peak_a": max(peaks),
    }


def _switcher(solution: Solution, supply: SwitcherSupply) -> dict[str, float]:
    part, draw = supply.switcher, solution.wall
    assert draw is not None
    assert draw.bulk is not None
    p_in = draw.flow.p_w
    figures = {"bulk_mean_v": float(np.mean(draw.bulk.v[:-1])), "bulk_min_v": draw.bulk.v_trough}
    if part.v_bulk_min_v is not None:
        figures["hold_up_s"] = wall.hold_up_s(solution.values["c_bulk"], draw.bulk.v_trough, part.v_bulk_min_v, p_in)
    if part.r_inrush_ohm is not None:
        crest = math.sqrt(2.0) * solution.points.circuit.mains_v_rms
        figures["inrush_peak_a"] = crest / (part.r_inrush_ohm + solution.values["r_line"])
    return figures


def _battery(solution: Solution, supply: BatterySupply) -> dict[str, float]:
    draw, part = solution.battery, supply.converter
    assert draw is not None
    f_hz = push_pull.oscillator_hz(part.r_timing_ohm, part.c_timing_f)
    # A regulated converter is on for as much of the time as its volts ask; a proportional one nearly all of it.
    wanted = part.v_rail * part.turns_primary / (part.turns_secondary * draw.v)
    duty = min(wanted, MOST_DUTY) if part.control == "regulated" else MOST_DUTY
    figures = {
        "battery_power_w": draw.p_w,
        "battery_i_mean_a": draw.i_a,
        "battery_v": draw.v,
        "battery_cable_drop_v": draw.i_a * cable_ohm(supply),
        "run_time_s": push_pull.run_time_s(supply.battery.capacity_ah, draw.i_programme_a),
        "converter_hz": f_hz,
        "converter_duty": duty,
        # The core sees every volt that the battery has when it is full.
        "core_flux_pp_t": push_pull.flux_swing_t(
            supply.battery.v_full, 0.5 * min(1.0, duty * draw.v / supply.battery.v_full)
            if part.control == "regulated" else 0.5 * duty,
            f_hz, part.turns_primary, part.a_core_m2,
        ),
        "converter_primary_rms_a": push_pull.primary_half_rms_a(draw.i_a, duty),
        "converter_input_ripple_a": push_pull.input_ripple_rms_a(draw.i_a, duty),
        "converter_diode_reverse_v": push_pull.diode_reverse_v(
            supply.battery.v_full, part.turns_primary, part.turns_secondary
        ),
        "converter_reach_v": supply.battery.v_empty * MOST_DUTY * part.turns_secondary / part.turns_primary,
        "skin_depth_m": push_pull.skin_depth_m(f_hz),
    }  # fmt: skip
    if part.v_reference_v and part.r_divider_top_ohm and part.r_divider_bottom_ohm:
        figures["divider_rail_v"] = push_pull.divider_rail_v(
            part.v_reference_v, part.r_divider_top_ohm, part.r_divider_bottom_ohm
        )
    return figures


def _input_supply(solution: Solution, rest: PowerState) -> dict[str, float]:
    supply = solution.build.supply
    assert supply.transformer is not None
    assert supply.input_supply is not None
    part = supply.input_supply.regulator
    i_a = solution.values["input_i_load"]
    mean = rest.plus.mean(rest.plus.v_node)
    high = solution.points.no_load_high.circuit.mains_v_rms / rest.circuit.mains_v_rms
    low = 1.0 - (solution.build.mains.tolerance if solution.build.mains else 0.0)
    nominal = (solution.build.mains.v_nominal_rms if solution.build.mains else 0.0) / rest.circuit.mains_v_rms
    dissipated = (mean * high - part.v_out) * i_a + mean * high * part.i_ground_a
    return {
        "input_rail_mean_v": mean,
        "input_rail_ripple_v_pp": float(np.ptp(rest.plus.v_node)),
        # Rails follow the mains but for the diodes' drop, which is small beside them.
        "regulator_headroom_v": rest.plus.v_min * low * nominal - part.v_out - part.v_dropout_v,
        "regulator_input_high_v": rest.plus.v_max * high,
        "regulator_heat_w": dissipated,
        "regulator_junction_c": solution.situation.ambient_c + dissipated * part.r_junction_air_k_per_w,
    }


# What is read from the operating points alone, whatever flows from wall or battery.
_OF_POINTS: tuple[Group, ...] = (_output, _class_d, _rails, _heat, _at_rest, _protection)


def group_of_points(solution: Solution, name: str) -> Group | None:
    """The figures among which that one is, read from the operating points alone; None where it takes more than them."""
    return next((group for group in _OF_POINTS if name in group(solution)), None)
