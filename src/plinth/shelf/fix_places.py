"""Where each limit can be fixed: the property that is turned, and which way; parts are exchanged in the same slots."""

import dataclasses
from typing import Literal


@dataclasses.dataclass(frozen=True)
class Place:
    """A property at ``path`` of the part in ``slot``: turned ``up`` or ``down``, or set to one of ``words``."""

    slot: str
    path: str
    way: Literal["up", "down", "set"]
    words: tuple[str, ...] = ()


def _up(slot: str, path: str) -> Place:
    return Place(slot, path, "up")


def _down(slot: str, path: str) -> Place:
    return Place(slot, path, "down")


def _set(path: str, *words: str) -> Place:
    return Place("hookup", path, "set", words)


# What primaries and jumpers are set to.
_MAINS = ("100", "115", "120", "230", "240")
_MORE_SUPPLY = (
    _up("supply.transformer", "va"), _up("supply.switcher", "p_continuous_w"),
    _up("supply.converter", "p_continuous_w"),
)  # fmt: skip
_LOWER_RAIL = (
    _down("supply.transformer", "v_secondary_rms"), _down("supply.switcher", "v_rail"),
    _down("supply.converter", "v_rail"), _down("supply.source", "v_rail"),
)  # fmt: skip
_HIGHER_RAIL = tuple(dataclasses.replace(place, way="up") for place in _LOWER_RAIL)
_LARGER_RESERVOIR = (_up("supply.reservoir", "c_f"), _up("supply.reservoir_minus", "c_f"))
_HIGHER_LOAD = (_up("load", "r_ohm"),)
_COOLER = (_down("sink", "r_k_per_w"), _up("sink", "area_m2"))

