"""Every figure that a prediction gives: name, label, unit, formula in words, source.

The names are those of ``plinth solve --json``.
"""

import dataclasses

from plinth.predict.estimates import MOST_DUTY
from plinth.predict.figure import Origin

_STEADY = "Periodic steady state in the time domain, diode state decided at each step"
_SCHADE = "O. H. Schade, Proc. IRE 31 (1943), for the circuit and charts to compare with"
_ENERGY = "Energy balance over one period"
# In the table below: as the entry before has it. Whoever reads one entry alone finds it spelled out.
_SAME = "as above"
_IEC_TRANSFORMER = "IEC 61558-1 for rated values"


@dataclasses.dataclass(frozen=True)
class FigureEntry:
    """What is said of a figure wherever it appears."""

    label: str
    unit: str
    origin: Origin


def _entry(label: str, unit: str, formula: str, source: str) -> FigureEntry:
    return FigureEntry(label, unit, Origin(formula, source))


def _rail_entries(key: str, sign: str) -> dict[str, FigureEntry]:
    return {
        f"rail_{key}_mean_v": _entry(f"{sign} rail, mean", "V", _STEADY, _SCHADE),
        f"rail_{key}_min_v": _entry(f"{sign} rail, lowest", "V", _STEADY, _SCHADE),
        f"rail_{key}_max_v": _entry(f"{sign} rail, highest", "V", _STEADY, _SCHADE),
        f"rail_{key}_ripple_v_pp": _entry(f"{sign} rail ripple, p-p", "V", "highest less lowest, at the load", _SCHADE),
        f"rail_{key}_conduction_deg": _entry(
            f"{sign} diodes conduct", "deg", "180° × share of time with current", _SCHADE
        ),
        f"diode_{key}_peak_a": _entry(f"{sign} diode current, peak", "A", _STEADY, _SCHADE),
        f"diode_{key}_mean_a": _entry(f"{sign} diode current, mean", "A", _STEADY, _SCHADE),
        f"diode_{key}_rms_a": _entry(f"{sign} diode current, rms", "A", _STEADY, _SCHADE),
        f"reservoir_{key}_ripple_a_rms": _entry(f"{sign} reservoir ripple current", "A", _STEADY, _SCHADE),
        f"rail_{key}_load_mean_a": _entry(
            f"{sign} rail current, mean", "A", "charge of the load over one period", _ENERGY
        ),
        f"smoothing_{key}_rms_a": _entry(f"{sign} smoothing stage current, rms", "A", _STEADY, _SCHADE),
        f"smoothing_{key}_cap_a_rms": _entry(f"{sign} second capacitor's ripple current", "A", _STEADY, _SCHADE),
        f"reservoir_{key}_ripple_v_pp": _entry(f"{sign} ripple before the smoothing, p-p", "V", _STEADY, _SCHADE),
    }


