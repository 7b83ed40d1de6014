"""Over many random (fault, build, school) cases: is the true cause ranked first or second?

The readings come from laws of their own, wider than those that the ranking believes in: sizes of faults, meters and
hands vary. Where the ranking asks for another measurement it gets it, as somebody at the bench would take it.
"""

import math
from collections.abc import Callable

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.causes import FAULTS, Causes, behind_of, bench_of, causes, outside
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, series_lamp, variable_transformer
from plinth.guide.step import Step
from plinth.predict.faulty import RailFault, rail_with
from plinth.predict.solve import idle_rail_v
from tests.family import FAMILY

SCHOOLS = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL)
BUILDS = (STAGE_PAIR, REHEARSAL_ROOM, FOYER, FAMILY["class AB on dual mono"], FAMILY["class A on linear with chokes"])
CASES = 240
# How many more measurements are taken than the first that is outside.
MORE = 3

Dice = np.random.Generator
Law = Callable[[Step, Build, float, Dice], float | None]


def sound(step: Step, dice: Dice) -> float:
    """What a healthy build shows: somewhere in its window."""
    window = step.window
    assert window is not None
    if window.high is None:
        return (window.low or 1.0) * float(np.exp(dice.uniform(0.3, 2.5)))
    low = 0.0 if window.low is None else window.low
    high = window.high if window.usual_high is None else window.usual_high
    middle = 0.5 * (low + high)
    return float(np.clip(dice.normal(middle, (high - low) / 7.0), low, high))


def engine(fault: RailFault) -> Law:
    """The engine's rail with the fault, as mains, meter and the fault's size vary."""

    def law(step: Step, build: Build, _full: float, dice: Dice) -> float | None:
        volts = rail_with(build, fault, behind_of(step))
        return None if volts is None else volts * dice.normal(1.0, 0.035) + abs(dice.normal(0.0, 0.1))

    return law


def of_the_rail(low: float, high: float) -> Law:
    def law(step: Step, _build: Build, full: float, dice: Dice) -> float:
        return float(dice.choice((-1.0, 1.0)) * dice.uniform(low, high) * (step.most or full))

    return law


def times(low: float, high: float) -> Law:
    return lambda step, _build, _full, dice: sound(step, dice) * dice.uniform(low, high)


def between(low: float, high: float) -> Law:
    return lambda _step, _build, _full, dice: float(np.exp(dice.uniform(math.log(low), math.log(high))))


def at_the_limit(step: Step, _build: Build, _full: float, dice: Dice) -> float | None:
    return None if step.limit_a is None else step.limit_a * dice.normal(1.0, 0.02)


def some_offset(_step: Step, build: Build, _full: float, dice: Dice) -> float:
    return float(dice.choice((-1.0, 1.0)) * dice.uniform(2.0, 8.0) * build.module.offset_max_v)


def other_resistor(_step: Step, build: Build, _full: float, dice: Dice) -> float:
    assert build.module.bias is not None
    fitted = build.module.bias.r_fitted_ohm
    return float(dice.choice([r for r in (0.1, 0.15, 0.22, 0.47, 1.0) if abs(r / fitted - 1.0) > 0.2])) * dice.normal(
        1.0, 0.02
    )


LAWS: dict[str, dict[str, Law]] = {
    "short": {"rail": engine("short"), "current": at_the_limit, "output_dc": of_the_rail(0.75, 1.0),
              "rail_ohm": between(0.1, 8.0)},
    "rail missing": {"rail": between(0.01, 0.6), "rail_alone": between(0.01, 0.6), "output_dc": of_the_rail(0.3, 0.8),
                     "bias": between(1e-6, 1e-4)},
    "half wave": {"rail": engine("half wave"), "ripple": times(1.85, 2.4)},
    "bridge diode": {"rail": between(0.05, 2.5), "rail_alone": between(0.05, 2.5)},
    "primary doubled": {"rail": engine("primary doubled"), "rail_alone": engine("primary doubled")},
    "primary halved": {"rail": engine("primary halved"), "rail_alone": engine("primary halved")},
    "leaking": {"rail": engine("leaking"), "rail_alone": engine("leaking"), "rail_ohm": between(60.0, 900.0)},
    "emitter open": {"bias": between(0.3, 0.9), "warm_bias": between(0.3, 0.9), "bias_ohm": between(3e3, 3e6),
                     "output_dc": of_the_rail(0.1, 0.5), "current": times(0.5, 0.9)},
    "bias open": {"rail": engine("bias open"), "current": at_the_limit, "bias": times(4.0, 12.0),
                  "warm_bias": times(5.0, 14.0)},
    "sensor off": {"warm_bias": times(1.5, 2.3)},
    "oscillates": {"rail": engine("oscillates"), "current": times(2.0, 4.5), "output_dc": some_offset,
                   "bias": times(1.3, 2.2), "warm_bias": times(1.5, 2.4), "ripple": times(1.3, 3.0)},
    "other resistor": {"bias_ohm": other_resistor},
    "feedback open": {"output_dc": of_the_rail(0.75, 1.0)},
    "offset": {"output_dc": some_offset},
}  # fmt: skip


def read(fault: str, step: Step, build: Build, full: float, dice: Dice) -> float:
    law = LAWS[fault].get(step.reads)
    found = None if law is None else law(step, build, full, dice)
    return sound(step, dice) if found is None else found


def at_the_bench(school: School, build: Build, fault: str, dice: Dice) -> Causes | None:
    """Steps in order until one is outside, then what is asked for; None where the fault never shows."""
    full = idle_rail_v(build)
    steps = school.steps(build, build.channels[0], full, {})
    bench, values = bench_of(build, steps, full), {}
    found = None
    for step in steps:
        if step.window is None or not step.reads:
            continue
        values[step.key] = read(fault, step, build, full, dice)
        if outside(step, values[step.key]):
            found = causes(bench, steps, values)
            break
    for _ in range(MORE):
        if found is None or found.next_step is None:
            break
        values[found.next_step.key] = read(fault, found.next_step, build, full, dice)
        found = causes(bench, steps, values)
    return found


def test_the_true_cause_is_ranked_first_or_second(capsys: pytest.CaptureFixture[str]) -> None:
    dice = np.random.default_rng(20261126)
    places: list[tuple[str, str, str, int]] = []
    unseen = 0
    while len(places) < CASES:
        build = BUILDS[dice.integers(len(BUILDS))]
        school = SCHOOLS[dice.integers(len(SCHOOLS))]
        fault = list(LAWS)[dice.integers(len(LAWS))]
        found = at_the_bench(school, build, fault, dice)
        if found is None:
            # On a bench supply a wrong primary shows nothing; behind no step a bias is read of a chip.
            unseen += 1
            continue
        order = [one.fault.key for one in found.ranked]
        places.append((fault, build.name, school.key, order.index(fault) if fault in order else 9))
    share = sum(place <= 1 for *_, place in places) / len(places)
    missed = sorted({(fault, school) for fault, _, school, place in places if place > 1})
    with capsys.disabled():
        print(  # noqa: T201  # the share is asked for
            f"\n{100 * share:.0f} % of {len(places)} cases first or second ({unseen} showed nothing); not: {missed}"
        )
    assert set(LAWS) == {one.key for one in FAULTS} - {"slip"}
    assert {fault for fault, *_ in places} == set(LAWS)
    assert share >= 0.85
