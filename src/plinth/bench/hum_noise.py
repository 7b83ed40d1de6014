"""Hum and noise at the output, as read: where they come from, and which change to try first."""

import math

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import Measured, Outcome, Readings, Sheet, bench_request, derived, last, measured
from plinth.bench.signal_level import scope_words
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Request
from plinth.units.shown import shown

TEST = "hum"
# Beyond this below full output nothing is heard at a usual loudspeaker; practice.
QUIET_DB, POOR_DB = 90.0, 75.0
# What a listing's rejection or noise is good for, as a factor either way.
FACTOR = 2.5
# A source that adds more than this to what is there without it brings hum of its own.
LOOP_RATIO = 1.4


def sheet(build: Build, channel: str, situation: Situation) -> Sheet:
    """The sheet of one channel. Raises PhysicsError where the build cannot run."""
    prediction = solve(
        build.model_copy(update={"load": test_conditions.dummy(build)}), situation.model_copy(update={"level": 0.0})
    )
    full = solve(build.model_copy(update={"load": test_conditions.dummy(build)}), situation)
    f = prediction.situation.frequency_of_mains(build)
    return Sheet(
        TEST, "Hum and noise", "What is at the output without a signal, line by line, and where it gets in.",
        settings=(
            ("Generator", "off, unplugged"),
            ("Input", "shorted at the socket"),
            ("Meter", "AC mV, true rms, or a scope at 20 ms"),
        ),
        load=f"{test_conditions.dummy(build).name} at the output. "
        "Ears last: a loudspeaker only where the meter says less than 10 mV.",
        wired=f"A shorting plug in the {channel} input; volume first down, then up. {scope_words(build, channel)}",
        asked=lambda _readings: _asked(build, channel, prediction, f),
        outcomes=lambda readings: _outcomes(build, full, prediction, readings, f),
    )  # fmt: skip


def ripple_through_v(build: Build, rest: Prediction) -> float | None:
    """Ripple of the rails at the output at twice the mains, V RMS; None where the module states no rejection.

    The saw tooth's first harmonic is 1 / pi of its height (Fourier), / sqrt 2 for RMS; both rails' add at worst.
    """
    figure, rejection = rest.get("rail_idle_ripple_v_pp"), build.module.rejection_db
    if figure is None or not figure.known or rejection is None:
        return None
    rails = 1 if build.supply.single_rail else 2
    return rails * figure.value / math.pi / math.sqrt(2.0) * math.pow(10.0, -rejection / 20.0)


def _asked(build: Build, channel: str, rest: Prediction, f: float) -> tuple[Request, ...]:
    key = build.key_of(channel)
    conditions = dict(test_conditions.of_supply(build, rest.situation, module=build.mark("module")))
    noise, ripple = build.module.noise_v_rms, ripple_through_v(build, rest)
    whole = None if noise is None and ripple is None else math.hypot(noise or 0.0, ripple or 0.0)

    def window(value: float | None, why: str) -> Window | None:
        return None if not value else Window(0.0, FACTOR * value, "V", why)

    quiet = "Input shorted, volume down: AC millivolts at the output."
    rows = (
        ("whole", "everything", quiet, window(whole, "listed noise and the rails' ripple through its rejection"), False,
         "the module states neither noise nor rejection"),
        ("one", f"at {f:g} Hz", f"The line at {f:g} Hz, by a filter or the scope's spectrum.", None, True,
         "what strays in at the mains' own frequency nobody states"),
        ("two", f"at {2 * f:g} Hz", f"The line at {2 * f:g} Hz.", window(ripple, "rails' ripple through the "
            "module's rejection"), True,
         "the module states no rejection"),
        ("three", f"at {3 * f:g} Hz", f"The line at {3 * f:g} Hz.", None, True, ("what strays in from a core "
            "nobody states")),
        ("up", "volume up", "Input still shorted, volume control full up: everything again.", None, True,
         "held against the reading with volume down"),
        ("source", "source connected", ("Short taken away, source connected and silent, volume as it is "
            "used."), None, True,
         "held against the reading with the input shorted"),
    )  # fmt: skip
    requests = tuple(
        bench_request(
            test=TEST, key=name, channel=key, group="Input shorted" if name != "source" else "Source connected",
            label=label, ask=ask, unit="V", window=expected, conditions=conditions, form="level", optional=optional,
            example="0.8 mV", why_open=why, bare_prefix="m", probe=_probe(name, f),
        )
        for name, label, ask, expected, optional, why in rows
    )  # fmt: skip
    return test_settings.under(
        requests, test_settings.silent(), test_settings.into(test_conditions.dummy(build)),
        test_settings.source(build, rest.situation),
    )  # fmt: skip


def _probe(name: str, f: float) -> Probe | None:
    """Volume control and source are a hand's: what asks for them is read after it was there."""
    if name == "whole":
        return Probe(Point.OUTPUT, Quantity.VOLTS_AC)
    order = {"one": 1.0, "two": 2.0, "three": 3.0}.get(name)
    return None if order is None else Probe(Point.OUTPUT, Quantity.LINE, order * f)


