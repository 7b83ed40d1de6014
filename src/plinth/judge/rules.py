"""Every limit of a build: a row where it has the plain shape, else one small function. Add a rule to ``RULES``."""

from plinth.judge import (
    load_rules,
    module_rules,
    protection_rules,
    relay_rules,
    signal_rules,
    supply_rules,
    switching_rules,
    wiring_rules,
)
from plinth.judge.making import Rule
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.prediction import Prediction

RULES: tuple[Rule, ...] = (
    # First among those over: what is wrong here is the cause of the rest.
    supply_rules.primary,
    supply_rules.reservoir_voltage,
    supply_rules.other_reservoir_voltage,
    supply_rules.winding_current,
    supply_rules.RESERVOIR_RIPPLE,
    supply_rules.DIODE_CURRENT,
    supply_rules.smoothing_current,
    supply_rules.fuse_current,
    protection_rules.fuse_at_switch_on,
    protection_rules.fuse_protects,
    supply_rules.REGULATOR_DROPOUT,
    supply_rules.REGULATOR_INPUT,
    supply_rules.REGULATOR_HEAT,
    switching_rules.supply_power,
    switching_rules.short_time_power,
    switching_rules.supply_current,
    switching_rules.mains_range,
    switching_rules.mains_highest,
    switching_rules.HOLD_UP,
    switching_rules.BATTERY_LOCKOUT,
    switching_rules.BATTERY_CABLE,
    switching_rules.core_flux,
    switching_rules.CONVERTER_DIODES,
    switching_rules.CONVERTER_INPUT_CAPACITORS,
    switching_rules.CONVERTER_CHOKE,
    switching_rules.CONVERTER_REACH,
    switching_rules.feedback_divider,
    switching_rules.strand,
    module_rules.MODULE_RAIL_MAXIMUM,
    module_rules.MODULE_RAIL_MINIMUM,
    module_rules.MODULE_CURRENT,
    module_rules.safe_area,
    module_rules.POWER_BANDWIDTH,
    module_rules.source_drive,
    module_rules.pumping,
    module_rules.FILTER_PEAK,
    module_rules.sink_heat,
    module_rules.JUNCTION_HEAT,
    module_rules.BIAS_RUNAWAY,
    load_rules.load_minimum,
    load_rules.mute_outlasts_settling,
    load_rules.dc_detector,
    protection_rules.DC_TRIP_TIME,
    protection_rules.DC_FALSE_TRIP,
    protection_rules.COIL_HIGHEST,
    protection_rules.COIL_LOWEST,
    protection_rules.DROPPER_HEAT,
    protection_rules.contact_breaks_rail,
    load_rules.load_rating,
    load_rules.load_network,
    *relay_rules.RULES,
    *wiring_rules.RULES,
    *signal_rules.RULES,
)

_ORDER = [State.OVER, State.CLOSE, State.UNKNOWN, State.CLEAR]


def judge(prediction: Prediction) -> tuple[Margin, ...]:
    """All margins that this kind of build has: over first, then close, unknown, clear."""
    judged = (rule(prediction.build, prediction) for rule in RULES)
    margins = [margin for margin in judged if margin is not None]
    return tuple(sorted(margins, key=lambda margin: _ORDER.index(margin.state)))
