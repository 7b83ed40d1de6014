"""What a bench would read with a fault on it, drawn at random: sizes of faults, meters and hands vary.

Laws of their own, wider than those that causes are ranked by (``guide.faults``), so that neither is judged by itself:
they generate readings for practice, and for trying how well the ranking does. Each is in SI, a filament in kelvin.
Sizes are orders of magnitude from practice.
"""

import math
from collections.abc import Callable

import numpy as np

from plinth.builds.build import Build
from plinth.guide.fault_bench import behind_of
from plinth.guide.step import Step
from plinth.predict.fault_rails import RailFault, extra_wall_a, rail_with, shorted_turn_w

Dice = np.random.Generator
# The step, the build, its rail on full mains, and the dice; None where the fault shows nothing there.
ReadingLaw = Callable[[Step, Build, float, Dice], float | None]


def sound(step: Step, dice: Dice) -> float:
    """What a healthy build shows: somewhere in its window."""
    window = step.window
    assert window is not None
    if window.high is None:
        return (window.low or 1.0) * float(np.exp(dice.uniform(0.3, 2.5)))
    low = 0.0 if window.low is None else window.low if window.usual_low is None else window.usual_low
    high = window.high if window.usual_high is None else window.usual_high
    middle = 0.5 * (low + high)
    return float(np.clip(dice.normal(middle, (high - low) / 7.0), low, high))


def engine(fault: RailFault) -> ReadingLaw:
    """The engine's rail with the fault, as mains, meter and the fault's size vary."""

    def law(step: Step, build: Build, _full: float, dice: Dice) -> float | None:
        volts = rail_with(build, fault, behind_of(step))
        return None if volts is None else volts * dice.normal(1.0, 0.035) + abs(dice.normal(0.0, 0.1))

    return law


def of_the_rail(low: float, high: float) -> ReadingLaw:
    """From ``low`` to ``high`` of the rail in force, on either side of 0 V."""

    def law(step: Step, _build: Build, full: float, dice: Dice) -> float:
        return float(dice.choice((-1.0, 1.0)) * dice.uniform(low, high) * (step.most or full))

    return law


def times(low: float, high: float) -> ReadingLaw:
    """A healthy reading times ``low`` to ``high``."""
    return lambda step, _build, _full, dice: sound(step, dice) * dice.uniform(low, high)


def between(low: float, high: float) -> ReadingLaw:
    """From ``low`` to ``high``, evenly by its logarithm."""
    return lambda _step, _build, _full, dice: float(np.exp(dice.uniform(math.log(low), math.log(high))))


def at_the_limit(step: Step, _build: Build, _full: float, dice: Dice) -> float | None:
    """All that the supply's limit lets through."""
    return None if step.limit_a is None else step.limit_a * dice.normal(1.0, 0.02)


def some_offset(_step: Step, build: Build, _full: float, dice: Dice) -> float:
    """A few times the offset that the module may have."""
    return float(dice.choice((-1.0, 1.0)) * dice.uniform(2.0, 8.0) * build.module.offset_max_v)


def other_resistor(_step: Step, build: Build, _full: float, dice: Dice) -> float:
    """One of the usual values, but not the one that is fitted."""
    assert build.module.bias is not None
    fitted = build.module.bias.r_fitted_ohm
    return float(dice.choice([r for r in (0.1, 0.15, 0.22, 0.47, 1.0) if abs(r / fitted - 1.0) > 0.2])) * dice.normal(
        1.0, 0.02
    )


def near_the_short(low: float, high: float) -> ReadingLaw:
    """A filament from ``low`` to ``high`` times as warm as a short leaves it."""

    def law(step: Step, _build: Build, _full: float, dice: Dice) -> float | None:
        return dice.uniform(low, high) * step.glows[-1].t_k if step.glows else None

    return law


def rises(low: float, high: float) -> ReadingLaw:
    """A sink in air of 18 to 24 degrees that rises so many times what it should."""

    def law(step: Step, _build: Build, _full: float, dice: Dice) -> float:
        assert step.window is not None
        assert step.window.high is not None
        middle = 0.5 * ((step.window.low or 0.0) + step.window.high)
        return dice.uniform(18.0, 24.0) + dice.uniform(low, high) * max(middle - 20.0, 2.0)

    return law


def of_the_healthy_rail(low: float, high: float) -> ReadingLaw:
    """From ``low`` to ``high`` of what the rail would be without the fault."""

    def law(step: Step, build: Build, _full: float, dice: Dice) -> float | None:
        volts = rail_with(build, "none", behind_of(step))
        return None if volts is None else volts * float(np.exp(dice.uniform(math.log(low), math.log(high))))

    return law


def a_turn_glows(step: Step, build: Build, _full: float, dice: Dice) -> float | None:
    """Warmer the larger the transformer is beside the lamp."""
    p, lamp = shorted_turn_w(build), behind_of(step).lamp_w
    if p is None or lamp is None:
        return None
    return float(np.clip(1750.0 * (p / lamp) ** 0.25 * dice.normal(1.0, 0.1), 1150.0, 2650.0))


def a_turn_draws(step: Step, build: Build, _full: float, dice: Dice) -> float | None:
    """What a healthy build draws, and what the turn takes beside it."""
    more = extra_wall_a(build)
    return None if more is None else sound(step, dice) + more * float(np.exp(dice.normal(0.0, 0.5)))


def whole_current(step: Step, build: Build, _full: float, dice: Dice) -> float:
    """All that the module draws once its bias is set, held by the supply's limit."""
    module, boards = build.module, build.modules_per_channel
    whole = boards * (module.driver_a * dice.uniform(0.9, 1.1) + module.i_quiescent_a * dice.uniform(0.85, 1.15))
    return whole if step.limit_a is None else min(whole, step.limit_a * dice.normal(1.0, 0.01))


def air(_step: Step, _build: Build, _full: float, dice: Dice) -> float:
    """A sink that nothing warms."""
    return dice.normal(20.0, 2.0)


def dark(step: Step, _build: Build, _full: float, dice: Dice) -> float | None:
    """A filament that nothing warms."""
    return dice.uniform(290.0, 500.0) if step.glows else None


def half_missing(step: Step, build: Build, full: float, dice: Dice) -> float | None:
    """What the rail that is left makes of the output; with the only one gone there is nothing."""
    if build.supply.single_rail:
        return dice.normal(0.0, 0.003)
    return of_the_rail(0.3, 0.8)(step, build, full, dice)
