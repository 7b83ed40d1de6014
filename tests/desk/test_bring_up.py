"""First power in the real window, from the first step to the good loudspeakers, by each school; and with faults."""

import datetime as dt

import numpy as np
import pytest

from plinth.desk.diary.lines import cells_of
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.guide.progress import Stand
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.step import Step
from plinth.physics.mains.lamp import glow
from plinth.predict.solve import idle_rail_v
from plinth.record.reading import Override
from plinth.report.html import ReportInput, render_report
from tests.desk.inspected import inspect_all
from tests.guide.answers import inside
from tests.guide.test_causes_at_random import read
from tests.turns import crossed, rows_in_turn

AT = dt.datetime(2026, 11, 3, 8, 0, tzinfo=dt.UTC)


class Bench:
    """Somebody at the bench, with a clock of their own."""

    def __init__(self, window: PlinthWindow, session: BenchSession) -> None:
        self.window, self.session, self.at = window, session, AT
        session.now = lambda: self.at
        self.question = window.power_up.question

    def begin(self, name: str, school: str) -> None:
        self.session.switch(next(one.id for one in self.session.builds if one.build.name == name))
        inspect_all(self.session)
        self.session.bring_up.choose_school(school)
        self.window.show_stage("power_up")
        self.window.power_up.to_due()

    @property
    def step(self) -> Step:
        assert self.question.step is not None
        return self.question.step

    def make_ready(self) -> None:
        """Power as the step wants it, and the time waited that it asks for."""
        step = self.step
        here = self.session.power.since_on_s(step.about.channel) is not None
        if self.session.power.live is not None and not (step.power and here):
            self.session.power.switch_off()
        if step.power and not here:
            self.question.switch_on()
        self.at += dt.timedelta(seconds=step.wait_s + 60.0)
        if step.due_after:
            self.at += dt.timedelta(seconds=step.due_after_s)
        self.question.procedure.watch_left_s = 0.0
        self.question.show_wait()

    def answer(self, text: str) -> None:
        """Type it and press Enter; a word is given by the button."""
        self.make_ready()
        if self.step.request is None:
            self.question.keep()
        else:
            self.question.field.setText(text)
            self.question.enter()


@pytest.fixture
def bench(window: PlinthWindow, session: BenchSession) -> Bench:
    return Bench(window, session)


def as_typed(step: Step, value: float) -> str:
    """A reading as it is typed: of a filament what an eye says."""
    return glow(value) if step.unit == "K" else f"{value:.6g} {step.unit}"


@pytest.mark.parametrize(
    ("name", "school"), crossed(("Foyer", "Rehearsal room"), [school.key for school in SCHOOLS], 6)
)
def test_a_healthy_build_comes_to_the_good_loudspeakers(bench: Bench, name: str, school: str) -> None:
    bench.begin(name, school)
    channel = bench.session.build.channels[0]
    count = len(bench.session.bring_up.stands(channel))
    for _ in range(2 * count):
        stands = bench.session.bring_up.stands(channel)
        if all(one.settled for one in stands):
            break
        step = bench.step
        assert step.about.channel == channel or step.about.channel in ("build", "supply"), step.key
        before = len(bench.session.records.diary_lines())
        bench.answer(inside(step) if step.window is not None else "")
        assert len(bench.session.records.diary_lines()) > before, (step.key, bench.question.understood.text())
        assert bench.session.bring_up.causes(channel) is None
        if step.key == "loudspeaker":
            assert bench.session.bring_up.brought_up(channel)
            assert "a loudspeaker is allowed" in bench.window.power_up.all_done.text()
    assert all(one.stand is Stand.DONE for one in bench.session.bring_up.stands(channel))
    assert "has played for a week" in bench.window.power_up.all_done.text()
    assert all(
        one.channel != channel or one.build_id != bench.session.stored.id for one in bench.session.reminders.all()
    )


