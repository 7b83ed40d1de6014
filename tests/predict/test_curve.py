"""Curves and maps of any figure: each point is what a full prediction there says, over kinds of supply and stage."""

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, with_part
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.curve import Over, curve, figure_map, figures_shown, what_can_vary
from plinth.predict.figure_values import figure_values
from plinth.predict.inputs import inputs_of
from plinth.predict.solve import solution_of, solve
from plinth.session.curves import limit_of, place_of
from tests.family import FAMILY
from tests.solved import solved
from tests.turns import in_turn

LINEAR = FAMILY["class AB on linear"]
SOME = {
    name: build for name, build in FAMILY.items()
    if name.split(" on ")[1] in ("linear", "switcher", "battery", "bench", "linear with chokes")
}  # fmt: skip


def over(build: Build, key: str) -> Over:
    return next(one for one in what_can_vary(build, Situation()) if one.key == key)


@pytest.mark.parametrize("build", in_turn(SOME.values(), 5, name=lambda build: build.name))
def test_each_point_is_what_a_full_prediction_there_says(build: Build) -> None:
    prediction = solve(build)
    for key, names in (("load_ohm", ("clip_power_w", "sink_c")), ("crest_db", ("sink_c",))):
        found = {name: curve(prediction, name, over(build, key), 3) for name in names}
        for k in (0, 2):
            at = Situation.model_validate({key: float(found[names[0]].x[k])})
            # In full, but for the spreads, which are the build's own.
            inputs = {name: one.value for name, one in inputs_of(build, at).items()}
            there = figure_values(solution_of(build, at, inputs))
            for name, one in found.items():
                assert one.value[k] == pytest.approx(there[name], rel=0.015)
                # The band is as wide as the build's own, relatively.
                share = prediction[name].u / prediction[name].value
                assert one.u[k] == pytest.approx(one.value[k] * share, rel=1e-6)


def test_an_input_is_varied_as_another_part_would_vary_it() -> None:
    found = curve(solve(LINEAR), "rail_plus_ripple_v_pp", over(LINEAR, "c"), 3)
    assert found.x == pytest.approx([10e-3 / 3.0, 10e-3, 30e-3])
    for x, value in zip(found.x, found.value, strict=True):
        other = part_in(LINEAR, "supply.reservoir").model_copy(update={"c_f": float(x)})
        there = solved(with_part(LINEAR, "supply.reservoir", other))
        assert value == pytest.approx(there["rail_plus_ripple_v_pp"].value, rel=0.03)


def test_every_thing_that_can_vary_moves_some_figure_or_leaves_all_alone() -> None:
    prediction = solve(LINEAR)
    names = {one.name for one in figures_shown(prediction)}
    assert {"clip_power_w", "sink_c", "rail_plus_mean_v", "clip_worst_power_w"} <= names
    assert not any("inrush" in name for name in names)
    for one in what_can_vary(LINEAR, Situation()):
        found = curve(prediction, "clip_power_w", one, 2)
        assert np.isfinite(found.value).all(), one.label
        assert (one.values(5)[1:] > one.values(5)[:-1]).all()


def test_where_it_cannot_run_there_is_a_gap() -> None:
    steep = Over("v_secondary", "secondary", "V", 0.5, 22.0)
    found = curve(solve(LINEAR), "clip_power_w", steep, 5)
    assert np.isnan(found.value[0])
    assert np.isfinite(found.value[-1])


def test_it_stops_when_asked_to() -> None:
    with pytest.raises(PhysicsError, match="stopped"):
        curve(solve(LINEAR), "clip_power_w", over(LINEAR, "load_ohm"), 9, lambda share: share < 0.5)
    with pytest.raises(PhysicsError, match="stopped"):
        figure_map(solve(LINEAR), "sink_c", over(LINEAR, "load_ohm"), over(LINEAR, "crest_db"), (4, 4), lambda _: False)


def test_a_map_is_its_curves_side_by_side_and_knows_the_builds_own_place() -> None:
    prediction = solve(LINEAR)
    across, up = over(LINEAR, "ambient_c"), over(LINEAR, "load_ohm")
    found = figure_map(prediction, "sink_c", across, up, (4, 3))
    for i in (0, 3):
        for j in (0, 2):
            there = solve(LINEAR, Situation(ambient_c=float(found.x[i]), load_ohm=float(found.y[j])))
            assert found.value[j, i] == pytest.approx(there["sink_c"].value, rel=0.015)
    place = place_of(found, prediction)
    assert place == pytest.approx((25.0, np.log10(LINEAR.load.r_ohm)))
    narrow = figure_map(
        prediction, "sink_c", across, Over("load_ohm", "load", "ohm", 2.0, 3.0, of_situation=True), (2, 2)
    )
    assert place_of(narrow, prediction) is None


def test_the_limit_is_that_of_the_margin() -> None:
    prediction = solve(LINEAR)
    assert limit_of(prediction, prediction["sink_c"]) == (
        LINEAR.sink.t_limit_c,
        f"at most {LINEAR.sink.t_limit_c:g} °C",
    )
    assert limit_of(prediction, prediction["power_factor"]) is None
