"""Output impedance and damping: one level, read without a load and into one or two loads."""

import math

import numpy as np

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import Outcome, Readings, Sheet, bench_request, jitter_of, last
from plinth.bench.signal_level import cool_level, scope_words
from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.stages.output_impedance import fitted_ohm
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Request
from plinth.units.shown import shown, shown_with_spread

TEST = "impedance"
_AT_OUTPUT = Probe(Point.OUTPUT, Quantity.VOLTS_AC)
FREQUENCIES = (("mid", 1000.0, "1 kHz"), ("high", 10_000.0, "10 kHz"), ("low", 40.0, "40 Hz"))
# An output that drops by more than this share into a load has a fault, or a load that is not what it is said to be.
MOST_DROP = 0.12
# What a listing gives for an output's resistance is rarely better than this.
STATED_SHARE = 0.5
# Ohm of a load, its tolerance, volts across it, their standard uncertainty.
LoadedVolts = tuple[float, float, float, float]
# Beyond this, damping is set by cable and voice coil alone.
GOOD_DAMPING = 20.0


def loads_of(build: Build) -> tuple[Load, ...]:
    """The dummy loads at hand, the lightest first, at most two that differ; the build's own where there is none."""
    loads: list[Load] = []
    for resistor in sorted((*build.loads, test_conditions.dummy(build)), key=lambda load: -load.r_ohm):
        if resistor.voice_coil is None and all(
            abs(resistor.r_ohm - other.r_ohm) > 0.1 * other.r_ohm for other in loads
        ):
            loads.append(resistor)
    return tuple(loads[:2]) or (test_conditions.dummy(build),)


def sheet(build: Build, channel: str, _situation: Situation) -> Sheet:
    """The sheet of one channel."""
    loads = loads_of(build)
    heaviest = min(loads, key=lambda load: load.r_ohm)
    level = cool_level(build, heaviest, 4.0)
    names = " and ".join(f"{load.r_ohm:g} Ω" for load in loads)
    return Sheet(
        TEST, "Output impedance and damping", "How far the output gives way to a load: from its volts without and "
            "with one.",
        settings=(
            ("Generator, untouched throughout", f"{shown(level.v_in_rms, 'V')} rms"),
            ("Expect at the output", f"{shown(level.v_out_rms, 'V')} rms"),
            ("Meter", "one range, most digits"),
        ),
        load=f"{names} in turn: at most {shown(level.power_w, 'W', 2)}, so they stay cool.",
        wired="Meter at the module's own output terminals, not at the load: else the cable counts in. "
        f"{scope_words(build, channel)}",
        asked=lambda readings: _asked(build, channel, loads, level.v_in_rms, level.v_out_rms, readings),
        outcomes=lambda readings: _outcomes(build, loads, readings),
    )  # fmt: skip


def _asked(
    build: Build, channel: str, loads: tuple[Load, ...], v_in: float, v_out: float, readings: Readings
) -> tuple[Request, ...]:
    key, requests = build.key_of(channel), []
    for place, f_hz, words in FREQUENCIES:
        conditions = test_conditions.of_module(build, frequency_hz=f_hz)
        open_read = last(readings, f"{place}_open")
        given = v_out if open_read is None else open_read.value
        slack = 0.15 if open_read is None else 0.003
        group = words
        optional = place != "mid"
        level_at = test_settings.generator(v_in, f_hz)
        requests.append(
            bench_request(
                test=TEST, key=f"{place}_open", channel=key, group=group, label="no load",
                ask=f"Generator at {words}, nothing at the {channel} output.", unit="V",
                window=Window(v_out * 0.85, v_out * 1.15, "V", "the level set, within 15 %"), conditions=conditions,
                form="level", optional=optional, example="4.000", settings=level_at,
                probe=_AT_OUTPUT,
            )
        )  # fmt: skip
        requests += [
                bench_request(
                    test=TEST, key=f"{place}_{load.identity}", channel=key, group=group,
                    label=f"into {load.r_ohm:g} Ω", ask=f"The same level, {load.name} at the {channel} output.",
                    unit="V",
                    window=Window(given * (1.0 - MOST_DROP - slack), given * (1.0 + slack), "V",
                        "a little below the one without load"),
                    conditions={**conditions, "load_ohm": load.r_ohm}, form="level", optional=optional,
                    example="3.960", settings=(*level_at, test_settings.into(load)), probe=_AT_OUTPUT,
                )
            for load in loads
        ]  # fmt: skip
    return tuple(requests)


