"""What is known of a part and how; and what keeps its identity when it is called otherwise."""

import math

import pydantic
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.fields import part_fields, with_values
from plinth.builds.files import parse_build
from plinth.builds.makeup import channel_keys
from plinth.builds.parts import Part
from plinth.builds.properties import How, Told, how_known, known_of, value_at, with_told, without_told
from plinth.builds.stations import part_in, stations, with_part
from plinth.demo import shelf
from plinth.demo.builds import STAGE_PAIR
from plinth.predict.inputs import inputs_of
from tests.family import DEMO, FAMILY

RING = shelf.RING_225.model_copy(update={"regulation": 0.08})
MEASURED = Told(field="regulation", how=How.MEASURED, value=0.112, source="own meter, no-load volts", note="at 231 V")


def test_a_measured_value_outranks_a_stated_one_and_does_not_make_it_forgotten() -> None:
    part = with_told(RING, MEASURED)
    assert part.regulation == 0.112
    assert how_known(part, "regulation") is How.MEASURED
    assert [(one.how, one.value) for one in known_of(part, "regulation")] == [("measured", 0.112), ("stated", 0.08)]
    # What is told later in a lower rank is kept and not in force.
    listing = Told(field="regulation", how=How.STATED, value=0.09, source="another listing")
    assert with_told(part, listing).regulation == 0.112
    # Measured again: the new value takes the place of the old one.
    again = with_told(part, MEASURED.model_copy(update={"value": 0.1}))
    assert [one.value for one in known_of(again, "regulation")] == [0.1, 0.08]
    # Without the measurement the stated one is in force again, then nothing is.
    back = without_told(again, "regulation", How.MEASURED)
    assert (back.regulation, how_known(back, "regulation")) == (0.08, How.STATED)
    assert how_known(without_told(back, "regulation", How.STATED), "regulation") is How.UNKNOWN


def test_usual_values_are_assumed_until_somebody_says_so() -> None:
    assert how_known(RING, "regulation_tol") is How.ASSUMED
    assert how_known(RING, "va") is How.STATED
    assert how_known(RING, "leakage_h") is How.UNKNOWN
    said = with_told(RING, Told(field="regulation_tol", how=How.STATED, value=0.10, source="listing"))
    assert how_known(said, "regulation_tol") is How.STATED
    guess = with_told(RING.model_copy(update={"regulation": None}), MEASURED.model_copy(update={"how": How.ASSUMED}))
    assert how_known(guess, "regulation") is How.ASSUMED
    assert not how_known(guess, "regulation").trusted


def test_a_value_that_cannot_be_is_refused_and_what_must_be_known_may_not_be_forgotten() -> None:
    with pytest.raises(pydantic.ValidationError):
        with_told(RING, MEASURED.model_copy(update={"value": 40.0}))
    with pytest.raises(pydantic.ValidationError):
        without_told(RING, "va", How.STATED)


@pytest.mark.parametrize("build", [*DEMO.values(), FAMILY["class A on bench"]], ids=lambda build: build.name)
def test_every_property_of_every_part_can_be_told_measured_and_is_read_back_from_a_file(build: Build) -> None:
    for slot in (slot for one in stations(build) for slot in one.slots):
        part: Part = part_in(build, slot)
        for field in part_fields(part):
            value = value_at(part, field.path)
            if not field.number or value is None or field.path == "name":
                continue
            part = with_told(part, Told(field=field.path, how=How.MEASURED, value=value, source="x"))
            assert value_at(part, field.path) == value
            assert how_known(part, field.path) is How.MEASURED
        build = with_part(build, slot, part, changed=True)
    again = parse_build(build.model_dump_json(), "x")
    assert again == build
    assert "measured" in build.model_dump_json()


def test_a_value_typed_anew_takes_what_was_told_of_it_along() -> None:
    part = with_told(with_told(RING, MEASURED), Told(field="va", how=How.MEASURED, value=200.0))
    changed = with_values(part, {"regulation": 0.05})
    assert how_known(changed, "regulation") is How.STATED
    assert how_known(changed, "va") is How.MEASURED


