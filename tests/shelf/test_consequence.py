"""What this build becomes with another part in it, held against the full prediction of that very build."""

import math

import pytest

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.stations import stations, with_part
from plinth.demo import shelf
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import solve
from plinth.shelf.consequence import OF_THE_BENCH, begin, consequence, room_share, tightest
from plinth.shelf.slots import KINDS, WORDS, joined, slots_of
from tests.family import DEMO, FAMILY, FEW
from tests.turns import crossed, in_turn

BUILDS = {**DEMO, **{name: FAMILY[name] for name in FEW}}


def parts_for(slot: str) -> list[Part]:
    return [part for part, _ in WHOLE if type(part) in KINDS[slot]]


@pytest.mark.parametrize("name", in_turn(BUILDS, 6))
def test_a_glance_is_the_full_prediction_to_within_a_per_cent(name: str) -> None:
    build = BUILDS[name]
    here = begin(build, Situation(), "supply.reservoir")
    before = build.supply.reservoir
    for share in (0.6, 1.8):
        part = before.model_copy(update={"c_f": before.c_f * share})
        found = consequence(here, part)
        assert found.why_not == ""
        assert found.rail is not None
        for load in build.loads or (build.load,):
            full = solve(with_part(build, "supply.reservoir", part).model_copy(update={"load": load}), Situation())
            power = found.powers[load.identity]
            assert power.value == pytest.approx(full["clip_worst_power_w"].value, rel=0.015), load.name
            assert found.rail.value == pytest.approx(full["rail_no_load_v"].value, rel=0.005)
            if not full.points.held_by_current:
                # Near the modules' own limit a full band is cut off there; a glance does not look so closely.
                assert power.spread == pytest.approx(full["clip_worst_power_w"].spread, rel=0.3)


STAYING = {
    "a thermistor": {"r_soft_ohm": 10.0, "ntc_beta_k": 3200.0, "ntc_dissipation_w_per_k": 0.025,
                     "ntc_heat_capacity_j_per_k": 2.5},
    "a resistor that nothing bridges": {"r_soft_ohm": 5.0},
}  # fmt: skip


@pytest.mark.parametrize(
    ("place", "soft"),
    crossed((("Rehearsal room", 40.0), ("class AB on dual mono", 1000.0), ("class A on linear", 40.0)), STAYING, 6),
)
def test_a_soft_start_that_stays_counts_in_every_row(place: tuple[str, float], soft: str) -> None:
    name, f_hz = place
    """As the part that is looked at, and in the build while another part is; as warm as each load makes it."""
    build, situation = (DEMO | FAMILY)[name], Situation(frequency_hz=f_hz)
    inlet = build.entry.model_copy(update=STAYING[soft])
    stayed = with_part(build, "entry", inlet)
    reservoir = build.supply.reservoir
    more = reservoir.model_copy(update={"c_f": 1.5 * reservoir.c_f})
    for here, slot, part in ((build, "entry", inlet), (stayed, "supply.reservoir", more)):
        row = consequence(begin(here, situation, slot), part)
        for load in build.loads or (build.load,):
            full = solve(with_part(here, slot, part).model_copy(update={"load": load}), situation)
            assert row.powers[load.identity].value == pytest.approx(full["clip_worst_power_w"].value, rel=0.015)
    # And it matters: without it the rows would lie further off than that.
    plain, with_it = solve(build, situation), solve(stayed, situation)
    if soft != "a thermistor":
        assert with_it["clip_worst_power_w"].value < 0.985 * plain["clip_worst_power_w"].value


def test_the_tightest_margin_is_that_of_the_full_judgement() -> None:
    build = DEMO["Stage pair"]
    here = begin(build, Situation(), "supply.transformer")
    for part in (shelf.RING_160, shelf.RING_330, shelf.RING_250):
        found = consequence(here, part)
        margins = [m for m in judge(solve(with_part(build, "supply.transformer", part))) if m.key not in OF_THE_BENCH]
        margins = [m for m in margins if m.key != "fuse_at_switch_on"]
        worst = tightest(tuple(margins))
        assert worst is not None
        assert found.margin is not None
        assert found.margin.key == worst.key
        assert found.margin.state is worst.state
        assert found.room == pytest.approx(room_share(worst), abs=0.02)


def test_a_dummy_load_s_rating_counts_only_for_whoever_looks_for_a_load() -> None:
    build = DEMO["Stage pair"]
    small = shelf.DUMMY_4.model_copy(update={"p_rated_w": 5.0, "name": "Tiny"})
    hot = with_part(build, "load", small)
    looked_for = consequence(begin(hot, Situation(), "load"), shelf.DUMMY_4)
    other = consequence(begin(hot, Situation(), "supply.transformer"), shelf.RING_160)
    assert looked_for.margin is not None
    assert looked_for.margin.key == "load_rating"
    assert other.margin is not None
    assert other.margin.key not in OF_THE_BENCH


@pytest.mark.parametrize("name", BUILDS)
def test_every_part_of_the_shelf_joins_or_says_why_not(name: str) -> None:
    build = BUILDS[name]
    for slot in (slot for one in stations(build) for slot in slots_of(build, one.key)):
        assert slot in WORDS
        for part in parts_for(slot):
            tried = joined(build, slot, part)
            if isinstance(tried, str):
                assert 3 < len(tried) < 120
            else:
                assert isinstance(tried, Build)
                assert tried == with_part(build, slot, part)


@pytest.mark.parametrize("name", ["Stage pair", "Street box", "Market box", "single-ended A on bench"])
def test_every_module_of_the_shelf_has_a_consequence_or_a_reason(name: str) -> None:
    here = begin(BUILDS[name], Situation(), "module")
    ran = 0
    for part in parts_for("module"):
        found = consequence(here, part)
        if found.why_not:
            assert found.margin is None
            assert math.isnan(found.watts)
            continue
        ran += 1
        assert found.margin is not None
        assert found.margin.state is not State.UNKNOWN
        assert found.watts > 0.0
    assert ran >= 3


def test_a_build_that_cannot_run_says_so_at_once() -> None:
    build = DEMO["Stage pair"]
    hopeless = with_part(build, "supply.transformer", shelf.RING_160.model_copy(update={"v_secondary_rms": 1.0}))
    with pytest.raises(PhysicsError):
        begin(hopeless, Situation(), "module")
    # Another part of the shelf may fix it; from a sound build a hopeless part is a row with its reason.
    here = begin(build, Situation(), "supply.transformer")
    weak = shelf.RING_160.model_copy(update={"v_secondary_rms": 1.0, "name": "Weak"})
    assert consequence(here, weak).why_not.startswith("cannot run: ")
