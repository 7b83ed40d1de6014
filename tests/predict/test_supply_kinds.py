"""What each kind of supply says of itself in numbers, against its parts and what the full engine makes of it."""

import math

import pytest

from plinth.bench.test_settings import source
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import SUPPLY_KINDS, kind_with
from plinth.builds.supply_parts import Transformer
from plinth.demo.builds import FOYER, MARKET_BOX, STREET_BOX
from plinth.predict.inputs import inputs_of
from plinth.predict.solve import solve
from plinth.predict.supply_kinds import SUPPLY_NUMBERS
from plinth.predict.unloaded_supply import own_rails
from plinth.shelf.find_quick import numbers_of
from tests.family import FAMILY
from tests.sample_builds import linear

KINDS = [
    "class AB on linear", "class AB on switcher", "class AB on bench", "class AB on battery",
    "chips on one rail, bridged on linear", "class D full bridge on switcher",
]  # fmt: skip


def with_source(build: Build, **changes: object) -> Build:
    supply = build.supply
    part = supply.source_part.model_copy(update=changes)
    return build.model_copy(update={"supply": supply.model_copy(update={supply.source_slot: part})})


def test_every_kind_has_its_numbers_and_is_known_by_its_source() -> None:
    assert set(SUPPLY_NUMBERS) == set(SUPPLY_KINDS)
    assert len({kind.key() for kind in SUPPLY_KINDS}) == len(SUPPLY_KINDS)
    for build in FAMILY.values():
        assert kind_with(build.supply.source_part) is type(build.supply)
        assert build.supply.key() == build.supply.kind
    assert kind_with(FOYER.load) is None


@pytest.mark.parametrize("name", KINDS)
def test_closed_forms_know_the_highest_rail_of_each_kind(name: str) -> None:
    """Without load the rail stands at the crest less the diodes; a supply that is set, at its own tolerance."""
    build = FAMILY[name]
    n = numbers_of(build, Situation())
    highest = n["v_peak"] * n["high"] - n["drop"]
    full = solve(build, Situation(rail_load_a=0.0))["rail_no_load_high_v"]
    if n["rectified"]:
        # What bleeders and boards take costs a diode some of its drop.
        assert highest == pytest.approx(full.value, rel=0.03)
    else:
        part = build.supply.source_part
        bound = getattr(part, "v_rail_tol", 0.01)
        assert n["v_peak"] == pytest.approx(part.v_rail)
        follows = 1.1 if build.supply.follows_mains else 1.0
        assert highest == pytest.approx(follows * (1.0 + bound) * part.v_rail, rel=1e-9)
        assert highest == pytest.approx(full.value, rel=bound + 0.01)


@pytest.mark.parametrize("name", ["class AB on switcher", "class AB on battery", "class D full bridge on switcher"])
def test_closed_forms_droop_as_stated_towards_the_rated_power(name: str) -> None:
    build = FAMILY[name]
    part, n = build.supply.source_part, numbers_of(build, Situation())
    rated_a = part.p_continuous_w / ((1 if build.supply.single_rail else 2) * part.v_rail)
    assert n["droop"] * rated_a == pytest.approx(part.droop * part.v_rail, rel=1e-9)
    # So it is in full, where each rail gives half of that.
    rest = solve(build, Situation(rail_load_a=0.0))["rail_plus_mean_v"].value
    loaded = solve(build, Situation(rail_load_a=0.5 * rated_a))["rail_plus_mean_v"].value
    assert rest - loaded == pytest.approx(0.5 * part.droop * part.v_rail, rel=0.25)


def test_a_proportional_converter_follows_the_battery_to_its_fullest() -> None:
    for control, ratio in (("proportional", STREET_BOX.supply.battery.v_full / 25.6), ("regulated", 1.0)):  # type: ignore[union-attr]
        build = with_source(STREET_BOX, control=control)
        found = solve(build)
        at_rest = solve(build, Situation(rail_load_a=0.0))["rail_no_load_v"].value
        assert found["rail_no_load_high_v"].value / at_rest == pytest.approx(ratio, rel=0.01), control


def test_rails_that_follow_the_mains_are_less_sure_than_regulated_ones() -> None:
    for build in (MARKET_BOX, FAMILY["class AB on switcher"]):
        u = {
            control: own_rails(with_source(build, control=control), board=False).u_v
            for control in ("regulated", "proportional")
        }
        stated = build.supply.source_part.v_rail * build.supply.source_part.v_rail_tol / math.sqrt(3.0)
        assert u["regulated"] == pytest.approx(stated, rel=0.05)
        assert u["proportional"] > 1.2 * u["regulated"]


@pytest.mark.parametrize("volts", [12.0, 18.0])
def test_saturation_nobody_states_goes_with_the_crest_of_the_winding(volts: float) -> None:
    """A discrete stage leaves some 1.5 V and 4 % of its rail, which stands at the crest of the secondary."""
    build = FAMILY["class AB on linear"]
    part = linear(build).transformer.model_copy(update={"v_secondary_rms": volts})
    module = build.module.model_copy(update={"v_sat_v": None, "told": (), "v_rail_nominal": 60.0, "v_rail_max": 70.0})
    here = build.model_copy(update={"module": module, "supply": build.supply.model_copy(update={"transformer": part})})
    found = inputs_of(here, Situation())["v_sat"]
    assert found.value == pytest.approx(1.5 + 0.04 * math.sqrt(2.0) * volts, rel=1e-6)
    assert found.estimated


def test_what_is_set_at_the_source_is_what_it_stands_at() -> None:
    for name, setting in (
        ("class AB on bench", ("bench supply", 30.0, "V")), ("class AB on linear", ("mains", 230.0, "V")),
        ("class AB on battery", ("battery", 25.6, "V")),
    ):  # fmt: skip
        found = source(FAMILY[name], Situation())
        assert (found.name, found.value, found.unit) == setting
    assert isinstance(linear(FAMILY["class AB on linear"]).source_part, Transformer)
