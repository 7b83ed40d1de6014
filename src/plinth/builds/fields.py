"""What the fields of parts are called, so that every screen and sentence calls them the same.

A dotted name is a field of a part inside a part (``bias.listed_mv``).
"""

import dataclasses
import types
import typing
from typing import Literal, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from plinth.builds.parts import Part

WORDS = {
    "name": "Name",
    "maker": "Maker",
    "v_nominal_rms": "Nominal voltage, rms",
    "frequency_hz": "Frequency",
    "tolerance": "Tolerance of the mains",
    "fuse_a_rms": "Fuse",
    "fuse_kind": "Fuse kind",
    "core": "Core",
    "secondaries": "Secondaries",
    "va": "Rating",
    "v_primary_rms": "Primary, rms",
    "v_secondary_rms": "Each secondary half, rms at full load",
    "v_secondary_tol": "Tolerance of the secondary",
    "regulation": "Regulation",
    "regulation_tol": "Tolerance of the regulation",
    "bridges": "Bridges",
    "diode": "Diodes",
    "i_rated_a": "Rated mean current",
    "v_forward_v": "Forward drop of one diode",
    "r_dynamic_ohm": "Slope resistance of one diode",
    "c_f": "Capacitance per rail",
    "c_tol": "Tolerance of the capacitance",
    "v_rated": "Rated voltage",
    "esr_ohm": "ESR per rail",
    "i_ripple_rated_a": "Rated ripple current, rms",
    "r_bleeder_ohm": "Bleeder across each rail",
    "year": "Year it was made",
    "v_rail_min": "Lowest working rail",
    "v_rail_nominal": "Nominal rail",
    "v_rail_max": "Highest rail",
    "v_sat_v": "What the output leaves of the rail at clip",
    "v_sat_tol": "Tolerance of the saturation",
    "r_out_ohm": "Output resistance at clip",
    "i_limit_a": "Current limit, peak",
    "r_load_min_ohm": "Lowest load",
    "gain": "Gain",
    "gain_tol": "Tolerance of the gain",
    "r_input_ohm": "Input resistance",
    "f_low_hz": "Lower corner",
    "f_high_hz": "Upper corner",
    "i_driver_a": "Driver stages, per rail",
    "output_pairs": "Output pairs",
    "i_quiescent_stated_a": "Quiescent current",
    "offset_max_v": "Largest output DC",
    "settle_s": "Output at rest after",
    "c_local_f": "Capacitors on the board, per rail",
    "r_discharge_ohm": "Their discharge resistor",
    "r_junction_sink_k_per_w": "Junction to sink",
    "t_junction_max_c": "Highest junction temperature",
    "bias.listed_mv": "Listed bias, mV",
    "bias.r_listed_ohm": "Listed for a resistor of",
    "bias.r_fitted_ohm": "Resistor that is fitted",
    "bias.r_fitted_tol": "Its tolerance",
    "bias.label": "Its name on the board",
    "bias.tempco_per_k": "Bias drift, per kelvin",
    "fuse_i2t_a2s": "Fuse melts at",
    "r_soft_ohm": "Soft start, cold",
    "soft_bypass_s": "Soft start bridged after",
    "ntc_beta_k": "Thermistor, B value",
    "ntc_dissipation_w_per_k": "Thermistor, loss per kelvin",
    "ntc_heat_capacity_j_per_k": "Thermistor, heat capacity",
    "ntc_i_max_a": "Thermistor, rated current",
    "area_m2": "Free outer area",
    "emissivity": "Emissivity of its surface",
    "air_gap_m": "Air gap under each device",
    "a_device_m2": "Area of a device's back",
    "dc_time_constant_s": "DC detector, time constant",
    "coil_v": "Relay coil",
    "coil_ohm": "Resistance of a coil",
    "coils": "Relay coils",
    "coil_wiring": "Coils in",
    "r_dropper_ohm": "Dropper resistor to the coils",
    "p_dropper_rated_w": "Dropper, rated power",
    "contact_dc_v": "Contact breaks DC of",
    "contact_dc_a": "at a current of",
    "network": "Made of",
    "p_each_w": "One resistor, rated power",
    "r_k_per_w": "Sink to air",
    "r_tol": "Tolerance",
    "t_limit_c": "Allowed temperature",
    "heat_capacity_j_per_k": "Heat capacity",
    "mute_s": "Muting delay",
    "dc_threshold_v": "DC threshold",
    "r_ohm": "Resistance, measured",
    "p_rated_w": "Rated power",
    "time_constant_s": "Thermal time constant",
    "leakage_h": "Leakage inductance of each half",
    "p_core_w": "Core loss, unloaded",
    "i_magnetising_a": "Magnetising current, rms",
    "primary_share": "Share of the copper in the primary",
    "slew_v_per_s": "Slew rate",
    "r_output_ohm": "Output impedance",
    "inputs": "Inputs are",
    "rejection_db": "Ripple rejection",
    "noise_v_rms": "Noise at the output, rms",
    "c_load_max_f": "Highest capacitance at its output",
    "reverse_protected": "Stands swapped rails",
    "distortion": "Listed distortion",
    "fuse_in": "Fuse stands in",
    "switch_in": "Switch stands in",
    "switch_way": "Switch is",
    "earth": "Metal case and earth",
    "ground": "Audio ground",
    "unused_leg": "Unused leg of the input",
    "coupling": "Input coupled by",
    "c_input_f": "Input capacitor",
    "c_output_f": "Capacitance at the output",
    "reverse": "Against swapped rails",
    "own_bridge": "The board's own bridge on DC",
    "mounting": "Sink stands",
    "use": "Plays",
    "r_led_ohm": "Resistor to an indicator",
    "p_led_w": "Rating of that resistor",
    "fitted": "Fitted",
    "taken_from": "Taken from the",
    "v_winding_rms": "Its winding, rms at full load",
    "winding_regulation": "Regulation of its winding",
    "i_boards_a": "Small boards draw",
    "v_trigger_v": "Trigger",
    "contact_peak_a": "Contact bears, for an instant",
    "p_soft_w": "Soft-start resistor, rated power",
    "soft_contact_peak_a": "Bridging contact bears, for an instant",
    "v_out_max_rms": "Most it gives, rms",
    "law": "Law",
    "tracking_db": "Gangs differ by",
    "length_m": "Length, one way",
    "a_m2": "Copper area",
    "i_connector_a": "Connectors carry",
    "c_per_m_f": "Capacitance of a metre",
    "claims": "Listed powers",
    "safe_area": "Safe area of a device",
    "starts_on_rail": "Output sits on a rail until then",
    "own_rectifier": "Board has a rectifier of its own",
    "idle_follows_rail": "Share of its draw at rest that follows the rail",
    "idle_below_min": "Below the lowest rail, its draw",
    "sensitivity_v_rms": "Listed sensitivity, rms",
    "topology": "Topology",
    "bridge": "Bridge",
    "r_on_ohm": "Switches and coils in the path",
    "modulation_max": "Largest output, of the rail",
    "efficiency": "Efficiency at full power",
    "f_switching_hz": "Switching frequency",
    "l_filter_h": "Output filter coil",
    "c_filter_f": "Output filter capacitor",
    "v_ov_lockout_v": "Shuts down above a rail of",
    "l_h": "Choke inductance",
    "rails": "Rails",
    "v_rail": "Rail",
    "v_rail_tol": "Tolerance of the rail",
    "r_source_ohm": "Source resistance",
    "control": "Rails are",
    "droop": "Droop, no load to continuous power",
    "p_continuous_w": "Continuous power",
    "p_short_w": "Short-time power",
    "short_s": "Short time",
    "limit": "At its limit it",
    "p_idle_w": "Idle draw",
    "c_bulk_f": "Bulk capacitor behind the mains",
    "v_bulk_min_v": "Bulk voltage at which the rails drop out",
    "r_inrush_ohm": "Inrush resistance, cold",
    "pfc": "Power-factor stage",
    "v_pfc_v": "Its output",
    "v_aux": "Auxiliary rail",
    "i_aux_a": "Auxiliary current",
    "v_mains_min": "Lowest mains",
    "v_mains_max": "Highest mains",
    "v_mains_jumper": "Mains jumper set for",
    "v_nominal": "Nominal voltage",
    "v_full": "Full, at rest",
    "v_empty": "Empty, at rest",
    "capacity_ah": "Capacity",
    "r_internal_ohm": "Internal resistance",
    "r_timing_ohm": "Timing resistor",
    "c_timing_f": "Timing capacitor",
    "turns_primary": "Turns, each primary half",
    "turns_secondary": "Turns, each secondary half",
    "a_core_m2": "Core area",
    "b_max_t": "Flux the core allows",
    "d_wire_m": "Strand diameter",
    "i_in_ripple_rated_a": "Input capacitors, rated ripple",
    "i_choke_rated_a": "Input choke, rated current",
    "v_diode_rated_v": "Diodes, reverse voltage",
    "r_divider_top_ohm": "Feedback divider, upper",
    "r_divider_bottom_ohm": "Feedback divider, lower",
    "v_reference_v": "Reference",
    "cable_m": "Cable, there and back",
    "a_cable_m2": "Cable copper area",
    "v_lockout_v": "Stops below a battery of",
    "v_out": "Output",
    "v_dropout_v": "Dropout",
    "i_max_a": "Largest current",
    "i_ground_a": "Its own draw",
    "v_in_max": "Highest input",
    "r_junction_air_k_per_w": "Junction to air",
    "voice_coil.r_dc_ohm": "Coil, DC resistance",
    "voice_coil.f_resonance_hz": "Resonance",
    "voice_coil.q_mechanical": "Mechanical Q",
    "voice_coil.q_electrical": "Electrical Q",
    "voice_coil.l_coil_h": "Coil inductance",
}


