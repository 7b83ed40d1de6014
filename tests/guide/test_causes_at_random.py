"""Over many random (fault, build, school) cases: is the true cause ranked first or second?

The readings come from laws of their own, wider than those that the ranking believes in: sizes of faults, meters and
hands vary. Where the ranking asks for another measurement it gets it, as somebody at the bench would take it.
"""

import dataclasses
import math
from collections.abc import Callable, Iterable

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.causes import Causes, causes, dangerous, outside
from plinth.guide.faults import FAULTS, behind_of, bench_of
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, series_lamp, variable_transformer
from plinth.guide.step import Step
from plinth.predict.fault_rails import RailFault, extra_wall_a, rail_with, shorted_turn_w
from plinth.predict.solve import idle_rail_v
from tests.family import FAMILY
from tests.turns import in_turn

SCHOOLS = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL)
BUILDS = (
    STAGE_PAIR, REHEARSAL_ROOM, FOYER,
    *(FAMILY[name] for name in (
        "class AB on dual mono", "class A on linear with chokes", "class AB, mono on linear, leaky",
        "chip on linear, unequal", "class AB, bridged on linear", "single-ended A on linear",
        "chips on one rail, bridged on linear",
    )),
)  # fmt: skip
CASES = {"some": 230, "many": 700}
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
    low = 0.0 if window.low is None else window.low if window.usual_low is None else window.usual_low
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


def near_the_short(low: float, high: float) -> Law:
    """A filament from ``low`` to ``high`` times as warm as a short leaves it."""

    def law(step: Step, _build: Build, _full: float, dice: Dice) -> float | None:
        return dice.uniform(low, high) * step.glows[-1].t_k if step.glows else None

    return law


def rises(low: float, high: float) -> Law:
    """A sink in air of 18 to 24 degrees that rises so many times what it should."""

    def law(step: Step, _build: Build, _full: float, dice: Dice) -> float:
        assert step.window is not None
        assert step.window.high is not None
        middle = 0.5 * ((step.window.low or 0.0) + step.window.high)
        return dice.uniform(18.0, 24.0) + dice.uniform(low, high) * max(middle - 20.0, 2.0)

    return law


def of_the_healthy_rail(low: float, high: float) -> Law:
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
    more = extra_wall_a(build)
    return None if more is None else sound(step, dice) + more * float(np.exp(dice.normal(0.0, 0.5)))


def whole_current(step: Step, build: Build, _full: float, dice: Dice) -> float:
    """All that the module draws once its bias is set, held by the supply's limit."""
    module, boards = build.module, build.modules_per_channel
    whole = boards * (module.driver_a * dice.uniform(0.9, 1.1) + module.i_quiescent_a * dice.uniform(0.85, 1.15))
    return whole if step.limit_a is None else min(whole, step.limit_a * dice.normal(1.0, 0.01))


def air(_step: Step, _build: Build, _full: float, dice: Dice) -> float:
    return dice.normal(20.0, 2.0)


def dark(step: Step, _build: Build, _full: float, dice: Dice) -> float | None:
    return dice.uniform(290.0, 500.0) if step.glows else None


