"""The soak: hours to a week on a cheap loudspeaker, looked at when it is due, before the good ones."""

import dataclasses

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.guide import board_windows as expect
from plinth.guide.judging import wait_words
from plinth.guide.schools.board_steps import place_of, subject
from plinth.guide.step import Hint, Step
from plinth.judge.window import Window
from plinth.predict.estimates import HOT_DAY_C, USUAL_AIR_C
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task

_HOUR = 3600.0
# What early failures take: most show within a day, electrolytics and pads within a week.
HOURS = (1.0, 8.0, 24.0, 168.0)
# The sink is looked at once it is warm, and once more at the end.
_SINK_AT = (1.0, 168.0)


def soak(channel: str, build: Build, caution: str, conditions: Conditions) -> list[Step]:
    """Output DC at each time, the sink at the first and the last; then the good loudspeakers."""
    steps: list[Step] = []
    for hours in HOURS:
        steps.append(_output(channel, build, hours))
        if hours in _SINK_AT:
            steps.append(_sink(channel, build, hours))
    steps = [dataclasses.replace(step, caution=caution, due_after="loudspeaker") for step in steps]
    return [step.asking(conditions=conditions) for step in (*steps, _good_ones(channel))]


def _after(hours: float) -> str:
    return wait_words(hours * _HOUR).replace("60 min", "an hour")


def _output(channel: str, build: Build, hours: float) -> Step:
    where = "across the loudspeaker"
    return Step(
        asks=Request(
            about=subject(channel, f"soak_{hours:g}h"),
            place=place_of(channel), title=f"soak, output DC after {_after(hours)}",
            ask=f"It plays on a cheap loudspeaker. Stop the music, meter on DC {where}, type it with its sign.",
            unit="V", window=expect.output_dc(build.module), bare_prefix="m", most=build.module.v_rail_max,
        ),
        power=True,
        hints=(Hint(0, "moved since the last time",
            "Something ages or warms: the feedback capacitor, the input pair."), Hint(0,
            "it crackled, or stopped once", "Write it into the diary; then look at joints and contacts.")),
        due_after_s=hours * _HOUR,
    )  # fmt: skip


def _sink(channel: str, build: Build, hours: float) -> Step:
    # Today's air is cooler than the worst day: what the sink reads now must leave room for that.
    room = HOT_DAY_C - USUAL_AIR_C
    high = build.sink.t_limit_c - room
    return Step(
        asks=Request(
            about=subject(channel, f"soak_sink_{hours:g}h"),
            place=place_of(channel), title=f"soak, the sink after {_after(hours)}",
            ask="Thermometer on the sink beside an output device, lid on, while it plays.", unit="°C",
            window=Window(None, high, "°C",
                f"In air of {USUAL_AIR_C:.0f} °C; on a day of {HOT_DAY_C:.0f} °C it is {room:.0f} K more, and its "
                f"limit is {build.sink.t_limit_c:g} °C.", ("the air at the bench",)),
            role=Role.THERMOMETER, optional=True,
        ),
        power=True,
        hints=(Hint(1, "above",
            "Quieter, or off. A larger sink, more air, or a lower bias before it plays on a hot day."), Hint(0,
            "dust or felt near", "It must hang free: holes above and below it.")),
        due_after_s=hours * _HOUR,
    )  # fmt: skip


def _good_ones(channel: str) -> Step:
    return Step(
        asks=Task(
            about=subject(channel, "good_loudspeaker"), place=place_of(channel), title="the good loudspeakers",
            ask="Has it played for its week, and did nothing move? Then power off, and wire the loudspeakers that "
                "it was built for.",
        ),
        power=False,
        hints=(Hint(0, "something was odd on the way", "Another week on the cheap ones costs nothing."),),
    )  # fmt: skip
