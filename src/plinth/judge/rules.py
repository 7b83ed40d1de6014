"""Every limit of a build, each by one small function: add a rule by adding it to ``RULES``."""

from plinth.judge import load_rules, module_rules, protection_rules, supply_rules, switching_rules
from plinth.judge.making import Rule
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.solve import Prediction

RULES: tuple[Rule, ...] = (
    # First among those over: what is wrong here is the cause of the rest.
    supply_rules.primary,
    supply_rules.reservoir_voltage,
    supply_rules.other_reservoir_voltage,
    supply_rules.winding_current,
    supply_rules.reservoir_ripple,
    supply_rules.diode_current,
    supply_rules.smoothing_current,
    supply_rules.fuse_current,
    protection_rules.fuse_at_switch_on,
    supply_rules.regulator_dropout,
    supply_rules.regulator_input,
    supply_rules.regulator_heat,
    switching_rules.supply_power,
    switching_rules.short_time_power,
    switching_rules.supply_current,
    switching_rules.mains_range,
    switching_rules.mains_highest,
    switching_rules.hold_up,
    switching_rules.battery_lockout,
    switching_rules.battery_cable,
    switching_rules.core_flux,
    switching_rules.converter_diodes,
    switching_rules.converter_input_capacitors,
    switching_rules.converter_choke,
    switching_rules.converter_reach,
    switching_rules.feedback_divider,
    switching_rules.strand,
    module_rules.module_rail_maximum,
    module_rules.module_rail_minimum,
    module_rules.module_current,
    module_rules.safe_area,
    module_rules.power_bandwidth,
    module_rules.source_drive,
    module_rules.pumping,
    module_rules.filter_peak,
    module_rules.sink_heat,
    module_rules.junction_heat,
    module_rules.bias_runaway,
    load_rules.load_minimum,
    load_rules.mute_outlasts_settling,
    load_rules.dc_detector,
    protection_rules.dc_trip_time,
    protection_rules.dc_false_trip,
    protection_rules.coil_highest,
    protection_rules.coil_lowest,
    protection_rules.dropper_heat,
    protection_rules.contact_breaks_rail,
    load_rules.load_rating,
    load_rules.load_network,
)

_ORDER = [State.OVER, State.CLOSE, State.UNKNOWN, State.CLEAR]


def judge(prediction: Prediction) -> tuple[Margin, ...]:
    """All margins that this kind of build has: over first, then close, unknown, clear."""
    found = (rule(prediction.build, prediction) for rule in RULES)
    margins = [margin for margin in found if margin is not None]
    return tuple(sorted(margins, key=lambda margin: _ORDER.index(margin.state)))
