"""Limits of relays beside the loudspeaker's: their own supply, a trigger, what bridges a soft start."""

from plinth.builds.build import Build
from plinth.judge.limit_row import LimitRow
from plinth.judge.making import make_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.prediction import Prediction

# A relay's coil pulls in from three quarters of its volts on, and stays cool up to a fifth above them.
PULLS_IN, STAYS_COOL = 0.75, 1.2
# What a regulator in a usual package stands where nobody says.
USUAL_REGULATOR_C = 125.0


def _has_supply(build: Build) -> bool:
    return build.relay_supply.fitted


RELAY_COIL_MOST = LimitRow(
    "relay_coil_most", "Relay coil, highest", "protection", ("coil_high_v",), "protection.coil_v",
    "at most 1.2 × {stated:g} V", scale=STAYS_COOL, when=_has_supply,
    clear="The coil stays cool on its own supply.",
    close="The coil runs hot on its own supply.",
    over="The coil overheats on its own supply.",
    fix="A supply of the coil's own volts, coils in series, or a dropper.",
)  # fmt: skip


RELAY_COIL_LEAST = LimitRow(
    "relay_coil_least", "Relay coil, lowest", "protection", ("coil_v",), "protection.coil_v",
    "at least 0.75 × {stated:g} V", scale=PULLS_IN, floor=True, when=_has_supply,
    clear="The coil pulls in on its own supply.",
    close="The coil just pulls in on its own supply.",
    over="The coil may not pull in on its own supply: the relay stays open or chatters.",
    fix="A supply of the coil's own volts, coils in parallel, or no dropper.",
)  # fmt: skip


RELAY_SUPPLY_HEADROOM = LimitRow(
    "relay_supply_headroom", "Relay supply, headroom", "protection", ("relay_supply_headroom_v",), 0.0,
    "above 0 V on a low day", floor=True,
    clear="Its input stays above output and dropout on a low day.",
    close="On a low day its input only just stays above output and dropout.",
    unknown="The relay's coil is not stated: what it draws from its winding is not known.",
    over="On a low day it stops regulating: the relay may drop out.",
    fix="A higher winding, a larger capacitor, or a regulator with less dropout.",
    fix_unknown="Type the coil's ohms at the protection board.", unknown_without_figure=True, unit="V",
    when=_has_supply,
)  # fmt: skip


RELAY_SUPPLY_INPUT = LimitRow(
    "relay_supply_input", "Relay supply, highest input", "protection", ("relay_supply_high_v",),
    "relay_supply.v_in_max", "absolute maximum {stated:g} V",
    unknown_without_figure=True, unit="V", when=_has_supply,
    clear="On a high day without load its input stays below the absolute maximum.",
    close="On a high day without load its input comes near the absolute maximum.",
    unknown="No absolute maximum is stated for its input.",
    over="On a high day without load its input exceeds the absolute maximum: the regulator breaks down, and what it "
    "feeds sees the whole input.",
    fix="A lower winding, a resistor with a Zener diode ahead of it, or a regulator for higher volts.",
    fix_unknown="Type it from the data sheet.",
)  # fmt: skip


RELAY_SUPPLY_CURRENT = LimitRow(
    "relay_supply_current", "Relay supply, current", "protection", ("relay_supply_a",), "relay_supply.i_max_a",
    "gives {stated:g} A",
    clear="Coils and boards ask less than it gives.",
    close="Coils and boards ask nearly all that it gives.",
    unknown="What it gives, or the relay's coil, is not stated.",
    over="Coils and boards ask more than it gives.",
    fix="Coils in series on a higher voltage, or a stronger regulator.",
    fix_unknown="Type what it gives, and the coil's ohms at the protection board.", unknown_without_figure=True,
    unit="A", when=_has_supply,
)  # fmt: skip


RELAY_SUPPLY_HEAT = LimitRow(
    "relay_supply_heat", "Relay supply, inside", "protection", ("relay_supply_junction_c",),
    "relay_supply.t_junction_max_c", "at most {stated:g} °C", assumed=USUAL_REGULATOR_C,
    clear="It stays below its limit on a high day.",
    close="It comes near its limit on a high day.",
    unknown="Its highest junction temperature, or the relay's coil, is not stated.",
    over="It overheats on a high day and shuts down: the relay drops out.",
    over_assumed="At this temperature most shut down.",
    fix="A sink, a resistor ahead of it that takes part of the drop, or a lower winding.",
    fix_unknown="Type it from the data sheet, and the coil's ohms at the protection board.",
    unknown_without_figure=True, unit="°C", when=_has_supply,
)  # fmt: skip


