"""Parts measured and matched: judged by tolerance and age, sets and pairs as good as trying all, sharing by scipy."""

import datetime as dt
import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import fsolve

from plinth.builds.build import Build
from plinth.builds.stations import part_in, with_part
from plinth.demo.builds import FOYER, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.guide.part_tests.matching import best_pairs, best_sets, range_of
from plinth.guide.part_tests.part_test import (
    PartTest,
    matched,
    measured,
    next_piece,
    reading_of_piece,
    sentence_of,
    verdict_of,
)
from plinth.guide.part_tests.tests_of import part_tests_of
from plinth.judge.state import State
from plinth.physics.stages.sharing import THERMAL_V, shares_a, unevenness
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.units.errors import AmbiguousError, QuantityError
from tests.family import DEMO, FAMILY, FEW

AT = dt.datetime(2026, 10, 12, 9, 0, tzinfo=dt.UTC)


def keyed(build: Build) -> dict[str, PartTest]:
    return {one.key: one for one in part_tests_of(build)}


def read(test: PartTest, *typed: str) -> dict[int, Reading]:
    return {k: reading_of_piece(test, k, text, BENCH, AT) for k, text in enumerate(typed, 1)}


@pytest.mark.parametrize("name", [*DEMO, *FEW])
def test_every_build_has_tests_of_its_own_parts(name: str) -> None:
    build = (DEMO | FAMILY)[name]
    found = part_tests_of(build)
    assert len({one.key for one in found}) == len(found)
    keys = {one.key for one in found}
    assert ("bridge_vf" in keys) == (build.supply.kind == "linear")
    assert ("emitter_r" in keys) == (build.module.bias is not None)
    assert {"reservoir_c", "reservoir_esr", "reservoir_leak"} <= keys
    supplies = len(build.channels) if build.one_supply_per_channel else 1
    cans = sum(one.pieces for one in found if one.key in ("reservoir_c", "reservoir_minus_c"))
    assert cans == supplies * (1 if build.supply.single_rail else 2)
    for one in found:
        assert one.pieces >= 1
        assert one.ask
        low, high = one.window.low, one.window.high
        assert low is None or high is None or low < high
        if one.matching is not None:
            needed = len(one.matching.sets) * one.matching.size
            assert needed == one.pieces, one.key


def test_an_old_can_has_a_judgement_of_its_own() -> None:
    test = keyed(STAGE_PAIR)["reservoir_c"]
    words = {text: verdict_of(test, reading_of_piece(test, 1, text, BENCH, AT)) for text in ("9m1", "7m5", "6m2")}
    assert words["9m1"].state is State.CLEAR
    assert words["7m5"].state is State.CLOSE
    assert "as aged ones are" in words["7m5"].words
    assert words["6m2"].state is State.OVER
    assert "does not go in" in words["6m2"].words
    assert "as aged ones are" in sentence_of(reading_of_piece(test, 1, "7m5", BENCH, AT))
    # One made last year may not be an old one: the same reading is out.
    can = part_in(STAGE_PAIR, "supply.reservoir").model_copy(update={"year": 2025})
    fresh = keyed(with_part(STAGE_PAIR, "supply.reservoir", can, changed=True))["reservoir_c"]
    assert verdict_of(fresh, reading_of_piece(fresh, 1, "7m5", BENCH, AT)).state is State.OVER
    # A factor of ten is out in every test.
    for one in part_tests_of(STAGE_PAIR):
        middle = one.window.high if one.window.low is None else 0.5 * (one.window.low + (one.window.high or 0.0))
        assert middle is not None
        text = f"{30.0 * middle:.6g} {one.unit}"
        assert reading_of_piece(one, 1, text, BENCH, AT).state is State.OVER, one.key


def test_what_is_typed_at_the_bench_is_understood_as_it_is_spoken() -> None:
    tests = keyed(STAGE_PAIR)
    assert reading_of_piece(tests["reservoir_c"], 1, "9800", BENCH, AT).value == pytest.approx(9.8e-3)
    assert reading_of_piece(tests["reservoir_esr"], 1, "21m", BENCH, AT).value == pytest.approx(0.021)
    assert reading_of_piece(tests["emitter_r"], 1, "0R33", BENCH, AT).value == pytest.approx(0.33)
    assert reading_of_piece(tests["bridge_vf"], 1, "512", BENCH, AT).value == pytest.approx(0.512)
    with pytest.raises(QuantityError):
        reading_of_piece(tests["reservoir_c"], 1, "3 V", BENCH, AT)
    # A dried-out can shows 21 Ω, a sound one 21 mΩ.
    with pytest.raises(AmbiguousError, match="21 mΩ or 21 Ω") as asked:
        reading_of_piece(tests["reservoir_esr"], 1, "21", BENCH, AT)
    assert asked.value.values == pytest.approx((0.021, 21.0))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(0.5, 0.8), min_size=4, max_size=8, unique=True), st.integers(1, 2), st.integers(1, 3))
