"""The supply alone into loads of one's own: what is asked on every kind of supply, and what the readings say."""

import dataclasses
import math

import pytest

from plinth.bench.sheet import Outcome, of_figures
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.rail_load import read_rail_loads
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.predict.figure import Contribution, Figure
from plinth.predict.solve import solve
from tests.bench.typed_bench import TypedBench, middle, spoken
from tests.family import FAMILY
from tests.turns import in_turn

# Each kind of supply once; what hangs on its rails is no board.
SUPPLIES = {
    name: FAMILY[name]
    for name in (
        "class AB on linear", "class AB on dual mono", "class AB on linear with chokes", "class AB on linear, unequal",
        "class AB on switcher", "class AB on corrected switcher", "class AB on bench", "class AB on battery",
        "chips on one rail, bridged on linear", "class D full bridge on switcher",
    )
}  # fmt: skip


def loaded(build: Build, typed: str = "47 ohm, 300 mA") -> Build:
    return build.model_copy(update={"rail_loads": read_rail_loads(typed)})


def outcome(bench: TypedBench, label: str) -> Outcome:
    return bench.outcomes()[label]


@pytest.mark.parametrize("name", in_turn(SUPPLIES, 3))
def test_read_as_predicted_all_is_clear_and_goes_together(name: str) -> None:
    build = loaded(SUPPLIES[name])
    bench = TypedBench("rails", build)
    mine = [request for request in bench.asked if request.key.startswith(("none", "alone"))]
    assert [request.needs for request in mine] == ["nothing"] * len(mine), "boards are unplugged"
    sides = 1 if build.supply.single_rail else 2
    assert sum(request.unit == "V" and request.form == "magnitude" for request in mine) == 3 * sides
    assert all("Boards unplugged. 47 Ω" in request.ask for request in mine if "_47r_" in request.key)
    assert "discharge" in next(request.caution for request in mine if request.key == "alone_47r_plus")
    for request in mine:
        assert request.window is not None
        assert bench.type_in(request.key, spoken(request, middle(request.window))) is not None, request.key
    said = bench.outcomes()
    drawn = [request.key for request in mine if request.role is Role.MAINS_METER]
    assert bool(drawn) != build.supply.set_by_hand
    for load in ("47 Ω", "300 mA"):
        assert said[f"Into {load}"].state is State.CLEAR
        assert (f"Efficiency into {load}" in said) == bool(drawn)
    assert not [each.label for each in said.values() if each.state is State.OVER]


@pytest.mark.parametrize("name", in_turn(SUPPLIES, 2, offset=1))
def test_watts_given_are_never_more_than_those_drawn(name: str) -> None:
    """The engine's own energy balance, on which efficiency rests: by every supply that hangs on the source."""
    build = loaded(SUPPLIES[name])
    times = len(build.channels) if build.one_supply_per_channel else 1
    alone = solve(build, Situation(rail_load_a=0.0))
    if build.supply.set_by_hand:
        return
    for load, changes in zip(build.rail_loads, ({"rail_load_ohm": 47.0}, {"rail_load_a": 0.3}), strict=True):
        prediction = solve(build, Situation.model_validate(changes))
        sides = ("plus",) if build.supply.single_rail else ("plus", "minus")
        volts = [prediction[f"rail_{side}_mean_v"].value for side in sides]
        drawn = prediction[build.supply.drawn_figure].value
        given = times * sum(load.watts(v) for v in volts)
        more = drawn - alone[build.supply.drawn_figure].value
        assert 0.5 * drawn < given < drawn, load.words
        assert more > 0.9 * given, load.words


