"""The inspection: checks made of the very parts, what holds first power back, what stops counting when parts change."""

import datetime as dt

import pytest

from plinth.builds.build import Build
from plinth.builds.hookup import Hookup
from plinth.builds.stations import STATIONS, part_in, with_part
from plinth.demo import shelf
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.guide.inspection.check import Check, Inspected, due, held_by, inspected, waits_for
from plinth.guide.inspection.checks import checks_of
from plinth.guide.progress import Stand
from plinth.guide.schools.every_school import SCHOOLS
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.record.reading import CheckVerdict, Finding, Override
from tests.family import FAMILY

DEMO = {build.name: build for build in (STAGE_PAIR, REHEARSAL_ROOM, FOYER, STREET_BOX, MARKET_BOX)}
EVERY = {**DEMO, **FAMILY}
AT = dt.datetime(2026, 10, 12, 9, 0, tzinfo=dt.UTC)


def keys(build: Build) -> set[str]:
    return {check.key for check in checks_of(build)}


def found(build: Build, check: Check, verdict: CheckVerdict = "sound", words: str = "") -> Finding:
    return Finding(check.subject, verdict, words, AT, dict(check.conditions))


def standing(build: Build, *records: Finding | Override) -> tuple[Inspected, ...]:
    return inspected(checks_of(build), RecordBook(records))


@pytest.mark.parametrize("build", EVERY.values(), ids=EVERY)
def test_every_build_has_checks_of_its_own_each_whole(build: Build) -> None:
    checks = checks_of(build)
    assert len({check.key for check in checks}) == len(checks) >= 10
    places = [[one.key for one in STATIONS].index(check.station) for check in checks]
    assert max(places) - min(places) >= 3
    for check in checks:
        for words in (check.title, check.look, check.why, check.tool, check.bad):
            assert len(words) > 3
            assert "None" not in words.replace("None is planned", "")
            assert "nan" not in words
    assert sum(check.safety for check in checks) >= 5
    from_wall = build.mains is not None and build.supply.kind != "battery"
    assert ("fuse_and_switch" in keys(build)) == from_wall
    assert ("outputs_apart" in keys(build)) == build.both_outputs_live


def test_checks_follow_parts_and_wiring() -> None:
    assert {"primary", "bolt", "bridge", "secondaries"} <= keys(STAGE_PAIR)
    assert {"battery_fuse", "battery_polarity", "filter"} <= keys(STREET_BOX)
    assert {"switcher_covered", "outputs_apart"} <= keys(MARKET_BOX)
    assert not {"primary", "bridge", "fuse_and_switch"} & keys(STREET_BOX)
    part = part_in(STAGE_PAIR, "supply.transformer").model_copy(update={"core": "ei"})
    assert "bolt" not in keys(with_part(STAGE_PAIR, "supply.transformer", part))
    insulated = STAGE_PAIR.model_copy(update={"hookup": Hookup(name="Mine", earth="insulated")})
    assert "earth_bond" not in keys(insulated)
    protected = STAGE_PAIR.model_copy(
        update={"module": STAGE_PAIR.module.model_copy(update={"reverse_protected": True})}
    )
    assert "keyed" not in keys(protected)
    primary = next(one for one in checks_of(STAGE_PAIR) if one.key == "primary")
    assert "230 V" in primary.title
    pads = next(one for one in checks_of(STAGE_PAIR) if one.key == "pads")
    count = 2 * STAGE_PAIR.module.pairs * STAGE_PAIR.modules_per_channel * len(STAGE_PAIR.channels)
    assert pads.look.startswith(f"{count} devices")


def test_a_safety_check_that_is_not_sound_or_left_out_holds_first_power() -> None:
    checks = checks_of(STAGE_PAIR)
    safety = [check for check in checks if check.safety]
    # Nobody has begun: unknown is not safe.
    assert f"and {len(safety) - 2} more not looked at" in held_by(standing(STAGE_PAIR))
    one = standing(STAGE_PAIR, found(STAGE_PAIR, safety[0]))
    assert "not looked at" in held_by(one)
    assert f"and {len(safety) - 3} more" in held_by(one)
    every = [found(STAGE_PAIR, check) for check in safety]
    assert held_by(standing(STAGE_PAIR, *every)) == ""
    for verdict in ("doubt", "bad"):
        wrong = standing(STAGE_PAIR, *every, found(STAGE_PAIR, safety[3], verdict, "a burr"))
        title = f"{safety[3].title[0].lower()}{safety[3].title[1:]}"
        assert held_by(wrong).startswith(f"waits for Inspect, not sound there: {title}. ")
        assert safety[3].why.strip(".") in held_by(wrong)
    # Passed over in writing it holds nothing, and says so.
    passed = Override(safety[3].subject, "seen last week", AT, dict(safety[3].conditions))
    after = standing(STAGE_PAIR, *every[:3], *every[4:], passed)
    assert held_by(after) == ""
    assert next(each for each in after if each.check is safety[3] or each.check.key == safety[3].key).answered
    other = next(check for check in checks if not check.safety and not check.bad_holds)
    assert held_by(standing(STAGE_PAIR, *every, found(STAGE_PAIR, other, "bad", "hums"))) == ""