PLACES: dict[str, tuple[Place, ...]] = {
    "reservoir_voltage": (
        _up("supply.reservoir", "v_rated"), _up("supply.reservoir_minus", "v_rated"), *_LOWER_RAIL,
    ),
    "other_reservoir_voltage": (
        _up("supply.reservoir_minus", "v_rated"), _up("supply.smoothing", "v_rated"),
        _up("supply.input_supply.reservoir", "v_rated"), *_LOWER_RAIL,
    ),
    "winding_current": (*_MORE_SUPPLY, *_HIGHER_LOAD),
    "reservoir_ripple": (_up("supply.reservoir", "i_ripple_rated_a"), *_HIGHER_LOAD),
    "diode_current": (_up("supply.rectifier", "i_rated_a"), *_HIGHER_LOAD),
    "smoothing_current": (
        _up("supply.smoothing", "i_rated_a"), _up("supply.smoothing", "p_rated_w"), *_HIGHER_LOAD,
    ),
    "fuse_current": (_up("entry", "fuse_a_rms"), *_HIGHER_LOAD),
    "fuse_at_switch_on": (_up("entry", "fuse_i2t_a2s"), _up("entry", "fuse_a_rms"), _up("entry", "r_soft_ohm")),
    "fuse_protects": (_down("entry", "fuse_a_rms"), _up("supply.transformer", "va")),
    "regulator_dropout": (_up("supply.input_supply.transformer", "v_secondary_rms"),
                          _down("supply.input_supply.regulator", "v_out")),
    "regulator_input": (_down("supply.input_supply.transformer", "v_secondary_rms"),
                        _up("supply.input_supply.regulator", "v_in_max")),
    "regulator_heat": (_down("supply.input_supply.regulator", "r_junction_air_k_per_w"),
                       _down("supply.input_supply.transformer", "v_secondary_rms")),
    "supply_power": (*_MORE_SUPPLY, *_HIGHER_LOAD),
    "short_time_power": (_up("supply.switcher", "p_short_w"), *_HIGHER_LOAD),
    "supply_current": (
        _up("supply.switcher", "i_limit_a"), _up("supply.converter", "i_limit_a"), _up("supply.source", "i_limit_a"),
        _up("supply.reservoir", "c_f"), *_HIGHER_LOAD,
    ),
    "primary": (
        Place("supply.transformer", "v_primary_rms", "set", _MAINS),
        Place("supply.switcher", "v_mains_jumper", "set", _MAINS),
    ),
    "feedback_divider": (_down("supply.converter", "r_divider_top_ohm"), _up("supply.converter", "r_divider_top_ohm")),
    "mains_range": (_down("supply.switcher", "v_mains_min"),),
    "mains_highest": (_up("supply.switcher", "v_mains_max"),),
    "hold_up": (_up("supply.switcher", "c_bulk_f"), *_HIGHER_LOAD),
    "battery_lockout": (_down("supply.battery", "r_internal_ohm"), _up("supply.converter", "a_cable_m2"),
                        *_HIGHER_LOAD),
    "battery_cable": (_up("supply.converter", "a_cable_m2"), _down("supply.converter", "cable_m"), *_HIGHER_LOAD),
    "core_flux": (_up("supply.converter", "turns_primary"), _up("supply.converter", "a_core_m2"),
                  _down("supply.converter", "c_timing_f")),
    "converter_diodes": (_up("supply.converter", "v_diode_rated_v"),),
    "converter_input": (_up("supply.converter", "i_in_ripple_rated_a"), *_HIGHER_LOAD),
    "converter_choke": (_up("supply.converter", "i_choke_rated_a"), *_HIGHER_LOAD),
    "converter_reach": (_up("supply.converter", "turns_secondary"), _down("supply.converter", "v_rail")),
    "strand": (_down("supply.converter", "d_wire_m"),),
    "module_rail_maximum": (*_LOWER_RAIL, _up("module", "v_rail_max")),
    "module_rail_minimum": (*_HIGHER_RAIL, *_MORE_SUPPLY, *_LARGER_RESERVOIR, _down("module", "v_rail_min")),
    "module_current": (*_HIGHER_LOAD, _up("module", "i_limit_a"), *_LOWER_RAIL),
    "safe_area": (*_HIGHER_LOAD, *_LOWER_RAIL),
    "power_bandwidth": (_up("module", "slew_v_per_s"),),
    "source_drive": (_up("preamplifier", "gain"), _up("module", "gain")),
    "pumping": (*_LARGER_RESERVOIR, *_LOWER_RAIL, *_HIGHER_LOAD),
    "filter_peak": (_down("load", "r_ohm"),),
    "sink_heat": (*_COOLER, *_HIGHER_LOAD, *_LOWER_RAIL),
    "junction_heat": (*_COOLER, _down("insulator", "r_k_per_w"), *_HIGHER_LOAD, *_LOWER_RAIL),
    "bias_runaway": _COOLER,
    "load_minimum": _HIGHER_LOAD,
    "mute_settling": (_up("protection", "mute_s"),),
    "dc_detector": (_down("protection", "dc_threshold_v"),),
    "dc_trip_time": (_down("protection", "dc_time_constant_s"), _down("protection", "dc_threshold_v")),
    "dc_false_trip": (_up("protection", "dc_time_constant_s"), _up("protection", "dc_threshold_v")),
    "coil_highest": (_up("protection", "r_dropper_ohm"),),
    "coil_lowest": (_down("protection", "r_dropper_ohm"),),
    "dropper_heat": (_up("protection", "p_dropper_rated_w"),),
    "contact_breaks_rail": (_up("protection", "contact_dc_v"), _up("protection", "contact_dc_a"), *_LOWER_RAIL),
    "relay_coil_most": (_down("relay_supply", "v_out"), _up("protection", "r_dropper_ohm")),
    "relay_coil_least": (_up("relay_supply", "v_out"), _down("protection", "r_dropper_ohm")),
    "relay_supply_headroom": (
        _up("relay_supply", "v_winding_rms"), _up("relay_supply", "c_f"), _down("relay_supply", "v_dropout_v"),
    ),
    "relay_supply_input": (_down("relay_supply", "v_winding_rms"), _up("relay_supply", "v_in_max"), *_LOWER_RAIL),
    "relay_supply_current": (_up("relay_supply", "i_max_a"), _up("protection", "coil_ohm")),
    "relay_supply_heat": (
        _down("relay_supply", "r_junction_air_k_per_w"), _down("relay_supply", "v_winding_rms"), *_LOWER_RAIL,
    ),
    "trigger_current": (_up("trigger", "coil_ohm"), _up("trigger", "i_max_a")),
    "trigger_coil": (_up("trigger", "v_trigger_v"), _down("trigger", "coil_v")),
    "trigger_contact": (_up("trigger", "contact_peak_a"), _up("entry", "r_soft_ohm")),
    "soft_never_bridged": (_up("entry", "p_soft_w"), _down("entry", "r_soft_ohm")),
    "soft_contact": (_up("entry", "soft_contact_peak_a"), _up("entry", "soft_bypass_s")),
    "load_rating": (_up("load", "p_rated_w"), *_HIGHER_LOAD),
    "load_network": (_up("load", "p_each_w"),),
    "speech_only": (_set("use", "music"),),
    "wiring_said": (Place("hookup", "", "set"),),
    "fuse_conductor": (_set("fuse_in", "live"),),
    "switch_conductor": (_set("switch_in", "live", "both"),),
    "switch_way": (_set("switch_way", "two-way, live on throw", "one-way"),),
    "earth": (_set("earth", "bonded", "lifter"),),
    "ground_school": (_set("ground", "star"),),
    "filter_school": (_down("supply.smoothing", "r_ohm"),),
    "unused_leg": (_set("unused_leg", "tied"),),
    "reverse_polarity": (_set("reverse", "keyed"),),
    "own_bridge": (_set("own_bridge", "bypassed", "kept"),),
    "led_heat": (_up("hookup", "r_led_ohm"), _up("hookup", "p_led_w")),
    "led_current": (_up("hookup", "r_led_ohm"),),
    "mounted": (_set("mounting", "vertical", "flat"), *_COOLER),
    "air_gap": (_down("sink", "air_gap_m"),),
    "insulation": (_up("insulator", "v_rated"),),
    "gain_to_spare": (_down("preamplifier", "gain"), _down("module", "gain")),
    "preamplifier_reach": (_up("preamplifier", "v_out_max_rms"), _up("module", "gain")),
    "hum": (*_LARGER_RESERVOIR, _up("module", "rejection_db")),
    "noise": (_down("preamplifier", "noise_v_rms"), _down("module", "noise_v_rms")),
    "volume_loading": (_down("volume", "r_ohm"), _up("module", "r_input_ohm")),
    "volume_corner": (_down("volume", "r_ohm"),),
    "volume_law": (Place("volume", "law", "set", ("log",)),),
    "tracking": (_down("volume", "tracking_db"),),
    "input_corner": (_up("hookup", "c_input_f"),),
    "input_coupling": (_set("coupling", "film", "electrolytic"),),
    "capacitive_load": (_down("cable", "length_m"), _down("hookup", "c_output_f")),
    "cable_resistance": (_up("cable", "a_m2"), _down("cable", "length_m")),
    "connector_current": (_up("cable", "i_connector_a"), *_HIGHER_LOAD),
}  # fmt: skip
