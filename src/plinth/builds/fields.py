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
    "v_rail_min": "Lowest working rail",
    "v_rail_nominal": "Nominal rail",
    "v_rail_max": "Highest rail",
    "v_sat_v": "Saturation: rail less output at clip",
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
    "r_k_per_w": "Sink to air",
    "r_tol": "Tolerance",
    "t_limit_c": "Allowed temperature",
    "heat_capacity_j_per_k": "Heat capacity",
    "mute_s": "Muting delay",
    "dc_threshold_v": "DC threshold",
    "r_ohm": "Resistance, measured",
    "p_rated_w": "Rated power",
    "time_constant_s": "Thermal time constant",
}


def in_sentence(words: str) -> str:
    """Words of a field inside a sentence: the first letter small, unless it begins an abbreviation."""
    return words if words[:2].isupper() else words[0].lower() + words[1:]


# Not asked for in a form: what cannot be said in one field.
LEFT_OUT = frozenset({"kind", "claims"})


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


def value_at(part: BaseModel, path: str) -> object:
    """The value of a (dotted) field."""
    found: object = part
    for name in path.split("."):
        found = getattr(found, name)
    return found


def with_values(part: Part, values: dict[str, object]) -> Part:
    """The part with other values at (dotted) fields, validated anew. Raises pydantic.ValidationError."""
    document = part.model_dump()
    for path, value in values.items():
        target = document
        *steps, last = path.split(".")
        for step in steps:
            target = target[step]
        target[last] = value
    return type(part).model_validate(document)


def _fields(model: BaseModel, prefix: str) -> list[PartField]:
    found: list[PartField] = []
    for name, info in type(model).model_fields.items():
        if name in LEFT_OUT:
            continue
        value = getattr(model, name)
        if isinstance(value, BaseModel):
            found += _fields(value, f"{prefix}{name}.")
        elif name != "bias":
            found.append(_field(f"{prefix}{name}", info))
    return found


def _field(path: str, info: FieldInfo) -> PartField:
    kinds, unit = _kinds(info.annotation), info.description or ""
    for kind in kinds:
        # An optional number keeps its description in the annotation, not on the field.
        for extra in getattr(kind, "__metadata__", ()):
            unit = unit or getattr(extra, "description", None) or ""
    bare = [getattr(kind, "__origin__", kind) if hasattr(kind, "__metadata__") else kind for kind in kinds]
    choices = tuple(str(c) for kind in bare if get_origin(kind) is Literal for c in get_args(kind))
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