_ENTRIES: dict[str, FigureEntry] = {
    "clip_v_peak": _entry(
        "clip onset, peak", "V",
        "largest amplitude with min(rail − V_sat − (1 + R_out/R_L) v_o) = 0 on either rail",
        "joint Newton on amplitude and reservoir voltage; AES17 for what clipping means",
    ),
    "clip_worst_v_peak": _entry(
        "clip onset, worst phase", "V", "least onset over 8 phases of the signal against the mains",
        "onset repeats every 360° / (half cycles of the common period)",
    ),
    "clip_worst_phase_deg": _entry("worst phase", "deg", "signal phase at the mains zero crossing", _SAME),
    "clip_worst_power_w": _entry(
        "clip power per channel, worst phase", "W", "V_peak² / (2 R_L), at the least onset over the phases",
        "IEC 60268-3",
    ),
    "clip_v_rms": _entry("clip onset, rms", "V", "V_peak / √2", "sine"),
    "clip_power_w": _entry("clip power per channel", "W", "V_peak² / (2 R_L), at onset", "IEC 60268-3"),
    "drive_v_rms": _entry("drive for clipping", "V", "V_rms at clip / gain", "definition of gain"),
    "output_v_peak": _entry("output, peak", "V", "level × clip onset", "the level asked for"),
    "output_power_w": _entry("power per driven channel", "W", "V_peak² / (2 R_L)", "sine in a resistor"),
    "output_i_asked_a": _entry(
        "output current that the rails would drive", "A", "level × onset by the rails alone / R_L", "Ohm's law"
    ),
    "output_i_peak_a": _entry("output current, peak", "A", "V_peak / R_L", "Ohm's law"),
    **_rail_entries("plus", "+"),
    **_rail_entries("minus", "−"),
    "rail_no_load_v": _entry("rail without load", "V", "√2 V_oc − drops, bleeder only", _SCHADE),
    "rail_no_load_high_v": _entry(
        "rail without load, high mains", "V", "√2 V_oc (1 + tolerance) − drops", "EN 50160 for the tolerance"
    ),
    "rail_idle_v": _entry("rail at idle", "V", _STEADY + ", all channels at rest", _SCHADE),
    "rail_idle_ripple_v_pp": _entry("rail ripple at idle, p-p", "V", "highest less lowest, channels at rest", _SCHADE),
    "winding_rms_a": _entry("half winding, rms", "A", "√((⟨i₊²⟩ + ⟨i₋²⟩) / 2)", _IEC_TRANSFORMER),
    "winding_load_ratio": _entry("winding, of rated, sine", "×", "I_rms / (VA / (2 V_sec))", _IEC_TRANSFORMER),
    "winding_programme_ratio": _entry(
        "winding, of rated, programme", "×", "as for sine, at a sine of the programme's power", _IEC_TRANSFORMER
    ),
    "primary_rms_a": _entry("primary current, rms", "A", "secondary-referred total / turns ratio", _SCHADE),
    "primary_peak_a": _entry("primary current, peak", "A", "secondary-referred total / turns ratio", _SCHADE),
    "primary_crest_factor": _entry("primary crest factor", "", "peak / rms", "definition"),
    "mains_power_w": _entry("power from the wall", "W", "⟨v i⟩ at the ideal mains", _ENERGY),
    "mains_apparent_va": _entry("apparent power", "VA", "V_rms I_rms", "definition"),
    "power_factor": _entry("power factor", "", "P / S", "definition"),
    "heat_w": _entry("heat, all channels, sine", "W", "power from the rails − power in the loads", _ENERGY),
    "heat_programme_w": _entry(
        "heat, all channels, programme", "W", "as for sine, at a sine of the programme's power", _ENERGY
    ),
    "sink_c": _entry("heat sink, programme", "°C", "ambient + heat × R_sink", "steady thermal resistance"),
    "sink_sine_c": _entry("heat sink, sine", "°C", "ambient + heat × R_sink", "steady thermal resistance"),
    "junction_c": _entry(
        "junction, programme", "°C", "sink + heat per channel × R_junction-sink", "steady thermal resistance"
    ),
    "inrush_peak_a": _entry(
        "inrush at the primary, peak", "A",
        "all reservoirs empty, marched from the worst moment of closing; the house's wiring counts as 0 Ω", _STEADY,
    ),
    "inrush_phase_deg": _entry("worst moment of closing", "deg", "mains phase of the highest first peak", _SAME),
    "bridged_peak_a": _entry(
        "surge when the soft start is bridged", "A",
        "from the rails reached by then, bridged at the worst moment of the mains", _STEADY,
    ),
    "core_inrush_a": _entry(
        "core inrush, at most", "A", "mains crest / (primary's copper + soft start): a saturated core, no leakage",
        "an upper bound; half of the copper taken as the primary's",
    ),
    "inrush_i2t_a2s": _entry(
        "fuse at switch-on", "A²s", "∫ i² dt of the primary while the reservoirs fill, mains closing at 0 V", _STEADY
    ),
    "rail_hold_s": _entry(
        "rails hold after power off", "s", "from the level asked for down to the module's lowest rail", "charge"
    ),
    "soft_start_c": _entry(
        "thermistor, at this level", "°C", "I² R(T) = loss per kelvin × (T − ambient)", "R = R₂₅ exp(B/T − B/298 K)"
    ),
    "soft_start_ohm": _entry("thermistor's resistance", "ohm", _SAME, _SAME),
    "soft_start_w": _entry("soft start's heat, at this level", "W", "I² R", "Joule"),
    "bias_loop_gain": _entry(
        "bias drift feeds itself", "×", "V between rails × I_q × drift × R_sink; runs away at 1", "g_m V R_th tc < 1"
    ),
    "bias_hot_a": _entry("bias, warm, per pair", "A", "I_q (1 + drift × rise at rest)", "linear drift"),
    "sink_settle_s": _entry("sink at rest settles in", "s", "R C ln 20 / (1 − loop gain)", "one thermal mass"),
    "dc_trip_s": _entry("DC trip at the full rail", "s", "−τ ln(1 − V_th / V_rail)", "one-pole low-pass"),
    "dc_false_trip_hz": _entry(
        "full power trips it below", "Hz", "√((V_peak / V_th)² − 1) / (2 π τ)", "one-pole low-pass"
    ),
    "coil_v": _entry("relay coil, at this level", "V", "volts shared by coils and dropper", "Ohm's law"),
    "coil_high_v": _entry("relay coil, high mains, no load", "V", _SAME, "Ohm's law"),
    "dropper_w": _entry("relay's dropper, at most", "W", "I² R at the highest volts", "Ohm's law"),
    "relay_supply_a": _entry("relay supply, current", "A", "coils at its output, and the boards on it", "Ohm's law"),
    "relay_supply_in_v": _entry(
        "relay supply, input", "V", "the + rail, mean; or √2 V_winding − 2 V_diode − half its ripple", _SCHADE
    ),
    "relay_supply_headroom_v": _entry(
        "relay supply, headroom, low day", "V", "lowest input − output − dropout; ripple I / (2 f C)", "EN 50160"
    ),
    "relay_supply_high_v": _entry(
        "relay supply, input, high day", "V", "without load: the rail, or √2 V_winding (1 + regulation)", "EN 50160"
    ),
    "relay_supply_heat_w": _entry(
        "relay supply, heat, high day", "W", "(V_in − V_out) I + V_in I_ground", "Ohm's law"
    ),
    "relay_supply_junction_c": _entry(
        "relay supply, junction", "°C", "ambient + heat × R_junction-air", "steady resistance"
    ),
    "trigger_a": _entry("trigger, current", "A", "trigger's volts / coil", "Ohm's law"),
    "soft_stuck_w": _entry(
        "soft start's heat, never bridged", "W", "I² R at the primary current of this level", "Joule"
    ),
    "lamp_v_rms": _entry("lamp in series", "V", "I² R(T) = radiated, R ~ T^1.2, radiated ~ T⁴", "Jones, Langmuir"),
    "lamp_w": _entry("lamp in series", "W", "I² R", _SAME),
    "lamp_k": _entry("filament", "K", _SAME, _SAME),
    "switch_on_s": _entry("rails up after", "s", "marched from empty to within 2 % of the reservoir at idle", _SCHADE),
    "bleed_s": _entry("bleed-down to 5 V", "s", "R C ln(V / 5 V), bleeder alone, no load", "RC discharge"),
    "stored_j": _entry("energy in the reservoirs", "J", "2 × ½ C V²", "capacitor energy"),
    "heat_idle_w": _entry("heat, all channels, at rest", "W", "rail volts × idle current", _ENERGY),
    "sink_idle_c": _entry("heat sink, at rest", "°C", "ambient + heat × R_sink", "steady thermal resistance"),
    "power_bandwidth_hz": _entry("power bandwidth", "Hz", "slew rate / (2 π V_peak)", "slope of a sine"),
    "damping_factor": _entry("damping factor", "", "R_L / R_output", "IEC 60268-3"),
    "safe_area_share": _entry(
        "safe area used", "×", "largest of i / i_allowed(V across the device) over a period", "the chip's data sheet"
    ),
    "class_a_limit_w": _entry("leaves class A at", "W", "(2 I_bias)² R_L / 2", "both halves share until one runs dry"),
    "filter_corner_hz": _entry("output filter corner", "Hz", "1 / (2 π √(L C))", "second-order low-pass"),
    "filter_peak_db": _entry(
        "output filter peaks by", "dB", "Q² / √(Q² − ¼) with Q = R √(C / L)", "second-order low-pass"
    ),
    "filter_20khz_db": _entry(
        "output filter at 20 kHz", "dB", "1 / (1 − ω² L C + j ω L / Z), Z as at the signal", "second-order low-pass"
    ),
    "pumped_20hz_v": _entry(
        "rail pumped at 20 Hz, at most", "V", "rail + channels × V / (2 π² f R_L C), at the worst level",
        "charge that flows back in a half cycle; no losses, so an upper bound",
    ),
    "supply_power_w": _entry("power drawn from the supply", "W", "⟨v i⟩ of all rails", _ENERGY),
    "supply_load_ratio": _entry("supply, of continuous, sine", "×", "power drawn / continuous power", "as stated"),
    "supply_programme_ratio": _entry(
        "supply, of continuous, programme", "×", "as for sine, at a sine of the programme's power", "as stated"
    ),
    "supply_rail_peak_a": _entry("rail current, peak", "A", "largest load current of either rail", _STEADY),
    "bulk_mean_v": _entry("bulk capacitor, mean", "V", _STEADY + ", constant power drawn", _SCHADE),
    "bulk_min_v": _entry("bulk capacitor, lowest", "V", _STEADY + ", constant power drawn", _SCHADE),
    "hold_up_s": _entry("holds up for", "s", "C (V₀² − V₁²) / (2 P), from the ripple's lowest", "capacitor energy"),
    "battery_power_w": _entry("power from the battery", "W", "idle draw + power drawn × losses", _ENERGY),
    "battery_i_mean_a": _entry("battery current", "A", "P = v (v₀ − v) / R solved for the current", _ENERGY),
    "battery_v": _entry("battery under load", "V", "v₀ − R i, cable included", "Ohm's law"),
    "battery_cable_drop_v": _entry("cable drop", "V", "ρ l / A × current, copper at 20 °C", "Ohm's law"),
    "run_time_s": _entry("runs for, programme", "s", "0.8 × capacity / mean current of the programme", "charge"),
    "converter_hz": _entry("converter clock", "Hz", "1 / (1.4 (R_T + 75 Ω) C_T)", "the driver's own rule"),
    "converter_duty": _entry(
        "converter on for", "", f"V_rail N_p / (N_s V_battery), at most {MOST_DUTY:g}", "Faraday's law"
    ),
    "core_flux_pp_t": _entry("core flux, p-p", "T", "V D T / (N A_e), battery full", "Faraday's law"),
    "converter_primary_rms_a": _entry(
        "converter primary half, rms", "A", "I_battery / √(2 d)", "each half in turn, for d / 2 of the time"
    ),
    "converter_input_ripple_a": _entry("converter input ripple, rms", "A", "I √(1 / D − 1)", "pulses of the duty D"),
    "converter_diode_reverse_v": _entry("converter diodes, reverse", "V", "2 V_full N_s / N_p", "halves in series"),
    "converter_reach_v": _entry(
        "rail within reach, battery empty", "V", f"{MOST_DUTY:g} V_empty N_s / N_p", "Faraday's law"
    ),
    "skin_depth_m": _entry("skin depth of copper", "m", "√(ρ / (π f μ₀))", "electrodynamics"),
    "divider_rail_v": _entry("rail by the divider", "V", "V_ref (1 + R_top / R_bottom)", "feedback divider"),
    "input_rail_mean_v": _entry("input stages' rail, mean", "V", _STEADY, _SCHADE),
    "input_rail_ripple_v_pp": _entry("input stages' rail, ripple", "V", _STEADY, _SCHADE),
    "regulator_headroom_v": _entry(
        "regulator headroom, low mains", "V", "lowest input at low mains − output − dropout", "EN 50160 for low mains"
    ),
    "regulator_input_high_v": _entry("regulator input, high mains", "V", "highest input × high mains", "EN 50160"),
    "regulator_heat_w": _entry("regulator heat, high mains", "W", "(V_in − V_out) I + V_in I_ground", "Ohm's law"),
    "regulator_junction_c": _entry("regulator junction", "°C", "ambient + heat × R_junction-air", "steady resistance"),
    "energy_error": _entry("energy balance error", "", "(in − out) / in", _ENERGY),
}  # fmt: skip


def _spelled_out(entries: dict[str, FigureEntry]) -> dict[str, FigureEntry]:
    """Each entry with what it has from the one before it."""
    spelled: dict[str, FigureEntry] = {}
    before = Origin("", "")
    for name, entry in entries.items():
        formula, source = entry.origin.formula, entry.origin.source
        before = Origin(before.formula if formula == _SAME else formula, before.source if source == _SAME else source)
        spelled[name] = dataclasses.replace(entry, origin=before)
    return spelled


CATALOGUE = _spelled_out(_ENTRIES)
