"""Every figure that a prediction gives: name, label, unit, formula in words, source.

The names are those of ``plinth solve --json``.
"""

import dataclasses

from plinth.predict.figure import Origin

_STEADY = "Periodic steady state in the time domain, diode state decided at each step"
_SCHADE = "O. H. Schade, Proc. IRE 31 (1943), for the circuit and charts to compare with"
_ENERGY = "Energy balance over one period"
_IEC_TRANSFORMER = "IEC 61558-1 for rated values"


@dataclasses.dataclass(frozen=True)
class Entry:
    """What is said of a figure wherever it appears."""

    label: str
    unit: str
    origin: Origin


def _entry(label: str, unit: str, formula: str, source: str) -> Entry:
    return Entry(label, unit, Origin(formula, source))


def _rail_entries(key: str, sign: str) -> dict[str, Entry]:
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
    }


CATALOGUE: dict[str, Entry] = {
    "clip_v_peak": _entry(
        "clip onset, peak", "V",
        "largest amplitude with min(rail − V_sat − (1 + R_out/R_L) v_o) = 0 on either rail",
        "joint Newton on amplitude and reservoir voltage; AES17 for what clipping means",
    ),
    "clip_v_rms": _entry("clip onset, rms", "V", "V_peak / √2", "sine"),
    "clip_power_w": _entry("clip power per channel", "W", "V_peak² / (2 R_L), at onset", "IEC 60268-3"),
    "drive_v_rms": _entry("drive for clipping", "V", "V_rms at clip / gain", "definition of gain"),
    "output_v_peak": _entry("output, peak", "V", "level × clip onset", "the level asked for"),
    "output_power_w": _entry("power per driven channel", "W", "V_peak² / (2 R_L)", "sine in a resistor"),
    "output_i_peak_a": _entry("output current, peak", "A", "V_peak / R_L", "Ohm's law"),
    **_rail_entries("plus", "+"),
    **_rail_entries("minus", "−"),
    "rail_no_load_v": _entry("rail without load", "V", "√2 V_oc − drops, bleeder only", _SCHADE),
    "rail_no_load_high_v": _entry(
        "rail without load, high mains", "V", "√2 V_oc (1 + tolerance) − drops", "EN 50160 for the tolerance"
    ),
    "rail_idle_v": _entry("rail at idle", "V", _STEADY + ", all channels at rest", _SCHADE),
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
        "both reservoirs empty, mains at its crest: 2 (V − drops) / (R + ESR) / ratio; no leakage, so an upper bound",
        "Ohm's law at the first instant",
    ),
    "switch_on_s": _entry("rails up after", "s", "marched from empty to within 2 % of the reservoir at idle", _SCHADE),
    "bleed_s": _entry("bleed-down to 5 V", "s", "R C ln(V / 5 V), bleeder alone, no load", "RC discharge"),
    "stored_j": _entry("energy in the reservoirs", "J", "2 × ½ C V²", "capacitor energy"),
    "energy_error": _entry("energy balance error", "", "(in − out) / in", _ENERGY),
}  # fmt: skip
