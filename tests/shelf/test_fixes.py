"""What clears a limit: it does so in a full prediction too, it is the smallest, and nothing unknown clears anything."""

import dataclasses

import pytest

from plinth.builds.build import Build
from plinth.builds.fields import part_fields
from plinth.builds.properties import How, how_known, value_at
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, stations, with_part
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.quick_estimate import WellKnown, well_known
from plinth.predict.solve import solve
from plinth.shelf import fixes as fixing
from plinth.shelf.fix_places import PLACES
from plinth.shelf.fixes import fixes
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import joined
from tests.family import FAMILY
from tests.turns import in_turn

ITEMS = [ShelfItem(number, part, stock) for number, (part, stock) in enumerate(WHOLE)]
GONE = ("wiring_said", "speech_only")
DEMO = (STAGE_PAIR, REHEARSAL_ROOM, MARKET_BOX, STREET_BOX, FOYER)


def known(build: Build) -> WellKnown:
    return well_known(solve(build))


def state_of(build: Build, key: str) -> State | None:
    return next((one.state for one in judge(solve(build)) if one.key == key), None)


# That of chokes and class A takes as long as the others together.
@pytest.mark.parametrize(
    "build", in_turn([one for one in DEMO if one is not FOYER] + [FOYER], 5, name=lambda b: b.name)
)
def test_what_clears_it_at_a_glance_clears_it_in_full(build: Build) -> None:
    here = known(build)
    troubled = [one for one in judge(here.prediction) if one.state in (State.OVER, State.CLOSE)]
    assert troubled
    some = False
    for margin in troubled:
        found = fixes(here, margin.key, ITEMS)
        some = some or bool(found)
        for way in found:
            tried = joined(build, way.slot, way.part) if way.item is not None else with_part(
                build, way.slot, way.part, changed=way.same
            )  # fmt: skip
            assert isinstance(tried, Build)
            # Said to clear it, it clears it, and nothing less.
            assert state_of(tried, margin.key) is (way.margin.state if margin.key not in GONE else None)
            assert way.watts[0] == pytest.approx(here.prediction["clip_worst_power_w"].value)
    assert some


def test_a_value_is_turned_no_further_than_needed() -> None:
    build = FAMILY["class AB on linear"]
    volts = 1.02 * solve(build)["rail_no_load_high_v"].value
    tight = with_part(
        build, "supply.reservoir", part_in(build, "supply.reservoir").model_copy(update={"v_rated": volts})
    )
    found = next(one for one in fixes(known(tight), "reservoir_voltage", []) if one.slot == "supply.reservoir")
    needed = value_at(found.part, "v_rated")
    assert found.clears
    assert how_known(found.part, "v_rated") is How.ASSUMED
    assert found.part.identity != part_in(tight, "supply.reservoir").identity
    less = part_in(tight, "supply.reservoir").model_copy(update={"v_rated": 0.97 * needed})
    assert state_of(with_part(tight, "supply.reservoir", less), "reservoir_voltage") is not State.CLEAR


def test_what_only_nearly_clears_in_full_is_turned_on_until_it_clears(monkeypatch: pytest.MonkeyPatch) -> None:
    build = FAMILY["class AB on linear"]
    volts = 1.02 * solve(build)["rail_no_load_high_v"].value
    tight = with_part(
        build, "supply.reservoir", part_in(build, "supply.reservoir").model_copy(update={"v_rated": volts})
    )

    def needed() -> tuple[float, bool]:
        found = next(one for one in fixes(known(tight), "reservoir_voltage", []) if one.slot == "supply.reservoir")
        return float(value_at(found.part, "v_rated")), found.clears

    plain, clears = needed()
    assert clears
    real, seen = fixing.solved_in_full, list[Build]()

    def twice_close(here: WellKnown, tried: Build, key: str) -> object:
        found = real(here, tried, key)
        assert found is not None
        seen.append(tried)
        state = State.CLOSE if len(seen) <= 2 else found.margin.state
        return dataclasses.replace(found, margin=dataclasses.replace(found.margin, state=state))

    monkeypatch.setattr(fixing, "solved_in_full", twice_close)
    further, clears = needed()
    assert clears
    assert len(seen) >= 3
    assert further == pytest.approx(plain * 1.02**2, rel=0.01)


