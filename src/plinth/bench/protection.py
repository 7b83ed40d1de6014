"""The protection board: muting, DC trip both ways with its time, release, and the order at switch-off."""

import dataclasses
import math

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import Measured, Outcome, Readings, Sheet, apart, bench_request, derived, last, measured
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.protection.dc_and_coils import dc_trip_s
from plinth.physics.protection.tried_by_hand import BLOCK_V, HAND_U_S, RC_SHARE
from plinth.predict.solve import solve
from plinth.record.request import Request, Setting
from plinth.units.shown import shown

TEST = "protection"
# A loudspeaker bears this much DC for as long as one likes: 1 W in 8 ohm is 2.8 V.
HARMLESS_V = 2.8
# What a voice coil gets until the relay opens, J; practice for small loudspeakers.
MOST_J = 60.0
# A detector that has not let go at so many volts guards nothing: the supply is not raised further.
MOST_DC_V = 12.0
# No relay takes longer than this for anything.
LONGEST_S, LONGEST_WORDS = 600.0, "ten minutes, and no relay takes so long"
CAUTION = (
    "Dummy load on the relay's output throughout, no loudspeaker. The DC goes to the protection's input with the "
    "module's "
    "output wire taken off it: never onto the module. Supplies discharged before any wire is moved."
)


def sheet(build: Build, channel: str, situation: Situation) -> Sheet:
    """The sheet of one channel's protection. Raises PhysicsError where the build cannot run."""
    prediction = solve(build, situation.model_copy(update={"level": 0.0}))
    rail = prediction["rail_no_load_v"].value
    hold = prediction.get("rail_hold_s")
    holds = hold.value if hold is not None and hold.known else math.inf
    part = build.protection
    stated = "not stated" if part.dc_threshold_v is None else f"{part.dc_threshold_v:g} V"
    return Sheet(
        TEST, "Protection", "That the loudspeaker is kept off until all is quiet, and let go at once when it is not.",
        settings=(
            ("Muting, stated", f"{part.mute_s:g} s"),
            ("DC threshold, stated", stated),
            ("For DC", "bench supply, 1 kΩ in series"),
        ),
        load=f"{test_conditions.dummy(build).name} on the relay's output shows when it opens: its volts go away.",
        wired=f"Stop watch from the mains switch; scope on the relay's output where it must be finer. The {channel} "
        "output wire "
        "off the protection's input for the DC rows.",
        asked=lambda _readings: _asked(build, channel, holds),
        outcomes=lambda readings: _outcomes(build, rail, readings),
        caution=CAUTION,
    )  # fmt: skip