LAWS: dict[str, dict[str, Law]] = {
    "short": {"rail": engine("short"), "current": at_the_limit, "output_dc": of_the_rail(0.75, 1.0),
              "rail_ohm": between(0.1, 8.0), "glow": near_the_short(0.93, 1.02), "wall_a": times(8.0, 40.0)},
    "device shorted": {"rail": engine("short"), "current": at_the_limit, "output_dc": of_the_rail(0.75, 1.0),
                       "rail_output_ohm": between(0.1, 6.0), "glow": near_the_short(0.9, 1.02),
                       "wall_a": times(6.0, 40.0)},
    "torn pad": {"tab_ohm": between(0.05, 200.0)},
    "rail missing": {"rail": between(0.01, 0.6), "rail_alone": between(0.01, 0.6), "output_dc": of_the_rail(0.3, 0.8),
                     "bias": between(1e-6, 1e-4)},
    "half wave": {"rail": engine("half wave"), "ripple": times(1.85, 2.4)},
    "bridge diode": {"rail": between(0.3, 2.5), "rail_alone": between(0.3, 2.5),
                     "glow": near_the_short(0.92, 1.02), "glow_alone": near_the_short(0.92, 1.02),
                     "wall_a": times(8.0, 40.0)},
    "primary doubled": {"rail": engine("primary doubled"), "rail_alone": engine("primary doubled")},
    "primary halved": {"rail": engine("primary halved"), "rail_alone": engine("primary halved"),
                       "glow": near_the_short(0.5, 0.95), "glow_alone": near_the_short(0.4, 0.9)},
    "leaking": {"rail": engine("leaking"), "rail_alone": engine("leaking"), "rail_ohm": between(60.0, 900.0)},
    "emitter open": {"bias": between(0.3, 0.9), "warm_bias": between(0.3, 0.9), "bias_ohm": between(3e3, 3e6),
                     "output_dc": of_the_rail(0.1, 0.5), "current": times(0.5, 0.9)},
    "bias open": {"rail": engine("bias open"), "current": at_the_limit, "bias": times(4.0, 12.0),
                  "warm_bias": times(5.0, 14.0), "glow": near_the_short(0.7, 1.0), "sink_c": rises(2.5, 6.0)},
    "over-turned": {"bias": times(1.25, 2.4)},
    "set before": {"rail": engine("set before"), "current": whole_current, "glow": near_the_short(0.4, 0.75)},
    "bias shorted": {"bias": between(1e-6, 8e-4), "warm_bias": between(1e-6, 8e-4)},
    "sensor off": {"warm_bias": times(1.5, 2.3), "sink_c": rises(1.8, 3.5)},
    "oscillates": {"rail": engine("oscillates"), "current": times(2.0, 4.5), "output_dc": some_offset,
                   "bias": times(1.3, 2.2), "warm_bias": times(1.5, 2.4), "ripple": times(1.3, 3.0),
                   "sink_c": rises(1.6, 4.0), "wall_a": times(1.4, 3.5)},
    "other resistor": {"bias_ohm": other_resistor},
    "feedback open": {"output_dc": of_the_rail(0.75, 1.0)},
    "dead input device": {"output_dc": of_the_rail(0.75, 1.0), "bias": times(0.1, 1.2), "current": times(0.5, 1.2)},
    "offset": {"output_dc": some_offset},
    "not connected": {"current": between(1e-6, 4e-4), "rail": engine("none"), "bias": between(1e-7, 5e-4),
                      "warm_bias": between(1e-7, 5e-4), "sink_c": air, "glow": dark, "wall_a": times(0.2, 0.6)},
    "swapped output": {"output_ohm": between(0.05, 3.0), "current": at_the_limit, "rail": engine("bias open"),
                       "output_dc": between(1e-5, 1e-3),
                       "glow": near_the_short(0.7, 1.0), "wall_a": times(3.0, 10.0)},
    "rail fuse open": {"rail": between(0.01, 0.4), "output_dc": of_the_rail(0.3, 0.8), "bias": between(1e-7, 5e-4)},
    "mains fuse open": {"rail": between(0.001, 0.2), "rail_alone": between(0.001, 0.2), "glow": dark,
                        "glow_alone": dark, "wall_a": between(1e-5, 1e-3), "ripple": between(1e-5, 1e-3)},
    "missing 0 V": {"rail": of_the_healthy_rail(0.15, 0.8), "rail_alone": of_the_healthy_rail(0.15, 0.8),
                    "output_dc": of_the_rail(0.15, 0.9), "current": times(0.05, 0.7)},
    "reversed reservoir": {"rail": of_the_healthy_rail(0.03, 0.2), "rail_alone": of_the_healthy_rail(0.03, 0.2),
                           "glow": near_the_short(0.88, 1.0), "glow_alone": near_the_short(0.88, 1.0)},
    "shorted turn": {"rail": engine("shorted turn"), "rail_alone": engine("shorted turn"), "glow": a_turn_glows,
                     "glow_alone": a_turn_glows, "wall_a": a_turn_draws},
    "dried-out reservoir": {"ripple": times(1.8, 7.0)},
}  # fmt: skip
OF_THE_SUPPLY = {
    "rail missing", "half wave", "bridge diode", "primary doubled", "primary halved", "mains fuse open",
    "reversed reservoir", "shorted turn", "dried-out reservoir",
}  # fmt: skip
OF_THE_BOARD = set(LAWS) - OF_THE_SUPPLY - {"missing 0 V", "leaking"}
OF_A_BIAS = {"bias open", "over-turned", "set before", "bias shorted", "sensor off", "emitter open", "other resistor"}
# Of these something burns while they are left on.
BURNING = {fault.key for fault in FAULTS if fault.burns}
OFF_ELSEWHERE_MOST, OFF_WHERE_IT_BURNS_LEAST, RANKED_LEAST = 0.10, 0.95, 0.95


