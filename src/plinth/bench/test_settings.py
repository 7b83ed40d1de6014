"""What is set before a reading at the bench: the generator, the load, the source, as quantities with their limits."""

import dataclasses
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.record.request import Request, Setting

LEVEL, FREQUENCY, LOAD = "generator level", "frequency", "load"
MAINS, BATTERY, SUPPLY, CURRENT_LIMIT = "mains", "battery", "bench supply", "current limit"


def generator(v_rms: float, f_hz: float, most_v_rms: float | None = None) -> tuple[Setting, Setting]:
    """A sine of so many volts RMS, and what it must not go beyond."""
    return Setting(LEVEL, v_rms, "V", 0.0, most_v_rms), Setting(FREQUENCY, f_hz, "Hz")


def silent() -> Setting:
    """No signal: the generator off."""
    return Setting(LEVEL, 0.0, "V", 0.0, 0.0)


def into(load: Load) -> Setting:
    """The dummy load at the output."""
    return Setting(LOAD, load.r_ohm, "ohm")


def source(build: Build, situation: Situation) -> Setting:
    """The volts that the source is at."""
    if build.mains is not None:
        return Setting(MAINS, situation.mains_rms(build), "V")
    battery = build.supply.battery
    if battery is not None:
        return Setting(BATTERY, situation.battery(build), "V", high=battery.v_full)
    return Setting(SUPPLY, build.supply.rough_rail_v, "V")


def under(requests: Sequence[Request], *settings: Setting) -> tuple[Request, ...]:
    """The requests with what is set for all of them, besides what each asks for itself."""
    return tuple(
        dataclasses.replace(
            request, settings=(*request.settings, *(s for s in settings if request.setting(s.name) is None))
        )
        for request in requests
    )
