"""What may be done while something is live: decided without a window."""

import dataclasses
import datetime as dt
import itertools

import pytest

from plinth.builds.build import Build
from plinth.guide.interlock import LivePower, allowed, held_back, measure_conditions, measure_gate, watching
from plinth.guide.progress import Stand, StepStand
from plinth.guide.schools.limited_supply import plan_steps
from plinth.record.book import RecordBook
from plinth.record.reading import Confirmation, Override
from tests.family import FAMILY
from tests.sample_builds import SHARED_PAIR

AT = dt.datetime(2026, 10, 10, 12, tzinfo=dt.UTC)
HERE = LivePower(1, "left", AT)
POWERS = {
    "off": None, "here": HERE, "the other channel": dataclasses.replace(HERE, channel="right"),
    "another build": dataclasses.replace(HERE, build_id=2),
}  # fmt: skip


def step_stand(*, power: bool, stand: Stand, reads: bool = True) -> StepStand:
    step = next(
        one
        for one in plan_steps(SHARED_PAIR, "left", 36.0, {})
        if one.power == power and (one.request is not None) == reads and one.about.channel == "left"
    )
    return StepStand(step, stand, None, "")


@pytest.mark.parametrize(("power", "stand", "on"), list(itertools.product((True, False), Stand, POWERS)))
def test_nothing_is_read_under_the_wrong_power(power: bool, stand: Stand, on: str) -> None:
    may = allowed(step_stand(power=power, stand=stand), POWERS[on], 1)
    held = stand is Stand.HELD
    # A step under power is read only while it is on for this very channel, one without only while that is off.
    assert may.read_now == (not held and ((on == "here") if power else (on != "here" or stand is Stand.DONE)))
    assert not (held and (may.read or may.keep or may.switch_on))
    # Nothing is switched on while something else is.
    assert may.switch_on == (power and on != "here" and not held)
    assert may.switch_on_now == (on in ("off", "here"))
    assert may.pass_over == (stand in (Stand.DUE, Stand.OUTSIDE))


def test_why_it_waits_is_said() -> None:
    assert "still on: press Stop" in allowed(step_stand(power=False, stand=Stand.DUE), HERE, 1).why_not
    words = allowed(step_stand(power=True, stand=Stand.DUE), POWERS["another build"], 1, "that one, left").why_not
    assert words == "The supply is on for that one, left: press Stop first (Esc)."
    assert allowed(step_stand(power=True, stand=Stand.DUE), HERE, 1).why_not == ""
    assert allowed(step_stand(power=False, stand=Stand.DUE), None, 1).why_not == ""


def test_watching_begins_only_where_power_is_on_already() -> None:
    due = step_stand(power=True, stand=Stand.DUE)
    assert watching(due, HERE, 1)
    assert not watching(due, None, 1)
    assert not watching(due, POWERS["the other channel"], 1)
    assert not watching(step_stand(power=True, stand=Stand.DONE), HERE, 1)
    assert not watching(step_stand(power=False, stand=Stand.DUE), HERE, 1)


@pytest.mark.parametrize("name", ["class AB on linear", "class A on bench", "class D full bridge on switcher"])
def test_a_channel_is_measured_only_when_it_is_up_or_a_reason_is_written_down(name: str) -> None:
    build = FAMILY[name]
    none, both = RecordBook(), build.channels
    assert held_back(build, both, lambda _channel: False, none) == both
    assert held_back(build, both, lambda channel: channel == both[0], none) == both[1:]
    reason = Override(measure_gate(build, both[-1]), "on the bench supply", AT, measure_conditions(build))
    assert held_back(build, both, lambda _channel: False, RecordBook([reason])) == both[:-1]
    # A reason holds for the boards it was written for, and a mere word is none.
    other: Build = build.with_mark("module", "exchanged")
    assert held_back(other, both, lambda _channel: False, RecordBook([reason])) == both
    word = Confirmation(measure_gate(build, both[-1]), AT, measure_conditions(build))
    assert held_back(build, both, lambda _channel: False, RecordBook([word])) == both
