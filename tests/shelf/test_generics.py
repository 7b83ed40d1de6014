"""Generic entries: one for each kind of part, nothing of it passing for known, and all of use in a build."""

import math

import pytest

from plinth.builds.build import Build
from plinth.builds.fields import part_fields
from plinth.builds.hookup import Hookup
from plinth.builds.modules import ClassABModule, ClassDModule
from plinth.builds.parts import PART_KINDS, Load, Mains, Part
from plinth.builds.properties import How, value_at
from plinth.builds.situation import Situation
from plinth.builds.stations import stations
from plinth.demo.shelf import WHOLE
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.shelf.slots import KINDS, joined, slots_of
from tests.family import DEMO, FAMILY
from tests.turns import in_turn

GENERIC = [part for part, _ in WHOLE if part.name.startswith("Any ")]
# What a choice is about stays as chosen: this wall, this primary.
CHOSEN = {"v_nominal_rms", "frequency_hz", "v_primary_rms"}


def test_each_kind_has_one() -> None:
    assert {type(part) for part in GENERIC} == set(PART_KINDS.values())
    boards = [part for part in GENERIC if isinstance(part, ClassABModule)]
    assert {part.output_pairs is not None for part in boards} == {True}
    assert sum(part.name.startswith("Any chip") for part in boards) == 1
    assert {part.bridge for part in GENERIC if isinstance(part, ClassDModule)} == {"half", "full"}
    assert {part.voice_coil is None for part in GENERIC if isinstance(part, Load)} == {True, False}


@pytest.mark.parametrize("part", GENERIC, ids=lambda part: part.name)
def test_nothing_of_it_passes_for_known(part: Part) -> None:
    how = {told.field: told.how for told in part.told}
    numbers = {f.path for f in part_fields(part) if f.number and value_at(part, f.path) is not None}
    assert numbers - set(how) <= CHOSEN
    assert set(how.values()) == {How.ASSUMED}


def test_what_keeps_a_builder_alive_is_not_assumed() -> None:
    (wiring,) = (part for part in GENERIC if isinstance(part, Hookup))
    assert [wiring.fuse_in, wiring.switch_in, wiring.earth, wiring.reverse] == [None] * 4
    build = DEMO["Stage pair"].model_copy(update={"hookup": wiring})
    states = {margin.key: margin.state for margin in judge(solve(build))}
    assert states["wiring_said"] is State.UNKNOWN


@pytest.mark.parametrize(
    "part", in_turn([p for p in GENERIC if not isinstance(p, Mains)], 4, name=lambda part: part.name)
)
def test_it_joins_some_build_and_all_figures_are_numbers(part: Part) -> None:
    places: list[Build] = []
    for build in (*DEMO.values(), *FAMILY.values()):
        for slot in (slot for one in stations(build) for slot in slots_of(build, one.key)):
            if type(part) in KINDS[slot]:
                with_it = joined(build, slot, part)
                if isinstance(with_it, Build):
                    places.append(with_it)
        if places:
            break
    assert places
    for key, figure in solve(places[0], Situation()).figures.items():
        assert not math.isnan(figure.value), key
