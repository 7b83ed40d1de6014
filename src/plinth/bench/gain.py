"""Gain, sensitivity, match, order and sense of channels at 1 kHz: one level in, each output read."""

import math

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import Measured, Outcome, Readings, Sheet, apart, bench_request, beside, derived, last
from plinth.bench.signal_level import cool_level, scope_words
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.stages import levels
from plinth.predict.input import from_tolerance
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Request
from plinth.units.shown import shown, shown_with_spread

TEST = "gain"
# How near a generator's level is set to what the sheet says.
SET_SHARE = 0.10
# Below this share of what is expected nothing comes out: what leaks over from another channel.
NOTHING_SHARE = 0.1
BETWEEN_CAUTION = "A meter, never a scope: its clip is earthed and would short the output that it hangs on."
# Channels this far apart in level are heard as a shift of the middle.
MATCH_DB = 0.5


def gain_of(build: Build) -> Measured:
    """Gain of a channel from its listing: a bridge has that of both its modules."""
    gain = build.module.gain * build.modules_per_channel
    return Measured(gain, from_tolerance(gain, build.module.gain_tol))


def sheet(build: Build, channel: str, situation: Situation) -> Sheet:
    """The sheet of gain, for all channels at once. Raises PhysicsError where the build cannot run."""
    load = test_conditions.dummy(build)
    level = cool_level(build, load)
    prediction = solve(build.model_copy(update={"load": load}), situation)
    return Sheet(
        TEST, "Gain, sensitivity, channel match", "How much each channel makes of what it gets, and what it needs "
            "to clip.",
        settings=(
            ("Generator, 1 kHz", f"{shown(level.v_in_rms, 'V')} rms"),
            ("Expect at the output", f"{shown(level.v_out_rms, 'V')} rms"),
            ("Volume control", "full up, tone flat"),
        ),
        load=f"{load.name}, {load.r_ohm:g} Ω: {shown(level.power_w, 'W', 2)}, so it stays cool.",
        wired="Generator, 1 kHz, to every input in turn; meter (true rms) at the input, then at the output. "
        f"{scope_words(build, channel)}",
        asked=lambda readings: _asked(build, level.v_in_rms, readings),
        outcomes=lambda readings: _outcomes(build, prediction, readings),
    )  # fmt: skip


def _asked(build: Build, v_in: float, readings: Readings) -> tuple[Request, ...]:
    conditions, gain = test_conditions.of_module(build), gain_of(build)
    requests = []
    for name in build.channels:
        key = build.key_of(name)
        read = last(readings, f"in_{key}")
        given = v_in if read is None else read.value
        spread = 2.0 * (gain.u or 0.0) / gain.value + (SET_SHARE if read is None else 0.02)
        out = given * gain.value
        group = name.capitalize()
        requests.append(
            bench_request(
                test=TEST, key=f"in_{key}", channel=key, group=group, label="input",
                ask=f"Meter on AC volts at {name} in, 1 kHz, generator set.", unit="V",
                window=Window(v_in * (1.0 - SET_SHARE), v_in * (1.0 + SET_SHARE), "V", "the level set, within 10 %"),
                conditions=conditions, form="level", example="0.200", probe=Probe(Point.INPUT, Quantity.VOLTS_AC),
            )
        )  # fmt: skip
        requests.append(
            bench_request(
                test=TEST, key=f"out_{key}", channel=key, group=group, label="output",
                ask=f"Meter on AC volts across the load of {name}.", unit="V",
                window=Window(out * (1.0 - spread), out * (1.0 + spread), "V",
                    "input times gain, with its tolerance"),
                conditions=conditions, form="level", example="2.83", probe=Probe(Point.OUTPUT, Quantity.VOLTS_AC),
            )
        )  # fmt: skip
    requests += _between(build, v_in * gain.value, 2.0 * (gain.u or 0.0) / gain.value)
    # Set once for every channel, to within what the window of the input leaves.
    set_for_all = test_settings.generator(v_in, 1000.0, v_in * (1.0 + SET_SHARE))
    return test_settings.under(requests, *set_for_all, test_settings.into(test_conditions.dummy(build)))


def _between(build: Build, out: float, spread: float) -> list[Request]:
    """What stands between the outputs of the first channel and of each other one while all get the same."""
    first, *others = build.channels
    # Outputs alike stand apart by what their gains differ; a sense that is turned doubles them.
    most = out * (2.0 * spread + 0.02)
    meter = "a meter on batteries" if build.both_outputs_live else "meter"
    return [
        bench_request(
            test=TEST, key=f"between_{build.key_of(other)}", channel=build.key_of(other), group="Sense",
            label=f"{first} to {other}",
            ask=f"The same tone on every input; {meter} on AC volts from the + output of {first} to that of {other}.",
            unit="V", window=Window(0.0, most, "V", "outputs alike leave only what their gains differ"),
            conditions=test_conditions.of_module(build), form="magnitude", example="0.01", optional=True, needs="all",
            caution=BETWEEN_CAUTION, most=4.0 * out,
            most_words=f"two outputs turned against each other make {shown(2.0 * out, 'V')}",
        )
        for other in others
    ]  # fmt: skip


