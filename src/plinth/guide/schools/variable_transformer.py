"""The school "variable transformer, a step at a time": rails and dwell at each share of the mains."""

from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.guide import board_windows as expect
from plinth.guide.equipment import NOTHING, Equipment
from plinth.guide.precomputed import Precomputed, known_of
from plinth.guide.school import School
from plinth.guide.schools import own_supply, wall_steps
from plinth.guide.schools.board_steps import place_of
from plinth.guide.step import Hint, Step
from plinth.predict.mains_steps import MainsStep
from plinth.units.shown import shown

# Below this share of the rail nothing is to be told from nothing.
LEAST_V = 1.0


def why_not(build: Build) -> str:
    """Why a variable transformer does not serve; empty where it does."""
    if build.supply.transformer is not None and build.mains is not None:
        return ""
    return "a variable transformer works with a transformer; a switcher starts all at once, a battery has no mains"


def plan_steps(
    build: Build,
    channel: str,
    v_build_idle: float,
    readings: Mapping[str, float],
    equipment: Equipment | Precomputed = NOTHING,
) -> tuple[Step, ...]:
    """All steps for ``channel``, as ``School.steps``. Raises PhysicsError where it does not serve."""
    known = known_of(build, equipment)
    rising, as_set = known.mains_turned_up
    about, name = wall_steps.supply_key(build, channel), wall_steps.supply_name(build, channel)
    steps = [wall_steps.acknowledged(build), *own_supply.alone(build, about, name, known)]
    steps += wall_steps.board_alone(build, channel, expect.full_rail_v(build.module, v_build_idle), known)
    steps += [
        _step(build, channel, least, whole)
        for least, whole in zip(rising[:-1], as_set[:-1], strict=True)
        if least.rail_v >= LEAST_V
    ]
    last = rising[-1]
    steps += wall_steps.on_full_mains(
        build,
        channel,
        known,
        v_build_idle=v_build_idle,
        volts=last.rail_v,
        u=last.u_rail_v,
        readings=readings,
        set_v=as_set[-1].rail_v,
    )
    return wall_steps.known_by(build, channel, steps)


def _step(build: Build, channel: str, mains_step: MainsStep, as_set: MainsStep) -> Step:
    volts = round(mains_step.mains_v_rms)
    state = (
        "From here on the board works"
        if mains_step.awake
        else "The board is below its lowest rail: it draws as it happens to"
    )
    step = wall_steps.rail(
        f"turned_{volts}",
        channel,
        place_of(channel),
        title=f"rails at {volts} V of mains",
        ask=f"Turn up to {volts} V. The wall gives about {shown(mains_step.primary_rms_a, 'A', 2)} then; if "
        "it gives twice that, "
        f"turn back. Stay for {mains_step.dwell_s:.0f} s, feel the sink, and nothing else, for heat, then meter "
        f"{wall_steps.which_rail(build)}.",
        volts=mains_step.rail_v,
        u=mains_step.u_rail_v,
        why=f"{state}, and the rails follow the mains.",
        hints=(
            Hint(-1, "hardly rises", "Turn back to nothing. A short, or a device in backwards."),
            Hint(-1, "one rail missing", "A winding is not connected, a diode is open, or a fuse is blown."),
            Hint(1, "too high", "Is the transformer turned to what its own meter says? Its dial is no meter."),
            Hint(0, "hums loudly", "Turn back: half a winding reversed, or one diode shorted."),
        ),
        conditions={"module": build.mark("module"), "supply": build.mark("supply"), "mains_v": float(volts)},
        wait_s=mains_step.dwell_s,
    )
    return wall_steps.also_when_set(step, as_set.rail_v, mains_step.u_rail_v)


def _precompute(known: Precomputed) -> None:
    """The rails at each step, and of the supply alone."""
    _ = known.mains_turned_up, known.alone
    known.of_its_own_supply()


SCHOOL = School(
    "variable_transformer",
    "Variable transformer, a step at a time",
    plan_steps,
    why_not=why_not,
    precompute=_precompute,
    rails=True,
)
