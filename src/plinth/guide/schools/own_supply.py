"""The build's own supply before any board hangs on it: what must be set before first power, alone, its input rails."""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.supplies import BatterySupply, SwitcherSupply
from plinth.guide.precomputed import Precomputed
from plinth.guide.schools import wall_steps
from plinth.guide.schools.board_steps import subject, wrong_primary
from plinth.guide.schools.protection_steps import HAND_S
from plinth.guide.step import Hint, Step, limited_to
from plinth.judge.window import Window
from plinth.physics.protection.tried_by_hand import RC_SHARE
from plinth.predict.wall import v_boost
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task
from plinth.record.subject import WHOLE
from plinth.units.shown import shown

# Below this share of its rating a fuse is of no use as a limit, above it a limit is of no use before the fuse.
LIMIT_OF_IDLE = 3.0
# A switcher set for mains below this doubles them, so that its bulk capacitor holds as much as on the higher ones.
DOUBLED_BELOW_V = 150.0
BATTERY_CAUTION = "A battery drives hundreds of amperes through a slipped spanner. Fuse at its terminal, rings off."


def before_power(build: Build) -> list[Step]:
    """What is to be set or tried before a switcher or converter gets its first power; nothing for a transformer."""
    match build.supply:
        case SwitcherSupply():
            return [_jumper(build, build.supply)]
        case BatterySupply():
            return [_converter_on_a_limit(build)]
        case _:
            return []


def _bulk_v(supply: SwitcherSupply, mains_v_rms: float) -> float:
    """The most that a switcher's bulk capacitor holds: the boost stage's volts, else the crest of the highest mains."""
    part, crest = supply.switcher, math.sqrt(2.0) * mains_v_rms
    if not part.pfc:
        # On the lower setting of a jumper its rectifier doubles.
        return crest * (2.0 if part.v_mains_jumper is not None and part.v_mains_jumper < DOUBLED_BELOW_V else 1.0)
    return max(crest, v_boost(supply))


def _jumper(build: Build, supply: SwitcherSupply) -> Step:
    set_for = supply.switcher.v_mains_jumper
    mains = 0.0 if build.mains is None else build.mains.v_nominal_rms
    high = mains * (1.0 + (0.0 if build.mains is None else build.mains.tolerance))
    how = "Nobody states how it is set" if set_for is None else f"It is planned as set for {set_for:g} V"
    return Step(
        asks=Task(
            about=subject(WHOLE, "jumper"), place="Build", title=f"the switcher is set for {mains:g} V",
            ask=f"Plug out for five minutes first: its bulk capacitor holds up to {_bulk_v(supply, high):.0f} V. "
                f"{how}. Look at the jumper or switch itself, and at what is printed beside it. Set for half of the "
                f"mains it burns at once.",
            conditions={"supply": build.mark("supply")},
        ),
        power=False,
        hints=(Hint(0, "there is no jumper", "Wide-range: its label says both mains. Then it needs none."), Hint(0,
            "no label, no print", "Do not guess. The maker's page, or another supply.")),
        caution=wall_steps.MAINS_CAUTION, blocked=wrong_primary(build),
    )  # fmt: skip


def _converter_on_a_limit(build: Build) -> Step:
    """The converter alone on a limited source: what it draws idle tells whether its halves switch as they should."""
    assert build.supply.converter is not None
    battery, converter = build.supply.battery, build.supply.converter
    idle = converter.p_idle_w / battery.v_nominal
    limit = max(round(LIMIT_OF_IDLE * idle, 1), 0.5)
    return Step(
        asks=Request(
            about=subject(WHOLE, "converter_idle"), place="Build", title="the converter alone, on a limit",
            ask=f"No battery yet, no board: a bench supply at {battery.v_nominal:g} V with its limit at "
                f"{shown(limit, 'A', 2)} in place of the battery. Type the current once it has started.",
            unit="A", window=Window(0.3 * idle, 2.0 * idle, "A", f"{converter.p_idle_w:g} W without load."),
            role=Role.SUPPLY, most=limit, settings=limited_to(limit), conditions={"supply": build.mark("supply")},
        ),
        power=True,
        hints=(Hint(1, "stays in the limit", "Off. A shorted switch, half a winding reversed, or flux that walks.",
            0.9 * limit), Hint(1, "somewhat high",
            "Its frequency: timing resistor and capacitor as planned? A core with a gap?"), Hint(-1, "near 0",
            "It does not start: lock-out, oscillator, or the enable lead.")),
        caution=BATTERY_CAUTION,
    )  # fmt: skip


