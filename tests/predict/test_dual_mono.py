"""Two whole supplies, one for each channel, are one of twice the size: wherever both are counted."""

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.predict.mains_steps import mains_steps
from tests.sample_builds import SHARED_PAIR, linear
from tests.solved import solved


def dual_mono() -> Build:
    part = linear(SHARED_PAIR).transformer.model_copy(update={"regulation": 0.07})
    return SHARED_PAIR.model_copy(
        update={"supply": linear(SHARED_PAIR).model_copy(update={"per_channel": True, "transformer": part})}
    )


def of_twice_the_size() -> Build:
    """One supply that is two of the other in parallel."""
    supply = linear(dual_mono())
    part = supply.transformer.model_copy(update={"va": 2.0 * supply.transformer.va})
    bridge = supply.rectifier.model_copy(update={"r_dynamic_ohm": 0.5 * (supply.rectifier.r_dynamic_ohm or 0.0)})
    can = supply.reservoir
    cans = can.model_copy(
        update={
            "c_f": 2.0 * can.c_f,
            "esr_ohm": 0.5 * (can.esr_ohm or 0.0),
            "r_bleeder_ohm": 0.5 * (can.r_bleeder_ohm or 1.0),
        }
    )  # fmt: skip
    return SHARED_PAIR.model_copy(
        update={
            "supply": supply.model_copy(
                update={"per_channel": False, "transformer": part, "rectifier": bridge, "reservoir": cans}
            )
        }
    )


@pytest.mark.parametrize("asked", [{}, {"level": 0.0}, {"level": 0.3}, {"lamp_w": 60.0}, {"lamp_w": 100.0}])
def test_both_supplies_count_for_what_the_wall_and_the_lamp_see(asked: dict[str, object]) -> None:
    two, one = (solved(build, Situation.model_validate(asked)) for build in (dual_mono(), of_twice_the_size()))
    for name in ("rail_plus_mean_v", "primary_rms_a", "mains_power_w", "heat_w", "clip_v_peak", "inrush_peak_a"):
        assert two[name].value == pytest.approx(one[name].value, rel=2e-3), name
    if "lamp_w" in asked:
        assert two["lamp_k"].value == pytest.approx(one["lamp_k"].value, rel=2e-3)


def test_both_count_while_a_variable_transformer_is_turned_up() -> None:
    for two, one in zip(
        mains_steps(dual_mono(), Situation()), mains_steps(of_twice_the_size(), Situation()), strict=True
    ):
        assert two.rail_v == pytest.approx(one.rail_v, rel=2e-3)
        assert two.primary_rms_a == pytest.approx(one.primary_rms_a, rel=5e-3, abs=1e-4)


def test_a_channel_that_rests_warms_the_sink_with_its_idle_current() -> None:
    both, alone = (solved(dual_mono(), Situation(channels_driven=who)) for who in ("all", "one"))
    resting = solved(dual_mono(), Situation(level=0.0))["heat_w"].value / 2.0
    assert resting > 3.0
    assert alone["heat_w"].value == pytest.approx(both["heat_w"].value / 2.0 + resting, rel=1e-3)
    assert alone["heat_idle_w"].value == pytest.approx(both["heat_idle_w"].value)
