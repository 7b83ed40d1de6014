"""What nobody states and is taken as usual: it follows what is said of the build, and its spread holds what can be."""

import math

import pytest

from plinth.builds.hookup import Hookup
from plinth.builds.situation import Situation
from plinth.predict.inputs import inputs_of
from plinth.predict.solve import solve
from tests.family import FAMILY


@pytest.mark.parametrize("name", ["class AB on linear", "class AB on dual mono", "chip on linear, unequal"])
def test_a_bridge_that_is_bypassed_takes_nothing_and_a_kept_one_does(name: str) -> None:
    build = FAMILY[name]
    bridged = build.model_copy(update={"module": build.module.model_copy(update={"own_rectifier": True})})
    without = solve(build)["clip_v_peak"].value
    said = {
        how: solve(bridged.model_copy(update={"hookup": Hookup(name="Mine", own_bridge=how)}))["clip_v_peak"].value
        for how in (None, "kept", "bypassed")
    }
    assert said["bypassed"] == pytest.approx(without, rel=1e-9)
    assert said["kept"] == said[None]
    assert 0.5 < without - said["kept"] < 2.5


def test_a_corrected_switcher_s_current_may_be_a_sine_flat_or_pointed() -> None:
    for name in ("class D full bridge on corrected switcher", "class AB on corrected switcher"):
        figure = solve(FAMILY[name])["primary_crest_factor"]
        assert figure.low < 1.29 < figure.high
        assert figure.low < math.sqrt(2.0) < figure.high
        assert figure.estimated
        # Third harmonic alone carries no power: what is left of a factor of 1 is as before.
        assert solve(FAMILY[name])["power_factor"].value == pytest.approx(0.98, abs=0.02)


@pytest.mark.parametrize(("volts", "most"), [(13.0, 2.2), (30.0, 3.3)])
def test_what_a_chip_leaves_of_its_rail_goes_with_the_rail_it_is_on(volts: float, most: float) -> None:
    build = FAMILY["chip on bench"]
    source = build.supply.source.model_copy(update={"v_rail": volts})  # type: ignore[union-attr]
    module = build.module.model_copy(update={"v_sat_v": None, "v_rail_min": 9.0, "v_rail_nominal": 30.0, "told": ()})
    here = build.model_copy(update={"module": module, "supply": build.supply.model_copy(update={"source": source})})
    found = inputs_of(here, Situation())["v_sat"]
    assert found.value == pytest.approx(1.0 + 0.06 * volts)
    assert found.value < most
    assert found.estimated
    # On rails above what it is made for it leaves no more than there.
    high = here.model_copy(update={"module": module.model_copy(update={"v_rail_nominal": 10.0})})
    assert inputs_of(high, Situation())["v_sat"].value == pytest.approx(1.0 + 0.06 * 10.0)
