"""The school "current-limited bench supply, then full rail": its steps for one channel of a build."""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.guide import board_windows as expect
from plinth.guide.bleeding import board_bleed_down
from plinth.guide.equipment import NOTHING, Equipment
from plinth.guide.precomputed import Precomputed, known_of
from plinth.guide.school import School
from plinth.guide.schools import own_supply, wall_steps, warm_steps
from plinth.guide.schools.board_steps import (
    bias,
    emitter_resistor,
    insulation,
    output_dc,
    output_open,
    place_of,
    rails_open,
    rails_output,
    subject,
    trimmer_step,
    under,
    warm_bias,
)
from plinth.guide.step import Hint, Step, limited_to
from plinth.judge.window import Window
from plinth.physics.rails.transients import SAFE_V
from plinth.record.request import Request
from plinth.units.shown import shown

SUPPLY_CAUTION = "Charged capacitors stay behind after switch-off. Clip leads on with the supply off, one hand away."


def plan_steps(
    build: Build,
    channel: str,
    v_build_idle: float,
    readings: Mapping[str, float],
    equipment: Equipment | Precomputed = NOTHING,
) -> tuple[Step, ...]:
    """All steps for ``channel``; ``v_build_idle`` this build's rail at idle, ``readings`` values by step key.

    Windows use what was already measured: the emitter resistor sets the bias window, the cold bias the warm one.
    """
    module = build.module
    trimmed = module.bias is not None
    full = expect.full_rail_v(module, v_build_idle)
    known = known_of(build, equipment)
    bench, bias_set = known.equipment.bench, known.equipment.bias_set
    low = expect.low_rail_v(module, full) if bench is None else bench.v_rail
    if low is not None and low >= full:
        low = None
    first = expect.supply_setting(build, full if low is None else low, bias_set=bias_set)
    if bench is not None and low is not None:
        first = expect.limited_at(build, bench.v_rail, bench.i_limit_a)
    board = {"module": build.mark("module")}
    steps = [
        under(insulation(channel), board | {"sink": build.mark("sink")}),
        under(rails_open(channel, build, first), board),
        under(rails_output(channel, build, first), board),
        under(output_open(channel, build), board),
    ]
    if trimmed:
        cold = (
            emitter_resistor(channel, module), trimmer_step(channel, bias_set=bias_set), warm_steps.air(channel)
        )  # fmt: skip
        steps += [under(step, board) for step in cold]
    steps += _own_supply_alone(build, channel, known)
    whole = expect.supply_setting(build, full, bias_set=bias_set)
    for key, setting, words in (("low", None if low is None else first, "low rail"), ("full", whole, "full rail")):
        if setting is None:
            continue
        powered = board | {"rail_v": setting.v_rail}
        dc = output_dc(channel, build, f"{key}_dc", setting.v_rail)
        steps += [
            under(_current(channel, build, f"{key}_current", setting, words, bias_set=bias_set), powered),
            under(dc.asking(settings=limited_to(setting.i_limit_a)), powered),
        ]
    powered = board | {"rail_v": full}
    if trimmed:
        limit, before = expect.bias_limit_a(build, full), whole.i_limit_a
        raised = (
            f"First raise the supply's limit from {shown(before, 'A', 2)} to {shown(limit, 'A', 2)}: the board will "
            f"draw up to {shown(limit / expect.BIAS_LIMIT, 'A', 2)}."
            if limit > before
            else f"The supply's limit stays at {shown(before, 'A', 2)}."
        )
        warm = (
            bias(channel, build, full, readings, raised, bias_set=bias_set),
            warm_bias(channel, build, full, readings),
            *warm_steps.warm(channel, build, full, readings, bias_set=bias_set),
        )  # fmt: skip
        for warm_step in warm:
            limited = warm_step.asking(settings=limited_to(max(limit, before)), conditions=powered)
            steps.append(dataclasses.replace(limited, caution=warm_step.caution or SUPPLY_CAUTION))
    steps.append(under(_discharged(channel, build, full), powered))
    steps += _on_its_own_supply(build, channel, full, known)
    return wall_steps.known_by(build, channel, steps)


def _own_supply_alone(build: Build, channel: str, known: Precomputed) -> list[Step]:
    """The build's own supply, before any board meets any: what is wrong with it is found where it can hurt least."""
    if build.supply.set_by_hand:
        return []
    about, name = wall_steps.supply_key(build, channel), wall_steps.supply_name(build, channel)
    steps = [wall_steps.acknowledged(build)] if build.mains is not None else []
    return [*steps, *own_supply.before_power(build), *own_supply.alone(build, about, name, known, "It waits.")]


