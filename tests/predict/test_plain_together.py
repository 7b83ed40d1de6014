"""Builds of the plain sort solved together are what each is alone; whichever cannot be so is left alone."""

from typing import Any

import pytest

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in
from plinth.demo import shelf
from plinth.demo.shelf import WHOLE
from plinth.predict.quick_estimate import glance, load_powers, made_ready, well_known
from plinth.predict.solve import solve
from plinth.shelf.consequence import begin, consequence, consequences
from plinth.shelf.slots import KINDS, joined
from tests.family import DEMO, EXTREMES, FAMILY

PLAIN = ("class AB on linear", "class AB, mono on linear", "chip on linear", "class AB on dual mono")


def changed(build: Build, slot: str, **changes: Any) -> Part:
    part = part_in(build, slot)
    assert part is not None
    return part.model_copy(update={**changes, "name": f"{changes}"})


def reservoirs(build: Build) -> list[Part]:
    return [
        changed(build, "supply.reservoir", c_f=c, esr_ohm=esr) for c in (3.3e-3, 10e-3, 33e-3) for esr in (5e-3, 0.1)
    ]


# Each build once, and one of them in every situation that is not one of its own.
CASES = [
    *((name, "as it is") for name in PLAIN),
    *((PLAIN[0], name) for name in ("high mains", "idle", "heavy", "light", "loudspeaker's phase")),
]


@pytest.mark.parametrize(("name", "extreme"), CASES)
def test_together_is_as_alone(name: str, extreme: str) -> None:
    build = FAMILY[name]
    situation = Situation.model_validate(EXTREMES[extreme])
    known = well_known(solve(build, situation))
    tried = [one for part in reservoirs(build) if isinstance(one := joined(build, "supply.reservoir", part), Build)]
    ready = made_ready(tried, known)
    for one, made in zip(tried, ready, strict=True):
        alone, together = glance(one, known), glance(one, known, made)
        assert set(alone.figures) == set(together.figures)
        for key, figure in alone.figures.items():
            found = together[key]
            near = 2e-2 if "ripple_v_pp" in key else 5e-3
            assert found.value == pytest.approx(figure.value, rel=near, abs=1e-2, nan_ok=True), key
            assert found.u == pytest.approx(figure.u, rel=near, abs=1e-2, nan_ok=True), key
        for load, power in load_powers(alone, known).items():
            assert load_powers(together, known, made)[load].value == pytest.approx(power.value, rel=1e-3)


def test_what_is_usual_is_solved_together() -> None:
    for name in PLAIN:
        build = FAMILY[name]
        tried = [one for part in reservoirs(build) if isinstance(one := joined(build, "supply.reservoir", part), Build)]
        assert None not in made_ready(tried, well_known(solve(build)))


@pytest.mark.parametrize("name", ["Stage pair", "Street box", "class A on bench", "class AB, bridged on linear"])
def test_any_build_s_rows_are_the_same_many_at_once(name: str) -> None:
    build = {**FAMILY, **DEMO}[name]
    here = begin(build, Situation(), "supply.reservoir")
    parts = [changed(build, "supply.reservoir", c_f=c) for c in (4.7e-3, 10e-3, 15e-3, 22e-3, 33e-3)]
    for part, row in zip(parts, consequences(here, parts), strict=True):
        alone = consequence(here, part)
        assert row.watts == pytest.approx(alone.watts, rel=1e-3)
        assert row.room == pytest.approx(alone.room, abs=2e-3)
        assert row.why_not == alone.why_not == ""
        assert row.margin is not None
        assert alone.margin is not None
        assert row.margin.key == alone.margin.key


def test_a_module_that_rests_asleep_or_limits_itself_is_as_alone() -> None:
    build = FAMILY["class AB on linear"]
    here = begin(build, Situation(), "module")
    modules = [
        changed(build, "module", v_rail_min=low, i_limit_a=limit)
        for low in (10.0, 36.0) for limit in (100.0, 1.5)
    ] * 2  # fmt: skip
    # And one that cannot join, in their midst.
    modules.insert(3, shelf.PARADE_150)
    assert here.quick
    assert consequences(here, modules)[3].why_not == "wants a single rail"
    modules.pop(3)
    for part, row in zip(modules, consequences(here, modules), strict=True):
        alone = consequence(here, part)
        assert row.watts == pytest.approx(alone.watts, rel=1e-3)
        assert row.room == pytest.approx(alone.room, abs=2e-3)
    limited = [row.watts for part, row in zip(modules, consequences(here, modules), strict=True)
               if part.i_limit_a == 1.5]  # type: ignore[union-attr]  # fmt: skip
    assert limited == pytest.approx([1.5**2 / 2 * build.load.r_ohm] * len(limited), rel=1e-6)


@pytest.mark.parametrize("slot", ["load", "sink", "entry", "protection", "supply.transformer", "supply.rectifier"])
def test_whatever_is_looked_for_its_rows_are_those_of_each_alone(slot: str) -> None:
    here = begin(DEMO["Stage pair"], Situation(), slot)
    parts = [part for part, _ in WHOLE if type(part) in KINDS[slot]][:10]
    for part, row in zip(parts, consequences(here, parts), strict=True):
        alone = consequence(here, part)
        assert (row.watts, row.room) == pytest.approx((alone.watts, alone.room), rel=2e-3, abs=2e-3, nan_ok=True)
        assert (row.why_not, set(row.powers)) == (alone.why_not, set(alone.powers))


def test_a_soft_start_that_stays_is_left_alone() -> None:
    build = FAMILY["class AB on linear"]
    entry = build.entry.model_copy(update={"r_soft_ohm": 5.0, "soft_bypass_s": None})
    held = build.model_copy(update={"entry": entry})
    ready = made_ready([held] * 5, well_known(solve(build)))
    assert ready == [None] * 5
