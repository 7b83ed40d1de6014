"""Which properties stand first: those whose uncertainty moves this build's figures most."""

import pytest

from plinth.builds.fields import part_fields
from plinth.builds.stations import part_in, stations
from plinth.predict.inputs import inputs_of
from plinth.predict.solve import solve
from plinth.shelf.influence import FIELDS_OF_INPUT, influence, ordered
from tests.family import DEMO, FAMILY, FEW

BUILDS = {**DEMO, **{name: FAMILY[name] for name in FEW}}
# What no property of a part on the shelf says.
NOT_A_FIELD = {"r_line", "c_line", "thd_line", "shape_line", "own_drop"}


@pytest.mark.parametrize("name", BUILDS)
def test_every_uncertain_input_leads_to_the_property_it_comes_from(name: str) -> None:
    build = BUILDS[name]
    parts = [part_in(build, slot) for one in stations(build) for slot in one.slots]
    paths = {field.path for part in parts for field in part_fields(part)}
    for one in inputs_of(build).values():
        if one.key in NOT_A_FIELD or one.key.startswith("input_"):
            continue
        assert set(FIELDS_OF_INPUT[one.key]) & paths, one.key


def test_what_matters_most_stands_first_and_nothing_is_left_out() -> None:
    prediction = solve(DEMO["Stage pair"])
    part = part_in(DEMO["Stage pair"], "supply.transformer")
    moving, others = ordered(part, prediction)
    assert [field.path for field in moving] == ["v_secondary_rms", "regulation"]
    assert {f.path for f in (*moving, *others)} == {f.path for f in part_fields(part)} - {"name", "maker"}
    shares = influence(prediction)
    assert shares["v_secondary_rms"] > shares["regulation"] > shares["v_forward_v"] > 0.0
    assert ordered(part, None)[0] == []


def test_a_load_s_tolerance_moves_the_power_by_about_as_much() -> None:
    prediction = solve(DEMO["Stage pair"])
    load = prediction.build.load
    row = next(c for c in prediction["clip_worst_power_w"].contributions if c.label == "load")
    share = abs(row.u_figure) / prediction["clip_worst_power_w"].value
    # V²/R, and the rails sag less behind a higher load: a good half of the tolerance is left.
    assert 0.4 < share / (load.r_tol / 3**0.5) < 1.0
    assert influence(prediction)["r_ohm"] >= share
