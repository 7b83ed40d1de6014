"""The shelf: searching three thousand parts, what a build becomes with each, finds, fixes, curves."""

import time
from collections.abc import Iterator

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.supply_parts import Reservoir, Transformer
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.demo.shelf import WHOLE
from plinth.predict.batch_onsets import choices
from plinth.predict.curve import curve, figure_map, what_can_vary
from plinth.predict.quick_estimate import well_known
from plinth.predict.solve import solve, solve_fully
from plinth.processes import worker_pool
from plinth.session.maps import map_of
from plinth.session.shelf_look import at_a_time, become
from plinth.shelf.consequence import begin, consequence
from plinth.shelf.find import find
from plinth.shelf.fixes import fixes
from plinth.shelf.item import ShelfItem
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


@pytest.fixture(scope="module")
def helped() -> Iterator[None]:
    """As in a window that has stood for a while."""
    worker_pool.start(("plinth.shelf.consequence", "plinth.predict.curve"))
    while not all(one.begin(consequence, None) for one in worker_pool.running()):
        time.sleep(0.1)
    yield
    worker_pool.end()


@pytest.mark.usefixtures("helped")
@pytest.mark.parametrize("build", [STAGE_PAIR, STREET_BOX, FOYER], ids=lambda build: build.name)
def test_alone_first_screenful_of_the_shelf(benchmark: BenchmarkFixture, build: Build) -> None:
    here = begin(build, Situation(), "supply.reservoir")
    assert len(benchmark.pedantic(lambda: become(here, distinct(12)), rounds=3)) == 12  # type: ignore[no-untyped-call]


@pytest.mark.usefixtures("helped")
@pytest.mark.parametrize("build", [STAGE_PAIR, STREET_BOX, FOYER], ids=lambda build: build.name)
def test_alone_rows_of_300_parts(benchmark: BenchmarkFixture, build: Build) -> None:
    here, parts = begin(build, Situation(), "supply.reservoir"), distinct(300)
    size = at_a_time(here)

    def rows() -> int:
        return sum(len(become(here, parts[k : k + size])) for k in range(0, len(parts), size))

    assert benchmark.pedantic(rows, rounds=1) == 300  # type: ignore[no-untyped-call]


@pytest.mark.usefixtures("helped")
def test_alone_rows_of_3000_parts(benchmark: BenchmarkFixture) -> None:
    here, parts = begin(REHEARSAL_ROOM, Situation(), "supply.reservoir"), distinct(3000)
    size = at_a_time(here)

    def rows() -> int:
        return sum(len(become(here, parts[k : k + size])) for k in range(0, len(parts), size))

    assert benchmark.pedantic(rows, rounds=1) == 3000  # type: ignore[no-untyped-call]


@pytest.mark.parametrize("build", [STAGE_PAIR, STREET_BOX, FOYER], ids=lambda build: build.name)
def test_alone_rows_of_60_parts_without_help(benchmark: BenchmarkFixture, build: Build) -> None:
    here, parts = begin(build, Situation(), "supply.reservoir"), distinct(60)
    assert len(benchmark.pedantic(lambda: [consequence(here, part) for part in parts], rounds=1)) == 60  # type: ignore[no-untyped-call]


@pytest.mark.usefixtures("helped")
@pytest.mark.parametrize("name", ["clip_worst_power_w", "sink_c"])
@pytest.mark.parametrize("build", [STAGE_PAIR, STREET_BOX, FOYER], ids=lambda build: build.name)
def test_alone_map_of_a_figure(benchmark: BenchmarkFixture, build: Build, name: str) -> None:
    prediction = solve(build)
    every = {one.key: one for one in what_can_vary(build, Situation())}
    found = benchmark.pedantic(  # type: ignore[no-untyped-call]
        lambda: figure_map(prediction, name, every["load_ohm"], every["c"]), rounds=2
    )
    assert found.value.shape == (11, 14)


@pytest.mark.usefixtures("helped")
@pytest.mark.parametrize("build", [STREET_BOX, FOYER], ids=lambda build: build.name)
def test_alone_map_of_clip_power_one_by_one(benchmark: BenchmarkFixture, build: Build) -> None:
    across, up, *_ = choices(build)
    assert benchmark.pedantic(lambda: map_of(build, Situation(), across, up, lambda _: True), rounds=2)  # type: ignore[no-untyped-call]


def test_alone_find_over_100_000_combinations(benchmark: BenchmarkFixture) -> None:
    items = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]
    items += many(Transformer, 320)
    wanted = read_wanted("30 W 8R, sink < 75")
    slots = ("supply.transformer", "supply.reservoir", "sink")

    def search() -> int:
        solve_fully.cache_clear()
        return find(REHEARSAL_ROOM, Situation(), wanted, slots, items).count

    assert benchmark.pedantic(search, rounds=3) > 100_000  # type: ignore[no-untyped-call]


def test_alone_fixes_of_a_limit(benchmark: BenchmarkFixture) -> None:
    items = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]
    known = well_known(solve(STAGE_PAIR))
    assert benchmark(lambda: fixes(known, "sink_heat", items))


def test_alone_curve_of_41_points(benchmark: BenchmarkFixture) -> None:
    prediction = solve(STAGE_PAIR)
    over = next(one for one in what_can_vary(STAGE_PAIR, Situation()) if one.key == "load_ohm")
    assert len(benchmark(lambda: curve(prediction, "sink_c", over)).x) == 41
