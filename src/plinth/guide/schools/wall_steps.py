"""Steps of first power from the wall: the word before it, the supply alone, a board on it, the whole mains at the end.

Whoever brings a build up so works beside live mains: each step under power says what to keep off.
"""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.guide import board_windows as expect
from plinth.guide.bleeding import supply_bleed_down
from plinth.guide.precomputed import Precomputed
from plinth.guide.schools import protection_steps, soak_steps, warm_steps
from plinth.guide.schools.board_steps import (
    bias,
    emitter_resistor,
    if_assumed,
    insulation,
    loudspeaker,
    output_dc,
    output_open,
    place_of,
    rails_open,
    rails_output,
    subject,
    trimmer_step,
    under,
    warm_bias,
    wrong_primary,
)
from plinth.guide.step import Hint, Reads, Step, Watch
from plinth.judge.window import EDGE, Window
from plinth.physics.rails.transients import SAFE_V
from plinth.predict.wall import cores_stated
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task
from plinth.record.subject import SUPPLY, WHOLE
from plinth.units.shown import shown

MAINS_CAUTION = (
    "Mains kills. Cover what is live, clip meter leads on with the plug out, one hand away, nobody alone in the house. "
    "Local electrical code and licensed practice come first."
)
# A rail that is read may stand this much beside the computed one before anything is wrong: meters and hurried eyes.
READ_SHARE = 0.04
# A current of short pulses is read to about this, and what a core takes by itself where nobody states it, at most.
WALL_SHARE, CORE_A = 0.25, 0.15
# As many times its rating a fuse passes for no longer than a reading takes (IEC 60127: 4 x opens within seconds).
FUSE_PASSES = 4.0
# A ripple is read to about this: the reservoirs' tolerance, and what a scope shows of itself.
RIPPLE_SHARE, RIPPLE_V = 0.4, 0.005
# A rail has settled within some time constants of its reservoirs and the bias behind it.
RAIL_TAU_S, RAIL_TAU_SPREAD = 5.0, 3.0


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
        asks=Task(
            about=subject(WHOLE, "mains_known"), place="Build", title="before the first mains",
            ask=f"From here on {wall} is in the case. Fuse ({fuse}) and switch stand in the live conductor, the "
                f"case is bonded to earth, no bare terminal stays live with the switch off, strain relief holds: "
                f"look at each of them. If any of it is not so, or not yours to do under your local code, stop here.",
        ),
        power=False,
        hints=(Hint(0, "not sure of one of them",
            "Ask somebody who is licensed for it. It is no shame, and no hurry."), Hint(0, "no earth at the socket",
            "Do not go on: a metal case must be bonded to a real earth.")),
        caution=MAINS_CAUTION, blocked=wrong_primary(build),
    )  # fmt: skip


def board_alone(build: Build, channel: str, v_rail: float, known: Precomputed) -> list[Step]:
    """What is looked at of a board before any power."""
    board = {"module": build.mark("module")}
    bias_set = known.equipment.bias_set
    setting = expect.supply_setting(build, v_rail, bias_set=bias_set)
    steps = [
        under(insulation(channel), board | {"sink": build.mark("sink")}),
        under(rails_open(channel, build, setting), board),
        under(rails_output(channel, build, setting), board),
        under(output_open(channel, build), board),
    ]
    if build.module.bias is not None:
        first = (
            emitter_resistor(channel, build.module),
            trimmer_step(channel, bias_set=bias_set),
            warm_steps.air(channel),
        )
        steps += [under(step, board) for step in first]
    return steps


