"""What is shown of each kind of part in a row, and which property a unit means when somebody searches by it."""

import dataclasses
from collections.abc import Callable

from plinth.builds.auxiliaries import RelaySupply, Trigger
from plinth.builds.hookup import Hookup, Insulator, Preamplifier, SpeakerCable, VolumeControl
from plinth.builds.modules import MODULE_KINDS, ClassABModule, ClassAModule, ClassDModule
from plinth.builds.parts import Entry, HeatSink, Load, Mains, Part, Protection
from plinth.builds.properties import value_at
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Rectifier,
    Regulator,
    Reservoir,
    Smoothing,
    Transformer,
)
from plinth.units.shown import shown


@dataclasses.dataclass(frozen=True)
class PartColumn:
    """A column of a part's own: its head, its text, and what it is sorted by (numbers before texts)."""

    head: str
    text: Callable[[Part], str]
    key: Callable[[Part], float | str]


def _of(head: str, path: str, unit: str, digits: int = 3) -> PartColumn:
    def value(part: Part) -> float | None:
        number: float | None = value_at(part, path)
        return number

    def text(part: Part) -> str:
        number = value(part)
        return "–" if number is None else shown(number, unit, digits) if unit else f"{number:g}"

    return PartColumn(head, text, lambda part: -1.0 if value(part) is None else float(value(part) or 0.0))


def _windings(part: Part) -> str:
    assert isinstance(part, Transformer)
    half = f"{part.v_secondary_rms:g}"
    return {"centre_tap": f"{half}-0-{half}", "two": f"2 × {half}", "one": half}[part.secondaries]


def _sound_rails(part: Part) -> str:
    assert isinstance(part, MODULE_KINDS)
    return f"{part.v_rail_min:g}…{part.v_rail_max:g} V"


def _kind(part: Part) -> str:
    match part:
        case ClassABModule():
            return "chip" if part.bias is None else "AB"
        case ClassAModule():
            return "A" if part.topology == "push_pull" else "A, single"
        case ClassDModule():
            return f"D, {part.bridge}"
        case _:
            return ""


def _dc_trip(part: Part) -> str:
    assert isinstance(part, Protection)
    return "–" if part.dc_threshold_v is None else f"{part.dc_threshold_v:g} V"


def _fuse(part: Part) -> str:
    assert isinstance(part, Entry)
    return f"{part.fuse_kind} {part.fuse_a_rms:g} A"


def _soft(part: Part) -> str:
    assert isinstance(part, Entry)
    if part.r_soft_ohm is None:
        return "–"
    return f"{part.r_soft_ohm:g} Ω{' NTC' if part.ntc_beta_k else ''}"


def _to_air(part: Part) -> str:
    assert isinstance(part, HeatSink)
    return f"{'' if part.r_k_per_w is not None else '~ '}{part.to_air_k_per_w:.2g} K/W"


def _said(head: str, text: Callable[[Part], str]) -> PartColumn:
    return PartColumn(head, text, text)


def _word(path: str) -> PartColumn:
    return _said(path, lambda part: str(value_at(part, path) or "–"))


def _sized_area(head: str) -> PartColumn:
    def text(part: Part) -> str:
        number = value_at(part, "a_m2")
        return "–" if number is None else f"{1e6 * number:g} mm²"

    return PartColumn(head, text, lambda part: float(value_at(part, "a_m2") or -1.0))


def _sized(head: str, text: Callable[[Part], str], path: str) -> PartColumn:
    return PartColumn(head, text, lambda part: float(value_at(part, path)))


