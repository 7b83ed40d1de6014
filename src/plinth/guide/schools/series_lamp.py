"""The school "lamp in series, then full mains": supply alone, each board alone, the lamp away, the bias set anew."""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.modules import Module
from plinth.guide import board_windows as expect
from plinth.guide.equipment import NOTHING, Equipment
from plinth.guide.precomputed import Precomputed, known_of
from plinth.guide.school import School
from plinth.guide.schools import own_supply, wall_steps
from plinth.guide.schools.board_steps import output_dc, place_of, subject, under
from plinth.guide.step import Glow, Hint, Reads, Step
from plinth.judge.window import Window
from plinth.physics.mains.lamp import ROOM_K, glow
from plinth.physics.stages.bias import bias_mv
from plinth.predict.lamp_outlook import PART_SHARE, AtRest, LampOutlook, why_no_lamp
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task
from plinth.record.subject import WHOLE
from plinth.units.shown import shown

# How much of the bias is set behind the lamp: enough to see that it can be set, so little that full mains cannot hurt.
LEAST_SHARE, MOST_SHARE = 0.2, PART_SHARE
# A filament is dark or glows within a second; rails behind it settle in a few.
SETTLES_S = 5.0
# How far a filament may be from what is computed, and from where on an eye sees it at all.
GLOW_SPREAD_K, SEEN_K = 350.0, 1100.0
# A share of the rail that nobody sees.
NEXT_TO_NOTHING = 0.03


def plan_steps(
    build: Build,
    channel: str,
    v_build_idle: float,
    readings: Mapping[str, float],
    equipment: Equipment | Precomputed = NOTHING,
) -> tuple[Step, ...]:
    """All steps for ``channel``, as ``School.steps``. Raises PhysicsError where no lamp serves."""
    known = known_of(build, equipment)
    outlook = known.lamp
    lamp: dict[str, float | str] = {"supply": build.mark("supply"), "lamp_w": outlook.lamp_w}
    powered = lamp | {"module": build.mark("module")}
    full = expect.full_rail_v(build.module, v_build_idle)
    about, name = wall_steps.supply_key(build, channel), wall_steps.supply_name(build, channel)
    steps = [
        wall_steps.acknowledged(build),
        *own_supply.on_a_small_one(build, about, name, known),
        under(_fitted(outlook), lamp),
        _alone(build, about, name, outlook, lamp),
        _looked_at(
            "glow_alone", "lamp_alone_glow", about, place=name, title="the lamp, nothing connected", outlook=outlook,
            dimmest=outlook.alone, brightest=outlook.alone, first="Still without a board.", when="supply alone",
            conditions=lamp,
        ),
    ]  # fmt: skip
    # With nothing on it the lamp is next to cold: the regulators have what they need.
    steps += own_supply.input_rails(build, about, name, lamp)
    steps.append(wall_steps.discharged(
        build, about, name, "lamp_alone_discharged", outlook.alone.rail_v, "Then the board may be connected."
    ))  # fmt: skip
    steps += wall_steps.board_alone(build, channel, full, known)
    if outlook.least.awake:
        steps += _board(build, channel, outlook, readings, powered, bias_set=known.equipment.bias_set)
    steps.append(under(_away(build, channel, outlook), powered))
    first, *rest = wall_steps.on_full_mains(
        build, channel, known, v_build_idle=v_build_idle, volts=outlook.full.rail_v, u=outlook.full.u_rail_v,
        readings=readings, set_v=outlook.full_set.rail_v,
    )  # fmt: skip
    steps += [first, *_on_the_mains_themselves(build, channel), *rest]
    return wall_steps.known_by(build, channel, steps)


def _on_the_mains_themselves(build: Build, channel: str) -> list[Step]:
    """What has waited until the lamp was out of its way: asked once, with the first board on."""
    if channel != build.channels[0] and not build.one_supply_per_channel:
        return []
    about, name, mains = channel, place_of(channel), {"supply": build.mark("supply")}
    return [
        *own_supply.relay_rail(build, about, name, mains), *own_supply.soft_start_bridged(build, about, name),
    ]  # fmt: skip


