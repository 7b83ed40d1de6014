"""The school "variable transformer, re-forming over hours": old reservoirs first, then as with any transformer."""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.properties import How
from plinth.guide.equipment import NOTHING, Equipment
from plinth.guide.judging import wait_words
from plinth.guide.precomputed import Precomputed, known_of
from plinth.guide.school import School
from plinth.guide.schools import own_supply, variable_transformer, wall_steps
from plinth.guide.schools.board_steps import subject, under
from plinth.guide.step import Hint, Step, Watch
from plinth.judge.window import Window
from plinth.predict.reforming import Reforming, ReformingStep
from plinth.record.clock import now
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task
from plinth.units.shown import shown

# What the bleeder's tolerance and a meter leave open.
READ_SHARE = 0.12
# A leak that falls does so about this often in the time a step is held.
FALLS_PER_STEP, FALL_SPREAD = 3.0, 2.5


def plan_steps(
    build: Build,
    channel: str,
    v_build_idle: float,
    readings: Mapping[str, float],
    equipment: Equipment | Precomputed = NOTHING,
) -> tuple[Step, ...]:
    """All steps for ``channel``, as ``School.steps``. Raises PhysicsError where it does not serve."""
    known = known_of(build, equipment)
    plan = known.reforming(now().year)
    about, name = wall_steps.supply_key(build, channel), wall_steps.supply_name(build, channel)
    conditions: Conditions = {"supply": build.mark("supply")}
    first = [wall_steps.acknowledged(build), *own_supply.on_a_small_one(build, about, name, known)]
    first.append(under(_fitted(about, name, plan, chosen=known.equipment.reform_hours is not None), conditions))
    first += [_held(build, about, name, plan, step, conditions) for step in plan.steps]
    alone = known.alone
    highest = alone.high_v + 2.0 * alone.u_v
    first.append(
        wall_steps.discharged(build, about, name, "reformed_discharged", highest, "Then take the resistors out.")
    )
    first += [
        _whole(build, about, name, plan, known, conditions),
        *own_supply.input_rails(build, about, name, conditions),
    ]
    first.append(
        wall_steps.discharged(build, about, name, "alone_discharged", highest, "Then the board may be connected.")
    )
    rest = variable_transformer.plan_steps(build, channel, v_build_idle, readings, known)
    asked = {step.key for step in first}
    return (*wall_steps.known_by(build, channel, first), *(step for step in rest if step.key not in asked))


def _fitted(about: str, name: str, plan: Reforming, *, chosen: bool) -> Step:
    age = {
        How.UNKNOWN: f"nobody states how old they are, so some {plan.age_years:.0f} years are taken",
        How.ASSUMED: f"taken to be as old as all of it, {plan.age_years:.0f} years",
    }.get(plan.age_known, f"they are {plan.age_years:.0f} years old")
    age = "as long as was typed" if chosen else age
    return Step(
        asks=Task(
            about=subject(about, "reform_fitted"), place=name, title="resistors ahead of the reservoirs",
            ask=f"Plug out, discharged, no board. A resistor of {shown(plan.r_ohm, 'ohm', 2)}, 5 W, between the "
                f"bridge and each reservoir, + and −. {len(plan.steps)} steps of "
                f"{wait_words(3600.0 * plan.hours_each)} follow, and one without the resistors: "
                f"{wait_words(3600.0 * plan.hours_in_all)} in all, {age}.",
        ),
        power=False,
        hints=(Hint(0, "a can bulges, or has leaked", "Do not re-form it: it goes."), Hint(0, "why the resistor",
            f"It shows the leakage. A shorted can puts {plan.p_w:.0f} W into it.")),
        caution="A can under reverse or too much voltage bursts. Glasses on, a lid or a cloth over the cans.",
    )  # fmt: skip


def _held(
    build: Build, about: str, name: str, plan: Reforming, step: ReformingStep, conditions: Conditions
) -> Step:  # fmt: skip
    volts, dwell = round(step.mains_v), 3600.0 * step.hours
    single = build.supply.single_rail
    low = step.dropped_least_v * (1.0 - READ_SHARE)
    high = step.dropped_most_v * (1.0 + READ_SHARE)
    least_a, most_a = step.dropped_least_v / plan.r_ohm, step.dropped_most_v / plan.r_ohm
    return Step(
        asks=Request(
            about=subject(about, f"reform_{volts}"), place=name, title=f"re-forming at {volts} V of mains",
            ask=f"Turn up to {volts} V and leave it for {wait_words(dwell)}; the rails come to about "
                f"{step.rail_v:.0f} V. Meter across "
                f"{'the resistor' if single else 'each resistor; the larger one counts'}. Note it on the way: it "
                f"falls as the oxide grows.",
            unit="V",
            window=Window(low if low > 0.0 else None, high, "V",
                f"Through {shown(plan.r_ohm, 'ohm', 2)}: {shown(least_a, 'A', 2)} of the bleeder, and at most "
                f"{shown(most_a - least_a, 'A', 2)} that a sound can leaks.", ("how long it takes",)
                if plan.age_estimated else ()),
            most=step.rail_v + step.dropped_most_v, conditions={**conditions, "mains_v": float(volts)},
        ),
        power=True,
        hints=(Hint(1, "above, and falling", "It is on its way: stay as long again at these volts."), Hint(1,
            "above, and still", "This can is beyond re-forming, or something else hangs on the rail."), Hint(1,
            "it rises", "Turn back to nothing. The can warms: let it rest a day, once more from below, or go."),
            Hint(-1, "below", "The bleeder is open, or a lead is off: nothing would discharge it later.")),
        caution=f"Feel the cans only with the plug out. {wall_steps.MAINS_CAUTION}", wait_s=dwell,
        watch=Watch(dwell / FALLS_PER_STEP, FALL_SPREAD, 0.03 * max(step.dropped_most_v, 0.01), None, 0.2),
    )  # fmt: skip


def _whole(build: Build, about: str, name: str, plan: Reforming, known: Precomputed, conditions: Conditions) -> Step:
    """Once more on the whole mains, without the resistors: alone, as long again."""
    rails = known.alone
    dwell = 3600.0 * plan.hours_each
    step = wall_steps.rail(
        "alone_rail",
        about,
        name,
        title="alone, without the resistors",
        ask="Resistors out, no board. Turn up to the whole mains within a minute, leave it for "
        f"{wait_words(dwell)}, then "
        f"meter {wall_steps.which_rail(build)}.",
        volts=rails.low_v,
        u=rails.u_v,
        why="What the cans stand at from now on.",
        hints=wall_steps.rail_hints(build, rails.low_v),
        conditions=conditions,
        wait_s=dwell,
        estimated=("the mains of the day",),
        reads="rail_alone",
    )
    return dataclasses.replace(step, caution=f"Glasses on, cans covered. {step.caution}")


def _precompute(known: Precomputed) -> None:
    """What the steps before the board need, and the board's own."""
    _ = known.reforming(now().year), known.alone, known.mains_turned_up
    known.of_its_own_supply()


SCHOOL = School(
    "reforming", "Variable transformer, re-forming over hours", plan_steps,
    why_not=variable_transformer.why_not, precompute=_precompute, rails=True, reforms=True,
)  # fmt: skip