@pytest.mark.parametrize(
    ("fault", "name", "school"),
    rows_in_turn([
        ("short", "Foyer", "limited_supply"), ("short", "Rehearsal room", "series_lamp"),
        ("rail missing", "Rehearsal room", "series_lamp"), ("feedback open", "Foyer", "limited_supply"),
        ("half wave", "Rehearsal room", "series_lamp"), ("primary doubled", "Rehearsal room", "variable_transformer"),
        ("leaking", "Rehearsal room", "series_lamp"), ("sensor off", "Foyer", "limited_supply"),
    ], 3),
)  # fmt: skip
def test_a_fault_ends_in_its_cause_and_the_right_advice(bench: Bench, fault: str, name: str, school: str) -> None:
    bench.begin(name, school)
    session = bench.session
    channel, full, dice = session.build.channels[0], idle_rail_v(session.build), np.random.default_rng(7)
    steps = {one.step.key: one.step for one in session.bring_up.stands(channel)}
    for _ in range(len(steps)):
        step = bench.step
        if step.window is None or not step.reads:
            bench.answer(inside(step) if step.window is not None else "")
        else:
            bench.answer(as_typed(step, read(fault, step, session.build, full, dice)))
        if session.bring_up.causes(channel) is not None:
            break
    found = session.bring_up.causes(channel)
    assert found is not None, "it never showed"
    # What is asked for next is measured, as far as the gates let one.
    for _ in range(3):
        if found.next_step is None or fault in [one.fault.key for one in found.ranked[:2]]:
            break
        row = [one.step.key for one in session.bring_up.stands(channel)].index(found.next_step.key)
        value = read(fault, found.next_step, session.build, full, dice)
        if session.bring_up.stands(channel)[row].stand is Stand.HELD:
            break
        bench.window.power_up.procedure.choose(row)
        bench.answer(as_typed(found.next_step, value))
        found = session.bring_up.causes(channel)
        assert found is not None
    assert fault in [one.fault.key for one in found.ranked[:2]], [one.fault.key for one in found.ranked]
    view = bench.window.power_up.behind
    assert view.isVisibleTo(bench.window)
    burns = next(one.fault.burns for one in found.ranked if one.fault.key == fault)
    powered = any(step.power for step in found.outside)
    if burns and found.ranked[0].fault.key == fault:
        # With the ohmmeter alone nothing is on that could be switched off.
        assert view.off.isVisibleTo(bench.window) == powered
    if view.off.isVisibleTo(bench.window):
        session.power.switch_off()
        assert not view.off.isVisibleTo(bench.window)
    # Nothing further under power is offered while it stands.
    assert not session.bring_up.brought_up(channel)
    outside = next(one for one in session.bring_up.stands(channel) if one.stand is Stand.OUTSIDE)
    after = session.bring_up.stands(channel)[session.bring_up.stands(channel).index(outside) + 1 :]
    assert all(one.stand is Stand.HELD for one in after)


def test_a_class_a_whose_bias_would_run_away_off_the_lamp_is_held_at_half(bench: Bench) -> None:
    bench.begin("Foyer", "series_lamp")
    session = bench.session
    channel, bias = session.build.channels[0], session.build.module.bias
    assert bias is not None
    for stand in session.bring_up.stands(channel):
        if stand.step.key == "lamp_bias":
            break
        session.records.keep(Override(stand.step.subject, "for this test", bench.at, dict(stand.step.conditions)))
    bench.window.power_up.to_due()
    assert bench.step.key == "lamp_bias"
    whole = bias.i_pair_a * bias.r_fitted_ohm
    bench.answer(f"{1000.0 * whole:.4g} mV")
    stand = next(one for one in session.bring_up.stands(channel) if one.step.key == "lamp_bias")
    assert stand.stand is Stand.OUTSIDE
    assert "What looks right behind the lamp burns without it" in bench.question.understood.text()
    assert "once the lamp is gone" in bench.question.becomes.text()
    bench.answer(f"{400.0 * whole:.4g} mV")
    assert bench.step.key == "lamp_away"


