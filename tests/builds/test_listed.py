"""Listed powers and safe areas as lines, loads that follow their station, values that nobody knows."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.listed import claims_text, read_claims, read_safe_area, safe_area_text
from plinth.builds.modules import PowerClaim, SafeAreaPoint
from plinth.builds.parts import Load
from plinth.builds.stations import with_part
from plinth.demo.builds import BUILDS, STAGE_PAIR
from plinth.demo.shelf import DUMMY_4, DUMMY_16
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.units.errors import QuantityError

CLAIMS = st.builds(
    PowerClaim,
    power_w=st.integers(1, 999).map(float),
    r_load_ohm=st.sampled_from([2.0, 4.0, 5.6, 8.0, 16.0]),
    definition=st.sampled_from(["unstated", "thd_1", "thd_10"]),
    v_rail_v=st.none() | st.integers(5, 90).map(float),
)


@given(st.lists(CLAIMS, max_size=4).map(tuple))
def test_listed_powers_survive_writing_and_reading(claims: tuple[PowerClaim, ...]) -> None:
    assert read_claims(claims_text(claims)) == claims


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("60W 8R; 100 W into 4 ohm", [(60.0, 8.0, "unstated", None), (100.0, 4.0, "unstated", None)]),
        ("130 W 4R at 10 % on 42 V", [(130.0, 4.0, "thd_10", 42.0)]),
        ("1,2 kW 2R", [(1200.0, 2.0, "unstated", None)]),
        ("", []),
    ],
)
def test_listed_powers_are_read_as_they_are_written(text: str, found: list[tuple[object, ...]]) -> None:
    assert [tuple(one.model_dump().values()) for one in read_claims(text)] == found


@pytest.mark.parametrize("text", ["loud", "60 W", "60 W 8R at 3 %", "8R 60 W", "60 W 0.01R"])
def test_other_lines_are_refused_with_an_example(text: str) -> None:
    with pytest.raises(QuantityError, match="expected"):
        read_claims(text)
    with pytest.raises(QuantityError, match="volts rising"):
        read_safe_area("4 A at 10 V")


def test_a_safe_area_survives_writing_and_reading() -> None:
    points = (SafeAreaPoint(v_device_v=10, i_a=4), SafeAreaPoint(v_device_v=30, i_a=1.2))
    assert read_safe_area(safe_area_text(points)) == points


def test_the_dummy_loads_follow_what_is_stated_of_the_one_current() -> None:
    mine = Load(name="My 8R2", r_ohm=8.2, r_tol=0.01, p_rated_w=50)
    changed = with_part(STAGE_PAIR, "load", mine, changed=True)
    assert [one.name for one in changed.loads] == ["Dummy 8", "My 8R2"]
    assert DUMMY_4 not in changed.loads
    beside = with_part(STAGE_PAIR, "load", DUMMY_16)
    assert [one.name for one in beside.loads] == ["Dummy 8", "Dummy 4", "Dummy 16"]
    assert with_part(beside, "load", DUMMY_4).loads == beside.loads


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_what_nobody_knows_may_be_left_out_and_is_marked(build: Build) -> None:
    unknown = dict.fromkeys(("i_driver_a", "settle_s", "r_junction_sink_k_per_w"))
    if hasattr(build.module, "v_sat_v"):
        unknown |= {"v_sat_v": None}
    bare = build.model_copy(update={"module": build.module.model_copy(update=unknown)})
    stated, assumed = solve(build), solve(bare)
    # Within its band, which is wider.
    gap = abs(assumed["clip_v_peak"].value - stated["clip_v_peak"].value)
    assert gap <= assumed["clip_v_peak"].spread
    assert assumed["clip_v_peak"].u > 0.999 * stated["clip_v_peak"].u
    if "v_sat_v" in unknown:
        assert "module saturation" in assumed["clip_v_peak"].estimated
    assert "junction to sink" in assumed["junction_c"].estimated
    margins = {one.key: one for one in judge(assumed)}
    assert margins["mute_settling"].state is State.UNKNOWN, "a missing value never counts as safe"