def test_what_follows_from_readings_is_their_arithmetic() -> None:
    bench = TypedBench("rails", loaded(FAMILY["class AB on linear"]))
    for key, typed in {
        "none_plus": "33.2", "none_minus": "33.0", "alone_47r_plus": "30.10", "alone_47r_minus": "30.00",
        "alone_47r_w": "43.0", "alone_300mA": "",
    }.items():  # fmt: skip
        if typed:
            assert bench.type_in(key, typed) is not None
    watts = 30.10**2 / 47.0 + 30.00**2 / 47.0
    assert number(outcome(bench, "Into 47 Ω").words) == pytest.approx(watts, rel=2e-3)
    assert number(outcome(bench, "Efficiency into 47 Ω").words) == pytest.approx(100.0 * watts / 43.0, rel=2e-3)
    ohm = (33.2 - 30.10) / (30.10 / 47.0)
    assert number(outcome(bench, "Behind the + rail, 47 Ω").words) == pytest.approx(ohm, rel=5e-3)
    c = FAMILY["class AB on linear"].supply.reservoir.c_f
    assert number(outcome(bench, "In the + reservoir").words) == pytest.approx(0.5 * c * 33.2**2, rel=0.02)
    assert number(outcome(bench, "In the − reservoir").words) == pytest.approx(0.5 * c * 33.0**2, rel=0.02)


def number(words: str) -> float:
    return float(words.split()[0])


def test_every_capacitor_is_named_with_its_energy() -> None:
    def named(name: str) -> dict[str, Outcome]:
        bench = TypedBench("rails", loaded(FAMILY[name]))
        assert not [label for label in bench.outcomes() if label.startswith("In the")], "nothing is read yet"
        for request in bench.asked:
            if request.key in ("none_plus", "none_minus"):
                assert request.window is not None
                bench.type_in(request.key, spoken(request, middle(request.window)))
        return {label: each for label, each in bench.outcomes().items() if label.startswith("In the")}

    assert list(named("class AB on linear with chokes")) == [
        "In the + reservoir", "In the + second capacitor", "In the − reservoir", "In the − second capacitor",
    ]  # fmt: skip
    unequal = FAMILY["class AB on linear, unequal"].supply
    assert unequal.reservoir_minus is not None
    smaller = named("class AB on linear, unequal")
    ratio = number(smaller["In the − reservoir"].words) / number(smaller["In the + reservoir"].words)
    assert ratio == pytest.approx(unequal.reservoir_minus.c_f / unequal.reservoir.c_f, rel=0.01)
    switcher = named("class AB on corrected switcher")["In the switcher's own capacitor"]
    assert "at 390 V; not read" in switcher.against
    assert "cover stays on" in switcher.say
    plain = named("class AB on switcher")["In the switcher's own capacitor"]
    v = math.sqrt(2.0) * 230.0
    assert v - 6.0 < float(plain.against.split(" at ")[1].split()[0]) < v
    assert list(named("chips on one rail, bridged on linear")) == ["In the + reservoir"]


def test_more_out_than_in_is_called_over() -> None:
    bench = TypedBench("rails", loaded(FAMILY["class AB on switcher"]))
    for key, typed in (("alone_47r_plus", "30.0"), ("alone_47r_minus", "30.0"), ("alone_47r_w", "37.0")):
        assert bench.type_in(key, typed) is not None, key
    over = outcome(bench, "Efficiency into 47 Ω")
    assert over.state is State.OVER
    assert "more than it takes" in over.say


@pytest.mark.parametrize(
    ("name", "typed", "words"),
    [
        ("class AB on linear", "1 ohm", "times their rating"),
        ("class AB on bench", "3.1 A", "more than 3 A"),
        ("class AB on switcher", "8 A", "of 400 W"),
        ("class AB on linear", "200 A", "."),
    ],
)
def test_a_load_beyond_the_supply_is_not_asked_for_and_says_why(name: str, typed: str, words: str) -> None:
    bench = TypedBench("rails", loaded(FAMILY[name], f"{typed}, 470 ohm"))
    assert {request.group for request in bench.asked if request.key.startswith("alone")} == {"Supply alone, 470 Ω"}
    (refused,) = [each for each in bench.outcomes().values() if each.words == "nothing to read"]
    assert words in refused.say
    assert refused.say.endswith("Choose a lighter load.")


def test_at_the_limit_itself_it_may_be_tried() -> None:
    bench = TypedBench("rails", loaded(FAMILY["class AB on bench"], "3 A"))
    assert bench.one("alone_3a_plus").window is not None