def _fitted(outlook: LampOutlook) -> Step:
    return Step(
        asks=Task(
            about=subject(WHOLE, "lamp_fitted"), place="Build", title=f"a lamp of {outlook.lamp_w:g} W in series",
            ask=f"Plug out. Put an incandescent lamp of {outlook.lamp_w:g} W, in its holder, into the live "
                f"conductor ahead of the build; no LED, nothing with a dimmer. {outlook.why}",
        ),
        power=False,
        hints=(Hint(0, "you have another lamp",
            "The nearest larger one serves as well: it lets more into a fault."), Hint(0, "only LED lamps",
            "They do not limit. Take a limited bench supply or a variable transformer.")),
        caution=wall_steps.MAINS_CAUTION,
    )  # fmt: skip


def _glows(outlook: LampOutlook, well: AtRest, when: str) -> tuple[Glow, ...]:
    assert well.t_k is not None, "behind a lamp"
    return Glow(f"{when}: {glow(well.t_k)}", well.t_k), Glow(f"a short: {_short(outlook)}", outlook.shorted.t_k)


def _short(outlook: LampOutlook) -> str:
    return glow(outlook.shorted.t_k)


def _lamp_hints(outlook: LampOutlook, well: AtRest) -> tuple[Hint, ...]:
    other = outlook.shorted.other_rail_v
    beside = "" if other is None else f", the other rail at {other:.1f} V"
    return (
        Hint(
            0, f"the lamp stays {_short(outlook)}",
            f"Off at once: a short. It then has {outlook.shorted.v_rms:.0f} V of the {outlook.mains_v_rms:.0f} V on it "
            f"and lets {shown(outlook.shorted_a, 'A', 2)} through{beside}.",
        ),
        Hint(0, "it flashes, then dims", f"Healthy: the reservoirs charge. It then is {well.glow}."),
        Hint(0, "it pulses", "The board starts and falls back: its rail is at the edge of what it needs."),
    )  # fmt: skip


def _looked_at(
    reads: Reads, key: str, about: str, place: str, title: str, outlook: LampOutlook, dimmest: AtRest,
    brightest: AtRest, first: str, when: str, conditions: Conditions,
) -> Step:  # fmt: skip
    """What the lamp does once it has settled: the first thing that tells a short from an open fuse."""
    assert dimmest.t_k is not None, "behind a lamp"
    assert brightest.t_k is not None, "behind a lamp"
    low, high = max(dimmest.t_k - GLOW_SPREAD_K, ROOM_K), brightest.t_k + GLOW_SPREAD_K
    # What looks like a short lies outside, however bright a healthy build may be.
    high = min(high, 0.5 * (brightest.t_k + outlook.shorted.t_k))
    return Step(
        asks=Request(
            about=subject(about, key), place=place, title=title,
            ask=f"{first} Look at the lamp: a flash, then what? Type dark, red, orange, yellow, white or bright.",
            unit="K",
            window=Window(low if dimmest.t_k > SEEN_K else None, high, "K",
                f"{when[0].upper()}{when[1:]} it is "
                f"{dimmest.glow}{'' if brightest is dimmest else f', with the whole bias set {brightest.glow}'}; "
                f"with a short {_short(outlook)}.", ("the lamp's rating",)),
            form="glow", role=Role.EYE, optional=True, conditions=conditions,
        ),
        power=True,
        hints=(Hint(1, "brighter than that",
            "Off at once. A short, a can or a diode the wrong way round, a shorted turn, a bias far too high."),
            Hint(-1, "dark", "Nothing flows: the fuse, the switch, the plug, or the lamp itself."), Hint(0,
            "it flashes, then dims", "Healthy: the reservoirs charge."), Hint(0, "it pulses",
            "The board starts and falls back: its rail is at the edge of what it needs.")),
        caution=wall_steps.MAINS_CAUTION, wait_s=SETTLES_S, reads=reads, glows=_glows(outlook, dimmest, when),
    )  # fmt: skip