def test_what_was_repaired_brings_the_cold_steps_of_that_board_again(bench: Bench) -> None:
    bench.begin("Stage pair", "limited_supply")
    session, page = bench.session, bench.window.power_up
    page.channels.choose("right")
    for text in (">20M", "4k1", "38k", "12k"):
        bench.answer(text)
    left = [one.stand for one in session.bring_up.stands("left")]
    bench.answer("0R47")
    assert bench.question.in_words.repaired_button.isVisible()
    bench.question.in_words.ask_repaired()
    bench.question.take_reason()
    assert "few words are needed" in bench.question.reason.placeholderText()
    bench.question.reason.setText("R17: 0.33 ohm put in")
    bench.at += dt.timedelta(seconds=5)
    bench.question.take_reason()
    assert bench.step.key == "insulation"
    stands = session.bring_up.stands("right")
    assert stands[0].stand is Stand.DUE
    assert "repaired since: R17: 0.33 ohm put in" in stands[0].stale
    assert [one.stand for one in session.bring_up.stands("left")] == left, "the other board was not touched"
    assert session.bring_up.causes("right") is None
    # Read anew it counts, and what was read of the supply still does.
    bench.at += dt.timedelta(minutes=1)
    for text in (">20M", "4k1", "38k", "12k", "0R33"):
        bench.answer(text)
    assert bench.step.key == "trimmer"
    line = next(one for one in session.records.diary_lines() if one.words == "R17: 0.33 ohm put in")
    assert cells_of(line, session.build)[1:3] == ("Repaired", "Right: repaired: R17: 0.33 ohm put in")
    written = render_report(ReportInput(session.predictions.prediction, session.records.diary_lines(), bench.at, False))  # type: ignore[arg-type]
    assert "R17: 0.33 ohm put in" in written
    assert "assed over: R17" not in written
    # What was read before is marked, what was read since is not.
    rows = [row for row in written.split("<tr>") if "Right: R17, as it is" in row]
    assert ["oes not count since" in row or "OES NOT COUNT" in row for row in rows if "typed 0R47" in row] == [True]
    assert not any("oes not count" in row for row in rows if "typed 0R33" in row)
    assert "Passed over Right: repaired" not in written


def test_another_board_of_the_same_kind_brings_the_steps_of_its_channel_again(bench: Bench) -> None:
    """Where nothing is wrong with a reading either: the part in the plan is the same, the thing on the bench is not."""
    bench.begin("Stage pair", "limited_supply")
    session, page = bench.session, bench.window.power_up
    for channel in ("left", "right"):
        page.channels.choose(channel)
        for text in (">20M", "4k1", "38k"):
            bench.answer(text)
    left = [one.stand for one in session.bring_up.stands("left")]
    page.steps.list.setCurrentRow(0)
    assert bench.question.procedure.stand is not None
    assert bench.question.procedure.stand.stand is Stand.DONE
    assert bench.question.in_words.repaired_button.isVisible()
    bench.question.in_words.ask_repaired()
    bench.question.reason.setText("the spare board")
    bench.at += dt.timedelta(seconds=5)
    bench.question.take_reason()
    assert [one.stand for one in session.bring_up.stands("left")] == left
    right = session.bring_up.stands("right")
    assert right[0].stand is Stand.DUE
    assert "repaired since: the spare board" in right[0].stale


def test_nothing_is_repaired_with_the_power_on(bench: Bench) -> None:
    bench.begin("Stage pair", "limited_supply")
    page = bench.window.power_up
    page.channels.choose("right")
    for text in (">20M", "4k1", "38k", "12k", "0R33", "", "21", "36.1", "15.02", "4", "59 mA"):
        bench.answer(text)
    assert bench.step.key == "low_current"
    assert bench.session.power.live is not None
    bench.question.in_words.ask_repaired()
    bench.question.reason.setText("a bridge of solder taken off")
    bench.question.take_reason()
    assert "press Stop" in bench.question.understood.text()
    bench.session.power.switch_off()
    bench.question.take_reason()
    assert bench.step.key == "insulation"
