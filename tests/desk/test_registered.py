"""What registers itself: a school, a test at the bench, each by one line and a module of its own."""

from collections.abc import Mapping

import pytest
from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.desk import window_commands
from plinth.desk.measure import every_test, page
from plinth.desk.measure.every_test import BenchTest
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.guide.equipment import NOTHING, Equipment
from plinth.guide.precomputed import Precomputed
from plinth.guide.school import School
from plinth.guide.step import Step
from plinth.judge.window import Window
from plinth.record.request import Request
from plinth.record.subject import Kind, Subject
from plinth.session import bringup


class Thumb(TestPage):
    """A test that somebody adds."""

    def __init__(self, _session: BenchSession) -> None:
        super().__init__()
        self.field = QLineEdit(self)
        self.channel, self.blocked = "", ""

    def show_channel(self, channel: str) -> None:
        self.channel = channel

    def block(self, why: str) -> None:
        self.blocked = why

    def counts(self) -> tuple[int, int]:
        return 2, 7

    def set_up(self, channel: str) -> SetUpShown:
        return SetUpShown((("Thumb", "left"), ("Sink", "off"), ("At most", "10 s")), "none", f"Thumb on {channel}.")


def thumb_steps(
    build: Build,
    channel: str,
    v_idle: float,
    readings: Mapping[str, float],
    equipment: Equipment | Precomputed = NOTHING,
    /,
) -> tuple[Step, ...]:
    about = Subject(Kind.BRINGUP, build.key_of(channel), "thumb")
    return (
        Step(
            asks=Request(
                about=about, title=f"{channel}: thumb", ask="Is it warm?", unit="°C",
                window=Window(20.0, 50.0, "°C", "skin"), role=Role.THERMOMETER,
            ),
            power=False, hints=(),
        ),
    )  # fmt: skip


def test_a_test_at_the_bench_is_a_line_and_a_widget(
    qtbot: QtBot, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    usual = [one for one in every_test.TESTS if one.name in ("Clipping power", "Response")]
    more = (*usual, BenchTest("Thumb", "thumb on the sink", Thumb))
    for module in (page, window_commands):
        monkeypatch.setattr(module, "TESTS", more)
    window = PlinthWindow(session)
    qtbot.addWidget(window)
    window.show()
    window.show_stage("measure")
    command = next(one for one in window.commands if one.title == "thumb on the sink")
    assert command.keys == "Ctrl+Shift+3"
    window.run_command(command)
    measure = window.measure
    assert isinstance(measure.test, Thumb)
    assert measure.tests.button(2).text() == "Thumb   2 of 7"
    assert measure.generator.text() == "left"
    assert measure.wired.text() == "Thumb on left."
    assert measure.listing.isHidden()
    measure.channels.choose("right")
    assert measure.test.channel == "right"
    assert "not brought up" in measure.test.blocked, "what is not brought up is held back in a new test too"


def test_a_school_is_a_line_and_a_module(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(bringup, "SCHOOLS", (School("thumb", "By thumb", thumb_steps),))
    # What was remembered of the other school.
    session.bring_up.forget()
    window.show_stage("power_up")
    window.power_up.channels.choose("right")
    question = window.power_up.question
    assert question.title.text() == "right: thumb"
    assert not session.bring_up.brought_up("right")
    question.field.setText("61")
    question.keep()
    assert not session.bring_up.brought_up("right")
    question.field.setText("31.5")
    question.keep()
    assert session.bring_up.brought_up("right")