def _read_at(loads: tuple[Load, ...], readings: Readings) -> list[tuple[float, str, list[LoadedVolts]]]:
    """At each frequency that was read with two loads or more: hertz, words, and (ohm, tolerance, volts, u) of each."""
    read_at = []
    for place, f_hz, words in FREQUENCIES:
        points: list[LoadedVolts] = []
        open_read = last(readings, f"{place}_open")
        if open_read is not None:
            points.append((math.inf, 0.0, open_read.value, jitter_of(open_read)))
        for load in loads:
            read = last(readings, f"{place}_{load.identity}")
            if read is not None:
                points.append((load.r_ohm, load.r_tol, read.value, jitter_of(read)))
        if len(points) >= 2:
            read_at.append((f_hz, words, points))
    return read_at


def _fitted(points: list[LoadedVolts]) -> tuple[float, float]:
    r_load, r_tol, v, u_v = (np.array(column) for column in zip(*points, strict=True))
    return fitted_ohm(r_load, v, u_v, r_tol / math.sqrt(3.0))


def impedances(build: Build, readings: Readings) -> list[tuple[float, float, float]]:
    """Of each frequency that was read: hertz, output impedance in ohm, its standard uncertainty."""
    return [(f_hz, *_fitted(points)) for f_hz, _, points in _read_at(loads_of(build), readings)]


def _outcomes(build: Build, loads: tuple[Load, ...], readings: Readings) -> tuple[Outcome, ...]:
    outcomes: list[Outcome] = []
    for _, words, points in _read_at(loads, readings):
        outcomes += _figures(build, loads, words, points)
    return tuple(outcomes)


def _figures(build: Build, loads: tuple[Load, ...], words: str, points: list[LoadedVolts]) -> list[Outcome]:
    r, u = _fitted(points)
    heaviest = min(load.r_ohm for load in loads)
    stated = build.module.r_output_ohm
    listed = None if not stated else stated * build.modules_per_channel
    resolved = r > 2.0 * u
    maximum = r + 2.0 * u
    shows = shown_with_spread(r, 2.0 * u, "ohm") if resolved else f"below {shown(max(maximum, 0.0), 'ohm', 2)}"
    if r < -2.0 * u:
        state, say = State.OVER, "It rises with the load, which an output does not: wrong row, or the generator moved."
        shows = shown_with_spread(r, 2.0 * u, "ohm")
    elif listed is None:
        state, say = State.UNKNOWN, ""
    else:
        inside = abs(r - listed) <= 2.0 * math.hypot(u, STATED_SHARE * listed / math.sqrt(3.0)) or (
            not resolved and maximum >= listed
        )
        state = State.CLEAR if inside or r < listed else State.CLOSE if r <= 3.0 * listed else State.OVER
        say = "" if state is State.CLEAR else "More than listed: a relay contact, a joint, or the cable counted in."
    outcomes = [
        Outcome(
            f"Output impedance, {words}", shows, state, "" if listed is None else f"listed {shown(listed, 'ohm')}",
            say or ("" if resolved else "The meter's last digit tells no more: a heavier load or more level would."),
        )
    ]  # fmt: skip
    if maximum > 0.0 and r >= -2.0 * u:
        least = heaviest / maximum
        damping = f"{heaviest / r:.0f}" if resolved else f"above {least:.0f}"
        outcomes.append(
            Outcome(
                f"Damping into {heaviest:g} Ω, {words}", damping, State.CLEAR if least >= GOOD_DAMPING else State.CLOSE,
                "" if listed is None else f"listed {heaviest / listed:.0f}",
                "" if least >= GOOD_DAMPING else "Below 20 the cable and the loudspeaker's own resistance no "
                "longer rule.",
            )
        )  # fmt: skip
    return outcomes
