"""The draw of the supply beside a clipping reading, bounds among both, and what a changed bias explains."""

import dataclasses
import datetime as dt
import math

import pytest

from plinth.bench import supply_draw
from plinth.bench.bias_change import bias_subjects, unexplained
from plinth.bench.clip_cell import ClipCell, clip_cells
from plinth.bench.clip_level import understand
from plinth.bench.clip_verdict import unexplained_words
from plinth.bench.clipping import expected_band
from plinth.bench.frequency_response import reading_for_point
from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit, Role, unknown_kit
from plinth.builds.situation import Situation
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.record.meaning import Meaning, reading_of
from plinth.record.reading import Reading
from plinth.report.reading_words import reading_words, sentence_of
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import Form, read_level
from tests.family import FAMILY, FEW_FIRST
from tests.sample_builds import SHARED_PAIR

AT = dt.datetime(2026, 10, 10, 12, tzinfo=dt.UTC)


def cells_of(build: Build) -> dict[str, ClipCell]:
    return {f"{c.driven}/{c.load.name}": c for c in clip_cells(build, build.channels[0], Situation())}


@pytest.fixture(scope="module")
def cells() -> dict[str, ClipCell]:
    return cells_of(SHARED_PAIR)


@pytest.fixture(scope="module")
def bench_cell() -> ClipCell:
    return cells_of(FAMILY["class AB on bench"])["one/Dummy 4"]


# Bounds of a level


@pytest.mark.parametrize(
    ("typed", "bound", "form", "volts"),
    [
        (">26.4pp", Bound.ABOVE, Form.PEAK_TO_PEAK, 26.4), ("< 9,3 rms", Bound.BELOW, Form.RMS, 9.3),
        ("about 30 pp", Bound.ABOUT, Form.PEAK_TO_PEAK, 30.0), ("~13.2pk", Bound.ABOUT, Form.PEAK, 13.2),
        (">40", Bound.ABOVE, None, 40.0), ("26.4pp", Bound.NONE, Form.PEAK_TO_PEAK, 26.4),
    ],
)  # fmt: skip
def test_levels_may_be_bounds(typed: str, bound: Bound, form: Form | None, volts: float) -> None:
    found = read_level(typed)
    assert (found.bound, found.form, found.volts) == (bound, form, volts)


@pytest.mark.parametrize("typed", ["OL", "o.l", " overload "])
def test_an_overload_gives_no_level_and_says_what_to_do(typed: str) -> None:
    with pytest.raises(QuantityError, match="take the next range"):
        read_level(typed)


def kept(cell: ClipCell, typed: str) -> Reading:
    taken = understand(read_level(typed), cell, BENCH).taken
    assert taken is not None
    return reading_of(taken, typed, AT)