TRIGGER_CURRENT = LimitRow(
    "trigger_current", "Trigger, current", "entry", ("trigger_a",), "trigger.i_max_a", "its socket gives {stated:g} A",
    when=lambda build: build.trigger.fitted,
    clear="The socket gives what the coil draws.",
    close="The coil draws nearly all that the socket gives.",
    unknown="What the trigger socket gives, or the coil's ohms, are not stated: many give less than a coil draws.",
    over="The coil draws more than the socket gives: it does not pull in, or it harms what drives it.",
    fix="A relay with more ohms, or a transistor with a supply of its own between them.",
    fix_unknown="Type them, from the manual of what drives it and from the relay.", unknown_without_figure=True,
    unit="A",
)  # fmt: skip


def trigger_coil(build: Build, _prediction: Prediction) -> Margin | None:
    """The trigger's volts against what its relay needs to pull in."""
    part = build.trigger
    if not part.fitted:
        return None
    least = None if part.coil_v is None else PULLS_IN * part.coil_v
    return make_margin(
        "trigger_coil", "Trigger, coil pulls in", "entry",
        figure=stated("trigger_v", "trigger", part.v_trigger_v, "V", part.name), limit=least,
        words="coil not stated" if part.coil_v is None else f"at least {PULLS_IN:g} × {part.coil_v:g} V",
        sentences={
            State.CLEAR: "The trigger's volts pull its coil in.",
            State.CLOSE: "The trigger's volts only just pull its coil in.",
            State.UNKNOWN: "Nobody states what its coil is made for.",
            State.OVER: "The trigger's volts are too low for its coil: it stays open.",
        },
        fix="Type its coil." if part.coil_v is None else "A relay whose coil is made for the trigger's volts.",
        floor=True, limit_of=(part, "coil_v"),
    )  # fmt: skip


TRIGGER_CONTACT = LimitRow(
    "trigger_contact", "Trigger, contact at switch-on", "entry", ("inrush_peak_a",), "trigger.contact_peak_a",
    "bears {stated:g} A for an instant", when=lambda build: build.trigger.fitted,
    clear="The contact bears the first peak while the reservoirs fill.",
    close="The first peak comes near what the contact bears: it may weld some day.",
    unknown="Nobody states what peak the contact bears: one that welds never switches off again.",
    over="The first peak welds the contact: it never switches off again.",
    fix="A soft start, or a relay for such peaks.", fix_unknown="Type it from the relay's data sheet.",
)  # fmt: skip


SOFT_NEVER_BRIDGED = LimitRow(
    "soft_never_bridged", "Soft start, if its relay fails", "entry", ("soft_stuck_w",), "entry.p_soft_w",
    "the resistor bears {stated:g} W",
    clear="If its relay never closes the resistor stands this level.",
    close="If its relay never closes the resistor hardly stands this level.",
    unknown="Nobody states what the soft-start resistor bears: if its relay never closes it may burn.",
    over="If its relay never closes the resistor burns at this level.",
    fix="A resistor that fails open, a thermal fuse on it, or a thermistor in its place.",
    fix_unknown="Type its rating.",
)  # fmt: skip


SOFT_CONTACT = LimitRow(
    "soft_contact", "Soft start, contact as it closes", "entry", ("bridged_peak_a",), "entry.soft_contact_peak_a",
    "bears {stated:g} A for an instant",
    clear="The contact bears the second peak as it bridges the soft start.",
    close="The second peak comes near what the contact bears.",
    unknown="Nobody states what peak the bridging contact bears: one that welds leaves no soft start.",
    over="The second peak welds the bridging contact: from then on there is no soft start.",
    fix="Bridge it later, less resistance, or a relay for such peaks.", fix_unknown="Type it from its data sheet.",
)  # fmt: skip


RULES = (
    RELAY_COIL_MOST, RELAY_COIL_LEAST, RELAY_SUPPLY_HEADROOM, RELAY_SUPPLY_INPUT, RELAY_SUPPLY_CURRENT,
    RELAY_SUPPLY_HEAT, TRIGGER_CURRENT, trigger_coil, TRIGGER_CONTACT, SOFT_NEVER_BRIDGED, SOFT_CONTACT,
)  # fmt: skip
