"""Steps of first power from the wall: the word before it, the supply alone, a board on it, the whole mains at the end.

Whoever brings a build up so works beside live mains: each step under power says what to keep off.
"""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.guide.bleeding import supply_bleed_down
from plinth.guide.schools import limited_supply_windows as expect
from plinth.guide.schools.board_steps import (
    bias,
    emitter_resistor,
    if_assumed,
    insulation,
    loudspeaker,
    output_dc,
    rails_open,
    subject,
    trimmer,
    under,
    warm_bias,
    wrong_primary,
)
from plinth.guide.step import Hint, Reads, Step
from plinth.judge.window import Window
from plinth.physics.rails.transients import SAFE_V
from plinth.record.conditions import Conditions
from plinth.record.subject import SUPPLY, WHOLE

MAINS_CAUTION = (
    "Mains kills. Cover what is live, clip meter leads on with the plug out, one hand away, nobody alone in the house. "
    "Local electrical code and licensed practice come first."
)
# A rail that is read may stand this much beside the computed one before anything is wrong: meters and hurried eyes.
READ_SHARE = 0.04


def supply_key(build: Build, channel: str) -> str:
    """What records of the supply alone are known by: all channels', or that of a channel with one of its own."""
    return build.key_of(channel) if build.one_supply_per_channel else SUPPLY


def supply_name(build: Build, channel: str) -> str:
    """What the supply of a channel is called."""
    return f"Supply of {channel}" if build.one_supply_per_channel else "Supply"


def acknowledged(build: Build) -> Step:
    """The word before the first mains step, once for a build."""
    entry, mains = build.entry, build.mains
    wall = "the mains" if mains is None else f"{mains.v_nominal_rms:g} V"
    fuse = f"{entry.fuse_a_rms:g} A {entry.fuse_kind}"
    return Step(
        "mains_known", subject(WHOLE, "mains_known"), "Build: before the first mains",
        f"From here on {wall} is in the case. Fuse ({fuse}) and switch stand in the live conductor, the case is bonded "
        "to earth, no bare terminal stays live with the switch off, strain relief holds: look at each of them. If any "
        "of it is not so, or not yours to do under your local code, stop here.",
        "word", None, "", "", "meter", False,
        (
            Hint(0, "not sure of one of them", "Ask somebody who is licensed for it. It is no shame, and no hurry."),
            Hint(0, "no earth at the socket", "Do not go on: a metal case must be bonded to a real earth."),
        ),
        caution=MAINS_CAUTION, blocked=wrong_primary(build),
    )  # fmt: skip


def board_alone(build: Build, channel: str, v_rail: float) -> list[Step]:
    """What is looked at of a board before any power."""
    board = {"module": build.mark("module")}
    steps = [
        under(insulation(channel), board | {"sink": build.mark("sink")}),
        under(rails_open(channel, build, v_rail), board),
    ]
    if build.module.bias is not None:
        steps += [under(one, board) for one in (emitter_resistor(channel, build.module), trimmer(channel))]
    return steps


def rail(
    key: str, about: str, title: str, ask: str, volts: float, u: float, why: str, hints: tuple[Hint, ...],
    conditions: Conditions, *, wait_s: float = 0.0, estimated: tuple[str, ...] = (), reads: Reads = "rail",
) -> Step:  # fmt: skip
    """A rail read under mains power against the computed one: its 95 % band and what reading adds to it."""
    half = 2.0 * u + READ_SHARE * volts
    return Step(
        key, subject(about, key), title, ask, "reading", Window(volts - half, volts + half, "V", why, estimated), "V",
        "", "meter", True, hints, caution=MAINS_CAUTION, wait_s=wait_s, most=1.5 * volts, conditions=conditions,
        reads=reads,
    )  # fmt: skip


def which_rail(build: Build) -> str:
    """Between which points a rail is read, and which of two is typed."""
    if build.supply.single_rail:
        return "from the rail to 0 V"
    return "from + rail to 0 V, then from − rail to 0 V; type the lower one, without its sign"