def read(fault: str, step: Step, build: Build, full: float, dice: Dice) -> float:
    # On a bench supply, or with nothing but a supply, what is not connected shows nothing.
    alone, on_the_bench = step.reads in ("rail_alone", "glow_alone"), not step.power or step.limit_a is not None
    if fault == "rail missing" and build.supply.single_rail and step.reads == "output_dc":
        return float(dice.normal(0.0, 0.003))
    away = alone if fault in OF_THE_BOARD else on_the_bench and fault in OF_THE_SUPPLY
    law = None if away else LAWS[fault].get(step.reads)
    found = None if law is None else law(step, build, full, dice)
    return sound(step, dice) if found is None else found


@dataclasses.dataclass(frozen=True)
class Case:
    """A fault that showed itself: its place among the causes, whether off was said, and whether it had to be said."""

    fault: str
    build: str
    school: str
    place: int
    off: bool
    powered: bool
    dangerous: bool


def at_the_bench(school: School, build: Build, fault: str, dice: Dice) -> Case | None:
    """Steps in order until one is outside, then what is asked for; None where the fault never shows.

    Off is said once it was said at any of these readings.
    """
    full = idle_rail_v(build)
    steps = school.steps(build, build.channels[0], full, {})
    bench, values = bench_of(build, steps, full), {}
    found: Causes | None = None
    first: Step | None = None
    for step in steps:
        if step.window is None or not step.reads:
            continue
        values[step.key] = read(fault, step, build, full, dice)
        if outside(step, values[step.key]):
            first, found = step, causes(bench, steps, values)
            break
    if found is None or first is None:
        return None
    off = found.off_now
    for _ in range(MORE):
        if found.next_step is None:
            break
        values[found.next_step.key] = read(fault, found.next_step, build, full, dice)
        again = causes(bench, steps, values)
        assert again is not None
        found, off = again, off or again.off_now
    order = [cause.fault.key for cause in found.ranked]
    place = order.index(fault) if fault in order else 9
    return Case(
        fault, build.name, school.key, place, off, first.power, bool(dangerous(first, values[first.key]))
    )  # fmt: skip


@pytest.mark.parametrize("count", in_turn(CASES, 2))
def test_the_true_cause_is_ranked_first_or_second_and_off_is_said_where_it_burns(
    capsys: pytest.CaptureFixture[str], count: str
) -> None:
    dice = np.random.default_rng(20261130)
    cases: list[Case] = []
    tried, names = 0, list(LAWS)
    assert set(LAWS) == {fault.key for fault in FAULTS} - {"slip"}
    while len(cases) < CASES[count]:
        build = BUILDS[dice.integers(len(BUILDS))]
        school = SCHOOLS[dice.integers(len(SCHOOLS))]
        tried += 1
        if build.module.bias is None and names[tried % len(names)] in OF_A_BIAS:
            continue
        found = at_the_bench(school, build, names[tried % len(names)], dice)
        # On a bench supply a wrong primary shows nothing; a chip has no bias that is read.
        if found is not None:
            cases.append(found)
    ranked = [case.place <= 1 for case in cases]
    burns = [case for case in cases if case.powered and case.fault in BURNING]
    elsewhere = [case for case in cases if case.fault not in BURNING and not case.dangerous]
    off_burning, off_elsewhere = (_share(case.off for case in some) for some in (burns, elsewhere))
    lines = [
        f"{100 * _share(ranked):.1f} % of {len(cases)} first or second; {tried - len(cases)} showed nothing",
        f"off said in {100 * off_burning:.1f} % of {len(burns)} that burn",
        f"off said in {100 * off_elsewhere:.1f} % of {len(elsewhere)} elsewhere",
    ]
    for name in names:
        own = [case for case in cases if case.fault == name]
        seen, said = _share(case.place <= 1 for case in own), _share(case.off for case in own if case.powered)
        lines.append(f"{name:22} {len(own):4} ranked {100 * seen:4.0f} %  off {100 * said:4.0f} %")
    with capsys.disabled():
        print("\n" + "\n".join(lines))  # noqa: T201  # the shares are asked for
    assert {case.fault for case in cases} == set(LAWS)
    assert _share(ranked) >= RANKED_LEAST
    assert off_burning >= OFF_WHERE_IT_BURNS_LEAST
    assert off_elsewhere <= OFF_ELSEWHERE_MOST


def _share(met: Iterable[bool]) -> float:
    each = list(met)
    return sum(each) / len(each) if each else 1.0
