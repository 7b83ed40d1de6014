"""Own sources of the clipping table: read from a list, each a column, none making another's readings stale."""

import pytest

from plinth.bench.clip_cell import clip_cells, further_cells
from plinth.bench.own_sources import MOST_SOURCES, at_source, in_range, read_sources, sources_text, volts_range
from plinth.bench.test_conditions import source_words
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.predict.solve import solve
from plinth.record.conditions import differences
from plinth.units.errors import QuantityError
from tests.family import FAMILY

BENCH = FAMILY["class AB on bench"]


@pytest.mark.parametrize(
    "text", ["14 18 24 27", "14, 18, 24, 27 V", "14V; 18V; 24V; 27V", "27 24 18 14 24", "14,0 18 24,0 27"]
)
def test_a_list_of_volts_is_read_however_it_is_typed(text: str) -> None:
    assert read_sources(text, BENCH) == (14.0, 18.0, 24.0, 27.0)


def test_what_is_read_is_read_again_from_its_own_text() -> None:
    assert read_sources("", BENCH) == ()
    for volts in ((14.0,), (14.5, 18.0), (14.0, 18.2, 24.0, 27.9)):
        assert read_sources(sources_text(volts), BENCH) == volts


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("14,18,24", "a blank between them"),
        ("14,18", "a blank between them"),
        ("14 pears", "pears"),
        ("14 400", "400 V, expected"),
        ("0.5 14", "500 mV, expected"),
        (" ".join(f"{14 + k}" for k in range(MOST_SOURCES + 1)), f"at most {MOST_SOURCES}"),
    ],
)
def test_what_is_no_list_is_a_sentence(text: str, says: str) -> None:
    with pytest.raises(QuantityError, match=says):
        read_sources(text, BENCH)


@pytest.mark.parametrize("build", FAMILY.values(), ids=FAMILY.keys())
def test_every_build_runs_from_its_own_sources_of_its_own_kind(build: Build) -> None:
    low, high = volts_range(build)
    for volts in (low, 0.5 * (low + high), high):
        at, situation = at_source(build, Situation(), volts)
        in_force = (
            situation.mains_rms(at) if build.mains is not None
            else situation.battery(at) if build.supply.battery is not None
            else at.supply.rough_rail_v
        )  # fmt: skip
        assert in_force == pytest.approx(volts)
        assert any(f"{volts:.{digits}g}" in source_words(at, situation) for digits in (2, 3, 4))
    assert in_range(build, (0.5 * low, low, high, 2.0 * high)) == (low, high)


def test_each_is_a_column_predicted_there_in_full_and_none_makes_another_stale() -> None:
    first = clip_cells(BENCH, "left", Situation())[:1]
    own = further_cells(first, BENCH, Situation(), (14.0, 18.0, BENCH.supply.rough_rail_v))
    assert [cell.source for cell in own] == ["±14 V bench supplies", "±18 V bench supplies"]
    for cell, volts in zip(own, (14.0, 18.0), strict=True):
        build, situation = at_source(BENCH, cell.prediction.situation, volts)
        there = solve(build.model_copy(update={"load": cell.load}), situation)
        assert cell.power.value == pytest.approx(there["clip_worst_power_w"].value, rel=1e-6)
    every = (*first, *own)
    assert all(differences(a.conditions, b.conditions) for a in every for b in every if a is not b)
    assert len({cell.subject for cell in every}) == 1


def test_what_was_chosen_for_another_supply_is_left_out() -> None:
    """A supply exchanged after the fact: volts of a bench supply are no mains."""
    on_mains = FAMILY["class AB on linear"]
    first = clip_cells(on_mains, "left", Situation())[:1]
    assert [c.source for c in further_cells(first, on_mains, Situation(), (18.0, 24.0))] == [
        "207 V mains",
        "253 V mains",
    ]
    chosen = further_cells(first, on_mains, Situation(), (18.0, 195.0, 207.5, 230.0))
    assert [cell.source for cell in chosen] == ["195 V mains", "207.5 V mains"]
