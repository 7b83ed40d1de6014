"""Find me: what meets a requirement meets it in full, what loses has a reason, closed forms are near enough to sort."""

import dataclasses
import math

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.properties import How, Told, with_told
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in
from plinth.builds.supply_parts import Reservoir
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.shelf.bill import bill_of
from plinth.shelf.consequence import OF_THE_BENCH
from plinth.shelf.find import (
    RANKS,
    Absence,
    Candidate,
    _asked,
    _field,
    _in_full,
    _prices,
    find,
    slots_around,
    slots_for_clearing,
)
from plinth.shelf.find_quick import SLACK, numbers_of, quick
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import joined_all
from plinth.shelf.wanted import Wanted, read_wanted
from plinth.units.errors import QuantityError
from tests.family import FAMILY
from tests.turns import in_turn

ITEMS = [ShelfItem(number, part, stock) for number, (part, stock) in enumerate(WHOLE)]
DEMO = {build.name: build for build in (STAGE_PAIR, REHEARSAL_ROOM, MARKET_BOX, STREET_BOX, FOYER)}


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("60 W 4R", Wanted(((60.0, 4.0),))),
        ("60W into 4 ohm both, sink under 75C on a 35C day, no fan, under 120, drawer",
         Wanted(((60.0, 4.0),), 75.0, 35.0, 120.0, True)),
        ("45 W 8R; 80 W 4R; price < 99,5", Wanted(((45.0, 8.0), (80.0, 4.0)), price=99.5)),
        ("sink < 70 at 40", Wanted(sink_c=70.0, ambient_c=40.0)),
        ("only from the drawer", Wanted(drawer_only=True)),
        ("", Wanted()),
    ],
)  # fmt: skip
def test_a_requirement_is_read_as_it_is_spoken(text: str, wanted: Wanted) -> None:
    assert read_wanted(text) == wanted
    assert wanted.words.endswith("nothing over its limit")


@pytest.mark.parametrize("text", ["60 W", "make it loud", "0 W 4R", "60 W 0.1R", "sink < 20", "sink < 90 at 95"])
def test_a_requirement_that_cannot_be_says_what_was_found_and_expected(text: str) -> None:
    with pytest.raises(QuantityError, match="expected"):
        read_wanted(text)


@pytest.mark.parametrize("build", in_turn([*FAMILY.values(), *DEMO.values()], 5, name=lambda build: build.name))
def test_closed_forms_are_near_enough_to_sort_out_with(build: Build) -> None:
    situation = Situation()
    got = quick(build, situation, {key: np.array([value]) for key, value in numbers_of(build, situation).items()})
    prediction = solve(build)
    assert got.power_w[0] == pytest.approx(prediction["clip_worst_power_w"].value, rel=SLACK)
    assert got.rail_high_v[0] == pytest.approx(prediction["rail_no_load_high_v"].value, rel=0.10)
    rise = max(prediction["sink_c"].value, prediction["sink_idle_c"].value) - 25.0
    # What is sorted out as too hot is so: the closed form comes out cooler rather than hotter.
    assert (got.sink_c[0] - 25.0) * (1.0 - got.sink_slack[0]) <= rise


@pytest.mark.parametrize("rank", in_turn(RANKS, 4))
def test_whatever_meets_the_requirement_does_so_in_full(rank: str) -> None:
    wanted = read_wanted("60 W 4R, sink < 75 at 35, under 150")
    outcome = find(STAGE_PAIR, Situation(), wanted, ("supply.transformer", "module", "sink"), ITEMS, rank)  # type: ignore[arg-type]
    assert outcome.count > 10_000
    assert outcome.met
    for one in outcome.met:
        assert one.price is not None
        assert one.price <= 150.0
    for one in outcome.met[:3]:
        parts = {slot: item.part for slot, item in one.items.items() if item is not None}
        build = joined_all(STAGE_PAIR, parts)
        assert isinstance(build, Build)
        prediction = solve(build, Situation(ambient_c=35.0, load_ohm=4.0))
        assert prediction["clip_worst_power_w"].value >= 60.0 * 0.999
        assert max(prediction["sink_c"].value, prediction["sink_idle_c"].value) <= 75.0 * 1.001
        over = [m.key for m in judge(prediction) if m.state is State.OVER and m.key not in OF_THE_BENCH]
        assert over == []
    keys: list[float] = {
        "cheapest": [one.price or 0.0 for one in outcome.met],
        "most watts": [-one.watts for one in outcome.met],
        "most room": [-one.room for one in outcome.met],
        "most watts for the money": [-one.watts / max(one.price or 0.0, 1.0) for one in outcome.met],
    }[rank]
    assert keys == sorted(keys)
    assert all(one.why_not for one in outcome.lost)


def test_the_cheapest_is_not_missed() -> None:
    wanted = read_wanted("60 W 4R")
    slots = ("supply.transformer", "sink")
    outcome = find(REHEARSAL_ROOM, Situation(), wanted, slots, ITEMS)
    best = math.inf if not outcome.met else outcome.met[0].price
    # By trying every one of them in full.

    base, asked = _asked(REHEARSAL_ROOM, Situation(), wanted)
    field, _, _ = _field(base, wanted, slots, ITEMS)
    prices = _prices(base, field)
    cheaper = [row for row in np.argsort(prices)[:60] if prices[row] < (best or math.inf)]
    for row in cheaper:
        items = field.items(int(row))
        build = joined_all(base, {slot: item.part for slot, item in items.items() if item is not None})
        assert isinstance(build, Build)
        assert _in_full(asked, wanted, Candidate(items, build, {}, None, float(prices[row]), None)).why_not