def on_a_small_one(build: Build, about: str, name: str, known: Precomputed) -> list[Step]:
    """The supply tried from a small transformer first, which lets little into a fault; nothing where there is none."""
    small = known.equipment.small
    if small is None:
        return []
    rails = known.on_small
    conditions: Conditions = {"supply": build.mark("supply"), "small": small.name}
    label = small.v_secondary_rms
    step = wall_steps.rail(
        "small_rail", about, name, title="alone on the small transformer",
        ask=f"The small one ({small.va:g} VA) in place of its own, no board. Plug in, switch on, meter "
        f"{wall_steps.which_rail(build)}.",
        volts=rails.low_v, u=rails.u_v,
        why=f"Small ones stand far above their label without load: this one of {label:g} V at some "
        f"{rails.low_v / math.sqrt(2.0):.0f} V.",
        hints=(
            Hint(-1, "hardly rises", "Off. A shorted diode or can: the small one gets hot, no fuse blows."),
            *wall_steps.rail_hints(build, rails.low_v),
        ),
        conditions=conditions, wait_s=5.0, estimated=("its regulation", "the mains of the day"), reads="",
    )  # fmt: skip
    highest = max(rails.high_v + 2.0 * rails.u_v, 5.5)
    return [
        step,
        wall_steps.discharged(build, about, name, "small_discharged", highest, "Then its own transformer goes in."),
    ]


def alone(
    build: Build, about: str, name: str, known: Precomputed, then: str = "Then the board may be connected."
) -> list[Step]:
    """The supply alone at its full input, discharged again: ``then`` what comes after it.

    Raises PhysicsError where it cannot be computed.
    """
    rails, maximum = known.alone, build.module.v_rail_max
    conditions: Conditions = {"supply": build.mark("supply")}
    mains = build.mains is not None
    step = wall_steps.rail(
        "alone_rail",
        about,
        name,
        title="alone, without a board",
        ask=f"No board connected. {'Plug in' if mains else 'Connect the battery through its fuse'}, "
        "switch on, stand back "
        f"for three seconds, then meter {wall_steps.which_rail(build)}.",
        volts=rails.low_v,
        u=rails.u_v,
        why=f"Without load; the board bears {maximum:g} V at the most.",
        hints=(
            Hint(
                1,
                f"above {maximum:g} V",
                "This supply is not for this module: do not connect it. Fix it in Plan.",
                maximum,
            ),
            *wall_steps.rail_hints(build, rails.low_v),
        ),
        conditions=conditions,
        wait_s=5.0,
        estimated=("the mains of the day",) if mains else (),
        reads="rail_alone",
    )
    assert step.window is not None
    assert step.window.low is not None
    assert step.window.high is not None
    blocked = ""
    if rails.high_v > maximum:
        blocked = (
            f"waits for another supply: this one stands at {rails.high_v:.1f} V alone, and the module bears "
            f"{maximum:g} V. Fix it in Plan first"
        )
    # What a module cannot bear is outside, however well it was foretold.
    window = dataclasses.replace(step.window, high=max(min(step.window.high, maximum), step.window.low))
    first = dataclasses.replace(
        step.asking(window=window), blocked=blocked, caution=step.caution if mains else BATTERY_CAUTION
    )
    steps = [*on_a_small_one(build, about, name, known), first]
    steps += input_rails(build, about, name, conditions)
    steps += [*relay_rail(build, about, name, conditions), *soft_start_bridged(build, about, name)]
    steps.append(
        wall_steps.discharged(build, about, name, "alone_discharged", rails.high_v + 2.0 * rails.u_v, then)
    )  # fmt: skip
    return steps