@pytest.mark.parametrize("name", EVERY)
def test_a_can_that_leaks_or_bulges_holds_power_and_one_in_doubt_the_re_forming(name: str) -> None:
    build = EVERY[name]
    checks = {check.key: check for check in checks_of(build)}
    every = [found(build, check) for check in checks.values() if check.safety]
    bad = standing(build, *every, found(build, checks["vents"], "bad", "crust"))
    doubt = standing(build, *every, found(build, checks["vents"], "doubt", "a little round"))
    assert "bursts under power" in held_by(bad)
    assert held_by(doubt) == ""
    for one in (bad, doubt):
        assert "no can bulges or leaks" in held_by(one, reforming=True)
    assert held_by(standing(build, *every), reforming=True) == ""
    passed = Override(checks["vents"].subject, "its top is printed so", AT, dict(checks["vents"].conditions))
    assert held_by(standing(build, *every, passed), reforming=True) == ""


def test_it_holds_every_step_under_power_and_no_other() -> None:
    for school in SCHOOLS:
        idle = idle_rail_v(STAGE_PAIR)
        free = school.stands(STAGE_PAIR, "left", idle, RecordBook())
        held = school.stands(STAGE_PAIR, "left", idle, RecordBook(), "waits for Inspect: pads not sound")
        assert [one.stand for one in free][:1] == [one.stand for one in held][:1] == [Stand.DUE]
        for one in held:
            assert bool(one.step.blocked) == one.step.power or not one.step.power
            if one.step.power:
                assert one.stand is Stand.HELD
                assert "pads not sound" in one.step.blocked


def test_a_finding_counts_while_its_parts_are_fitted() -> None:
    check = next(one for one in checks_of(STAGE_PAIR) if one.key == "polarity")
    sound = found(STAGE_PAIR, check)
    assert next(one for one in standing(STAGE_PAIR, sound) if one.check.key == "polarity").sound
    other = with_part(STAGE_PAIR, "supply.reservoir", shelf.CAN_10M_63).with_mark("supply.reservoir", "other")
    stale = next(one for one in standing(other, sound) if one.check.key == "polarity")
    assert stale.finding is None
    assert "another one now" in stale.stale
    module = with_part(STAGE_PAIR, "module", shelf.STAGEHAND_90).with_mark("module", "other")
    assert next(one for one in standing(module, sound) if one.check.key == "polarity").sound


def test_what_is_due_is_what_was_not_answered_then_what_is_not_sound() -> None:
    checks = checks_of(STAGE_PAIR)
    assert due(standing(STAGE_PAIR)) == 0
    first = [found(STAGE_PAIR, check) for check in checks[:3]]
    assert due(standing(STAGE_PAIR, *first)) == 3
    every = [found(STAGE_PAIR, check) for check in checks]
    every[5] = found(STAGE_PAIR, checks[5], "doubt", "cannot see it")
    assert due(standing(STAGE_PAIR, *every)) == 5
    every[5] = found(STAGE_PAIR, checks[5])
    assert due(standing(STAGE_PAIR, *every)) == 0


def test_what_waits_for_parts_is_taken_last_and_says_for_which() -> None:
    checks = checks_of(STAGE_PAIR)
    arriving = {"supply.transformer": "Ring 225, expected Tue 3 Nov", "supply.reservoir": "Can, no date known"}
    waiting = {check.key: waits_for(check, arriving) for check in checks}
    assert waiting["primary"] == "Ring 225, expected Tue 3 Nov"
    assert waiting["polarity"] == "Can, no date known"
    assert waiting["fuse_and_switch"] == ""
    assert waits_for(checks[0], {}) == ""
    # With all others answered, what waits comes; before, what can be looked at now.
    order = standing(STAGE_PAIR)
    first = order[due(order, arriving)].check
    assert not waits_for(first, arriving)
    there = [found(STAGE_PAIR, check) for check in checks if not waiting[check.key]]
    later = standing(STAGE_PAIR, *there)
    assert waits_for(later[due(later, arriving)].check, arriving)
