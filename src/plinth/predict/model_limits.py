"""What the model behind each figure leaves out, in a sentence: how far a figure may be leant on."""

_SINE = "A sine in steady state, every driven channel alike. What protects itself, folds back or warms up is not in it."
_RAILS = (
    "Reservoirs, windings and drops as constant values within their spreads; what age and warmth change is not in it."
)
_WALL = (
    "The mains as stated; what nobody states of it (a flattened top, the house's wiring, the winding's leakage) counts "
    "in the spread. The core magnetises only as far as that is stated."
)
_HEAT = "One thermal mass at rest in still air, all devices alike; a warm neighbour or a closed case is not in it."
_SURGE = "An upper end: the worst moment of closing, no resistance but what is stated, a core that remembers nothing."
_GUARD = "A detector of one time constant and a relay as stated; the steps of a real comparator are not in it."
_SMALL = "A small signal, linear, into a resistor; a loudspeaker's impedance and feedback at its limits are not in it."
_CHARGE = "Reservoirs of their marked value within tolerance; what leaks through them is not in it."
_SWITCHER = (
    "Mean values of its controller; what regulates within a cycle, and its limits while starting, are not in it."
)
_RELAYS = (
    "Steady volts and currents; what it draws is not taken off the + rail's own figures, which a few tenths of an "
    "ampere change by less than their spread."
)
_STUCK = "The current as if the resistor were not there: an upper end. What it still fills of its pulses is not in it."
_TRIGGER = "A coil at 20 °C on steady volts; warm copper draws a fifth less."
_DEVICE = "The listing's own curve or limit, drawn straight between its points; devices that differ are not in it."
_CHECK = "It holds the computation together and says nothing of the build."

# The longest beginning of a name that stands here tells.
_BY_BEGINNING = {
    "clip": _SINE, "drive": _SINE, "output": _SINE, "rail": _RAILS, "reservoir": _RAILS, "smoothing": _RAILS,
    "diode": _RAILS,
    "input_rail": _RAILS, "regulator": _RAILS, "regulator_junction": _HEAT, "regulator_heat": _HEAT, "pumped": _RAILS,
    "winding": _WALL, "primary": _WALL, "mains": _WALL, "power_factor": _WALL, "heat": _HEAT, "sink": _HEAT,
    "junction": _HEAT, "bias": _HEAT, "soft_start": _HEAT, "lamp": _HEAT, "inrush": _SURGE, "bridged": _SURGE,
    "core_inrush": _SURGE, "switch_on": _SURGE, "dc": _GUARD, "coil": _GUARD, "dropper": _GUARD,
    "relay_supply": _RELAYS, "relay_supply_junction": _HEAT, "soft_stuck": _STUCK, "trigger": _TRIGGER,
    "power_bandwidth": _SMALL,
    "damping": _SMALL, "filter": _SMALL, "stored": _CHARGE, "bleed": _CHARGE, "rail_hold": _CHARGE, "hold_up": _CHARGE,
    "supply": _SWITCHER, "bulk": _SWITCHER, "battery": _SWITCHER, "run_time": _SWITCHER, "converter": _SWITCHER,
    "core_flux": _SWITCHER, "skin_depth": _SWITCHER, "divider": _SWITCHER, "safe_area": _DEVICE, "class_a": _DEVICE,
    "energy_error": _CHECK,
}  # fmt: skip


def limits_of(name: str) -> str:
    """What is left out of the figure of that name. Raises KeyError for one that nobody has thought of."""
    known = [beginning for beginning in _BY_BEGINNING if name == beginning or name.startswith(f"{beginning}_")]
    if not known:
        raise KeyError(f"found no limits of {name!r}, expected a beginning of it in predict/model_limits")
    return _BY_BEGINNING[max(known, key=len)]