def _asked(build: Build, channel: str, holds_s: float) -> tuple[Request, ...]:
    part, key = build.protection, build.key_of(channel)
    conditions = {"protection": build.mark("protection")}
    settles = build.module.settling_s
    requests = [
        bench_request(
            test=TEST, key="mute", channel=key, group="Switch on", label="muting delay",
            ask="Switch on; time until the relay clicks.", unit="s",
            window=Window(max((1.0 - RC_SHARE) * part.mute_s, settles), max((1.0 + RC_SHARE) * part.mute_s,
                1.1 * settles), "s", f"{part.mute_s:g} s stated; the output settles in {settles:g} s"),
            conditions=conditions, example=f"{part.mute_s:g}", role=Role.STOP_WATCH, u_own=HAND_U_S, most=LONGEST_S,
            most_words=LONGEST_WORDS,
        )
    ]  # fmt: skip
    threshold = part.dc_threshold_v
    for side, sign in (("plus", "+"), ("minus", "−")):
        window = None
        if threshold is not None:
            window = Window(
                (1.0 - RC_SHARE) * threshold, (1.0 + RC_SHARE) * threshold, "V", "as stated, within a third"
            )
        requests.append(
            bench_request(
                test=TEST, key=f"threshold_{side}", channel=key, group="DC", label=f"{sign} threshold",
                ask=f"Bench supply at 0 V through 1 kΩ, {sign} to the protection's input. Raise it slowly, a tenth "
                    f"of a volt at a time; type the volts at which the relay drops.",
                unit="V", window=window, conditions=conditions, form="magnitude",
                caution=CAUTION if side == "plus" else "", example=f"{threshold or 1.6:g}",
                why_open="its threshold is not stated",
            )
        )  # fmt: skip
    for side, sign in (("plus", "+"), ("minus", "−")):
        requests.append(
            bench_request(
                test=TEST, key=f"trip_{side}", channel=key, group="DC", label=f"{sign} trip, {BLOCK_V:g} V block",
                ask=f"A block battery of {BLOCK_V:g} V through 1 kΩ, {sign} to the protection's input: time until "
                    f"the relay drops.",
                unit="s", window=_trip_window(build), conditions=conditions, example="0.1", role=Role.STOP_WATCH,
                u_own=HAND_U_S, optional=side == "minus", why_open="its threshold or its time constant is not stated",
            )
        )  # fmt: skip
    requests.append(
        bench_request(
            test=TEST, key="release", channel=key, group="DC", label="release",
            ask="Take the battery away: time until the relay closes again.", unit="s",
            window=Window(0.0, 3.0 * part.mute_s + 1.0, "s", "it may mute once more"), conditions=conditions,
            optional=True, example="3", role=Role.STOP_WATCH, u_own=HAND_U_S, most=LONGEST_S,
            most_words=LONGEST_WORDS,
        )
    )  # fmt: skip
    hold = (
        None
        if not math.isfinite(holds_s)
        else Window(
            0.0, holds_s, "s", "before the rails are below the module's lowest: what it does there nobody states"
        )
    )
    requests.append(
        bench_request(
            test=TEST, key="off", channel=key, group="Switch off", label="relay opens after",
            ask="Module wired again, no signal. Switch off; time until the relay opens. 0 for at once.", unit="s",
            window=hold, conditions=conditions, example="0.2", role=Role.STOP_WATCH, u_own=HAND_U_S, most=LONGEST_S,
            most_words=LONGEST_WORDS, why_open="how long these rails hold is not known",
        )
    )  # fmt: skip
    for_dc = {
        "threshold": Setting(test_settings.SUPPLY, 0.0, "V", 0.0, MOST_DC_V),
        "trip": Setting(test_settings.BATTERY, BLOCK_V, "V"),
    }
    return tuple(
        dataclasses.replace(request, settings=(for_dc[kind],))
        if (kind := request.key.partition("_")[0]) in for_dc
        else request
        for request in requests
    )


def _trip_window(build: Build) -> Window | None:
    part = build.protection
    if part.dc_threshold_v is None or part.dc_time_constant_s is None or part.dc_threshold_v >= 0.9 * BLOCK_V:
        return None
    low = dc_trip_s(BLOCK_V, part.dc_threshold_v * (1.0 - RC_SHARE), part.dc_time_constant_s * (1.0 - RC_SHARE))
    high = dc_trip_s(
        BLOCK_V, min(part.dc_threshold_v * (1.0 + RC_SHARE), 0.95 * BLOCK_V), part.dc_time_constant_s * (1.0 + RC_SHARE)
    )
    return Window(
        max(low - 2.0 * HAND_U_S, 0.0), high + 2.0 * HAND_U_S, "s", "−τ ln(1 − V_th / V), parts within a third"
    )


# What the readings say


