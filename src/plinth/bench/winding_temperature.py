"""How warm a mains transformer's winding is, by its resistance cold and hot: what is asked, and what it tells."""

import math

from plinth.bench.sheet import Measured, Outcome, Readings, bench_request
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.predict.estimates import WINDING_LIMIT_C
from plinth.record.request import Request
from plinth.units.shown import shown, shown_with_spread

# Copper would have no resistance at so many degrees below 0, drawn on from a room's warmth (IEC 60034-1, 60076-2).
COPPER_ZERO_C = 234.5
COLD, HOT = "winding_cold", "winding_hot"
# From a cold room to a winding that burns, as a multiple of its resistance cold.
MOST_RATIO = 1.8
# A smaller primary or a larger one nobody winds for an amplifier.
LEAST_OHM, MOST_OHM = 0.05, 20e3


def asked(build: Build, test: str, readings: Readings) -> tuple[Request, ...]:
    """The resistance of the primary, cold and hot; nothing where no transformer hangs on the mains."""
    if build.supply.transformer is None or build.mains is None:
        return ()
    key, conditions = build.key_of(build.channels[0]), {"supply": build.mark("supply")}
    cold = _last(readings, COLD)
    warmer = Window(LEAST_OHM, MOST_OHM, "ohm", "a winding")
    if cold is not None:
        most = MOST_RATIO * cold.value
        warmer = Window(cold.value, most, "ohm", f"from {shown(cold.value, 'ohm')} cold: copper gains 0.4 % a kelvin")
    safe = "Plug out, reservoirs discharged. Ohmmeter across the primary's own two ends, nothing else in series"
    return (
        bench_request(
            test=test, key=COLD, channel=key, group="", label="winding, cold",
            ask=f"{safe}; the transformer as cold as the air. Lowest range, less what the leads show.",
            unit="ohm", window=Window(LEAST_OHM, MOST_OHM, "ohm", "a winding"), conditions=conditions,
            form="resistance", role=Role.OHMMETER, example="9.4", optional=True, needs="nothing",
        ),
        bench_request(
            test=test, key=HOT, channel=key, group="", label="winding, hot",
            ask=f"At the end of the run: switch off. {safe}, within a minute: it cools as you wait.",
            unit="ohm", window=warmer, conditions=conditions, form="resistance", role=Role.OHMMETER, example="11.2",
            optional=True, needs="nothing",
        ),
    )  # fmt: skip


def hot_c(cold_ohm: float, hot_ohm: float, cold_c: float) -> float:
    """Temperature of a copper winding (deg C) from its resistance at ``cold_c`` and now (IEC 60034-1, 8.6.2.3.3)."""
    return hot_ohm / cold_ohm * (cold_c + COPPER_ZERO_C) - COPPER_ZERO_C


def outcomes(readings: Readings, air: Measured | None) -> tuple[Outcome, ...]:
    """How warm the winding is, and what that leaves to its insulation's limit; nothing before both were read."""
    cold, hot = _last(readings, COLD), _last(readings, HOT)
    if cold is None or hot is None:
        return ()
    if air is None:
        return (Outcome("The winding", "not told", State.UNKNOWN, "", "Read the air too: it was as cold as that."),)
    value = hot_c(cold.value, hot.value, air.value)
    known = cold.u is not None and hot.u is not None and air.u is not None
    shares = math.hypot((cold.u or 0.0) / cold.value, (hot.u or 0.0) / hot.value)
    u = math.hypot(hot.value / cold.value * (air.u or 0.0), (value + COPPER_ZERO_C) * shares)
    words = shown_with_spread(value, 2.0 * u, "°C") if known else shown(value, "°C")
    limit = f"{WINDING_LIMIT_C:g} °C assumed for its insulation (class 105)"
    left = WINDING_LIMIT_C - value
    if not known:
        return (Outcome("The winding", words, State.UNKNOWN, limit, "State the accuracy of ohmmeter and thermometer."),)
    state = State.OVER if left < 0.0 else State.CLOSE if left < 2.0 * u else State.CLEAR
    say = {
        State.OVER: "Hotter than that: less load on it, more air, or a larger transformer.",
        State.CLOSE: "The band reaches the limit: read both ends of the winding with a better ohmmeter.",
    }.get(state, "Its mean; the hottest spot inside is some 10 K above.")
    return (Outcome("The winding, by its copper", words, state, limit, say),)


def _last(readings: Readings, key: str) -> Measured | None:
    held = [reading for reading in readings.get(key, ()) if not reading.bound.one_sided and reading.value > 0.0]
    return None if not held else Measured(held[-1].value, held[-1].u)
