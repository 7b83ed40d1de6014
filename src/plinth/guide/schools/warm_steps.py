"""Steps of a board that warms up: air, sink, the bias once more until it stays, the output once it is warm."""

import dataclasses
import math
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.guide import board_windows as expect
from plinth.guide.judging import wait_words
from plinth.guide.schools.board_steps import output_dc, place_of, subject
from plinth.guide.step import Hint, Step, Watch
from plinth.judge.window import Window
from plinth.predict.estimates import HOT_DAY_C, USUAL_AIR_C
from plinth.record.request import Request

# What heat at rest and the sink's own figure leave open of a rise, as a share of it, and what a thermometer adds.
RISE_SHARE, READ_K = 0.3, 3.0
# By which factor a time constant may be off: where the sink's heat capacity is stated, and where it is not.
KNOWN_TAU, UNKNOWN_TAU = 1.4, 2.0
AIR_SPREAD_C = 8.0


def warm(
    channel: str, build: Build, v_rail: float, readings: Mapping[str, float], *, bias_set: bool = False
) -> tuple[Step, ...]:
    """What follows on the bias once it is warm, for a module that is trimmed here, or was at the works."""
    return (
        sink(channel, build, v_rail, readings), retrim(channel, build, v_rail, readings, bias_set=bias_set),
        warm_output_dc(channel, build, v_rail),
    )  # fmt: skip


def air(channel: str) -> Step:
    """The air at the bench, from which a sink rises."""
    return Step(
        asks=Request(
            about=subject(channel, "air"), place=place_of(channel), title="the air at the bench",
            ask="Thermometer in the air beside the sink, before it is warm.", unit="°C",
            window=Window(5.0, 40.0, "°C", "What the sink shows later is held against this."), role=Role.THERMOMETER,
            optional=True,
        ),
        power=False, hints=(Hint(0, "no thermometer", "Leave it out: 20 °C is taken, and the windows are wider."),),
    )  # fmt: skip


def sink(channel: str, build: Build, v_rail: float, readings: Mapping[str, float]) -> Step:
    """The sink with this channel at rest, watched until it stays, and what it would be on a hot day."""
    rise, wait = expect.rest_rise_k(build, v_rail), expect.settles_s(build, v_rail)
    known = readings.get("air")
    at, spread = (known, 1.0) if known is not None else (USUAL_AIR_C, AIR_SPREAD_C)
    half = math.hypot(RISE_SHARE * rise, READ_K) + spread
    high = min(at + rise + half, build.sink.t_limit_c)
    estimated = [] if known is not None else ["the air at the bench"]
    if build.sink.heat_capacity_j_per_k is None:
        estimated.append("heat capacity of the sink")
    return Step(
        asks=Request(
            about=subject(channel, "sink"), place=place_of(channel), title="the sink, warm",
            ask=f"Thermometer on the sink beside an output device, {wait_words(wait)} or more after the bias was "
            f"set. Note it on the way if it still moves.",
            unit="°C",
            window=Window(
                min(at + rise - half, high - 2.0 * READ_K),
                high,
                "°C",
                f"{expect.rest_heat_w(build, v_rail):.3g} W at rest warm it by {rise:.0f} K above {at:.0f} °C.",
                tuple(estimated),
            ),
            role=Role.THERMOMETER, optional=True,
        ),
        power=True,
        hints=(
            Hint(1, "above", "Stop. The bias is too high, the stage oscillates, or the sink hangs in dead air."),
            Hint(-1, "below", "Is the bias set? Does the thermometer touch metal, with paste, at the right sink?"),
            Hint(0, "one device is hotter than the others", "Its pad, its screw, or the sharing between pairs."),
        ),
        caution="Hot metal. Keep the probe's lead off live tabs: some carry a rail.",
        reads="sink_c",
        watch=Watch(
            wait / 3.0, _tau_spread(build), max(0.03 * rise, 0.5), start=at, jitter=0.3, limit=build.sink.t_limit_c,
            hotter_by=HOT_DAY_C - at, hot_words=f"In air of {HOT_DAY_C:.0f} °C",
        ),
    )  # fmt: skip


def retrim(channel: str, build: Build, v_rail: float, readings: Mapping[str, float], *, bias_set: bool = False) -> Step:
    """The bias trimmed once more, warm: two readings in a row inside. One that was set at the works is read again."""
    module = build.module
    assert module.bias is not None
    measured = readings.get("emitter_resistor")
    r = measured if measured is not None else module.bias.r_fitted_ohm
    window = expect.bias_setting(module, r, measured is not None, bias_set=bias_set)
    turn = "Turn to the window if it is not inside" if not bias_set else "While it lies inside, leave the trimmer alone"
    wait = max(expect.settles_s(build, v_rail) / 3.0, 60.0)
    return Step(
        asks=Request(
            about=subject(channel, "retrim"), place=place_of(channel),
            title="bias read again, warm" if bias_set else "bias trimmed again, warm",
            ask=f"{turn}, wait {wait_words(wait)}, then type it. Once more after as "
                f"long again: two rounds in a row inside, and it stays.",
            unit="V", window=window, bare_prefix="m", most=v_rail,
        ),
        power=True,
        hints=(Hint(1, "climbs between rounds",
            "Its drift is too much for its sink: sensor, paste, or a larger sink."), Hint(1, "above",
            "Turn down, wait, read again."), Hint(-1, "below", "Turn up a little, wait, read again.")),
        wait_s=wait, across_ohm=r, rounds=2, watch=Watch(wait, _tau_spread(build), 0.02 * _middle(window), None, 0.1),
        reads="warm_bias",
    )  # fmt: skip


def warm_output_dc(channel: str, build: Build, v_rail: float) -> Step:
    """The output once the board is warm and its bias set."""
    step = output_dc(channel, build, "warm_dc", v_rail)
    where = "from output + to output −" if build.both_outputs_live else "from output to 0 V"
    words = f"Meter on DC {where}, still no loudspeaker. Type it with its sign."
    asking = step.asking(place=place_of(channel), title="output DC, warm", ask=words)
    return dataclasses.replace(asking, wait_s=0.0, watch=None)


def _tau_spread(build: Build) -> float:
    return KNOWN_TAU if build.sink.heat_capacity_j_per_k is not None else UNKNOWN_TAU


def _middle(window: Window) -> float:
    assert window.low is not None
    assert window.high is not None
    return (window.low + window.high) / 2.0