def soft_start_bridged(build: Build, about: str, name: str) -> list[Step]:
    """Whether the soft start's relay closes, and when: heard, for its contact is on mains; nothing where none is."""
    entry = build.entry
    if build.mains is None or entry.r_soft_ohm is None or not entry.soft_bypass_s:
        return []
    stated = entry.soft_bypass_s
    low, high = (1.0 - RC_SHARE) * stated - HAND_S, (1.0 + RC_SHARE) * stated + HAND_S
    return [Step(
        asks=Request(
            about=subject(about, "soft_bridged"), place=name, title="soft start, bridged in time",
            ask="Switch off, wait ten seconds, switch on again and start the stop watch. Type the seconds until its "
                "relay clicks. Listen only: its contact and the resistor are on mains.",
            unit="s", window=Window(max(low, 0.02), high, "s", f"Stated as {stated:g} s, and a hand on a stop watch."),
            optional=True, conditions={"entry": build.mark("entry"), "supply": build.mark("supply")},
        ),
        power=True,
        hints=(
            Hint(1, "late, or never", "Off. The resistor stays in the mains and burns under load: is its coil fed?"),
            Hint(-1, "at once", "Its timer does not hold: at switch-on the reservoirs fill as if there were none."),
        ),
        caution=wall_steps.MAINS_CAUTION,
    )]  # fmt: skip


def relay_rail(build: Build, about: str, name: str, conditions: Conditions) -> list[Step]:
    """What the relays' own supply gives, before a loudspeaker leans on them; nothing where there is none."""
    part = build.relay_supply
    if not part.fitted:
        return []
    v = part.v_out
    return [Step(
        asks=Request(
            about=subject(about, "relay_rail"), place=name, title="the relays' own supply",
            ask=f"Meter behind the regulator of {part.name}, to 0 V. Type what it gives.",
            unit="V", window=Window(0.95 * v, 1.05 * v, "V", f"Regulated to {v:g} V, ±5 %."), most=4.0 * v,
            conditions={**conditions, "relay_supply": build.mark("relay_supply")},
        ),
        power=True,
        hints=(Hint(1, "as high as before it", "Off. A shorted regulator, or input and output swapped."), Hint(-1,
            "sags", f"It needs {part.v_dropout_v:g} V above its output: read its input too."), Hint(0,
            "it gets too hot to touch", "Its input is far above its output: a sink, or a resistor ahead of it.")),
        caution=wall_steps.MAINS_CAUTION if build.mains is not None else BATTERY_CAUTION,
    )]  # fmt: skip


def input_rails(build: Build, about: str, name: str, conditions: Conditions) -> list[Step]:
    """The regulated rails of the input stages, before anything else hangs on them; nothing where there are none."""
    if build.supply.transformer is None or build.supply.input_supply is None:
        return []
    regulator = build.supply.input_supply.regulator
    v = regulator.v_out
    return [Step(
        asks=Request(
            about=subject(about, "input_rails"), place=name, title="regulated rails of the input stages",
            ask=f"These come first: meter from + to 0 V, then from − to 0 V, behind the regulators. Type the one "
                f"that is further off {v:g} V, without its sign.",
            unit="V", window=Window(0.95 * v, 1.05 * v, "V", f"Regulated to {v:g} V, ±5 %."), most=3.0 * v,
            conditions=conditions,
        ),
        power=True,
        hints=(Hint(1, "as high as before it", "A shorted regulator, or input and output swapped: off."), Hint(-1,
            "sags", f"It needs {regulator.v_dropout_v:g} V above its output: read its input too."), Hint(0,
            "oscillates", "The capacitor at its pins is missing or too far away.")),
        caution=wall_steps.MAINS_CAUTION,
    )]  # fmt: skip