def rail(
    key: str, about: str, place: str, title: str, ask: str, volts: float, u: float, why: str, hints: tuple[Hint, ...],
    conditions: Conditions, *, wait_s: float = 0.0, estimated: tuple[str, ...] = (), reads: Reads = "rail",
) -> Step:  # fmt: skip
    """A rail read under mains power against the computed one: its 95 % band and what reading adds to it."""
    half = 2.0 * u + READ_SHARE * volts
    return Step(
        asks=Request(
            about=subject(about, key), place=place, title=title, ask=ask, unit="V",
            window=Window(volts - half, volts + half, "V", why, estimated), most=1.5 * volts, conditions=conditions,
        ),
        power=True, hints=hints, caution=MAINS_CAUTION, wait_s=wait_s, reads=reads,
    )  # fmt: skip


def also_when_set(step: Step, set_v: float, u: float) -> Step:
    """A rail with the window of every healthy state of the trimmer: what lies below is set already, not broken.

    ``set_v`` with the whole bias set, ``u`` its standard uncertainty.
    """
    window = step.window
    assert window is not None
    assert window.low is not None
    low = set_v * (1.0 - READ_SHARE) - 2.0 * u
    # A board without a trimmer is the same in both, but for the last binary digit.
    if low >= window.low - EDGE * abs(window.low):
        return step
    return step.asking(
        window=dataclasses.replace(
            window, low=low, usual_low=window.low,
            below_usual=(
                f"Below {window.low:.1f} V the trimmer is not at its least; with the whole bias set it is {set_v:.1f} "
                "V. Turn it to its least before you go on."
            ),
        ),
    )  # fmt: skip


def which_rail(build: Build) -> str:
    """Between which points a rail is read, and which of two is typed."""
    if build.supply.single_rail:
        return "from the rail to 0 V"
    return "from + rail to 0 V, then from − rail to 0 V; type the lower one, without its sign"


def rail_hints(build: Build, volts: float) -> tuple[Hint, ...]:
    """What a wrong rail of a supply alone means, by how far it is from the ``volts`` expected."""
    if build.supply.transformer is None:
        return (
            Hint(-1, "nothing, or next to it", "It has not started: fuse, enable lead, lock-out.", most=0.15 * volts),
            Hint(-1, "too low", "Off. Something holds it in its limit, or its divider is not as planned."),
            Hint(1, "too high", "Off. Its divider, its setting, or its regulation is not as planned."),
        )
    missing = (
        "No mains (fuse, plug, switch), or a shorted diode or can: off before you look."
        if build.supply.single_rail
        else "One rail: its winding, diode or fuse. Both: no mains, or a shorted diode or can. Off before you look."
    )
    return (
        Hint(-1, "nothing, or next to it", missing, most=0.15 * volts),
        Hint(-1, "far too low", "Off. A can fitted backwards, a shorted turn, 0 V not connected.", most=0.4 * volts),
        Hint(
            -1, "about half", "Half a winding in place of a whole one, or the primary set for twice these mains.",
            most=0.62 * volts,
        ),
        Hint(-1, "somewhat low", "Read the mains. A can that leaks, or a transformer of other volts than planned."),
        Hint(1, "about double", "Off at once, plug out: the primary is set for half of these mains.", 1.6 * volts),
        Hint(1, "far too high", "Off. Another transformer than planned, or another tap.", 1.2 * volts),
        Hint(
            1, "somewhat high",
            "Read the mains. Small transformers stand far above their label without load: is its size as planned?",
        ),
    )  # fmt: skip


def discharged(build: Build, about: str, name: str, key: str, v_rail: float, then: str) -> Step:
    """Off, plug out, waited, and read: nothing is touched before."""
    bleed, single = supply_bleed_down(build, v_rail), build.supply.single_rail
    maximum = SAFE_V if single else 2.0 * SAFE_V
    how = "estimated: no bleeder is stated" if bleed.estimated else "through the bleeder"
    return Step(
        asks=Request(
            about=subject(about, key), place=name, title="off, plug out, and discharged",
            ask=f"Press Stop, pull the plug, wait {bleed.seconds:.0f} s ({how}), then meter on DC from "
                f"{'the rail to 0 V' if single else '+ rail to − rail'}. Type what is left. {then}",
            unit="V",
            window=Window(
                -maximum, maximum, "V", "Below 5 V." if single else "Below 5 V on each rail, 10 V end to end."
            ),
            most=v_rail if single else 2.0 * v_rail, conditions={"supply": build.mark("supply")},
        ),
        power=False,
        hints=(Hint(1, "hardly falls", "Nothing discharges it: a resistor of 1 kΩ, 5 W, held across for a minute."),
            Hint(0, "is it really off", "A plug in the hand is off. A switch may stand in the wrong conductor.")),
        caution="Read before you touch. A capacitor that is not bled keeps its charge for hours.",
        wait_s=bleed.seconds, reads="left",
    )  # fmt: skip