def in_sentence(words: str) -> str:
    """Words of a field inside a sentence: the first letter small, unless it begins an abbreviation."""
    return words if words[:2].isupper() else words[0].lower() + words[1:]


# Not asked for in a form: what cannot be said in one field.
LEFT_OUT = frozenset({"kind", "key", "told"})
YES_OR_NO = ("yes", "no")
_MADE_OF_FIELDS = frozenset({"bias", "voice_coil"})


@dataclasses.dataclass(frozen=True)
class PartField:
    """A field of a part: dotted ``path``, ``words``, ``unit`` (empty: a word or a bare number), its choices if few.

    ``per_cent``: kept as a fraction, shown and typed in per cent. ``optional``: may be left not stated.
    """

    path: str
    words: str
    unit: str
    optional: bool
    per_cent: bool
    number: bool
    choices: tuple[str, ...] = ()


def part_fields(part: Part) -> tuple[PartField, ...]:
    """The fields of a part that a form can ask for, those of a part inside it with a dotted path."""
    return tuple(_fields(part, ""))


def with_values(part: Part, values: dict[str, object]) -> Part:
    """The part with other values at (dotted) fields, validated anew. Raises pydantic.ValidationError.

    What was told of a field that is set otherwise goes with it; a part that is renamed keeps its identity. ``bias`` set
    to None takes all of it off.
    """
    document = part.model_dump()
    if values.get("name", part.name) != part.name:
        document["key"] = part.identity
    for path, value in values.items():
        target = document
        *steps, last = path.split(".")
        for step in steps:
            target = target[step]
        target[last] = value
    document["told"] = [fact.model_dump() for fact in part.told if not _is_set(fact.field, values)]
    return type(part).model_validate(document)


