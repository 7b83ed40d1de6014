"""What is looked at first in an amplifier that somebody else built, and by which school it gets its first power."""

import math
import re

import pytest

from plinth.builds.build import Build
from plinth.builds.properties import How, Told, with_told
from plinth.builds.taken_in import TakenIn
from plinth.guide.inspection.check import held_by, inspected
from plinth.guide.inspection.checks import checks_of
from plinth.guide.inspection.taken_in_checks import PAPER_UNTIL, discharging
from plinth.guide.part_tests.tests_of import part_tests_of
from plinth.guide.schools import reforming as school
from plinth.guide.schools.every_school import SCHOOLS, school_at_first
from plinth.predict.estimates import OLD_AFTER_YEARS
from plinth.predict.reforming import cans_are_old, reforming
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.shelf.found_amplifier import found_build, read_found
from tests.family import DEMO, FAMILY
from tests.sample_builds import linear
from tests.turns import in_turn

BUILDS = {**DEMO, **FAMILY}
HALL = DEMO["Rehearsal room"]


def as_taken_in(build: Build, year: int | None = None) -> Build:
    return build.model_copy(update={"taken_in": TakenIn(year=year)})


def dated(build: Build, year: int, how: How = How.STATED) -> Build:
    supply = linear(build)
    assert how in (How.STATED, How.ASSUMED)
    can = with_told(supply.reservoir, Told(field="year", how=how, value=year))
    return build.model_copy(update={"supply": supply.model_copy(update={"reservoir": can})})


@pytest.mark.parametrize("name", in_turn(list(BUILDS), 4))
def test_its_own_checks_come_first_and_hold_power_on_every_kind(name: str) -> None:
    build = BUILDS[name]
    own, taken = checks_of(build), checks_of(as_taken_in(build))
    first = taken[: len(taken) - len(own)]
    assert [check.key for check in taken[len(first) :]] == [check.key for check in own]
    assert all(check.key.startswith("taken_in_") for check in first)
    assert first[0].key == "taken_in_charge"
    assert first[0].safety
    assert len({check.key for check in taken}) == len(taken)
    assert {"taken_in_bridged", "taken_in_burnt", "taken_in_changed", "taken_in_labels"} <= {c.key for c in first}
    # Without a wall there is neither cord nor capacitor across it.
    assert any(check.key == "taken_in_fuses" for check in first) == (build.mains is not None)
    assert "less than 5 V on every can" in held_by(inspected(taken, RecordBook(())))
    if build.supply.kind == "switcher":
        assert "leave its cover on" in first[0].look


@pytest.mark.parametrize("name", in_turn(list(BUILDS), 4))
def test_its_charge_is_taken_out_in_the_time_that_is_said(name: str) -> None:
    build = BUILDS[name]
    supply = build.supply
    cans = [can for can in (supply.reservoir, supply.reservoir_minus) if can is not None]
    ohms, seconds = discharging(cans)
    # Solved the other way round: what is left after that time, through a resistor a tenth off.
    left = [can.v_rated * math.exp(-seconds / (1.1 * ohms * can.c_f * (1.0 + can.c_tol))) for can in cans]
    assert max(left) == pytest.approx(5.0, rel=1e-9)
    # A burst of some 25 W at first, within what standard values allow, at the highest of them.
    assert 18.0 < max(can.v_rated for can in cans) ** 2 / ohms < 33.0
    said = checks_of(as_taken_in(build))[0].look
    held = re.search(r"across it for (\d+) s", said)
    assert held is not None
    assert int(held[1]) >= seconds


def test_of_unlike_cans_neither_is_left_charged_and_the_resistor_stands_the_higher() -> None:
    can = HALL.supply.reservoir
    large, high = (can.model_copy(update={"c_f": c, "v_rated": v}) for c, v in ((22e-3, 25.0), (1e-3, 100.0)))
    for cans in ([large, high], [high, large]):
        ohms, seconds = discharging(cans)
        assert 18.0 < 100.0**2 / ohms < 33.0
        assert seconds == pytest.approx(1.1 * ohms * 22e-3 * (1.0 + can.c_tol) * math.log(5.0))


def test_paper_across_the_mains_is_asked_of_what_is_old_enough_or_not_dated() -> None:
    asked = {
        year: any(check.key == "taken_in_paper" for check in checks_of(as_taken_in(HALL, year)))
        for year in (None, 1975, PAPER_UNTIL, PAPER_UNTIL + 1)
    }
    assert asked == {None: True, 1975: True, PAPER_UNTIL: True, PAPER_UNTIL + 1: False}


def test_old_cans_of_one_taken_in_are_brought_back_first() -> None:
    this_year = 2026
    assert cans_are_old(HALL, this_year)
    # One's own is brought up as before.
    assert school_at_first(HALL, this_year) is SCHOOLS[0]
    assert school_at_first(as_taken_in(HALL), this_year) is school.SCHOOL
    at_limit, younger = (as_taken_in(dated(HALL, this_year - OLD_AFTER_YEARS + k)) for k in (0, 1))
    assert school_at_first(at_limit, this_year) is school.SCHOOL
    assert school_at_first(younger, this_year) is SCHOOLS[0]
    for build in BUILDS.values():
        chosen = school_at_first(as_taken_in(build), this_year)
        assert not chosen.why_not(build)
        assert (chosen is school.SCHOOL) == (build.supply.transformer is not None and cans_are_old(build, this_year))


def test_an_age_that_is_assumed_is_not_spoken_of_as_stated() -> None:
    guessed, stated = dated(HALL, 1987, How.ASSUMED), dated(HALL, 1987)
    assert reforming(guessed, 2026).age_years == reforming(stated, 2026).age_years == 39.0
    assert reforming(guessed, 2026).age_estimated
    assert not reforming(stated, 2026).age_estimated

    def fitted(build: Build) -> str:
        steps = school.SCHOOL.steps(build, build.channels[0], idle_rail_v(build), {})
        return next(step.ask for step in steps if step.key == "reform_fitted")

    assert "taken to be as old as all of it" in fitted(guessed)
    assert "they are" in fitted(stated)
    assert "nobody states how old they are, so some 20 years are taken" in fitted(HALL)
    words = [
        next(test for test in part_tests_of(build) if test.key.startswith("reservoir")) for build in (guessed, stated)
    ]
    assert "Taken to be of 1987" in f"{words[0]}"
    assert "Made 1987" in f"{words[1]}"


@pytest.mark.parametrize(("read", "known"), [("rails 42 V, 2x10m 50V", True), ("rails 42 V", False)])
def test_volts_of_cans_that_nobody_has_read_are_not_spoken_of_as_theirs(read: str, known: bool) -> None:
    build = found_build(read_found(read), TakenIn(), name="", channels=("left", "right"), mains_v=230.0)
    charge = checks_of(build)[0]
    can = build.supply.reservoir
    assert charge.key == "taken_in_charge"
    assert (f"may hold up to {can.v_rated:g} V" in charge.why) is known
    assert ("which is assumed: read their labels first" in charge.look) is not known
    assert known or f"{can.v_rated:g} V, which is assumed" in charge.look