def on_full_mains(
    build: Build,
    channel: str,
    known: Precomputed,
    v_build_idle: float,
    volts: float,
    u: float,
    readings: Mapping[str, float],
    set_v: float,
) -> list[Step]:
    """What both schools end with: the board on the whole mains, its bias, the loudspeaker.

    ``volts`` of the rail with the trimmer at its least, ``set_v`` with the whole bias set.
    """
    module = build.module
    full = expect.full_rail_v(module, v_build_idle)
    powered: dict[str, float | str] = {"module": build.mark("module"), "rail_v": full}
    steps = [
        also_when_set(on_mains_rail(build, channel, full, volts, u, MAINS_CAUTION), set_v, u),
        under(_on_mains(output_dc(channel, build, "full_dc", full)), powered),
    ]
    if module.bias is not None:
        first = "Input shorted, no load."
        bias_set = known.equipment.bias_set
        cold = bias(channel, build, full, readings, first, bias_set=bias_set)
        both = cold, warm_bias(channel, build, full, readings)
        warm = warm_steps.warm(channel, build, full, readings, bias_set=bias_set)
        steps += [under(_on_mains(step), powered) for step in (*both, *warm)]
    return [
        *steps, *ripple(build, channel, known), *wall_current(build, channel, known),
        *at_last(build, channel, max(full, volts + 2.0 * u), MAINS_CAUTION),
    ]  # fmt: skip


def on_mains_rail(build: Build, channel: str, full: float, volts: float, u: float, caution: str) -> Step:
    """The rails of the build's own supply with one board at rest on it."""
    plug = "Plug in" if build.mains is not None else "Connect the battery"
    whole = "full mains" if build.mains is not None else "the battery"
    step = rail(
        "mains_rail", channel, place_of(channel), title=f"rails on {whole}",
        ask=f"No load, no signal, input shorted. {plug}, switch on, meter {which_rail(build)}.", volts=volts, u=u,
        why="This build's own supply with one board at rest on it.",
        hints=(
            Hint(-1, "one rail low", "Off. That half of the board draws too much, or its fuse is gone."),
            Hint(1, "too high", "The board draws nothing: is it connected, and its fuse whole?"),
        ),
        conditions={"module": build.mark("module"), "rail_v": full, "supply": build.mark("supply")}, wait_s=10.0,
    )  # fmt: skip
    watch = Watch(RAIL_TAU_S, RAIL_TAU_SPREAD, 0.01 * volts, None, 0.2, transient=False)
    return dataclasses.replace(step, caution=caution, watch=watch)


