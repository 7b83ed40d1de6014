"""The current from the wall as the mains side draws it: three loads of the same watts on one wave."""

import numpy as np
import pytest

from plinth.bench.every_sheet import kind_of
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import LinearSupply
from tests.family import FEW_FIRST


@pytest.mark.parametrize("build", FEW_FIRST)
def test_each_curve_carries_the_same_watts_and_turns_over_each_half_cycle(build: Build) -> None:
    graph = kind_of("mains").make(build, build.channels[0], Situation()).graph({})
    if build.mains is None:
        assert graph is None
        return
    assert graph is not None
    curves = {curve.name: curve for curve in graph.curves}
    assert set(curves) == {"resistor", "predicted", *(
        ["plain switcher, estimated"] if isinstance(build.supply, LinearSupply) else []
    )}  # fmt: skip
    # A resistor draws what the wave does: its curve is the wave, and tells the watts by its own square.
    resistor = curves["resistor"].y
    mains = build.mains.v_nominal_rms
    wave = resistor / np.sqrt(np.mean(resistor[:-1] ** 2)) * mains
    watts = np.mean(resistor[:-1] * wave[:-1])
    quarter = (len(resistor) - 1) // 4
    for name, curve in curves.items():
        assert np.mean(curve.y[:-1] * wave[:-1]) == pytest.approx(watts, rel=0.03), (
            name
        )  # a hundred points a half cycle
        assert curve.y[quarter : 2 * quarter] == pytest.approx(-curve.y[:quarter], abs=0.02 * np.max(np.abs(curve.y)))