def rail_hints(build: Build) -> tuple[Hint, ...]:
    """What a wrong rail of a supply alone means."""
    hints = [
        Hint(-1, "one rail is missing", "A winding is not connected, a diode is open, or a fuse is blown."),
        Hint(-1, "about half", "A half winding is reversed, or one bridge only is at work."),
        Hint(1, "about double", "The primary is set for twice these mains: off at once."),
        Hint(
            1, "somewhat high", "Small transformers stand far above their label without load. Is its size as planned?"
        ),
    ]
    return tuple(hints[1:] if build.supply.single_rail else hints)


def discharged(build: Build, about: str, name: str, key: str, v_rail: float, then: str) -> Step:
    """Off, plug out, waited, and read: nothing is touched before."""
    bleed, single = supply_bleed_down(build, v_rail), build.supply.single_rail
    most = SAFE_V if single else 2.0 * SAFE_V
    how = "estimated: no bleeder is stated" if bleed.estimated else "through the bleeder"
    return Step(
        key, subject(about, key), f"{name}: off, plug out, and discharged",
        f"Press Stop, pull the plug, wait {bleed.seconds:.0f} s ({how}), then meter on DC "
        f"from {'the rail to 0 V' if single else '+ rail to − rail'}. Type what is left. {then}",
        "reading", Window(-most, most, "V", "Below 5 V." if single else "Below 5 V on each rail, 10 V end to end."),
        "V", "", "meter", False,
        (
            Hint(1, "hardly falls", "Nothing discharges it: a resistor of 1 kΩ, 5 W, held across for a minute."),
            Hint(0, "is it really off", "A plug in the hand is off. A switch may stand in the wrong conductor."),
        ),
        caution="Read before you touch. A capacitor that is not bled keeps its charge for hours.",
        wait_s=bleed.seconds, most=v_rail if single else 2.0 * v_rail, conditions={"supply": build.mark("supply")},
        reads="left",
    )  # fmt: skip


def on_full_mains(
    build: Build, channel: str, v_build_idle: float, volts: float, u: float, readings: Mapping[str, float]
) -> list[Step]:
    """What both schools end with: the board on the whole mains, its bias, the loudspeaker. ``volts`` of the rail."""
    module = build.module
    full = expect.full_rail_v(module, v_build_idle)
    powered: dict[str, float | str] = {"module": build.mark("module"), "rail_v": full}
    whole = powered | {"supply": build.mark("supply"), "protection": build.mark("protection")}
    steps = [
        rail(
            "mains_rail", channel, f"{channel.capitalize()}: rails on full mains",
            f"No load, no signal, input shorted. Plug in, switch on, meter {which_rail(build)}.", volts, u,
            "This build's own supply with one board at rest on it.",
            (
                Hint(-1, "one rail low", "Off. That half of the board draws too much, or its fuse is gone."),
                Hint(1, "too high", "The board draws nothing: is it connected, and its fuse whole?"),
            ),
            powered | {"supply": build.mark("supply")}, wait_s=10.0,
        ),
        under(_on_mains(output_dc(channel, build, "full_dc", full)), powered),
    ]  # fmt: skip
    if module.bias is not None:
        first = "Input shorted, no load."
        both = bias(channel, build, full, readings, first), warm_bias(channel, build, full, readings)
        steps += [under(_on_mains(one), powered) for one in both]
    steps += [
        discharged(
            build,
            channel,
            channel.capitalize(),
            "mains_discharged",
            max(full, volts + 2.0 * u),
            "Then wire the loudspeaker.",
        ),
        under(loudspeaker(channel, build), whole),
    ]
    return steps


def _on_mains(step: Step) -> Step:
    return dataclasses.replace(step, caution=f"{step.caution} {MAINS_CAUTION}".strip())


def settling(build: Build) -> str:
    """How long an output may sit anywhere after switching on."""
    return f"{build.module.settling_s:g} s{if_assumed(build.module)}"


def known_by(build: Build, channel: str, steps: list[Step]) -> tuple[Step, ...]:
    """The steps as records know them: those about the channel by its key, whatever it is called."""
    key = build.key_of(channel)
    return tuple(
        dataclasses.replace(one, about=subject(key, one.key)) if one.about.channel == channel else one for one in steps
    )