def test_a_bound_is_judged_as_far_as_it_tells(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 8"]
    low = math.sqrt(8.0 * 8.11 * 0.9 * cell.power.low)
    band = expected_band(cell, Form.PEAK_TO_PEAK)
    high = math.sqrt(8.0 * 8.11 * 1.02 * (band.value + 2.0 * band.u))
    beneath, over = kept(cell, f">{low:.1f}pp"), kept(cell, f">{high:.1f}pp")
    assert (beneath.state, beneath.bound) == (State.UNKNOWN, Bound.ABOVE)
    assert "does not tell" in sentence_of(beneath)
    assert over.state is State.OVER
    assert "lies above the predicted" in sentence_of(over)
    # The listing says 45 W into 8 ohm: a bound above it is enough, one below is not.
    assert "reached." in sentence_of(over)
    assert "which a bound does not tell" in sentence_of(beneath)
    less = kept(cell, f"<{low:.1f}pp")
    assert less.state is State.OVER
    assert "not reached: less than" in sentence_of(less)
    assert reading_words(less).startswith("< ")
    assert "±" not in reading_words(over)


def test_about_widens_the_spread_and_says_so(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    v_pp = math.sqrt(8.0 * 4.03 * cell.power.value)
    sharp, vague = kept(cell, f"{v_pp:.1f}pp"), kept(cell, f"about {v_pp:.1f}pp")
    assert sharp.u is not None
    assert vague.u is not None
    # A tenth of the volts either way, rectangular; watts go twice as far.
    assert vague.u == pytest.approx(math.hypot(sharp.u, vague.value * 0.2 / math.sqrt(3.0)), rel=1e-3)
    assert reading_words(vague).startswith("about ")


def test_a_bound_below_never_calls_a_level_impossible(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    assert understand(read_level("<400pp"), cell, BENCH).taken is not None
    assert understand(read_level(">400pp"), cell, BENCH).taken is None


def test_a_bound_is_no_point_of_a_response() -> None:
    found = reading_for_point(SHARED_PAIR, "left", 50e3, "<1.2 rms", 2.0, BENCH, AT)
    assert (found.state, found.bound) == (State.UNKNOWN, Bound.BELOW)
    assert "no point of a curve" in sentence_of(found)


# Draw and efficiency


def draw_of(typed: str, cell: ClipCell, output_w: float | None, kit: BenchKit) -> Meaning:
    taken = supply_draw.understand(typed, cell, output_w, kit).taken
    assert taken is not None
    return taken


def test_watts_are_held_against_the_wall_and_efficiency_follows(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    expected = cell.prediction["mains_power_w"]
    draw = draw_of(f"{expected.value:.1f} W", cell, 80.0, BENCH)
    verdict = supply_draw.judge_draw(cell, draw, 80.0)
    assert verdict.state is State.CLEAR
    assert f"Efficiency {8000.0 / expected.value:.0f} %" in verdict.follows
    far = supply_draw.judge_draw(cell, dataclasses.replace(draw, value=1.5 * expected.value), 80.0)
    assert far.state is State.OVER
    assert "above the predicted" in far.sentence


def test_all_channels_put_out_together(cells: dict[str, ClipCell]) -> None:
    draw = supply_draw.drawn(400.0, None, Bound.NONE, cells["all/Dummy 4"], 80.0)
    assert (
        "Efficiency 40 %, heat in supply and modules 240 W"
        in supply_draw.judge_draw(cells["all/Dummy 4"], draw, 80.0).follows
    )


def test_more_cannot_come_out_than_goes_in(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    verdict = supply_draw.judge_draw(cell, supply_draw.drawn(60.0, None, Bound.NONE, cell, 80.0), 80.0)
    assert verdict.state is State.OVER
    assert "cannot come out of" in verdict.sentence
    assert verdict.follows == ""


def test_a_bound_of_the_draw_bounds_the_efficiency_the_other_way(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    draw = draw_of(">100 W", cell, 80.0, BENCH)
    verdict = supply_draw.judge_draw(cell, draw, 80.0)
    assert verdict.state is State.UNKNOWN
    assert "Efficiency < 80 %, heat in supply and modules > 20.0 W" in verdict.follows


def test_an_efficiency_is_a_draw(cells: dict[str, ClipCell]) -> None:
    draw = draw_of("50 %", cells["all/Dummy 4"], 80.0, BENCH)
    assert draw.value == pytest.approx(320.0)
    assert draw_of("<50 %", cells["one/Dummy 4"], 80.0, BENCH).bound is Bound.ABOVE
    with pytest.raises(QuantityError, match="type the level"):
        draw_of("50 %", cells["one/Dummy 4"], None, BENCH)
    for nonsense in ("0 %", "101 %", "-4 %", "x %"):
        with pytest.raises(QuantityError):
            draw_of(nonsense, cells["one/Dummy 4"], 80.0, BENCH)


@pytest.mark.parametrize(
    ("typed", "watts"),
    [
        ("30 V 1.4 A", 42.0), ("1.4A 30V", 42.0), ("30V@1.4A", 42.0), ("2x1.4 A at 30 V", 84.0), ("2x30V 1.4A", 84.0),
        ("2 × 30 V x 1400 mA", 84.0), ("84", 84.0),
    ],
)  # fmt: skip
def test_bench_supplies_show_volts_and_amperes(bench_cell: ClipCell, typed: str, watts: float) -> None:
    draw = draw_of(typed, bench_cell, None, BENCH)
    assert draw.value == pytest.approx(watts)
    assert supply_draw.source(bench_cell) == "the bench supply"
    if "V" in typed:
        assert draw.u is not None
        relative = math.hypot(BENCH.of(Role.SUPPLY).u(30.0) / 30.0, BENCH.of(Role.SUPPLY).u(1.4) / 1.4)  # type: ignore[operator]
        assert draw.u == pytest.approx(watts * relative)
        assert draw_of(typed, bench_cell, None, unknown_kit()).u is None


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("1.4 A", "together"), ("230 V", "together"), ("164 VA", "apparent power"), ("OL", "next range"),
        ("0 W", "more than 0"), ("-5 W", "more than 0"), ("soup", "expected"), ("", "found nothing"),
        ("V A", "together"),
        ("230 V 0.7 A", "power meter"), ("1e9 W", "no reading at a bench"),
    ],
)  # fmt: skip
def test_what_is_no_draw_is_refused_in_words(cells: dict[str, ClipCell], typed: str, words: str) -> None:
    with pytest.raises(QuantityError, match=words):
        draw_of(typed, cells["one/Dummy 4"], 80.0, BENCH)


def test_more_rails_than_the_supply_has_are_refused(bench_cell: ClipCell) -> None:
    with pytest.raises(QuantityError, match="at most 2 x"):
        draw_of("9x30 V 1.4 A", bench_cell, None, BENCH)
    single = cells_of(FAMILY["class D full bridge on bench"])["one/Dummy 4"]
    with pytest.raises(QuantityError, match="at most 1 x"):
        draw_of("2x30 V 1.4 A", single, None, BENCH)


def test_about_widens_a_draw_and_its_instrument_is_the_one_it_was_read_from(bench_cell: ClipCell) -> None:
    vague = draw_of("about 90 W", bench_cell, None, BENCH)
    assert vague.u == pytest.approx(9.0 / math.sqrt(3.0))
    assert vague.instrument == "power meter"
    assert draw_of("30 V 1.4 A", bench_cell, None, BENCH).instrument == BENCH.of(Role.SUPPLY).name
    battery = cells_of(FAMILY["class D half bridge on battery"])["one/Dummy 4"]
    assert draw_of("25 V 4 A", battery, None, BENCH).instrument == BENCH.of(Role.METER).name


@pytest.mark.parametrize("build", FEW_FIRST)
def test_every_kind_of_build_has_a_draw_to_expect(build: Build) -> None:
    load = build.loads[0]
    asked = Situation(channels_driven="one")
    cell = ClipCell(build.channels[0], "one", load, solve(build.model_copy(update={"load": load}), asked))
    expected = supply_draw.predicted(cell)
    assert expected.value > cell.power.value
    assert supply_draw.source(cell) in supply_draw.expectation(cell)
    reading = reading_of(supply_draw.drawn(expected.value, None, Bound.NONE, cell, cell.power.value), "x", AT)
    assert reading.state is State.CLEAR
    assert reading.subject.startswith("clip_draw/")


# Bias changed in between


def biases(cell: ClipCell, *volts: float) -> list[Reading]:
    return [
        Reading(
            subject=bias_subjects(cell.prediction.build, cell.channel)[0], label="b", typed=f"{v}", value=v, unit="V",
            u=1e-4, instrument="meter", taken_at=AT + dt.timedelta(hours=2 * k - 1), state=State.CLEAR,
        )
        for k, v in enumerate(volts)
    ]  # fmt: skip


def bias_explains(
    cell: ClipCell, power_w: float, u_power_w: float | None, earlier: Reading, readings: list[Reading]
) -> str:
    """What is said of it while it is typed."""
    found = unexplained(cell, power_w, u_power_w, earlier, readings)
    return "" if found is None else f"{unexplained_words(power_w, found.facts)} {found.what_would}"


def test_a_bias_changed_in_between_does_not_explain_watts(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    earlier = kept(cell, "49.4pp")
    words = bias_explains(cell, 1.2 * earlier.value, 1.0, earlier, biases(cell, 0.010, 0.022))
    assert "does not explain" in words
    assert "10.0 mV of bias; now 22.0 mV" in words
    # What would: the square root of 1.2 in the rail, or a load that much lower.
    assert "a rail 10 % higher" in words
    assert f"a load of {4.03 / 1.2:.1f} Ω" in words


def test_where_there_is_no_question_nothing_is_said(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    earlier = kept(cell, "49.4pp")
    changed, drifted = biases(cell, 0.010, 0.022), biases(cell, 0.010, 0.0105)
    assert bias_explains(cell, 1.002 * earlier.value, 1.0, earlier, changed) == ""
    # Nobody states the meter: what two looks differ by is allowed for all the same.
    blind = dataclasses.replace(earlier, u=None)
    assert bias_explains(cell, 1.015 * earlier.value, None, blind, changed) == ""
    assert bias_explains(cell, 1.1 * earlier.value, None, blind, changed) != ""
    assert bias_explains(cell, 1.2 * earlier.value, 1.0, earlier, drifted) == ""
    assert bias_explains(cell, 1.2 * earlier.value, 1.0, earlier, changed[:1]) == ""
    assert bias_explains(cell, 1.2 * earlier.value, 1.0, earlier, []) == ""
    bound = dataclasses.replace(earlier, bound=Bound.ABOVE)
    assert bias_explains(cell, 1.2 * earlier.value, 1.0, bound, changed) == ""


def test_the_effect_of_the_bias_is_that_of_solving_with_it(cells: dict[str, ClipCell]) -> None:
    """So much more quiescent current that it moves the power by what was read: then it does explain it."""
    cell = cells["all/Dummy 4"]
    module = SHARED_PAIR.module
    assert module.bias is not None
    more = module.bias.model_copy(update={"listed_mv": module.bias.listed_mv * 5.0})
    far = SHARED_PAIR.model_copy(update={"module": module.model_copy(update={"bias": more}), "load": cell.load})
    moved = solve(far, cell.prediction.situation)["clip_worst_power_w"].value
    earlier = dataclasses.replace(kept(cell, "49.4pp"), value=cell.power.value, u=1e-3)
    once = module.bias.i_pair_a * module.bias.r_fitted_ohm
    steps = biases(cell, once, 5.0 * once)
    by_bias = moved - cell.power.value
    assert by_bias < -0.3
    assert bias_explains(cell, moved, 1e-3, earlier, steps) == ""
    assert "does not explain" in bias_explains(cell, cell.power.value + 4.5 * by_bias, 1e-3, earlier, steps)


def test_other_conditions_are_named_first(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    earlier = dataclasses.replace(kept(cell, "49.4pp"), conditions={**cell.conditions, "mains_v": 200.0})
    words = bias_explains(cell, 1.2 * earlier.value, 1.0, earlier, biases(cell, 0.010, 0.022))
    assert "Also different: the mains was 200 V then, 230 V now" in words
