"""A build from nothing but a requirement: it gives what was required, and nothing in it passes for known."""

import contextlib
import itertools
from typing import Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.fields import part_fields
from plinth.builds.files import parse_build
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.properties import How, how_known, value_at
from plinth.builds.stations import is_there, part_in, stations
from plinth.builds.supply_parts import BatteryConverter, BenchPair, MainsSwitcher, Transformer
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import solve
from plinth.shelf.from_zero import from_zero
from plinth.shelf.influence import still_assumed
from plinth.shelf.requirement import MAINS, SUPPLY_KINDS, Requirement, SourcePart, Spoken, SupplyKind, read_requirement
from plinth.units.errors import QuantityError
from tests.turns import in_turn

STAGES: tuple[Literal["AB", "D"], ...] = ("AB", "D")
REQUIREMENTS = [
    Requirement(power, ohm, channels, supply, stage, volts)
    for (power, ohm, channels, volts), supply, stage in itertools.product(
        ((5.0, 8.0, ("left", "right"), 230.0), (60.0, 4.0, ("left", "right"), 120.0), (200.0, 8.0, ("wolf",), 230.0)),
        SUPPLY_KINDS,
        STAGES,
    )
]


@pytest.mark.parametrize(
    "requirement",
    in_turn(REQUIREMENTS, 2, name=lambda requirement: f"{requirement.name} {requirement.supply} {requirement.stage}"),
)
def test_it_gives_what_was_required_for_and_clears_its_own_limits(requirement: Requirement) -> None:
    build = from_zero(requirement)
    prediction = solve(build)
    assert prediction["clip_worst_power_w"].value == pytest.approx(requirement.power_w, rel=0.03)
    assert build.channels == requirement.channels
    assert build.load.r_ohm == requirement.r_ohm
    assert (build.mains is None) == (requirement.supply in ("battery", "bench"))
    if build.mains is not None:
        assert build.mains.v_nominal_rms == requirement.mains_v
    over = {m.key for m in judge(prediction) if m.state is State.OVER}
    assert over <= {"sink_heat"}, over
    assert parse_build(build.model_dump_json(), "x") == build


def test_every_number_in_it_is_marked_as_assumed() -> None:
    build = from_zero(REQUIREMENTS[0])
    for slot in (slot for one in stations(build) for slot in one.slots if slot != "mains"):
        if not is_there(build, slot):
            continue
        part = part_in(build, slot)
        for field in part_fields(part):
            if field.number and value_at(part, field.path) is not None:
                assert how_known(part, field.path) is How.ASSUMED, (slot, field.path)
    prediction = solve(build)
    assert prediction.inputs["regulation"].estimated
    assert prediction["clip_worst_power_w"].estimated, "and the figure says so"


def test_what_would_narrow_the_result_most_is_named_first() -> None:
    build = from_zero(REQUIREMENTS[0])
    prediction = solve(build)
    found = still_assumed(build, prediction)
    shares = [one.share for one in found]
    assert shares == sorted(shares, reverse=True)
    assert shares[0] > 0.01
    known = build.model_copy(update={"load": build.load.model_copy(update={"told": ()})})
    assert len(still_assumed(known, prediction)) < len(found)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("60 W 4R", (60.0, 4.0, None)), ("60/4", (60.0, 4.0, None)), ("100W into 8 ohm class D", (100.0, 8.0, "D")),
        ("45,5 W @ 8 Ω ab", (45.5, 8.0, "AB")), ("  20W 8  ", (20.0, 8.0, None)),
    ],
)  # fmt: skip
def test_a_requirement_is_typed_as_it_is_spoken(text: str, expected: tuple[float, float, str | None]) -> None:
    assert read_requirement(text)[:3] == expected


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "expected watts into ohms"), ("loud", "expected watts into ohms"), ("60 W", "expected watts into ohms"),
     ("5000 W 4R", "expected 1 to 500 W"), ("60 W 0.5R", "expected 2 to 32"), ("60 V 4R", "expected watts")],
)  # fmt: skip
def test_nonsense_is_named(text: str, says: str) -> None:
    with pytest.raises(QuantityError, match=says):
        read_requirement(text)


@given(st.text(max_size=60))
def test_any_text_is_a_requirement_or_a_sentence(text: str) -> None:
    found: Spoken | None = None
    with contextlib.suppress(QuantityError):
        found = read_requirement(text)
    assert found is None or (found[0] is not None and 1.0 <= found[0] <= 500.0 and 2.0 <= found[1] <= 32.0)


def test_every_mains_offered_is_one_of_the_world_s() -> None:
    assert {hertz for _, hertz in MAINS} == {50.0, 60.0}
    assert isinstance(from_zero(Requirement(10.0, 8.0, mains_v=100.0)), Build)


OWN_MODULES = [part for part, _ in WHOLE if isinstance(part, (ClassABModule, ClassAModule, ClassDModule))]
# One of each kind with each sort of rails.
OWN_SOURCES: list[SourcePart] = [
    next(p for p, _ in WHOLE if isinstance(p, kind) and getattr(p, "secondaries", getattr(p, "rails", "")) == rails)
    for kind, rails in (
        (Transformer, "two"), (Transformer, "one"), (Transformer, "centre_tap"), (MainsSwitcher, "single"),
        (MainsSwitcher, "dual"), (BenchPair, "dual"), (BenchPair, "single"), (BatteryConverter, ""),
    )
]  # fmt: skip


@pytest.mark.parametrize("supply", in_turn(SUPPLY_KINDS, 2))
def test_each_module_of_the_shelf_begins_a_build_within_its_rails(supply: SupplyKind) -> None:
    for module in OWN_MODULES[::4]:
        requirement = Requirement(0.0, 8.0, supply=supply, module=module)
        if supply == "battery" and isinstance(module, ClassDModule) and module.bridge == "full":
            with pytest.raises(PhysicsError, match="wants a single rail"):
                from_zero(requirement)
            continue
        build = from_zero(requirement)
        assert build.module == module
        prediction = solve(build)
        assert prediction["rail_no_load_v"].value < 1.02 * module.v_rail_max, module.name
        assert prediction["clip_worst_power_w"].value > 1.0, module.name


def test_each_supply_of_the_shelf_begins_a_build() -> None:
    for source in OWN_SOURCES:
        build = from_zero(Requirement(20.0, 8.0, source=source))
        assert source in [part_in(build, slot) for one in stations(build) for slot in one.slots]
        assert solve(build)["clip_worst_power_w"].value > 0.1, source.name
        assert "with a requirement of 20 W into 8 Ω" in build.note


def test_a_module_is_named_as_it_is_spoken() -> None:
    named = read_requirement("stagehand 60 into 4R", OWN_MODULES)
    assert named.module is not None
    assert (named.module.name, named.r_ohm, named.power_w) == ("Stagehand 60", 4.0, None)
    assert read_requirement("Stagehand 60", OWN_MODULES).r_ohm == 8.0
    assert read_requirement("60 W 4R", OWN_MODULES).module is None
    with pytest.raises(QuantityError, match="expected a load such as 4R"):
        read_requirement("Stagehand 60 very loud", OWN_MODULES)
    with pytest.raises(QuantityError, match="name of a module"):
        read_requirement("Stage", OWN_MODULES)
