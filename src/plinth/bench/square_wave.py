"""A square wave as a scope shows it: rise time, overshoot, ringing, and how its flat top droops."""

import math

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import Measured, Outcome, Readings, Sheet, apart, bench_request, derived, last, measured
from plinth.bench.signal_level import cool_level, scope_words
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.stages import square_wave as physics
from plinth.physics.stages.output_filter import corner_hz, quality
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Request
from plinth.units.shown import shown

TEST = "square"
TILT_HZ = 100.0
SQUARE_HZ = 10e3
# By how much corners are off where nobody says better: capacitors of 20 %, and a second pole of the generator.
CORNER_SHARE = 0.35
# Overshoot of a stage without an output filter into a plain resistor: practice.
MOST_OVERSHOOT = 0.12
# No scope at a bench at home shows a quicker edge.
LEAST_RISE_S = 1e-10


def sheet(build: Build, channel: str, _situation: Situation) -> Sheet:
    """The sheet of one channel."""
    load = test_conditions.dummy(build)
    level = cool_level(build, load, 2.0)
    v_pp = 2.0 * level.v_out_rms
    return Sheet(
        TEST,
        "Square wave",
        "What a step shows at once: bandwidth, stability, and what the coupling leaves of the bass.",
        settings=(
            ("Generator, square, 10 kHz", f"{shown(2.0 * level.v_in_rms, 'V')} p-p"),
            ("Expect at the output", f"{shown(v_pp, 'V')} p-p"),
            ("Scope", "10 % to 90 % of the step"),
        ),
        load=f"{load.name}, {load.r_ohm:g} Ω: {shown(level.v_out_rms**2 / load.r_ohm, 'W', 2)} of "
        "square wave. A resistor "
        "only: never a loudspeaker, whose tweeter takes all of it.",
        wired=f"Scope at the load, probe at 10:1 and trimmed. {scope_words(build, channel)}",
        asked=lambda readings: _set(build, _asked(build, channel, v_pp, readings), level.v_in_rms),
        outcomes=lambda readings: _outcomes(build, v_pp, readings),
        caution="A square wave is all treble: no loudspeaker, and protect your ears.",
    )


def _set(build: Build, requests: tuple[Request, ...], v_in: float) -> tuple[Request, ...]:
    """With the square wave that they are read of: as many volts RMS as half its height, peak to peak."""
    load = test_settings.into(test_conditions.dummy(build))
    with_settings: list[Request] = []
    for request in requests:
        f_hz = TILT_HZ if request.key == "tilt" else SQUARE_HZ
        with_settings += test_settings.under((request,), *test_settings.generator(v_in, f_hz), load)
    return tuple(with_settings)


def _edge(build: Build) -> tuple[float, float]:
    """Upper corner and overshoot of the output as listed; of class D as its filter into the load makes them."""
    part, coil = build.module, build.module.output_filter
    if coil is not None:
        legs = 2.0 if build.both_outputs_live else 1.0
        q = quality(coil.l_h, coil.c_f, test_conditions.dummy(build).r_ohm / legs)
        return corner_hz(coil.l_h, coil.c_f), physics.overshoot_share(q)
    return part.f_high_hz, 0.0