def _alone(build: Build, about: str, name: str, outlook: LampOutlook, conditions: Conditions) -> Step:
    step = wall_steps.rail(
        "lamp_alone_rail", about, name, title="alone behind the lamp",
        ask=f"No board connected. Plug in, switch on and look at the lamp: a flash, then {outlook.alone.glow}. Meter "
        f"{wall_steps.which_rail(build)}.",
        volts=outlook.alone.rail_v, u=outlook.alone.u_rail_v, why=_alone_words(outlook),
        hints=(*_lamp_hints(outlook, outlook.alone), *wall_steps.rail_hints(build, outlook.alone.rail_v)),
        conditions=conditions, wait_s=SETTLES_S, estimated=("the lamp's rating", "the mains of the day"),
        reads="rail_alone",
    )  # fmt: skip
    return dataclasses.replace(step, glows=_glows(outlook, outlook.alone, "supply alone"))


def _alone_words(outlook: LampOutlook) -> str:
    missing = outlook.full_alone.rail_v - outlook.alone.rail_v
    if missing < NEXT_TO_NOTHING * outlook.full_alone.rail_v:
        return "Without load the lamp drops next to nothing, so the rails stand where they will on full mains."
    return (
        f"What bleeders and input stages draw warms the lamp a little: {missing:.1f} V less than the "
        f"{outlook.full_alone.rail_v:.1f} V of full mains."
    )


def _board(
    build: Build, channel: str, outlook: LampOutlook, readings: Mapping[str, float], conditions: Conditions, *,
    bias_set: bool = False,
) -> list[Step]:  # fmt: skip
    module, least, whole = build.module, outlook.least, outlook.whole
    set_words = "trimmer at its least" if module.bias is not None else "at rest"
    as_set = (
        f" With the whole bias set, as on a board that was set before, the lamp is {whole.glow} and the rails stand at "
        f"{whole.rail_v:.1f} V: that is healthy too."
        if module.bias is not None
        else ""
    )
    rail = wall_steps.rail(
        "lamp_rail", channel, place_of(channel), title="rails behind the lamp",
        ask="Board connected, no load, no signal, input shorted. Plug in and look at the lamp: a "
        f"flash, then {least.glow}."
        f" Meter {wall_steps.which_rail(build)}.",
        volts=least.rail_v, u=least.u_rail_v, why=f"One board, {set_words}, behind {outlook.lamp_w:g} W.{as_set}",
        hints=(
            *_lamp_hints(outlook, least),
            Hint(-1, "one rail missing", "Off. A short on that side, or its fuse is blown.", most=0.1 * least.rail_v),
            Hint(-1, "collapsed", "Off. The board draws far too much: a device in backwards, a bridge of solder."),
            Hint(1, "as high as without the board", "It draws nothing: is it connected, and enabled?"),
        ),
        conditions=conditions, wait_s=SETTLES_S, estimated=("the lamp's rating", "the mains of the day"),
    )  # fmt: skip
    rail = wall_steps.also_when_set(rail, whole.rail_v, least.u_rail_v)
    dc = output_dc(channel, build, "lamp_dc", round(least.rail_v, 1))
    looked_at = _looked_at(
        "glow", "lamp_glow", channel, place=place_of(channel), title="the lamp, with the board", outlook=outlook,
        dimmest=least, brightest=least if module.bias is None else whole, first="Still no load, no signal.",
        when=set_words, conditions=conditions,
    )  # fmt: skip
    steps = [
        dataclasses.replace(rail, glows=_glows(outlook, least, set_words)),
        looked_at,
        under(dataclasses.replace(dc, caution=f"{dc.caution} {wall_steps.MAINS_CAUTION}"), conditions),
    ]
    if module.bias is not None and not bias_set:
        steps.append(under(_some_bias(build, channel, outlook, readings), conditions))
    return steps


