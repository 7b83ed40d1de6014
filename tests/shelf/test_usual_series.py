"""The shelf of a workshop of one's own: plain parts, nothing invented, nothing that passes for known."""

import math
import re
from pathlib import Path

import pytest

from plinth.builds.build import Build
from plinth.builds.fields import part_fields
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.parts import PART_KINDS, Entry, HeatSink, Load, Mains, Part
from plinth.builds.properties import How, value_at
from plinth.builds.situation import Situation
from plinth.builds.stations import is_there, part_in, stations
from plinth.builds.supply_parts import Battery, Reservoir, Transformer
from plinth.demo.builds import BUILDS
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.session.beginning import begin_workshop, complete, first_build
from plinth.shelf.find import find
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import KINDS, joined, joined_all, slots_of
from plinth.shelf.usual_series import is_usual, usual_series
from plinth.shelf.wanted import read_wanted
from plinth.workshop.store import create_workshop
from tests.family import FAMILY
from tests.turns import in_turn

PARTS = tuple(part for part, _ in usual_series())
INVENTED = {part.name for part, _ in WHOLE}


def of(kind: type[Part]) -> list[Part]:
    return [part for part in PARTS if isinstance(part, kind)]


def test_every_kind_of_part_is_there_once_by_its_name() -> None:
    assert {type(part) for part in PARTS} == set(PART_KINDS.values())
    names = [part.name for part in PARTS]
    assert len(set(names)) == len(names)


def test_there_is_no_maker_no_price_and_none_of_the_demo_s() -> None:
    assert {getattr(part, "maker", "–") for part in PARTS} == {"–"}
    assert INVENTED.isdisjoint(part.name for part in PARTS)
    for part, stock in usual_series():
        assert (stock.prices, stock.in_drawer, stock.ordered) == ((), 0, 0), part.name


@pytest.mark.parametrize("kind", list(PART_KINDS.values()), ids=lambda kind: kind.__name__)
def test_every_number_of_it_is_assumed(kind: type[Part]) -> None:
    # Which wall it is is chosen.
    chosen = {"v_nominal_rms", "frequency_hz", "tolerance"} if kind is Mains else set()
    for part in of(kind):
        how = {fact.field: fact.how for fact in part.told}
        numbers = {field.path for field in part_fields(part) if field.number and value_at(part, field.path) is not None}
        assert numbers - set(how) <= chosen, part.name
        assert set(how.values()) <= {How.ASSUMED}
        assert is_usual(part)


