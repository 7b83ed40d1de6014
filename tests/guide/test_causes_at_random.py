"""Over many random (fault, build, school) cases: is the true cause ranked first or second?

The readings come from laws of their own, wider than those that the ranking believes in: sizes of faults, meters and
hands vary. Where the ranking asks for another measurement it gets it, as somebody at the bench would take it.
"""

import dataclasses
from collections.abc import Iterable

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.causes import Causes, causes, dangerous, outside
from plinth.guide.fault_bench import bench_of
from plinth.guide.faults import FAULTS
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, series_lamp, variable_transformer
from plinth.guide.step import Step
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

KNOWN = {fault.key: fault for fault in FAULTS if fault.gives}
# In this order they are laid on one build after another.
NAMES = (
    "short", "device shorted", "torn pad", "rail missing", "half wave", "bridge diode", "primary doubled",
    "primary halved", "leaking", "emitter open", "bias open", "over-turned", "set before", "bias shorted",
    "sensor off", "oscillates", "other resistor", "feedback open", "dead input device", "offset", "not connected",
    "swapped output", "rail fuse open", "mains fuse open", "missing 0 V", "reversed reservoir", "shorted turn",
    "dried-out reservoir",
)  # fmt: skip
OF_A_BIAS = {"bias open", "over-turned", "set before", "bias shorted", "sensor off", "emitter open", "other resistor"}
# Of these something burns while they are left on.
BURNING = {fault.key for fault in FAULTS if fault.burns}
OFF_ELSEWHERE_MOST, OFF_WHERE_IT_BURNS_LEAST, RANKED_LEAST = 0.10, 0.95, 0.95


def read(fault: str, step: Step, build: Build, full: float, dice: np.random.Generator) -> float:
    return KNOWN[fault].reading(bench_of(build, (step,), full), step, dice)


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


def at_the_bench(school: School, build: Build, fault: str, dice: np.random.Generator) -> Case | None:
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
    tried, names = 0, NAMES
    assert set(NAMES) == set(KNOWN) == {fault.key for fault in FAULTS} - {"slip"}
    # Each fault shows at least once, however seldom chance lets it.
    while len(cases) < CASES[count] or {case.fault for case in cases} != set(KNOWN):
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
    assert {case.fault for case in cases} == set(KNOWN)
    assert _share(ranked) >= RANKED_LEAST
    assert off_burning >= OFF_WHERE_IT_BURNS_LEAST
    assert off_elsewhere <= OFF_ELSEWHERE_MOST


def _share(met: Iterable[bool]) -> float:
    each = list(met)
    return sum(each) / len(each) if each else 1.0