def _outcomes(build: Build, rail_v: float, readings: Readings) -> tuple[Outcome, ...]:
    outcomes: list[Outcome] = []
    plus, minus = last(readings, "threshold_plus"), last(readings, "threshold_minus")
    for sign, read in (("+", plus), ("−", minus)):
        if read is not None:
            state = State.CLEAR if read.value <= HARMLESS_V * (1 + 1e-9) else State.CLOSE
            say = "" if state is State.CLEAR else "Below it a loudspeaker carries more than a watt of DC unguarded."
            outcomes.append(
                Outcome(f"Guards from {sign}", measured(read).words("V"), state, f"harmless: {HARMLESS_V:g} V", say)
            )
    if plus is not None and minus is not None and min(plus.value, minus.value) > 0.0:
        ratio = derived(lambda a, b: a / b, measured(plus), measured(minus))
        even = 0.6 <= ratio.value <= 1.0 / 0.6
        outcomes.append(
            Outcome(
                "Both ways alike", f"{ratio.value:.2f} : "
                "1", State.CLEAR if even else State.CLOSE, "practice: within 1.6",
                "" if even else "One half of the detector is off: its diode or resistor.",
            )
        )  # fmt: skip
    outcomes += _times(build, rail_v, readings)
    off = last(readings, "off")
    mute = last(readings, "mute")
    if mute is not None:
        settles = build.module.settling_s
        state = State.CLEAR if mute.value >= settles * (1 - 1e-9) else State.OVER
        say = "" if state is State.CLEAR else "The relay closes before the output has settled: its jump is heard."
        outcomes.append(
            Outcome("Muting against settling", f"{mute.value:.3g} s", state, f"output settles in {settles:g} s", say)
        )
    if off is not None and off.state is State.OVER:
        outcomes.append(
            Outcome(
                "Order at switch-off", f"opens after {off.value:.3g} s", State.OVER, "",
                "It hangs on until the rails are gone: feed its coil from the mains side, or from a small "
                "reservoir of its own.",
            )
        )  # fmt: skip
    return tuple(outcomes)


def _times(build: Build, rail_v: float, readings: Readings) -> list[Outcome]:
    """The time constant from threshold and trip time, and what a whole rail would leave a loudspeaker with."""
    outcomes: list[Outcome] = []
    for side, sign in (("plus", "+"), ("minus", "−")):
        trip, threshold = last(readings, f"trip_{side}"), last(readings, f"threshold_{side}")
        level = (
            measured(threshold)
            if threshold is not None
            else None
            if build.protection.dc_threshold_v is None
            else Measured(build.protection.dc_threshold_v, build.protection.dc_threshold_v * RC_SHARE / math.sqrt(3.0))
        )
        if trip is None or level is None or not 0.0 < level.value < 0.98 * BLOCK_V:
            continue
        tau = derived(
            lambda t, v: max(t, 1e-6) / -math.log(1.0 - min(v, 0.98 * BLOCK_V) / BLOCK_V), measured(trip), level
        )
        whole = derived(lambda tau_each, v: dc_trip_s(rail_v, min(v, 0.98 * rail_v), max(tau_each, 1e-6)), tau, level)
        stated = build.protection.dc_time_constant_s
        state = State.UNKNOWN if stated is None else apart(tau, stated, RC_SHARE * stated / math.sqrt(3.0))
        outcomes.append(
            Outcome(
                f"{sign} time constant", tau.words("s"), state, "" if stated is None else f"stated {stated:g} s",
                "Mostly your hand: a scope on the relay's output tells it better."
                if trip.value < 4.0 * HAND_U_S
                else "",
            )
        )  # fmt: skip
        joule = rail_v**2 / test_conditions.dummy(build).r_ohm * (whole.value + 0.01)
        heat = State.CLEAR if joule <= MOST_J * (1 + 1e-9) else State.CLOSE if joule <= 2.0 * MOST_J else State.OVER
        outcomes.append(
            Outcome(
                f"A whole {sign} rail trips it in", whole.words("s"), heat, f"practice: {MOST_J:g} J in the coil",
                f"With 10 ms of relay, {shown(joule, 'J', 2)} into {test_conditions.dummy(build).r_ohm:g} Ω "
                "until it opens.",
            )
        )  # fmt: skip
    return outcomes