def _on_its_own_supply(build: Build, channel: str, full: float, known: Precomputed) -> list[Step]:
    """From the bench supply to the build's own: the board on it, the protection, the end."""
    if build.supply.set_by_hand:
        # Bench supplies are what it runs on: nothing else is to be tried.
        return wall_steps.at_last(build, channel, full, SUPPLY_CAUTION)
    rails = known.with_board
    caution = wall_steps.MAINS_CAUTION if build.mains is not None else own_supply.BATTERY_CAUTION
    steps = [wall_steps.on_mains_rail(build, channel, full, rails.low_v, rails.u_v, caution)]
    highest = max(full, rails.low_v + 2.0 * rails.u_v)
    return [
        *steps, *wall_steps.ripple(build, channel, known), *wall_steps.wall_current(build, channel, known),
        *wall_steps.at_last(build, channel, highest, caution)
    ]  # fmt: skip


def _precompute(known: Precomputed) -> None:
    """The rails of the build's own supply, alone and with a board."""
    known.of_its_own_supply()
    if not known.build.supply.set_by_hand:
        _ = known.alone, known.with_board


def _current(
    channel: str, build: Build, key: str, setting: expect.SupplySetting, words: str, *, bias_set: bool
) -> Step:
    v_rail = setting.v_rail
    single = build.supply.single_rail
    return Step(
        asks=Request(
            about=subject(channel, key), place=place_of(channel), title=f"current at {words}",
            ask=f"No load, no signal, input shorted. Set {build.rails_words(v_rail)} and limit "
                f"{setting.i_limit_a * 1000:.0f} mA{'' if single else ' on each side'}, then switch on. The limit "
                f"shows for {shown(setting.charge_s, 's', 2)} while capacitors charge; then type "
                f"{'the current' if single else 'the larger of both currents'}.",
            unit="A", window=expect.rest_current(build, v_rail, bias_set=bias_set), role=Role.SUPPLY, bare_prefix="m",
            most=setting.i_limit_a, settings=limited_to(setting.i_limit_a),
        ),
        power=True,
        hints=(Hint(1, "stays in the limit",
            "Stop. A short, a device in backwards, or a trimmer far from its least: back to the ohmmeter.",
            expect.AT_LIMIT * setting.i_limit_a), Hint(1, "somewhat high",
            "Is the trimmer really at its least? Is the output free of load?")
            if build.module.bias is not None and not bias_set
            else Hint(1, "somewhat high", "Is the output free of load? Was the trimmer turned since the works set it?")
            if bias_set
            else Hint(1, "somewhat high",
            "Is the output free of load? A switching stage without its coil draws more."), Hint(-1, "near 0",
            "No supply, or 0 V is not connected, or the module waits to be enabled.")),
        caution=SUPPLY_CAUTION, reads="current",
    )  # fmt: skip


def _discharged(channel: str, build: Build, v_rail: float) -> Step:
    bleed = board_bleed_down(build.module, v_rail)
    single = build.supply.single_rail
    maximum = SAFE_V if single else 2.0 * SAFE_V
    how = "estimated" if bleed.estimated else f"through {shown(bleed.resistance_ohm, 'ohm')}"
    return Step(
        asks=Request(
            about=subject(channel, "discharged"), place=place_of(channel), title="off, and discharged",
            ask=f"Press Stop, switch the supply off, wait {bleed.seconds:.0f} s ({how}), then meter on DC from "
                f"{'the rail to 0 V' if single else '+ rail to − rail'}. Type what is left.",
            unit="V",
            window=Window(
                -maximum, maximum, "V", "Below 5 V." if single else "Below 5 V on each rail, 10 V end to end."
            ),
            most=v_rail if single else 2.0 * v_rail,
        ),
        power=False,
        hints=(Hint(1, "hardly falls", "Nothing discharges it: a resistor of 1 kΩ, 2 W, held across for a minute."),
            Hint(0, "is it really off", "Pull the plug of the bench supply before you trust a switch.")),
        caution="Read before you touch. A capacitor that is not bled keeps its charge for hours.",
        wait_s=bleed.seconds, reads="left",
    )  # fmt: skip


SCHOOL = School(
    "limited_supply", "Current-limited bench supply, then full rail", plan_steps,
    precompute=_precompute,
    bleed_down=lambda build, v_idle: board_bleed_down(build.module, expect.full_rail_v(build.module, v_idle)),
)  # fmt: skip
