"""Under which conditions the readings of a test hold, whose supply they are of, and what a test is predicted in."""

from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.record.conditions import Conditions
from plinth.record.subject import SUPPLY

# What the public mains may be off its nominal volts, either way (EN 50160).
MAINS_SHARE = 0.10


def supply_key(build: Build, channel: str) -> str:
    """What records know the supply of a channel by: its own in dual mono, else the one that all share."""
    return build.key_of(channel) if build.one_supply_per_channel else SUPPLY


def of_supply(build: Build, situation: Situation, **more: float | str) -> Conditions:
    """Of the supply: this very one, at this mains or battery; and what else is given."""
    conditions: dict[str, float | str] = {"supply": build.mark("supply"), **more}
    if build.mains is not None:
        conditions["mains_v"] = situation.mains_rms(build)
    elif build.supply.battery is not None:
        conditions["battery_v"] = situation.battery(build)
    return conditions


def of_module(build: Build, **more: float | str) -> Conditions:
    """Of the boards: these very ones; and what else is given."""
    return {"module": build.mark("module"), **more}


def dummy(build: Build) -> Load:
    """The dummy load that a test is done into: the one of the build that is nearest to its own load."""
    resistors = [load for load in (*build.loads, build.load) if load.voice_coil is None] or [build.load]
    return min(resistors, key=lambda resistor: abs(resistor.r_ohm - build.load.r_ohm))


def load_warning(build: Build) -> str:
    """That there is no dummy load, where only a loudspeaker is; empty where there is one."""
    if dummy(build).voice_coil is None:
        return ""
    return "There is no dummy load: put a resistor among the loads first. No loudspeaker may be driven like this. "


def from_source(build: Build, situation: Situation) -> str:
    """From what the build runs, for a sentence: ``at 230 V mains``."""
    words = source_words(build, situation)
    return f"{'at' if build.mains is not None else build.supply.runs} {words}"


def source_words(build: Build, situation: Situation) -> str:
    """What the build runs from, in words."""
    if build.mains is not None:
        return f"{situation.mains_rms(build):.4g} V mains"
    return build.supply.words_at(situation.battery(build))