def test_what_is_clear_needs_nothing_and_an_unheard_limit_has_nothing() -> None:
    here = known(FAMILY["class AB on linear"])
    clear = next(one for one in judge(here.prediction) if one.state is State.CLEAR)
    assert fixes(here, clear.key, ITEMS) == []
    assert fixes(here, "no such limit", ITEMS) == []


def test_wiring_is_repaired_by_saying_it_and_not_by_silence() -> None:
    here = known(FAMILY["class AB on linear"])
    said = fixes(here, "wiring_said", ITEMS)
    assert [one.part.name for one in said] == ["Star, case bonded", "Plane, case bonded"]
    attic = next(item.part for item in ITEMS if item.part.name == "As found in the attic")
    bad = with_part(FAMILY["class AB on linear"], "hookup", attic)
    found = fixes(known(bad), "earth", ITEMS)
    assert found[0].same
    assert value_at(found[0].part, "earth") == "bonded"
    assert "Wiring, not said" not in {one.part.name for one in found}


def test_a_thing_in_the_drawer_costs_nothing_and_comes_before_a_dear_one() -> None:
    found = fixes(known(REHEARSAL_ROOM), "reservoir_ripple", ITEMS)
    costs = [one.cost for one in found if one.item is not None and one.slot == "supply.reservoir"]
    assert costs[0] == 0.0
    hidden = [
        dataclasses.replace(item, stock=item.stock.model_copy(update={"hidden": True}))
        if item.part == found[0].part else item
        for item in ITEMS
    ]  # fmt: skip
    assert found[0].part not in [one.part for one in fixes(known(REHEARSAL_ROOM), "reservoir_ripple", hidden)]


def test_it_ends_when_nobody_wants_it_any_more() -> None:
    told: list[float] = []

    def stop(share: float) -> bool:
        told.append(share)
        return False

    fixes(known(REHEARSAL_ROOM), "module_rail_maximum", ITEMS, stop)
    assert len(told) == 1


def test_every_place_is_a_property_that_such_a_part_has() -> None:
    kept = [part for part, _ in WHOLE]
    for build in (*FAMILY.values(), *DEMO):
        for slot in (slot for one in stations(build) for slot in one.slots):
            kept.append(part_in(build, slot))
    paths = {type(part): {field.path for field in part_fields(part)} for part in kept}
    every = {path for found in paths.values() for path in found}
    for places in PLACES.values():
        for place in places:
            assert place.path in every or not place.path


def test_every_limit_that_can_be_over_says_where_it_is_repaired() -> None:
    builds = [*FAMILY.values()][::3]
    keys = {one.key for build in builds for one in judge(solve(build, Situation(crest_db=3.01)))}
    assert keys - set(PLACES) == set()


def test_a_wrong_primary_is_set_right_and_a_divider_turned() -> None:
    linear = FAMILY["class AB on linear"]
    part = part_in(linear, "supply.transformer").model_copy(update={"v_primary_rms": 115.0})
    wrong = with_part(linear, "supply.transformer", part)
    found = fixes(known(wrong), "primary", [])
    assert value_at(found[0].part, "v_primary_rms") == 230.0
    assert found[0].same
    assert found[0].clears
    assert "115 V → 230 V" in found[0].words
    converter = part_in(STREET_BOX, "supply.converter")
    top = value_at(converter, "r_divider_top_ohm")
    for factor in (0.8, 1.25):
        off = with_part(
            STREET_BOX, "supply.converter", converter.model_copy(update={"r_divider_top_ohm": factor * top})
        )
        found = [one for one in fixes(known(off), "feedback_divider", []) if one.clears]
        assert found
        assert value_at(found[0].part, "r_divider_top_ohm") == pytest.approx(top, rel=0.06)


def test_what_is_for_speech_may_be_meant_for_music() -> None:
    linear = FAMILY["class AB on linear"]
    speech = part_in(linear, "hookup").model_copy(update={"use": "speech"})
    found = fixes(known(with_part(linear, "hookup", speech)), "speech_only", ITEMS)
    assert any(value_at(one.part, "use") == "music" and one.same for one in found)
