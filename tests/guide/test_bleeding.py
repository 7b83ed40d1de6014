"""How long a supply takes to discharge: through the slower of its rails, doubled where nothing bleeds it."""

import math

import pytest

from plinth.guide.bleeding import board_bleed_down, highest_bleed_down, supply_bleed_down
from plinth.guide.board_windows import settles_s
from plinth.physics.rails.transients import SAFE_V
from tests.family import FAMILY


@pytest.mark.parametrize(("plus_ohm", "minus_ohm"), [(2200.0, 4700.0), (4700.0, 2200.0)])
def test_the_rail_that_keeps_its_charge_longest_decides(plus_ohm: float, minus_ohm: float) -> None:
    build = FAMILY["class AB on linear, unequal"]
    reservoirs = {
        "reservoir": build.supply.reservoir.model_copy(update={"r_bleeder_ohm": plus_ohm}),
        "reservoir_minus": getattr(build.supply, "reservoir_minus").model_copy(update={"r_bleeder_ohm": minus_ohm}),  # noqa: B009
    }
    build = build.model_copy(update={"supply": build.supply.model_copy(update=reservoirs)})
    found = supply_bleed_down(build, 30.0)
    assert found.resistance_ohm == 4700.0
    assert not found.estimated
    largest = max(can.c_f for can in reservoirs.values()) + build.module.c_local_f
    assert found.seconds == math.ceil(4700.0 * largest * math.log(30.0 / SAFE_V))
    assert highest_bleed_down(build, 30.0).seconds > found.seconds


def test_without_a_bleeder_the_drivers_discharge_it_taken_twice_as_slow() -> None:
    build = FAMILY["class AB on linear"]
    bare = build.supply.reservoir.model_copy(update={"r_bleeder_ohm": None})
    build = build.model_copy(update={"supply": build.supply.model_copy(update={"reservoir": bare})})
    module = build.module
    found = supply_bleed_down(build, 30.0)
    assert found.estimated
    assert found.resistance_ohm == pytest.approx(2.0 * module.v_rail_nominal / module.driver_a)
    board = board_bleed_down(module.model_copy(update={"r_discharge_ohm": None}), 30.0)
    assert board.estimated
    assert board.seconds == pytest.approx(board.resistance_ohm * module.c_local_f * math.log(30.0 / SAFE_V))


def test_a_sink_of_which_nobody_states_the_heat_it_holds_is_waited_for_as_a_hand_long_one() -> None:
    build = FAMILY["class AB on linear"]
    bias = build.module.bias
    assert bias is not None
    module = build.module.model_copy(update={"bias": bias.model_copy(update={"tempco_per_k": 0.0})})
    sink = build.sink.model_copy(update={"heat_capacity_j_per_k": None, "r_k_per_w": 0.8})
    build = build.model_copy(update={"module": module, "sink": sink})
    # 500 J/K behind 0.8 K/W, to a twentieth of its rise.
    assert settles_s(build, 30.0) == pytest.approx(0.8 * 500.0 * math.log(20.0))