def _outcomes(build: Build, full: Prediction, rest: Prediction, readings: Readings, f: float) -> tuple[Outcome, ...]:
    outcomes: list[Outcome] = []
    whole = last(readings, "whole")
    if whole is not None:
        clip = full["clip_v_rms"]
        db = derived(lambda v, n: 20.0 * math.log10(v / n), Measured(clip.value, clip.u), measured(whole))
        state = State.CLEAR if db.value >= QUIET_DB * (1 - 1e-9) else State.CLOSE if db.value >= POOR_DB else State.OVER
        outcomes.append(
            Outcome(
                "Below full output",
                f"{db.value:.0f} dB",
                state,
                f"practice: {QUIET_DB:g} dB",
                f"{_heard(whole.value)} Full output as predicted.",
            )
        )
    outcomes += _lines(build, rest, readings, f)
    outcomes += _source(readings)
    return tuple(outcomes)


def _heard(v_rms: float) -> str:
    if v_rms < 0.3e-3:
        return "Not heard with the ear at the loudspeaker."
    if v_rms < 2e-3:
        return "Heard only close to the loudspeaker."
    return "Heard in a quiet room."


def _lines(build: Build, rest: Prediction, readings: Readings, f: float) -> list[Outcome]:
    """Which part is largest, and what to try."""
    parts = {key: reading.value for key in ("one", "two", "three") if (reading := last(readings, key)) is not None}
    whole = last(readings, "whole")
    if whole is not None and parts:
        left = whole.value**2 - sum(value**2 for value in parts.values())
        if left > 0.0:
            parts["rest"] = math.sqrt(left)
        elif -left > 0.2 * whole.value**2:
            return [
                Outcome(
                    "The lines", "more than everything together", State.OVER, "",
                    "Lines cannot be more than the whole: one was read as peak, or on another range.",
                )
            ]  # fmt: skip
    if not parts:
        return []
    key = max(parts, key=lambda part: parts[part])
    power = sum(value**2 for value in parts.values())
    share = 100.0 * parts[key] ** 2 / power
    names = {"one": f"{f:g} Hz", "two": f"{2 * f:g} Hz", "three": f"{3 * f:g} Hz", "rest": "noise and higher lines"}
    say, state = _cause(build, rest, key, parts)
    return [Outcome("Most of it", f"{names[key]}: {share:.0f} % of its power", state, shown(parts[key], "V"), say)]


def _cause(build: Build, rest: Prediction, key: str, parts: dict[str, float]) -> tuple[str, State]:
    if key == "two":
        ripple = ripple_through_v(build, rest)
        if ripple is not None and parts["two"] <= FACTOR * ripple:
            return (
                (
                    "As much as the rails' ripple leaves through the module's rejection: more reservoir, a second "
                    "stage or a "
                    "regulator for the input stages."
                ),
                State.CLEAR,
            )
        return (
            (
                "Charging pulses in a ground wire: signal ground to the reservoirs' middle by a wire of its own, "
                "loudspeaker "
                "return to the same place, transformer leads twisted."
            ),
            State.CLOSE,
        )
    if key == "one":
        return (
            (
                "A field or a loop: turn the transformer by quarter turns, move input wires from it; see whether two "
                "earths meet through the input's screen."
            ),
            State.CLOSE,
        )
    if key == "three":
        return ("A saturated core's field: DC on the mains, or a transformer too near. Turn it, move it.", State.CLOSE)
    noise = build.module.noise_v_rms
    if noise is not None and parts["rest"] > FACTOR * noise:
        return (
            "More than listed: an input left open, a stage that oscillates, or a class D carrier in the meter.",
            State.CLOSE,
        )
    return ("Hiss of its own: less gain, or lower resistors at its input, is all that lowers it.", State.CLEAR)


def _source(readings: Readings) -> list[Outcome]:
    whole, up, source = (last(readings, key) for key in ("whole", "up", "source"))
    outcomes = []
    if whole is not None and up is not None and up.value > LOOP_RATIO * whole.value:
        outcomes.append(
            Outcome(
                "Volume up", f"× {up.value / whole.value:.1f}", State.CLOSE, "",
                "The volume control's own resistance and its wiring let it in: screen them, ground at one end.",
            )
        )  # fmt: skip
    if whole is not None and source is not None:
        ratio = source.value / max(whole.value, up.value if up is not None else 0.0)
        loop = ratio > LOOP_RATIO
        outcomes.append(
            Outcome(
                "Source connected", f"× {ratio:.1f}", State.CLOSE if loop else State.CLEAR, "",
                "A loop through both earths or the screen: try the source on a battery, then an input transformer or a "
                "balanced input. Never lift a safety earth." if loop else "The source adds next to nothing.",
            )
        )  # fmt: skip
    return outcomes