def ripple(build: Build, channel: str, known: Precomputed) -> list[Step]:
    """The ripple with one board at rest: it tells of windings and diodes what a mean rail does not."""
    if build.supply.transformer is None or build.mains is None:
        return []
    volts = known.with_board.ripple_v_pp
    twice = 2.0 * build.mains.frequency_hz
    step = Step(
        asks=Request(
            about=subject(channel, "ripple"), place=place_of(channel), title="ripple on the rails, at rest",
            ask=f"Scope on AC, clip at 0 V, "
                f"{'the rail' if build.supply.single_rail else 'each rail; the larger counts'}. It comes "
                f"{twice:.0f} times a second. Type it peak to peak.",
            unit="V",
            window=Window(max((1.0 - RIPPLE_SHARE) * volts - RIPPLE_V, 0.0), (1.0 + RIPPLE_SHARE) * volts + RIPPLE_V,
                "V", f"{shown(volts, 'V', 2)} p-p, as large as the reservoirs' tolerance leaves it."),
            form="swing", role=Role.SCOPE, bare_prefix="m", most=build.module.v_rail_max, optional=True,
            conditions={"module": build.mark("module"), "supply": build.mark("supply")},
        ),
        power=True,
        hints=(Hint(1, f"twice as large, {build.mains.frequency_hz:.0f} times a second",
            "Off. Half a winding reversed, or one diode open: it charges every second time only."), Hint(1, "larger",
            "A reservoir that dried out, or a board that draws more than at rest."), Hint(0, "a band, much faster",
            "The stage oscillates: look at its output.")),
        caution=MAINS_CAUTION, reads="ripple",
    )  # fmt: skip
    return [step]


def wall_current(build: Build, channel: str, known: Precomputed) -> list[Step]:
    """What the wall gives with one board at rest, for whoever can read it; nothing without a transformer."""
    if build.supply.transformer is None or build.mains is None:
        return []
    wall, stated = known.wall, cores_stated(build)
    a, u = wall.primary_rms_a, wall.u_primary_rms_a
    high = a + 2.0 * u + WALL_SHARE * a
    why = "This build's transformer with one board at rest on it."
    if not stated:
        # What a core takes by itself is mostly less than this, and nobody states it.
        high += CORE_A
        why += f" What the core takes by itself is not stated: up to {shown(CORE_A, 'A', 2)} is allowed for it."
    step = Step(
        asks=Request(
            about=subject(channel, "wall_current"), place=place_of(channel), title="current from the wall, at rest",
            ask="Clamp around the live conductor alone, or a power meter at the plug. Type the amperes, true rms.",
            unit="A",
            window=Window((1.0 - WALL_SHARE) * a - 2.0 * u, high, "A", why, () if stated else ("the core's own",)),
            bare_prefix="m", most=FUSE_PASSES * build.entry.fuse_a_rms, optional=True,
            conditions={"module": build.mark("module"), "supply": build.mark("supply")},
        ),
        power=True,
        hints=(Hint(1, "above", "Off. A board that draws too much, a shorted turn, or a bolt that closes one."),
            Hint(0, "it hums", "DC on the mains, or half a winding reversed: look at the ripple with the scope."),
            Hint(-1, "next to nothing", "The clamp holds both conductors, or the board draws nothing.")),
        caution=MAINS_CAUTION, reads="wall_a",
    )  # fmt: skip
    return [step]


def at_last(build: Build, channel: str, highest_v: float, caution: str) -> list[Step]:
    """The protection tried, off and discharged, the loudspeaker allowed, the soak."""
    conditions: Conditions = {
        "module": build.mark("module"), "supply": build.mark("supply"), "protection": build.mark("protection"),
    }  # fmt: skip
    return [
        *protection_steps.tried(channel, build, highest_v, caution, conditions),
        discharged(
            build, channel, channel.capitalize(), "mains_discharged", highest_v, "Then wire the loudspeaker."
        ),
        under(loudspeaker(channel, build), conditions),
        *soak_steps.soak(channel, build, caution, conditions),
    ]  # fmt: skip


def _on_mains(step: Step) -> Step:
    return dataclasses.replace(step, caution=f"{step.caution} {MAINS_CAUTION}".strip())


def settling(build: Build) -> str:
    """How long an output may sit anywhere after switching on."""
    return f"{build.module.settling_s:g} s{if_assumed(build.module)}"


def known_by(build: Build, channel: str, steps: list[Step]) -> tuple[Step, ...]:
    """The steps as records know them: those about the channel by its key, whatever it is called."""
    key = build.key_of(channel)
    return tuple(step.asking(about=subject(key, step.key)) if step.about.channel == channel else step for step in steps)