def _some_bias(build: Build, channel: str, outlook: LampOutlook, readings: Mapping[str, float]) -> Step:
    """A part of the bias, set behind the lamp, and what it becomes without it."""
    module, least = build.module, outlook.least
    assert module.bias is not None
    r = readings.get("emitter_resistor", module.bias.r_fitted_ohm)
    target = bias_mv(module.bias.i_pair_a, r) / 1000.0
    # The rails sag behind the lamp with the bias that is set there, not with what the trimmer leaves at its least.
    grows = outlook.full.idle_share / max(outlook.part.idle_share, 1e-6)
    window = Window(
        LEAST_SHARE * target / max(grows, 1.0), MOST_SHARE * target / max(grows, 1.0), "V",
        f"At most half of the {shown(target, 'V')} that it shall have. The rails rise from "
        f"{outlook.part.rail_v:.1f} V to {outlook.full.rail_v:.1f} V when the lamp is gone, {_grown(module, grows)}",
        () if "emitter_resistor" in readings else (module.bias.label,),
    )  # fmt: skip
    assert window.high is not None
    return Step(
        asks=Request(
            about=subject(channel, "lamp_bias"), place=place_of(channel), title="a part of the bias, behind the lamp",
            ask=f"Meter on millivolts across {module.bias.label}. Turn up slowly until it lies inside the window, "
                f"and no further: a bias set whole behind the lamp is far too high once the lamp is gone.",
            unit="V", window=window, bare_prefix="m", most=least.rail_v,
        ),
        power=True,
        hints=(Hint(1, "above", "Turn down. What looks right behind the lamp burns without it."), Hint(1,
            "climbs on its own", "Off. Trimmer open, or the sensing transistor is off the sink."), Hint(-1,
            "stays at 0", "Bias transistor shorted, or the wrong resistor is probed."), Hint(0,
            "the lamp brightens at once", "Off: the trimmer works the other way round, or jumps.")),
        caution=wall_steps.MAINS_CAUTION, across_ohm=r,
        becomes=f"{shown(MOST_SHARE * target, 'V')} at the most once the lamp is gone; it is set whole then.",
        reads="bias",
    )  # fmt: skip


def _grown(module: Module, grows: float) -> str:
    if grows > 1.0 + NEXT_TO_NOTHING:
        return f"and the bias becomes {grows:.2f} times what is set here."
    if module.idle_follows_rail is None:
        return "and nobody states whether the bias follows them."
    return "and the bias hardly follows them."


def _away(build: Build, channel: str, outlook: LampOutlook) -> Step:
    words = (
        "Everything behind the lamp was as it should be."
        if outlook.least.awake
        else "Behind no lamp that is to be had would this board work, so it meets the whole mains now."
    )
    return Step(
        asks=Task(
            about=subject(channel, "lamp_away"), place=place_of(channel), title="the lamp away",
            ask=f"Press Stop, pull the plug, wait for the discharge. {words} Take the lamp out; the fuse of the "
                f"inlet is what protects from now on ({build.entry.fuse_a_rms:g} A {build.entry.fuse_kind}).",
        ),
        power=False, hints=(Hint(0, "not sure", "Once more with the lamp costs a minute. A board costs more."),),
        caution=wall_steps.MAINS_CAUTION,
    )  # fmt: skip


def _precompute(known: Precomputed) -> None:
    """What stands behind the lamp, and of its own supply."""
    _ = known.lamp
    known.of_its_own_supply()


SCHOOL = School(
    "series_lamp",
    "Lamp in series, then full mains",
    plan_steps,
    why_not=why_no_lamp,
    precompute=_precompute,
    rails=True,
)