def test_no_other_choice_of_sets_is_better(values: list[float], count: int, size: int) -> None:
    pieces = dict(enumerate(values, 1))
    found = best_sets(pieces, count, size)
    if len(values) < count * size:
        assert found == ()
        return
    assert len({piece for one in found for piece in one}) == count * size
    total = sum(range_of(pieces, one) for one in found)
    best = min(
        sum(range_of(pieces, order[k * size : (k + 1) * size]) for k in range(count))
        for order in itertools.permutations(pieces, count * size)
    ) if count * size <= 4 else total  # fmt: skip
    assert total == pytest.approx(best, abs=1e-12)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(40.0, 300.0), min_size=2, max_size=5), st.lists(st.floats(40.0, 300.0), min_size=2, max_size=5),
    st.integers(1, 3),
)  # fmt: skip
def test_no_other_choice_of_pairs_is_better(first: list[float], second: list[float], count: int) -> None:
    a, b = dict(enumerate(first, 1)), dict(enumerate(second, 1))
    found = best_pairs(a, b, count)
    if min(len(a), len(b)) < count:
        assert found == ()
        return

    def cost(one: tuple[int, ...]) -> float:
        return abs(a[one[0]] - b[one[1]]) / (0.5 * (a[one[0]] + b[one[1]]))

    best = min(
        sum(cost(one) for one in zip(left, right, strict=True))
        for left in itertools.combinations(a, count)
        for right in itertools.permutations(b, count)
    )
    assert sum(cost(one) for one in found) == pytest.approx(best, abs=1e-9)
    assert len({x for x, _ in found}) == len({y for _, y in found}) == count


@pytest.mark.parametrize("r_ohm", [0.22, 0.1])
def test_junctions_share_as_their_law_says(r_ohm: float) -> None:
    control, total = (0.601, 0.615, 0.622), 0.3

    def law(x: np.ndarray) -> list[float]:
        *i, v = x
        each = total / 3
        return [
            v0 + THERMAL_V * np.log(max(a, 1e-12) / each) + a * r_ohm - v for a, v0 in zip(i, control, strict=True)
        ] + [sum(i) - total]

    reference = fsolve(law, [0.1, 0.1, 0.1, 0.65], xtol=1e-12)[:3]
    found = shares_a(control, r_ohm, total)
    assert found == pytest.approx(tuple(reference), rel=1e-4)
    assert sum(found) == pytest.approx(total)
    # The lower its volts, the more it carries; more resistor, more alike; equal ones share alike.
    assert found[0] > found[1] > found[2]
    assert unevenness(shares_a(control, 2.0 * r_ohm, total)) < unevenness(found)
    assert unevenness(shares_a((0.6, 0.6), r_ohm, total)) == pytest.approx(0.0, abs=1e-6)


def test_gates_share_by_their_slope() -> None:
    # 0.1 A each, slope 2 * 0.1 / 0.5 = 0.4 S: 2.5 ohm and the source resistor divide 40 mV.
    found = shares_a((3.88, 3.92), 0.22, 0.2)
    assert found[0] - found[1] == pytest.approx(0.04 / (2.5 + 0.22), rel=1e-6)


def test_pieces_are_matched_into_channels_and_the_bag_is_worse() -> None:
    test = keyed(FOYER)["output_n"]
    assert test.matching is not None
    assert test.matching.size == 2
    pieces = read(test, "3.91", "3.87", "3.94", "3.868", "3.905", "3.98")
    found = matched(test, pieces, {})
    assert found is not None
    assert {frozenset(one) for _, one in found.sets} == {frozenset((1, 5)), frozenset((2, 4))}
    assert {name for name, _ in found.sets} == set(FOYER.channels)
    worst, bag = (float(word.rstrip(" %,.")) for word in found.words.replace("%", "").split() if word[0].isdigit())
    assert worst < bag
    # Of just enough pieces the bag has two pairs as well, and the worse of them counts.
    four = matched(test, read(test, "3.90", "3.91", "3.80", "3.99"), {})
    two = matched(test, read(test, "3.90", "3.91", "3.80", "3.81"), {})
    assert four is not None
    assert two is not None
    of_bag = [[word for word in found.words.split() if word[0].isdigit()][1] for found in (four, two)]
    assert float(of_bag[0].rstrip(" %,.")) > 5.0 * float(of_bag[1].rstrip(" %,."))
    # What is broken, or only bounded, is matched with nothing.
    few = matched(test, read(test, "3.91", "3.87", "0.1", ">3.9", "3.905"), {})
    assert few is None


def test_drivers_are_paired_across_their_kinds() -> None:
    tests = keyed(FOYER)
    upper, lower = read(tests["driver_n"], "120", "180", "140"), read(tests["driver_p"], "175", "118", "90")
    found = matched(tests["driver_n"], upper, lower)
    assert found is not None
    assert {one for _, one in found.sets} == {(1, 2), (2, 1)}
    assert matched(tests["driver_p"], lower, upper) is None
    assert matched(tests["driver_n"], upper, {}) is None


def test_a_piece_counts_while_its_part_is_the_one_that_is_fitted() -> None:
    test = keyed(STAGE_PAIR)["reservoir_c"]
    readings = read(test, "9m8", "9m9", "10m1")
    book = RecordBook([readings[1], readings[3], reading_of_piece(test, 1, "9m7", BENCH, AT)])
    found = measured(test, book)
    assert list(found) == [1, 3]
    assert found[1].typed == "9m7"
    assert next_piece(found) == 2
    other = keyed(STAGE_PAIR.with_mark("supply.reservoir", "r2"))["reservoir_c"]
    assert measured(other, book) == {}