def test_only_from_the_drawer_means_enough_of_them_there() -> None:
    outcome = find(REHEARSAL_ROOM, Situation(), read_wanted("10 W 8R drawer"), ("module", "supply.reservoir"), ITEMS)
    assert outcome.met
    for one in (*outcome.met, *outcome.lost):
        assert all(item is None or item.stock.in_drawer >= 1 for item in one.items.values())
    assert any(one == Absence("not in the drawer") for one in outcome.of_part.values())


def test_placeholders_are_not_offered() -> None:
    outcome = find(STAGE_PAIR, Situation(), Wanted(), ("supply.transformer",), ITEMS, "most watts")
    for one in (*outcome.met, *outcome.lost):
        for item in one.items.values():
            assert item is None or not all(told.how is How.ASSUMED for told in item.part.told) or not item.part.told


def test_why_a_part_is_in_none_is_told() -> None:
    outcome = find(STAGE_PAIR, Situation(), read_wanted("300 W 4R"), ("supply.transformer", "module"), ITEMS)
    assert outcome.met == ()
    assert sum(outcome.tally.values()) == outcome.count or outcome.lost
    assert outcome.of_part["supply.transformer", "Trial 10"].why == "too little power into 4 Ω"
    assert not outcome.of_part["supply.transformer", "Lone 150/24"].joins


def test_what_cannot_be_searched_says_so() -> None:
    for slots in ((), ("no such slot",), ("entry", "module", "sink", "load")):
        with pytest.raises(QuantityError, match="stations to choose for"):
            find(STAGE_PAIR, Situation(), Wanted(), slots, ITEMS)
    many = [ShelfItem(k, item.part.model_copy(update={"name": f"{item.part.name} {k}"}), item.stock)
            for k, item in enumerate(ITEMS * 30)]  # fmt: skip
    with pytest.raises(QuantityError, match="combinations"):
        find(STAGE_PAIR, Situation(), Wanted(), ("supply.transformer", "module", "supply.reservoir"), many)


def test_it_ends_when_nobody_wants_it_any_more() -> None:
    told: list[float] = []

    def stop(share: float) -> bool:
        told.append(share)
        return False

    find(STAGE_PAIR, Situation(), Wanted(), ("supply.transformer", "sink"), ITEMS, "cheapest", stop)
    assert len(told) <= 2


def test_where_to_look_is_proposed() -> None:
    margins = judge(solve(STAGE_PAIR))
    proposed = slots_for_clearing(STAGE_PAIR, margins)
    assert "sink" in proposed
    for slot in (*proposed, *slots_around(STAGE_PAIR, "module")):
        assert part_in(STAGE_PAIR, slot) is not None
    assert "module" not in slots_around(STAGE_PAIR, "module")
    assert "supply.switcher" in slots_around(MARKET_BOX, "module")


@pytest.mark.parametrize("slot", ["supply.transformer", "supply.reservoir", "supply.rectifier", "module", "sink"])
@pytest.mark.parametrize("base", [REHEARSAL_ROOM, STAGE_PAIR], ids=lambda build: build.name)
def test_find_me_and_the_bill_ask_the_same_money_for_a_part(base: Build, slot: str) -> None:
    """Also of what is ordered: that is paid for."""
    ordered = [
        dataclasses.replace(item, stock=item.stock.model_copy(update={"ordered": 3 * (k % 2), "in_drawer": k % 3}))
        for k, item in enumerate(ITEMS)
    ]
    wanted = read_wanted("1 W 8R")
    field, _, _ = _field(base, wanted, (slot,), ordered)
    prices = _prices(base, field)
    compared = 0
    for row, price in enumerate(prices):
        (item,) = field.items(row).values()
        if item is None:
            continue
        build = joined_all(base, {slot: item.part})
        assert isinstance(build, Build)
        line = next((one for one in bill_of(build, ordered).lines if one.part.name == item.part.name), None)
        if line is None or line.slots != (slot,):
            # Another kind of supply, or a part that stands in another place as well and is on one line with it.
            continue
        compared += 1
        expected = 0.0 if not line.missing else math.nan if line.cost is None else line.cost
        assert price == pytest.approx(expected, nan_ok=True), item.part.name
    assert compared


def test_a_placeholder_is_proposed_once_somebody_says_what_it_is() -> None:
    item = next(
        item for item in ITEMS if item.stock.placeholder and isinstance(item.part, Reservoir) and item.part.c_f > 5e-3
    )
    part = with_told(item.part, Told(field="c_f", how=How.STATED, value=10e-3, source="its sleeve"))
    known = dataclasses.replace(item, part=part)
    for candidate, proposed in ((item, False), (known, True)):
        found = find(STAGE_PAIR, Situation(), Wanted(), ("supply.reservoir",), [candidate])
        assert (found.count > 1) == proposed
