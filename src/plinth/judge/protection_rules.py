"""Limits of entry and protection: fuse at switch-on, DC detector, relay coils and contacts."""

from plinth.builds.build import Build
from plinth.judge.limit_row import LimitRow
from plinth.judge.making import make_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.circuits import supplies_in_all
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown

# Melting I2t over the square of the rating where no data sheet says (IEC 60127: a T fuse carries ten times its rating
# for 20 ms and more, an F fuse for some ms). Low ends of what makers state.
FUSE_I2T = {"T": 5.0, "F": 0.5}
# A fuse of more times the rated primary current opens too late for the winding (practice: 1.5 to 2, time lag).
FUSE_OF_RATED = 3.0
# A full rail heats a voice coil to ruin within about a second.
TRIP_WITHIN_S = 0.3
LOWEST_MUSIC_HZ = 20.0


def fuse_at_switch_on(build: Build, prediction: Prediction) -> Margin | None:
    """What the fuse sees while the reservoirs fill, against what melts it."""
    figure = prediction.get("inrush_i2t_a2s")
    if figure is None:
        return None
    part = build.entry
    limit = part.fuse_i2t_a2s or FUSE_I2T[part.fuse_kind] * part.fuse_a_rms**2
    how = "" if part.fuse_i2t_a2s is not None else f", estimated from {part.fuse_kind} {part.fuse_a_rms:g} A"
    return make_margin(
        "fuse_at_switch_on",
        "Fuse at switch-on",
        "entry",
        figure=figure,
        limit=limit,
        words=f"melts at {limit:.3g} A²s{how}",
        sentences={
            State.CLEAR: "Filling the reservoirs does not tire the fuse. The core's own inrush may add to it.",
            State.CLOSE: "Filling the reservoirs brings the fuse near melting: it tires with every switch-on.",
            State.OVER: "Filling the reservoirs melts the fuse.",
        },
        fix="A time-lag fuse, a soft start, or smaller reservoirs.",
    )


def fuse_protects(build: Build, _prediction: Prediction) -> Margin | None:
    """The fuse against what the transformers behind it are rated for: a larger one lets a fault burn on."""
    supply = build.supply
    if supply.transformer is None:
        return None
    rated = supplies_in_all(build) * supply.transformer.va / supply.transformer.v_primary_rms
    if supply.input_supply is not None:
        rated += supply.input_supply.transformer.va / supply.input_supply.transformer.v_primary_rms
    limit = FUSE_OF_RATED * rated
    figure = stated("fuse_a_rms", "fuse", build.entry.fuse_a_rms, "A", build.entry.name)
    return make_margin(
        "fuse_protects",
        "Fuse, not too large",
        "entry",
        figure=figure,
        limit=limit,
        words=f"at most {shown(limit, 'A')}, {FUSE_OF_RATED:g} times what the primaries are rated for",
        sentences={
            State.CLEAR: "It opens before a winding that a fault loads chars.",
            State.CLOSE: "It lets a fault load the windings for long before it opens.",
            State.OVER: f"A fault may draw {shown(build.entry.fuse_a_rms, 'A')} from windings rated for "
            f"{shown(rated, 'A')}, for ever: the fuse does not open, the transformer burns.",
        },
        fix="A time-lag fuse of one and a half to two times the rated primary current, and a soft "
        "start where that melts.",
    )


DC_TRIP_TIME = LimitRow(
    "dc_trip_time", "DC trip, how soon", "protection", ("dc_trip_s",), TRIP_WITHIN_S,
    f"within {1000 * TRIP_WITHIN_S:g} ms",
    clear="A rail at the output is cut off before a voice coil chars.",
    close="A rail at the output is cut off just before a voice coil chars.",
    over="A rail stays at the output long enough to char a voice coil.",
    fix="A shorter time constant, or a lower threshold.",
)  # fmt: skip


DC_FALSE_TRIP = LimitRow(
    "dc_false_trip", "DC trip on bass", "protection", ("dc_false_trip_hz",), LOWEST_MUSIC_HZ, "below {stated:g} Hz",
    clear="Full power above this frequency does not trip it.",
    close="Full power in the lowest octave nearly trips it.",
    over="Full power in the bass trips it: it takes a loud organ note for DC.",
    fix="A longer time constant, as far as the trip time allows.",
)  # fmt: skip


COIL_HIGHEST = LimitRow(
    "coil_highest", "Relay coil, highest", "protection", ("coil_high_v",), "protection.coil_v",
    "at most 1.2 × {stated:g} V", scale=1.2,
    when=lambda build: not build.relay_supply.fitted,
    clear="The coil stays cool enough at the highest rail.",
    close="The coil runs hot at the highest rail.",
    over="The coil overheats at the highest rail.",
    fix="A larger dropper resistor, coils in series, or a relay supply of its own.",
)  # fmt: skip


COIL_LOWEST = LimitRow(
    "coil_lowest", "Relay coil, lowest", "protection", ("coil_v",), "protection.coil_v",
    "at least 0.75 × {stated:g} V", scale=0.75,
    when=lambda build: not build.relay_supply.fitted,
    clear="The coil pulls in and holds on the loaded rail.",
    close="The coil just pulls in on the loaded rail.",
    over="On the loaded rail the coil may not pull in: the relay chatters.",
    fix="A smaller dropper resistor, or coils in parallel.", floor=True,
)  # fmt: skip


DROPPER_HEAT = LimitRow(
    "dropper_heat", "Relay's dropper", "protection", ("dropper_w",), "protection.p_dropper_rated_w",
    "rated {stated:g} W",
    clear="It carries the coils' current at the highest volts.",
    unknown="No rating is stated for the dropper resistor.",
    over="It burns at the highest volts.",
    fix="A resistor of a higher rating, stood off the board.", fix_unknown="Type its rating.",
)  # fmt: skip


def contact_breaks_rail(build: Build, prediction: Prediction) -> Margin | None:
    """Whether the relay's contact can break the whole rail: DC draws an arc that AC does not."""
    part = build.protection
    rail = prediction["rail_idle_v"]
    if part.coil_v is None and part.contact_dc_v is None:
        return None
    at = "" if part.contact_dc_a is None else f" at {part.contact_dc_a:g} A"
    return make_margin(
        "contact_breaks_rail", "Contact breaks a rail", "protection", figure=rail, limit=part.contact_dc_v,
        words="not stated" if part.contact_dc_v is None else f"breaks {part.contact_dc_v:g} V DC{at}",
        sentences={
            State.CLEAR: "It opens a rail that has got to the output.",
            State.CLOSE: "It just opens a rail that has got to the output.",
            State.UNKNOWN: "No DC rating is stated for the contact: an arc may hold it closed, so it counts as unsafe.",
            State.OVER: "At this rail the arc may not go out: the contact stays closed by welding or by flame.",
        },
        fix="Type its DC rating." if part.contact_dc_v is None
        else "A relay for DC, two contacts in series, or one that shorts the output after opening.",
        limit_of=(part, "contact_dc_v"),
    )  # fmt: skip
