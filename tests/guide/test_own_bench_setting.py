"""One's own low rail and limit, and a board whose bias was set at the works: what is typed, and every step after it."""

import math

import pytest

from plinth.builds.build import Build
from plinth.demo.builds import STAGE_PAIR
from plinth.guide import board_windows
from plinth.guide.equipment import BURNS_W, Equipment, read_equipment
from plinth.guide.school import School
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.schools.limited_supply import SCHOOL as LIMITED
from plinth.guide.step import Step
from plinth.predict.solve import idle_rail_v
from plinth.record.request import Request
from plinth.units.errors import QuantityError
from tests.family import FAMILY
from tests.turns import crossed

BOARD = FAMILY["class AB on linear"]
TRIMMED = {name: build for name, build in FAMILY.items() if build.module.bias is not None}


def steps_of(build: Build, equipment: Equipment, school: School = LIMITED) -> dict[str, Step]:
    return {step.key: step for step in school.steps(build, "left", idle_rail_v(build), {}, equipment)}


@pytest.mark.parametrize("text", ["14 V 400 mA", "14V, 0.4 A", "±14 V 400mA", "14,0 V at 0,4 A", "60 W; 14 V 400 mA"])
def test_a_low_rail_with_its_limit_is_understood(text: str) -> None:
    bench = read_equipment(text, BOARD).bench
    assert bench is not None
    assert (bench.v_rail, bench.i_limit_a) == pytest.approx((14.0, 0.4))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("3 V 400 mA", "works between these"), ("90 V 400 mA", "works between these"),
        ("14 V 9 mA", "a healthy board draws up to"), ("14 V 3 A", "into heat in one part"),
        ("14 V", "a low rail with its limit"),
    ],
)  # fmt: skip
def test_what_a_board_cannot_be_begun_with_is_a_sentence(text: str, says: str) -> None:
    with pytest.raises(QuantityError, match=says):
        read_equipment(text, BOARD)


def test_the_limits_of_the_limit_follow_from_the_board_and_from_what_burns() -> None:
    healthy = board_windows.rest_current(BOARD, 14.0).usual_high
    assert healthy is not None
    least = healthy / board_windows.AT_LIMIT
    with pytest.raises(QuantityError, match=f"at least {math.ceil(least * 1000)} mA"):
        read_equipment(f"14 V {0.98 * least:.4f} A", BOARD)
    assert read_equipment(f"14 V {1.02 * least:.4f} A", BOARD).bench is not None
    assert read_equipment(f"14 V {0.99 * BURNS_W / 14.0:.3f} A", BOARD).bench is not None
    with pytest.raises(QuantityError, match=f"at most {BURNS_W / 14.0 * 1000:.0f} mA"):
        read_equipment(f"14 V {1.01 * BURNS_W / 14.0:.3f} A", BOARD)


def test_the_steps_go_by_the_rail_and_the_limit_that_were_typed() -> None:
    own = steps_of(BOARD, read_equipment("14 V 400 mA", BOARD))
    usual = steps_of(BOARD, Equipment())
    assert list(own) == list(usual)
    low = own["low_current"]
    assert "14 V and limit 400 mA" in low.ask
    assert isinstance(low.asks, Request)
    assert low.asks.conditions is not None
    assert low.asks.conditions["rail_v"] == 14.0
    assert low.asks.most == 0.4
    assert low.window == board_windows.rest_current(BOARD, 14.0)
    assert "±14 V" in own["low_dc"].title
    # All of 400 mA at 14 V flows through less than 35 ohm.
    window = own["rails_open"].window
    assert window is not None
    assert window.low == pytest.approx(35.0)
    # The full rail is begun as ever.
    assert own["full_current"].ask == usual["full_current"].ask


def test_a_rail_that_is_no_lower_than_the_full_one_leaves_no_low_step() -> None:
    full = board_windows.full_rail_v(BOARD.module, idle_rail_v(BOARD))
    assert "low_current" not in steps_of(BOARD, read_equipment(f"{full:g} V 400 mA", BOARD))


@pytest.mark.parametrize(("name", "school"), crossed(TRIMMED, SCHOOLS, 8, column_name=lambda school: school.key))
def test_a_trimmer_set_at_the_works_is_never_to_be_turned(name: str, school: School) -> None:
    build = TRIMMED[name]
    if school.why_not(build):
        return
    own = steps_of(build, read_equipment("bias set", build), school)
    usual = steps_of(build, Equipment(), school)
    assert "trimmer" in usual
    assert "trimmer" not in own
    assert list(own).index("trimmer_left") == list(usual).index("trimmer")
    assert "lamp_bias" not in own, "a part of the bias would have to be turned to"
    if "bias" in own:
        window, tight = own["bias"].window, usual["bias"].window
        assert window is not None
        assert tight is not None
        assert (window.low or 0.0) < (tight.low or 0.0) < (tight.high or 0.0) < (window.high or 0.0)
        assert window.high == pytest.approx(1.25 / 1.08 * (tight.high or 0.0))
        assert "Leave the trimmer alone" in own["bias"].ask
    for step in own.values():
        words = f"{step.title} {step.ask} {step.window.why if step.window else ''}"
        assert "Turn up slowly" not in words
        assert "at its least" not in step.title


def test_a_board_that_was_set_draws_its_whole_current_inside_the_window_and_the_limit() -> None:
    own = steps_of(BOARD, read_equipment("bias set", BOARD))
    for key in ("low_current", "full_current"):
        step = own[key]
        assert isinstance(step.asks, Request)
        window, limit = step.window, step.asks.most
        assert window is not None
        assert window.high is not None
        assert limit is not None
        assert window.usual_high is None, "nothing is asked about: it is known to be set"
        assert window.high > 1.2 * BOARD.module.i_quiescent_a
        assert window.high <= board_windows.AT_LIMIT * limit
    assert "set at the works" in (own["low_current"].window.why if own["low_current"].window else "")


def test_a_module_without_a_trimmer_has_no_bias_that_was_set() -> None:
    with pytest.raises(QuantityError, match="has no trimmer"):
        read_equipment("bias set", FAMILY["chip on linear"])
    assert read_equipment("Bias set at the works; 60 W", STAGE_PAIR).words.startswith("lamp of 60 W; bias set")
