"""What may be done while something is live, and what waits: decided here, shown by the window."""

import dataclasses
import datetime as dt
from collections.abc import Callable, Sequence

from plinth.builds.build import Build
from plinth.guide.progress import Stand, StepStand, answered_at
from plinth.record.book import RecordBook
from plinth.record.conditions import Conditions
from plinth.record.reading import Override
from plinth.record.subject import Kind, Subject


@dataclasses.dataclass(frozen=True)
class LivePower:
    """A channel of a build under power since ``at``; ``found``: it was so when this window was opened.

    ``channel`` what records know it by: build and channel may be called otherwise by the time they are stopped.
    """

    build_id: int
    channel: str
    at: dt.datetime
    found: bool = False


@dataclasses.dataclass(frozen=True)
class Allowed:
    """What a step allows now. ``why_not`` in words where power stands against it, empty else.

    ``switch_on`` may be offered, and ``now`` done; ``read`` a reading may be typed; ``keep`` the step may be answered
    (``keep_now``: at once); ``pass_over`` with a reason.
    """

    switch_on: bool
    switch_on_now: bool
    read: bool
    read_now: bool
    keep: bool
    keep_now: bool
    pass_over: bool
    why_not: str = ""


def allowed(stand: StepStand, power: LivePower | None, build_id: int, where: str = "") -> Allowed:
    """What may be done at a step of a build while ``power`` is on somewhere (``where`` in words), or nowhere.

    A step under power wants it on for this very channel; one without wants it off; nothing is switched on while
    something else is.
    """
    step = stand.step
    here = power is not None and (power.build_id, power.channel) == (build_id, step.about.channel)
    held = stand.stand is Stand.HELD
    ready = not held and (here or not step.power)
    must_stop = here and not step.power and not held and stand.stand is not Stand.DONE
    elsewhere = power if power is not None and not here else None
    why_not = ""
    if must_stop:
        why_not = "The supply is still on: press Stop first (Esc)."
    if elsewhere is not None and step.power:
        why_not = f"The supply is on for {where or 'another channel'}: press Stop first (Esc)."
    return Allowed(
        switch_on=step.power and not here and not held,
        switch_on_now=elsewhere is None,
        read=step.request is not None and (ready or stand.record is not None),
        read_now=ready and not must_stop,
        keep=ready,
        keep_now=not must_stop,
        pass_over=stand.stand in (Stand.DUE, Stand.OUTSIDE),
        why_not=why_not,
    )


def watching(stand: StepStand, power: LivePower | None, build_id: int) -> bool:
    """Whether the time to watch begins as the step comes up: it is due, and its power is on already."""
    step = stand.step
    here = power is not None and (power.build_id, power.channel) == (build_id, step.about.channel)
    return here and step.power and stand.stand is Stand.DUE


def watch_left_s(
    stand: StepStand, power: LivePower | None, build_id: int, others: Sequence[StepStand], at: dt.datetime
) -> float:
    """Seconds that are still to be watched at ``at`` before the reading of a step is worth taking; 0 where none are.

    Counted from switching on, or from the last of ``others`` that was answered since: so it goes on while one looks at
    something else, and over a restart of the program.
    """
    if power is None or not watching(stand, power, build_id):
        return 0.0
    key = stand.step.about.channel
    times = [
        answered_at(stand.record) for stand in others if stand.record is not None and stand.step.about.channel == key
    ]
    since = max([power.at, *times])
    return min(stand.step.wait_s, max(0.0, stand.step.wait_s - (at - since).total_seconds()))


# Measuring


def measure_gate(build: Build, channel: str) -> str:
    """The subject of a reason to measure a channel that is not brought up."""
    return Subject(Kind.MEASURE, build.key_of(channel), "gate").text


def measure_conditions(build: Build) -> Conditions:
    """What such a reason was written for: these boards on this supply."""
    return {"module": build.mark("module"), "supply": build.mark("supply")}


def held_back(
    build: Build, channels: Sequence[str], brought_up: Callable[[str], bool], book: RecordBook
) -> tuple[str, ...]:
    """Those of ``channels`` that may not be measured: neither brought up nor passed over in writing."""
    today = measure_conditions(build)
    return tuple(
        channel
        for channel in channels
        if not brought_up(channel) and not isinstance(book.counting(measure_gate(build, channel), today), Override)
    )