def _sense(build: Build, readings: Readings) -> list[Outcome]:
    outcomes = []
    for other in build.channels[1:]:
        between = last(readings, f"between_{build.key_of(other)}")
        if between is None or between.high is None:
            continue
        alike = between.value <= between.high * (1.0 + 1e-9)
        outcomes.append(
            Outcome(
                f"Sense, {build.channels[0]} and {other}", f"{shown(between.value, 'V')} between them",
                State.CLEAR if alike else State.OVER, f"alike: up to {shown(between.high, 'V')}",
                "" if alike else "One is turned against the other, or gets another level: at an input that is wired "
                "the wrong way round, a + and − exchanged at a terminal, or the phase switch of the source.",
            )
        )  # fmt: skip
    return outcomes


def _outcomes(build: Build, prediction: Prediction, readings: Readings) -> tuple[Outcome, ...]:
    expected, outcomes, gains = gain_of(build), [], {}
    for name in build.channels:
        key = build.key_of(name)
        into, out = last(readings, f"in_{key}"), last(readings, f"out_{key}")
        if into is None or out is None:
            continue
        gain = derived(lambda a, b: a / b, *beside(out, into))
        gains[name] = gain
        state = apart(gain, expected.value, expected.u or 0.0)
        db = levels.decibels(gain.value, 1.0)
        say = f"{db:.1f} dB." if state is State.CLEAR else f"{db:.1f} dB. {_why_off(gain.value / expected.value)}"
        outcomes.append(
            Outcome(
                f"Gain, {name}", f"× {_number(gain)}", state, f"listed × {_number(expected)}", say,
            )
        )  # fmt: skip
        clip = prediction["clip_v_rms"]
        needs = derived(lambda v, g: v / g, Measured(clip.value, clip.u), gain)
        source = prediction.situation.source_v_rms
        enough = State.UNKNOWN if source is None else State.CLEAR if needs.value <= source * (1 + 1e-9) else State.OVER
        outcomes.append(
            Outcome(
                f"To clip, {name}", f"{needs.words('V')} rms", enough,
                "" if source is None else f"the source gives {shown(source, 'V')}",
                f"{_in_levels(needs.value)} For the onset predicted.",
            )
        )  # fmt: skip
    if len(gains) > 1:
        outcomes.append(_match(gains))
    outcomes += _sense(build, readings)
    return tuple(outcomes)


def _number(gain: Measured) -> str:
    return shown(gain.value, "") if not gain.u else shown_with_spread(gain.value, 2.0 * gain.u, "")


def _why_off(ratio: float) -> str:
    if ratio < NOTHING_SHARE:
        return (
            "Next to nothing comes out here: channels exchanged at the inputs or at the outputs (read the others with "
            "the same input driven), or a mute that holds."
        )
    if 1.7 < ratio < 2.3:
        return "Twice the listing: a bridge where one was read, or another gain resistor."
    if 0.43 < ratio < 0.6:
        return "Half of the listing: one leg of a bridge read, a divider at the input, or another gain resistor."
    return "Another feedback resistor than listed, a volume control that is not full up, or a load on the source."


def _in_levels(v_rms: float) -> str:
    dbu = 20.0 * math.log10(v_rms / math.sqrt(0.6))
    return f"{dbu:+.1f} dBu, {20.0 * math.log10(v_rms):+.1f} dBV.".replace("-", "−")


def _match(gains: dict[str, Measured]) -> Outcome:
    low, high = min(gains, key=lambda name: gains[name].value), max(gains, key=lambda name: gains[name].value)
    db = derived(lambda a, b: 20.0 * math.log10(a / b), gains[high], gains[low])
    u = db.u or 0.0
    state = State.CLEAR if db.value + 2.0 * u <= MATCH_DB else State.CLOSE if db.value <= MATCH_DB else State.OVER
    if db.u is None:
        state = State.UNKNOWN
    say = (
        ""
        if state is State.CLEAR
        else "Compare the feedback resistors of both channels, and the volume control's halves."
    )
    return Outcome(
        "Channels apart", db.words("dB"), state, f"practice: {MATCH_DB:g} dB", f"{high} above {low}. {say}".strip()
    )
