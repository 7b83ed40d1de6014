"""The warmth of a winding from its ohms, cold and hot: closed form, spreads by chance, every build, what is missing."""

import dataclasses
import math

import numpy as np
import pytest

from plinth.bench.sheet import Measured
from plinth.bench.winding_temperature import COLD, HOT, asked, hot_c, outcomes
from plinth.builds.build import Build
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.state import State
from plinth.predict.estimates import WINDING_LIMIT_C
from plinth.record.reading import Reading
from tests.bench.typed_bench import TypedBench, told
from tests.family import FAMILY


def typed(cold: str = "9.40", hot: str = "11.65", air: str = "22.0") -> TypedBench:
    bench = TypedBench("heat", STAGE_PAIR)
    for key, text in (("air", air), (COLD, cold), (HOT, hot)):
        if text:
            assert bench.type_in(key, text) is not None, text
    return bench


def test_copper_gains_its_ohms_as_the_standard_says() -> None:
    # Worked by hand: 9.40 ohm at 22 deg C, 11.65 ohm: 11.65 / 9.40 x 256.5 - 234.5.
    assert hot_c(9.40, 11.65, 22.0) == pytest.approx(83.4, abs=0.05)
    assert hot_c(9.40, 9.40, 22.0) == 22.0
    # Near a room's warmth copper gains 0.39 % a kelvin.
    assert hot_c(1.0, 1.0039, 20.0) == pytest.approx(21.0, abs=0.02)


def test_it_stands_beside_the_run_with_its_limit_and_spread() -> None:
    outcome = typed().outcomes()["The winding, by its copper"]
    value, spread = (float(part.split(" ")[0]) for part in outcome.words.split("±"))
    assert value == pytest.approx(83.4, abs=1.0)
    assert 1.0 < spread < 15.0
    assert f"{WINDING_LIMIT_C:g} °C assumed" in outcome.against
    hotter = typed(hot="13.10").outcomes()["The winding, by its copper"]
    assert hotter.state is State.OVER
    assert "larger transformer" in hotter.say


def test_what_it_says_is_within_its_spread() -> None:
    """500 benches: an ohmmeter within 0.4 %, a thermometer within 0.5 K."""
    dice, inside, count = np.random.default_rng(8), 0, 500
    template = typed().readings[COLD][0]
    for _ in range(count):
        true, air = dice.uniform(40.0, 110.0), dice.uniform(15.0, 30.0)
        ohm = dice.uniform(0.8, 60.0)
        hot = ohm * (true + 234.5) / (air + 234.5)
        readings: dict[str, tuple[Reading, ...]] = {
            key: (dataclasses.replace(template, value=v * (1.0 + 0.004 * dice.standard_normal()), u=0.004 * v),)
            for key, v in ((COLD, ohm), (HOT, hot))
        }
        said = outcomes(readings, Measured(air + 0.5 * dice.standard_normal(), 0.5))[0]
        value, spread = (float(part.split(" ")[0]) for part in said.words.split("±"))
        inside += abs(value - true) <= spread
    assert 0.93 < told("winding by its copper", inside, count) < 0.98


def test_what_is_missing_is_said_and_nothing_is_told() -> None:
    assert "The winding, by its copper" not in typed(hot="").outcomes()
    without_air = typed(air="").outcomes()["The winding"]
    assert without_air.state is State.UNKNOWN
    assert "Read the air too" in without_air.say
    readings = typed().readings
    unknown = {key: tuple(dataclasses.replace(one, u=None) for one in given) for key, given in readings.items()}
    said = outcomes(unknown, Measured(22.0, None))[0]
    assert said.state is State.UNKNOWN
    assert "±" not in said.words


def test_a_winding_colder_than_it_was_is_asked_about() -> None:
    bench = typed(hot="")
    window = bench.one(HOT).window
    assert window is not None
    assert window.low == pytest.approx(9.4)
    assert bench.understand(HOT, "940").taken is None, "a hundred times as much is a slip"


@pytest.mark.parametrize("name", FAMILY)
def test_it_is_asked_of_every_build_with_a_transformer_at_the_wall_and_of_no_other(name: str) -> None:
    build: Build = FAMILY[name]
    requests = asked(build, "heat", {})
    assert bool(requests) == (build.supply.transformer is not None and build.mains is not None)
    for request in requests:
        assert request.optional
        assert "Plug out, reservoirs discharged" in request.ask
        assert math.isfinite(request.window.high or math.inf) if request.window else False
