"""The shelf: searching three thousand parts, what a build becomes with each, finds, mends, curves."""

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.supply_parts import Reservoir, Transformer
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.demo.shelves.whole import WHOLE
from plinth.predict.curve import curve, what_can_vary
from plinth.predict.glance import well_known
from plinth.predict.solve import solve, solve_fully
from plinth.shelf.consequence import begin, consequence
from plinth.shelf.find import find
from plinth.shelf.item import ShelfItem
from plinth.shelf.mend import mends
from plinth.shelf.query import read_query
from plinth.shelf.wanted import read_wanted


def many(kind: type[Part], count: int) -> list[ShelfItem]:
    own = [(part, stock) for part, stock in WHOLE if type(part) is kind]
    return [
        ShelfItem(k, own[k % len(own)][0].model_copy(update={"name": f"{k}"}), own[k % len(own)][1])
        for k in range(count)
    ]


def distinct(count: int) -> list[Part]:
    """Reservoirs no two of which are alike, so that nothing is remembered from one to the next."""
    own = [part for part, _ in WHOLE if isinstance(part, Reservoir)]
    return [
        own[k % len(own)].model_copy(update={"name": f"{k}", "c_f": own[k % len(own)].c_f * (1.0 + 1e-4 * k)})
        for k in range(count)
    ]


def test_alone_search_of_3000_parts(benchmark: BenchmarkFixture) -> None:
    items = many(Transformer, 3000)

    def search() -> int:
        query = read_query(">=160VA 2x22..28 <60 ring", (Transformer,))
        return sum(query.met(item) for item in items)

    assert benchmark(search) >= 0


@pytest.mark.parametrize(("build", "slot"), [(STAGE_PAIR, "supply.reservoir"), (STREET_BOX, "supply.reservoir")])
def test_alone_consequences_of_100_parts(benchmark: BenchmarkFixture, build: Build, slot: str) -> None:
    here = begin(build, Situation(), slot)
    parts = distinct(100)
    found = benchmark.pedantic(lambda: [consequence(here, part) for part in parts], rounds=1)  # type: ignore[no-untyped-call]
    assert len(found) == 100


def test_alone_consequences_of_3000_parts(benchmark: BenchmarkFixture) -> None:
    here = begin(REHEARSAL_ROOM, Situation(), "supply.reservoir")
    parts = distinct(3000)
    found = benchmark.pedantic(lambda: [consequence(here, part) for part in parts], rounds=1)  # type: ignore[no-untyped-call]
    assert len(found) == 3000


def test_alone_find_over_100_000_combinations(benchmark: BenchmarkFixture) -> None:
    items = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]
    items += many(Transformer, 320)
    wanted = read_wanted("30 W 8R, sink < 75")
    slots = ("supply.transformer", "supply.reservoir", "sink")

    def search() -> int:
        solve_fully.cache_clear()
        return find(REHEARSAL_ROOM, Situation(), wanted, slots, items).count

    assert benchmark.pedantic(search, rounds=3) > 100_000  # type: ignore[no-untyped-call]


def test_alone_mends_of_a_limit(benchmark: BenchmarkFixture) -> None:
    items = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]
    known = well_known(solve(STAGE_PAIR))
    assert benchmark(lambda: mends(known, "sink_heat", items))


def test_alone_curve_of_41_points(benchmark: BenchmarkFixture) -> None:
    prediction = solve(STAGE_PAIR)
    over = next(one for one in what_can_vary(STAGE_PAIR, Situation()) if one.key == "load_ohm")
    assert len(benchmark(lambda: curve(prediction, "sink_c", over)).x) == 41
