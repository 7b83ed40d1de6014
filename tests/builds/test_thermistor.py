"""A thermistor known by ohms and amperes alone: what is estimated of it, marked so, and made anew or taken away."""

import pydantic
import pytest

from plinth.builds.parts import Entry
from plinth.builds.properties import How, how_known
from plinth.builds.thermistor import USUAL_COOLING_S, USUAL_HOT_C, estimated
from plinth.physics.rails.time_course import Thermistor
from plinth.predict.source_chain import soft_start_of

NTC = ("ntc_beta_k", "ntc_dissipation_w_per_k", "ntc_heat_capacity_j_per_k")


def entry(**given: object) -> Entry:
    return Entry.model_validate({"name": "Inlet", "fuse_a_rms": 2.0, "fuse_kind": "T", **given})


@pytest.mark.parametrize(("ohm", "amperes"), [(5.0, 7.0), (10.0, 3.0), (22.0, 2.0), (47.0, 0.8)])
def test_its_rated_current_makes_it_as_hot_as_a_usual_disc(ohm: float, amperes: float) -> None:
    part = Thermistor(ohm, *estimated(ohm, amperes))
    hot_c, hot_ohm = part.steady(amperes, 25.0)
    assert hot_c == pytest.approx(USUAL_HOT_C, abs=1.5)
    # Discs have some fortieth of their cold resistance then.
    assert 0.02 < hot_ohm / ohm < 0.035
    assert part.heat_capacity_j_per_k / part.dissipation_w_per_k == pytest.approx(USUAL_COOLING_S, rel=0.01)


def test_what_follows_is_in_force_and_marked_an_estimate() -> None:
    part = entry(r_soft_ohm=10.0, ntc_i_max_a=3.0)
    assert (part.ntc_beta_k, part.ntc_dissipation_w_per_k, part.ntc_heat_capacity_j_per_k) == estimated(10.0, 3.0)
    assert [how_known(part, name) for name in NTC] == [How.ESTIMATED] * 3
    soft = soft_start_of(part)
    assert soft is not None
    assert soft.ntc is not None
    # Read again from its own file it is the same.
    assert Entry.model_validate(part.model_dump()) == part
    assert Entry.model_validate_json(part.model_dump_json()) == part


def test_it_is_made_anew_where_ohms_or_amperes_change_and_goes_with_them() -> None:
    part = entry(r_soft_ohm=10.0, ntc_i_max_a=3.0)
    other = Entry.model_validate(part.model_dump() | {"ntc_i_max_a": 5.0})
    assert other.ntc_dissipation_w_per_k == estimated(10.0, 5.0)[1]
    assert len(other.told) == 3
    colder = Entry.model_validate(part.model_dump() | {"r_soft_ohm": 22.0})
    assert colder.ntc_dissipation_w_per_k == estimated(22.0, 3.0)[1]
    plain = Entry.model_validate(part.model_dump() | {"ntc_i_max_a": None})
    assert plain == entry(r_soft_ohm=10.0)


def test_what_somebody_states_stands() -> None:
    stated = {"ntc_beta_k": 3200.0, "ntc_dissipation_w_per_k": 0.025, "ntc_heat_capacity_j_per_k": 2.5}
    part = entry(r_soft_ohm=10.0, ntc_i_max_a=3.0, **stated)
    assert {name: getattr(part, name) for name in NTC} == stated
    assert not part.told


def test_half_of_it_is_refused_with_what_to_add() -> None:
    with pytest.raises(pydantic.ValidationError, match="or its rated current alone"):
        entry(r_soft_ohm=10.0, ntc_beta_k=3000.0)
    with pytest.raises(pydantic.ValidationError, match="expected its cold resistance"):
        entry(ntc_i_max_a=3.0)
