"""What is put into a build as a whole, and taken out of it: on every kind of supply, each way and back."""

import pytest

from plinth.builds.build import Build
from plinth.builds.properties import How, how_known
from plinth.builds.supplies import LinearSupply
from plinth.demo.builds import STAGE_PAIR
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.shelf.additions import additions, draws_of_input_stages, leaving_words, may_leave, with_addition, without
from plinth.shelf.slots import KINDS
from tests.family import FAMILY
from tests.solved import solved
from tests.turns import in_turn

PLAIN = without(STAGE_PAIR, "supply.input_supply.regulator")
STATIONS = ("wall", "entry", "transformer", "reservoir", "rails", "module", "protection", "load")


def offered(build: Build) -> list[str]:
    return [slot for station in STATIONS for slot, _ in additions(build, station)]


@pytest.mark.parametrize("name", in_turn(FAMILY, 6))
def test_all_that_is_offered_goes_in_and_comes_out_again(name: str) -> None:
    build = FAMILY[name]
    slots = offered(build)
    linear = isinstance(build.supply, LinearSupply)
    assert bool(slots) == linear
    if linear:
        own_minus = build.supply.reservoir_minus is not None
        assert ("supply.reservoir_minus" in slots) == (not build.supply.single_rail and not own_minus)
    for slot in slots:
        more = with_addition(build, slot)
        assert slot not in offered(more)
        out = "supply.input_supply.regulator" if slot == "supply.input_supply" else slot
        assert may_leave(more, out)
        assert leaving_words(more, out)
        assert without(more, out) == build
        # What stands there can be solved, and says no more than that it is assumed.
        assert solved(more)["rail_idle_v"].value > 5.0


@pytest.mark.parametrize("name", in_turn(FAMILY, 6))
def test_a_plain_input_supply_regulates_on_a_low_day_at_the_rails_own_volts(name: str) -> None:
    build = FAMILY[name]
    if not isinstance(build.supply, LinearSupply):
        return
    if "supply.input_supply" not in offered(build):
        return
    more = with_addition(build, "supply.input_supply")
    assert more.supply.input_supply is not None
    regulator = more.supply.input_supply.regulator
    assert regulator.v_out == round(build.supply.rough_rail_v)
    assert solved(more)["regulator_headroom_v"].value > 0.0
    # Even at its rated load, without any rise, on mains a tenth low: crest above output, dropout and two diodes.
    crest_v = 0.9 * 2.0**0.5 * more.supply.input_supply.transformer.v_secondary_rms
    assert regulator.v_out + 2.5 + 1.4 <= crest_v <= 1.2 * regulator.v_out + 6.0


def test_a_plain_second_stage_costs_little_of_the_rail_and_smooths_it() -> None:
    bare, more = solved(PLAIN), solved(with_addition(PLAIN, "supply.smoothing"))
    lost = bare["rail_plus_mean_v"].value - more["rail_plus_mean_v"].value
    amperes = more["rail_plus_load_mean_a"].value
    # Ohm's law: 0.22 ohm, with what the flatter charging pulses change of the winding's own drop.
    assert 0.5 * 0.22 * amperes < lost < 1.5 * 0.22 * amperes
    assert more["rail_idle_ripple_v_pp"].value < 0.6 * bare["rail_idle_ripple_v_pp"].value


def test_every_number_of_what_is_put_in_is_assumed() -> None:
    more = with_addition(with_addition(PLAIN, "supply.smoothing"), "supply.input_supply")
    assert isinstance(more.supply, LinearSupply)
    assert more.supply.input_supply is not None
    assert more.supply.smoothing is not None
    for part, path in (
        (more.supply.smoothing, "r_ohm"), (more.supply.smoothing, "c_f"), (more.supply.input_supply.regulator, "v_out"),
        (more.supply.input_supply.transformer, "va"), (more.supply.input_supply.reservoir, "c_f"),
    ):  # fmt: skip
        assert how_known(part, path) is How.ASSUMED, path
    prediction = solve(more)
    draw = prediction.inputs["input_i_load"]
    assert draw.estimated
    assert draw.u == pytest.approx(0.5 * 0.02 / 3.0**0.5)
    typed = draws_of_input_stages(more, 0.02)
    assert not solve(typed).inputs["input_i_load"].estimated
    states = {margin.key: margin.state for margin in judge(prediction)}
    # Nobody said what the plain regulator stands.
    assert states["regulator_input"] is State.UNKNOWN


def test_each_of_the_shelf_that_may_be_left_out_comes_out() -> None:
    for slot in ("preamplifier", "volume", "cable", "insulator", "relay_supply", "trigger"):
        assert not may_leave(STAGE_PAIR, slot)
        part = next(part for part, _ in WHOLE if isinstance(part, KINDS[slot]) and getattr(part, "fitted", False))
        more = Build.model_validate(STAGE_PAIR.model_dump() | {slot: part.model_dump()})
        assert may_leave(more, slot)
        assert leaving_words(more, slot) == part.name
        assert without(more, slot) == STAGE_PAIR


def test_what_a_build_cannot_be_without_stays() -> None:
    for slot in ("module", "supply.transformer", "supply.reservoir", "load"):
        with pytest.raises(KeyError, match="expected something that a build can be without"):
            without(STAGE_PAIR, slot)
    with pytest.raises(KeyError, match="found 'module'"):
        with_addition(STAGE_PAIR, "module")
    with pytest.raises(KeyError, match=r"found 'supply\.input_supply'"):
        # One is there already, and is not lost.
        with_addition(STAGE_PAIR, "supply.input_supply")


def test_what_the_input_stages_draw_loads_their_own_supply() -> None:
    more = with_addition(PLAIN, "supply.input_supply")
    heavier = draws_of_input_stages(more, 0.08)
    assert solved(heavier)["input_rail_ripple_v_pp"].value > 2.0 * solved(more)["input_rail_ripple_v_pp"].value
    with pytest.raises(ValueError, match="found no regulated supply"):
        draws_of_input_stages(PLAIN, 0.08)
    with pytest.raises(ValueError, match="i_load_a"):
        draws_of_input_stages(more, -1.0)