def test_a_part_that_is_renamed_stays_the_same_one() -> None:
    load = STAGE_PAIR.loads[0]
    once = with_values(load, {"name": "Mine"})
    twice = with_values(once, {"name": "Mine, repaired"})
    assert load.identity == once.identity == twice.identity
    assert with_values(load, {"r_ohm": load.r_ohm * 1.01}).key == ""
    # In the build it takes the same place among the loads at hand.
    build = with_part(STAGE_PAIR, "load", load, changed=False)
    renamed = with_part(build, "load", once, changed=True)
    assert [one.identity for one in renamed.loads] == [one.identity for one in build.loads]
    assert "Mine" in [one.name for one in renamed.loads]
    # The one on the shelf under the old name is another thing from now on.
    both = with_part(renamed, "load", load)
    assert len(both.loads) == len(renamed.loads) + 1
    assert len({one.identity for one in both.loads}) == len(both.loads)
    assert both.load.identity == both.loads[-1].identity


def test_channels_keep_what_they_are_known_by() -> None:
    build = STAGE_PAIR.model_copy(update={"channels": ("left", "right")})
    keys = channel_keys(build, ("wolf", "right"))
    assert keys == ("left", "right")
    renamed = Build.model_validate(build.model_dump() | {"channels": ("wolf", "right"), "channel_keys": keys})
    assert (renamed.key_of("wolf"), renamed.channel_of("left")) == ("left", "wolf")
    assert channel_keys(renamed, ("left", "right")) == ()
    # Turned round by name they take their records along; a third one is new, even under a name that was used once.
    assert channel_keys(renamed, ("right", "wolf")) == ("right", "left")
    assert channel_keys(renamed, ("wolf", "right", "left")) == ("left", "right", "left~2")
    assert renamed.channel_of("gone") == "gone"
    with pytest.raises(pydantic.ValidationError, match="one of its own for each"):
        Build.model_validate(build.model_dump() | {"channel_keys": ("left",)})


@given(
    st.lists(st.sampled_from("abcdef"), min_size=1, max_size=4, unique=True),
    st.lists(st.sampled_from("abcdef"), min_size=1, max_size=4, unique=True),
)
def test_no_two_channels_are_known_by_the_same(first: list[str], then: list[str]) -> None:
    build = STAGE_PAIR.model_copy(update={"channels": ("a",), "channel_keys": ()})
    for names in (tuple(first), tuple(then), ("a", "b")):
        build = Build.model_validate(
            build.model_dump() | {"channels": names, "channel_keys": channel_keys(build, names)}
        )
        known = [build.key_of(name) for name in names]
        assert len(set(known)) == len(known)
        assert [build.channel_of(key) for key in known] == list(names)


TOLD = [
    (name, slot, path)
    for name, build in DEMO.items()
    for slot, path in (
        ("supply.transformer", "regulation"), ("supply.reservoir", "c_f"), ("supply.reservoir", "esr_ohm"),
        ("supply.switcher", "efficiency"), ("supply.battery", "r_internal_ohm"), ("module", "v_sat_v"),
        ("module", "efficiency"), ("module", "i_driver_a"), ("load", "r_ohm"), ("sink", "r_k_per_w"),
    )
    if slot in {one for station in stations(build) for one in station.slots} and hasattr(part_in(build, slot), path)
]  # fmt: skip


@pytest.mark.parametrize(("name", "slot", "path"), TOLD)
def test_an_estimate_never_passes_for_a_stated_value_in_what_is_predicted(name: str, slot: str, path: str) -> None:
    build = DEMO[name]
    part = part_in(build, slot)
    value = value_at(part, path)
    value = 0.05 if value is None else value
    by_how = {}
    for how in (How.MEASURED, How.STATED, How.ESTIMATED, How.ASSUMED):
        told = Told(field=path, how=how, value=value, source="the drawer", tol=0.07)
        # Nothing else is known of it: a stated value would outrank an estimate.
        by_how[how] = inputs_of(with_part(build, slot, part.model_copy(update={"told": (told,), path: value})))
    assert not any("the drawer" in one.why and one.estimated for one in by_how[How.MEASURED].values())
    assert not any("the drawer" in one.why and one.estimated for one in by_how[How.STATED].values())
    for how in (How.ESTIMATED, How.ASSUMED):
        (guessed,) = [one for one in by_how[how].values() if "the drawer" in one.why]
        assert guessed.estimated
        assert guessed.why == f"{how}: the drawer"
        assert guessed.u > 0.0


def test_a_measured_value_carries_its_own_spread_into_the_prediction() -> None:
    part = with_told(RING, MEASURED.model_copy(update={"tol": 0.02}))
    build = with_part(DEMO["Rehearsal room"], "supply.transformer", part, changed=True)
    found = inputs_of(build)["regulation"]
    assert (found.value, found.estimated) == (0.112, False)
    assert found.u == pytest.approx(0.112 * 0.02 / math.sqrt(3.0))