def test_values_are_preferred_numbers_and_those_of_the_standards() -> None:
    e6 = (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
    r10 = (1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0)

    def mantissa(value: float) -> float:
        return round(value / 10.0 ** math.floor(math.log10(value) + 1e-9), 3)

    assert all(mantissa(can.c_f) in e6 for can in of(Reservoir) if isinstance(can, Reservoir))
    assert all(mantissa(sink.r_k_per_w or 0.0) in e6 for sink in of(HeatSink) if isinstance(sink, HeatSink))
    slow = [inlet.fuse_a_rms for inlet in of(Entry) if isinstance(inlet, Entry) and inlet.fuse_kind == "T"]
    assert slow == sorted(slow)
    assert all(mantissa(amperes) in r10 for amperes in slow)
    for battery in of(Battery):
        assert isinstance(battery, Battery)
        cells = battery.v_nominal / 3.2
        assert cells == pytest.approx(round(cells))
        assert (battery.v_empty / cells, battery.v_full / cells) == pytest.approx((2.75, 3.65), rel=2e-3)


def test_a_name_says_what_the_part_is() -> None:
    for part in PARTS:
        said = [float(number) for number in re.findall(r"\d+(?:\.\d+)?", part.name.replace("2×", ""))]
        match part:
            case Transformer():
                *primary, volts, va = said
                assert (volts, va) == (part.v_secondary_rms, part.va)
                assert primary == ([] if part.v_primary_rms == 230.0 else [part.v_primary_rms])
            case Reservoir():
                assert said == [pytest.approx(1e3 * part.c_f), part.v_rated]
            case Load() if part.voice_coil is None:
                assert said == [part.r_ohm, part.p_rated_w]
            case Entry():
                assert said == [part.fuse_a_rms]
            case HeatSink():
                assert said == [part.r_k_per_w]
            case _:
                pass


def test_transformers_are_wound_for_what_they_can_carry() -> None:
    """Each of two halves carries from 1 to 15 A, as such toroids do; every size there is has its neighbours."""
    for part in of(Transformer):
        assert isinstance(part, Transformer)
        assert 0.6 < part.i_rated_a < 15.0, part.name


@pytest.mark.parametrize("kind", [ClassABModule, ClassAModule, ClassDModule])
def test_a_board_gives_about_the_watts_in_its_name_at_its_nominal_rail(kind: type[Part]) -> None:
    for board in of(kind):
        assert isinstance(board, ClassABModule | ClassAModule | ClassDModule)
        watts = float(re.findall(r"(\d+) W", board.name)[0])
        swing = 0.93 * board.v_rail_nominal if board.bridge_by_itself else board.v_rail_nominal - 3.0
        assert 0.7 * watts < swing**2 / (2.0 * 8.0) < 1.9 * watts, board.name


def test_the_first_build_runs_and_nothing_of_it_is_over() -> None:
    build = first_build()
    fitted = [part_in(build, slot) for at in stations(build) for slot in at.slots if is_there(build, slot)]
    assert all(is_usual(part) for part in fitted)
    states = {margin.key: margin.state for margin in judge(solve(build))}
    assert State.OVER not in states.values()
    # What nobody said of mains and earth is not safe.
    assert states["wiring_said"] is State.UNKNOWN


@pytest.mark.parametrize(
    "part", in_turn([one for one in PARTS if not isinstance(one, Mains)], 28, name=lambda part: part.name)
)
def test_it_joins_some_build_and_all_its_figures_are_numbers(part: Part) -> None:
    for build in (first_build(), *BUILDS, *FAMILY.values()):
        for slot in (slot for at in stations(build) for slot in slots_of(build, at.key)):
            if type(part) not in KINDS[slot]:
                continue
            with_it = joined(build, slot, part)
            if isinstance(with_it, Build):
                figures = solve(with_it, Situation()).figures
                assert not [key for key, figure in figures.items() if math.isnan(figure.value)]
                return
    pytest.fail(f"{part.name} joins none of the builds")


def test_a_workshop_of_one_s_own_holds_the_series_and_nothing_of_the_demo_s(tmp_path: Path) -> None:
    workshop = begin_workshop(tmp_path / "mine.plinth")
    names = [item.part.name for item in workshop.items()]
    assert names == [part.name for part in PARTS]
    (stored,) = workshop.builds()
    assert stored.build == first_build()
    assert "usual series" in workshop.diary(stored.id)[0].words
    assert INVENTED.isdisjoint(
        part_in(stored.build, slot).name
        for at in stations(stored.build)
        for slot in at.slots
        if is_there(stored.build, slot)
    )
    workshop.close()


def test_a_workshop_left_without_a_build_is_completed_once(tmp_path: Path) -> None:
    workshop = create_workshop(tmp_path / "left.plinth")
    complete(workshop)
    complete(workshop)
    assert [stored.build.name for stored in workshop.builds()] == ["First build"]
    assert len(workshop.items()) == len(PARTS)
    workshop.close()


def test_a_search_along_it_finds_what_meets_a_requirement() -> None:
    items = [ShelfItem(number, part, stock) for number, (part, stock) in enumerate(usual_series())]
    build = first_build()
    assert solve(build)["clip_worst_power_w"].value < 40.0
    # More volts want cans that hold them.
    slots = ("supply.transformer", "supply.reservoir")
    found = find(build, Situation(), read_wanted("42 W 8R"), slots, items)
    assert found.met
    best = joined_all(build, {slot: item.part for slot, item in found.met[0].items.items() if item is not None})
    assert isinstance(best, Build)
    assert solve(best)["clip_worst_power_w"].value >= 42.0
    assert all(is_usual(part_in(best, slot)) for slot in slots)