def test_a_hot_resistor_states_its_rating_and_more_than_sixty_volts_are_told() -> None:
    bench = TypedBench("rails", loaded(FAMILY["class AB on linear"], "47 ohm, 1 kohm"))
    window = bench.one("alone_47r_plus").window
    assert window is not None
    assert window.high is not None
    assert f"rated for {2.0 * window.high**2 / 47.0:.0f} W or more" in bench.one("alone_47r_plus").ask
    assert "rated" not in bench.one("alone_1000r_plus").ask
    # 32 V either way are 64 V between the ends; one rail of 32 V is not.
    assert "60 V of direct current" in bench.one("alone_47r_plus").caution
    single = TypedBench("rails", loaded(FAMILY["chips on one rail, bridged on linear"]))
    assert "60 V" not in single.one("alone_47r_plus").caution


def test_readings_at_one_load_count_for_no_other() -> None:
    build = FAMILY["class AB on linear"]
    bench = TypedBench("rails", loaded(build))
    bench.type_in("alone_47r_plus", "30.1")
    other = TypedBench("rails", loaded(build, "48 ohm, 47 ohm"))
    other.book = bench.book
    assert set(other.readings) == {"alone_47r_plus"}


def test_what_figures_share_moves_them_together() -> None:
    known = solve(FAMILY["class AB on bench"])["rail_plus_mean_v"]

    def figure(value: float, **moves: float) -> Figure:
        made = tuple(Contribution(label, 1.0, "", 0.1, u, False) for label, u in moves.items())
        return dataclasses.replace(known, value=value, u=math.hypot(*moves.values()), contributions=made)

    a, b = figure(30.0, mains=1.0, winding=0.3), figure(28.0, mains=1.0, winding=-0.4)
    less = of_figures(lambda x, y: x - y, a, b)
    assert less.value == pytest.approx(2.0)
    assert less.u == pytest.approx(0.7)
    assert of_figures(lambda x: 2.0 * x, a).u == pytest.approx(2.0 * math.hypot(1.0, 0.3))


def test_windows_are_as_wide_as_the_load_may_be_off() -> None:
    build = FAMILY["class AB on linear"]
    bench = TypedBench("rails", loaded(build))
    none = solve(build, Situation(rail_load_a=0.0))["rail_plus_mean_v"].value
    for key, changes, share in (("47r", {"rail_load_ohm": 47.0}, 0.05), ("0.3a", {"rail_load_a": 0.3}, 0.02)):
        prediction = solve(build, Situation.model_validate(changes))
        for what, name in (("w", "mains_power_w"), ("plus", "rail_plus_mean_v"), ("peak", "diode_plus_peak_a")):
            figure, window = prediction[name], bench.one(f"alone_{key}_{what}").window
            assert window is not None
            assert window.high is not None
            moved = none - figure.value if what == "plus" else figure.value
            half = 2.0 * math.hypot(figure.u, share / math.sqrt(3.0) * moved)
            assert window.high - figure.value == pytest.approx(half, rel=1e-6), (key, what)
    for typed, key in (("30.0", "plus"), ("30.0", "minus"), ("38.0", "w")):
        assert bench.type_in(f"alone_47r_{key}", typed) is not None
    # The load's 5 % as a bound, twice: by far the most of the spread of what it takes.
    words = outcome(bench, "Into 47 Ω").words
    assert float(words.split("±")[1].split()[0]) == pytest.approx(
        2.0 * 0.05 / math.sqrt(3.0) * 2.0 * 900.0 / 47.0, rel=0.1
    )


def test_every_supply_of_a_dual_mono_build_counts_at_the_wall() -> None:
    bench = TypedBench("rails", loaded(FAMILY["class AB on dual mono"]))
    assert "Every supply loaded alike" in bench.one("alone_47r_w").ask
    window = bench.one("alone_47r_w").window
    assert window is not None
    drawn = middle(window)
    for key, value in (("plus", 30.0), ("minus", 30.0), ("w", drawn)):
        assert bench.type_in(f"alone_47r_{key}", f"{value:.4g}") is not None
    share = 100.0 * 2.0 * 2.0 * 900.0 / 47.0 / drawn
    assert number(outcome(bench, "Efficiency into 47 Ω").words) == pytest.approx(share, rel=5e-3)