_MODULE = (_said("kind", _kind), _sized("rails", _sound_rails, "v_rail_max"), _of("limit", "i_limit_a", "A"))
COLUMNS: dict[type[Part], tuple[PartColumn, ...]] = {
    Transformer: (_sized("secondaries", _windings, "v_secondary_rms"), _of("VA", "va", "")),
    MainsSwitcher: (_of("rail", "v_rail", "V"), _of("power", "p_continuous_w", "W")),
    BatteryConverter: (_of("rail", "v_rail", "V"), _of("power", "p_continuous_w", "W")),
    BenchPair: (_of("rail", "v_rail", "V"), _of("limit", "i_limit_a", "A")),
    Battery: (_of("volts", "v_nominal", "V"), _of("Ah", "capacity_ah", "")),
    Rectifier: (_of("mean", "i_rated_a", "A"), _said("diodes", lambda part: str(value_at(part, "diode")))),
    Reservoir: (_of("per rail", "c_f", "F", 2), _of("rated", "v_rated", "V", 2)),
    Smoothing: (_of("series", "r_ohm", "ohm", 2), _of("then", "c_f", "F", 2)),
    Regulator: (_of("output", "v_out", "V", 2), _of("up to", "i_max_a", "A", 2)),
    ClassABModule: _MODULE,
    ClassAModule: _MODULE,
    ClassDModule: _MODULE,
    Protection: (_of("mutes", "mute_s", "s", 2), _said("DC trip", _dc_trip)),
    HeatSink: (_sized("to air", _to_air, "to_air_k_per_w"), _of("allowed", "t_limit_c", "°C")),
    Load: (_of("ohms", "r_ohm", "ohm"), _of("rated", "p_carried_w", "W")),
    Entry: (_sized("fuse", _fuse, "fuse_a_rms"), _said("soft start", _soft)),
    Hookup: (_word("ground"), _word("earth")),
    Preamplifier: (_of("gain", "gain", ""), _of("noise", "noise_v_rms", "V", 2)),
    VolumeControl: (_of("ohms", "r_ohm", "ohm"), _word("law")),
    SpeakerCable: (_of("length", "length_m", "m", 2), _sized_area("copper")),
    Insulator: (_of("K/W", "r_k_per_w", ""), _of("stands", "v_rated", "V")),
    RelaySupply: (_of("output", "v_out", "V", 2), _said("from", lambda part: str(value_at(part, "taken_from")))),
    Trigger: (_of("trigger", "v_trigger_v", "V"), _of("coil", "coil_ohm", "ohm")),
    Mains: (_of("volts", "v_nominal_rms", "V"), _of("frequency", "frequency_hz", "Hz")),
}

# Properties that are computed of others, in words.
COMPUTED = {"p_carried_w": "rated power", "to_air_k_per_w": "sink to air"}
# What a unit means of a kind: the property, and whether it is a size (about as asked) or a rating (at least as asked).
SIZE, RATING = "size", "rating"
_ON_RAILS = {"V": ("v_rail_max", RATING), "A": ("i_limit_a", RATING)}
_MAKES_RAILS = {"V": ("v_rail", SIZE), "W": ("p_continuous_w", RATING), "A": ("i_limit_a", RATING)}
MEANT: dict[type[Part], dict[str, tuple[str, str]]] = {
    Transformer: {"V": ("v_secondary_rms", SIZE), "VA": ("va", RATING), "W": ("va", RATING)},
    MainsSwitcher: _MAKES_RAILS,
    BatteryConverter: _MAKES_RAILS,
    BenchPair: {"V": ("v_rail", SIZE), "A": ("i_limit_a", RATING)},
    Battery: {"V": ("v_nominal", SIZE), "Ah": ("capacity_ah", RATING)},
    Rectifier: {"A": ("i_rated_a", RATING)},
    Reservoir: {"F": ("c_f", SIZE), "V": ("v_rated", RATING), "A": ("i_ripple_rated_a", RATING)},
    Smoothing: {
        "F": ("c_f", SIZE), "V": ("v_rated", RATING), "H": ("l_h", SIZE), "ohm": ("r_ohm", SIZE),
        "A": ("i_rated_a", RATING),
    },
    Regulator: {"V": ("v_out", SIZE), "A": ("i_max_a", RATING)},
    ClassABModule: _ON_RAILS,
    ClassAModule: _ON_RAILS,
    ClassDModule: _ON_RAILS,
    Protection: {"s": ("mute_s", RATING), "V": ("dc_threshold_v", SIZE)},
    HeatSink: {"K/W": ("to_air_k_per_w", SIZE), "°C": ("t_limit_c", RATING)},
    Load: {"ohm": ("r_ohm", SIZE), "W": ("p_carried_w", RATING)},
    Entry: {"A": ("fuse_a_rms", SIZE), "ohm": ("r_soft_ohm", SIZE)},
    Hookup: {},
    Preamplifier: {"V": ("v_out_max_rms", RATING)},
    VolumeControl: {"ohm": ("r_ohm", SIZE)},
    SpeakerCable: {"m": ("length_m", SIZE), "A": ("i_connector_a", RATING)},
    Insulator: {"K/W": ("r_k_per_w", SIZE), "V": ("v_rated", RATING)},
    RelaySupply: {"V": ("v_out", SIZE), "A": ("i_max_a", RATING)},
    Trigger: {"V": ("v_trigger_v", SIZE), "ohm": ("coil_ohm", SIZE)},
    Mains: {"V": ("v_nominal_rms", SIZE), "Hz": ("frequency_hz", SIZE)},
}  # fmt: skip


def columns_of(kinds: tuple[type[Part], ...]) -> tuple[PartColumn, ...]:
    """The columns for a choice of kinds: those of the first, its own words for a part of another kind."""
    return COLUMNS[kinds[0]]