def _asked(build: Build, channel: str, v_pp: float, _readings: Readings) -> tuple[Request, ...]:
    key, part = build.key_of(channel), build.module
    corner, over = _edge(build)
    rise = physics.rise_time_s(corner)
    slew = physics.slew_rise_s(v_pp, part.slew_v_per_s) if part.slew_v_per_s else 0.0
    high = math.hypot(rise, slew) * (1.0 + CORNER_SHARE)
    low = rise * (1.0 - CORNER_SHARE)
    tilt = 100.0 * physics.tilt_share(part.f_low_hz, TILT_HZ)
    conditions = test_conditions.of_module(build, load_ohm=test_conditions.dummy(build).r_ohm)
    filtered = part.output_filter is not None
    maximum = 100.0 * max(MOST_OVERSHOOT, over + 0.12)
    return (
        bench_request(
            test=TEST, key="generator_rise", channel=key, group="Generator alone", label="rise time",
            ask="The generator's own edge, at the input: it is taken off. Leave it out where it is far quicker.",
            unit="s", window=None, conditions=conditions, form="plain", role=Role.SCOPE, optional=True,
            probe=Probe(Point.INPUT, Quantity.RISE), example="50 ns",
            why_open="it is the generator's own", least=LEAST_RISE_S,
        ),
        bench_request(
            test=TEST, key="rise", channel=key, group="10 kHz", label="rise time, 10 to 90 %",
            ask="From 10 % to 90 % of the step at the output.", unit="s",
            window=Window(low, high, "s", "0.35 / upper corner, and the slew rate where it is stated"),
            conditions=conditions, form="plain", role=Role.SCOPE, probe=Probe(Point.OUTPUT, Quantity.RISE),
            example="3.1 us", bare_prefix="u",
            least=LEAST_RISE_S,
        ),
        bench_request(
            test=TEST, key="overshoot", channel=key, group="10 kHz", label="overshoot",
            ask="How far it first goes beyond its top, in % of the step; 0 for none.", unit="%",
            window=Window(0.0, maximum, "%", "the filter into this load" if filtered else "practice"),
            conditions=conditions, form="plain", role=Role.SCOPE, probe=Probe(Point.OUTPUT, Quantity.OVERSHOOT),
            example="4",
        ),
        bench_request(
            test=TEST, key="ringing", channel=key, group="10 kHz", label="ringing frequency",
            ask="How often it swings a second, where it rings at all.", unit="Hz",
            window=Window(0.5 * corner, 2.0 * corner, "Hz", "about the output filter's corner") if filtered else None,
            conditions=conditions, form="plain", role=Role.SCOPE, optional=True,
            probe=Probe(Point.OUTPUT, Quantity.RINGING), example="48 kHz", least=1.0,
            why_open="" if filtered else "nothing in the listing says where it would ring",
        ),
        bench_request(
            test=TEST, key="tilt", channel=key, group=f"{TILT_HZ:g} Hz", label="droop of the top",
            ask=f"Generator at {TILT_HZ:g} Hz: how far the flat top falls until the next edge, in % of the whole step.",
            unit="%",
            window=Window(0.3 * tilt, min(2.5 * tilt, 100.0), "%",
                "tanh(π f_low / 2 f), the corner within a factor of two"),
            conditions=conditions, form="plain", role=Role.SCOPE, optional=True,
            probe=Probe(Point.OUTPUT, Quantity.TILT), example=f"{tilt:.2g}",
        ),
    )  # fmt: skip


def _outcomes(build: Build, v_pp: float, readings: Readings) -> tuple[Outcome, ...]:
    corner, over = _edge(build)
    outcomes: list[Outcome] = []
    rise = last(readings, "rise")
    if rise is not None:
        own = last(readings, "generator_rise")
        edge = measured(rise)
        if own is not None and own.value < rise.value:
            edge = derived(lambda t, g: math.sqrt(max(t * t - g * g, 1e-24)), edge, measured(own))
        outcomes.append(bandwidth_of(edge, corner))
        slope = derived(lambda t: 0.8 * v_pp / t, edge)
        listed = build.module.slew_v_per_s
        if listed is not None:
            outcomes.append(
                Outcome(
                    "Slope of the edge", f"{shown(slope.value / 1e6, '')} V/µs", State.UNKNOWN,
                    f"slew rate listed: {listed / 1e6:.3g} V/µs",
                    "At this level the edge is set by bandwidth; at full level slew rate may rule.",
                )
            )  # fmt: skip
    overshoot = last(readings, "overshoot")
    if overshoot is not None:
        expected = 100.0 * over
        maximum = 100.0 * MOST_OVERSHOOT + expected
        state = (
            State.CLEAR
            if overshoot.value <= maximum * (1 + 1e-9)
            else State.CLOSE
            if overshoot.value <= 2.0 * maximum
            else State.OVER
        )
        say = (
            "No sign of trouble into a resistor."
            if state is State.CLEAR
            else "Little is left of its phase margin: look at layout, output inductor and compensation before any "
            "cable or loudspeaker hangs on it."
        )
        q = physics.damping_of_overshoot(overshoot.value / 100.0)
        words = f"{overshoot.value:.3g} %" + (f", as of Q {q:.2f}" if overshoot.value > 0.5 else "")
        outcomes.append(Outcome("Overshoot", words, state, f"expect up to {maximum:.0f} %", say))
    tilt = last(readings, "tilt")
    if tilt is not None and 0.0 < tilt.value < 100.0:
        low = derived(lambda percent: physics.corner_of_tilt_hz(percent / 100.0, TILT_HZ), measured(tilt))
        outcomes.append(
            Outcome(
                "Lower corner, by the "
                "droop", low.words("Hz"), apart(low, build.module.f_low_hz, 0.25 * build.module.f_low_hz),
                f"listed {shown(build.module.f_low_hz, 'Hz')}", "",
            )
        )  # fmt: skip
    return tuple(outcomes)


def bandwidth_of(edge: Measured, corner: float) -> Outcome:
    """The bandwidth that an edge tells of, against the corner predicted (Hz)."""
    band = derived(physics.corner_of_rise_hz, edge)
    state = apart(band, corner, CORNER_SHARE * corner / math.sqrt(3.0))
    if band.value > corner:
        state = State.CLEAR
    say = (
        ""
        if state is State.CLEAR
        else "Slower than listed: an input filter, the probe at 1:1, or a generator with slow edges."
    )
    return Outcome("Bandwidth, by the edge", band.words("Hz"), state, f"listed {shown(corner, 'Hz')}", say)