def _is_set(path: str, values: dict[str, object]) -> bool:
    """Whether a field is set by these values, itself or with the part inside that it belongs to."""
    return path in values or any(path.startswith(f"{whole}.") for whole in values)


def parts_inside(part: Part) -> tuple[str, ...]:
    """The names of what stands inside a part as a whole and may be left out of it: the bias of a board."""
    return tuple(
        name
        for name, info in type(part).model_fields.items()
        if isinstance(getattr(part, name), BaseModel) and type(None) in _kinds(info.annotation)
    )


def _fields(model: BaseModel, prefix: str) -> list[PartField]:
    fields: list[PartField] = []
    for name, info in type(model).model_fields.items():
        if name in LEFT_OUT:
            continue
        value = getattr(model, name)
        if isinstance(value, BaseModel):
            fields += _fields(value, f"{prefix}{name}.")
        elif name not in _MADE_OF_FIELDS:
            fields.append(_field(f"{prefix}{name}", info))
    return fields


def _field(path: str, info: FieldInfo) -> PartField:
    kinds, unit = _kinds(info.annotation), info.description or ""
    for kind in kinds:
        # An optional number keeps its description in the annotation, not on the field.
        for extra in getattr(kind, "__metadata__", ()):
            unit = unit or getattr(extra, "description", None) or ""
    bare = [getattr(kind, "__origin__", kind) if hasattr(kind, "__metadata__") else kind for kind in kinds]
    choices = tuple(str(c) for kind in bare if get_origin(kind) is Literal for c in get_args(kind))
    if bool in bare:
        choices = YES_OR_NO
    return PartField(
        path=path,
        words=WORDS[path],
        unit="" if unit.startswith("fraction") else unit,
        optional=type(None) in bare,
        per_cent=unit.startswith("fraction"),
        number=any(kind in (float, int) for kind in bare),
        choices=choices,
    )


def _kinds(annotation: object) -> tuple[object, ...]:
    if isinstance(annotation, types.UnionType) or get_origin(annotation) is typing.Union:
        return get_args(annotation)
    return (annotation,)
